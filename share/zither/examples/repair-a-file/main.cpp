// Repairs a surface file and proves the one that it writes: repair-a-file IN OUT
#include <iostream>

#include <zither/project/job.h>

int main(int argc, char** argv) {
    using namespace zither;
    if (argc != 3) {
        std::cerr << "usage: repair-a-file IN OUT\n";
        return 2;
    }
    const steps::Brief& brief = steps::builtInBriefs().front();  // for printing
    mesh::SilentProgress progress;

    const auto input = project::readAndJudge(argv[1], brief, progress);
    if (!input) {
        std::cerr << input.error().message << "\n";
        return 2;
    }
    const auto seen = std::make_shared<steps::SeenOfImport>(input->part);
    const auto repaired = project::repair({input->part, input->brief, input->surface.unit, seen}, {},
                                          io::formatForWriting(argv[2]), progress);
    if (!repaired) return 2;
    const check::SurveyedPtr result = repaired->steps.empty() ? input->part : repaired->steps.back().part;
    for (const steps::Listed& left : repaired->left) std::cout << "for you to decide: " << left.text << "\n";

    // Read back from disk: these are the numbers of the file, not of what was meant to be written.
    const auto delivered = project::deliver(
        result, {{argv[2], input->surface.unit}, brief, project::originAfter(seen, repaired->steps)}, progress);
    if (!delivered) {
        std::cerr << delivered.error().message << "\n";
        return 2;
    }
    const project::Judged& output = delivered->file;
    std::cout << output.survey->counts.triangles << " triangles, " << (output.survey->solid ? "solid" : "not solid")
              << ", " << output.verdict.met() << " of " << output.verdict.asked() << " requirements met\n";
    return output.verdict.allMet() ? 0 : 1;
}
