// Repairs a surface file and proves the one that it writes: repair-a-file IN OUT
#include <iostream>

#include "project/delivery.h"
#include "steps/automatic_repair.h"

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
    const auto repaired = steps::repairAutomatically(input->part, {.brief = input->brief}, progress);
    if (!repaired) return 2;
    const check::Surveyed& result = repaired->steps.empty() ? *input->part : *repaired->steps.back().part;
    for (const steps::Listed& left : repaired->left) std::cout << "for you to decide: " << left.text << "\n";

    // Read back from disk: these are the numbers of the file, not of what was meant to be written.
    const auto output = project::writeAndProve(result, {argv[2]}, brief, progress);
    if (!output) {
        std::cerr << output.error().message << "\n";
        return 2;
    }
    std::cout << output->survey->counts.triangles << " triangles, " << (output->survey->solid ? "solid" : "not solid")
              << ", " << output->verdict.met() << " of " << output->verdict.asked() << " requirements met\n";
    return output->verdict.allMet() ? 0 : 1;
}
