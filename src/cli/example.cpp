// One line of the table for each file; a file that fails does not stop the rest.
#include "cli/example.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <filesystem>
#include <iostream>

#include "check/catalogue.h"
#include "cli/arguments.h"
#include "project/job.h"
#include "steps/all_steps.h"
#include "steps/recipe.h"

namespace zither::cli {
namespace {

namespace fs = std::filesystem;
using mesh::Outcome;

std::vector<fs::path> surfaceFiles(const std::string& folder) {
    std::vector<fs::path> files;
    std::error_code error;
    for (const auto& entry : fs::directory_iterator(folder, error))
        if (io::formatForWriting(entry.path())) files.push_back(entry.path());
    std::sort(files.begin(), files.end());
    return files;
}

std::string_view soundness(const check::Survey& s) {
    return s.solid ? "solid" : s.watertight ? "watertight" : "open or broken";
}

// What came of a part: its line of either table; the second is empty where no recipe lies beside the file.
struct Lines {
    std::string mended;
    std::string shaped;
};

Outcome<std::string> shapedLine(const fs::path& recipe, const project::Judged& mended, const fs::path& target,
                                mesh::Progress& progress) {
    const steps::Brief& brief = steps::builtInBriefs().front();
    const auto read = steps::loadRecipe(recipe.string());
    if (!read) return mesh::errorOf(read);
    const auto done =
        project::run({mended.part, mended.brief, mended.surface.unit}, *read, io::formatForWriting(target), progress);
    if (!done) return mesh::errorOf(done);
    const auto delivered = project::deliver(
        done->steps.back().part, {.to = {target}, .brief = brief, .origin = {}, .measureDistance = false}, progress);
    if (!delivered) return mesh::errorOf(delivered);
    const project::Judged& output = delivered->file;
    std::string names;
    for (const steps::StepCall& call : read->steps)
        names += fmt::format("{}{}", names.empty() ? "" : ", ", call.step->name);
    const auto told = [](double value) {
        return std::isfinite(value) ? fmt::format("{:.3g}", value) : std::string("-");
    };
    const check::Survey& before = *mended.survey;
    const check::Survey& after = *output.survey;
    return fmt::format(
        "{:16} {:17} | {:>9.4g} {:>7} {:>6} {:>9} {:>5} | {:>9.4g} {:>7} {:>6} {:>9} {:>5} {:>14} | {} of {}\n",
        target.stem().string(), names, before.mass.volume, told(before.measured[check::thinnest]),
        told(check::thinWalls.limited.value(before)), told(check::overhangs.limited.value(before)),
        told(check::voids.limited.value(before)), after.mass.volume, told(after.measured[check::thinnest]),
        told(check::thinWalls.limited.value(after)), told(check::overhangs.limited.value(after)),
        told(check::voids.limited.value(after)), soundness(after), output.verdict.met(), output.verdict.asked());
}

// Repaired; then a third of the triangles, and repaired once more, as with fewer some may meet.
Outcome<Lines> oneJob(const fs::path& file, const fs::path& folder, mesh::Progress& progress) {
    const steps::Brief& brief = steps::builtInBriefs().front();
    const fs::path target = folder / (file.stem().string() + ".stl");
    const io::Format* format = io::formatForWriting(target);
    const auto input = project::readAndJudge(file, brief, progress);
    if (!input) return mesh::errorOf(input);
    const std::string& unit = input->surface.unit;
    auto repaired = project::repair({input->part, input->brief, unit}, {}, format, progress);
    if (!repaired) return mesh::errorOf(repaired);
    const auto mended = repaired->steps.empty() ? input->part : repaired->steps.back().part;

    steps::StepCall decimate{&steps::decimateStep(),
                             {{"percent", 33.0}, {"deviation", 0.001 * input->survey->mass.size.diagonal()}}};
    const auto reduced = project::runSteps(mended, {decimate}, unit, progress);
    if (!reduced) return mesh::errorOf(reduced);
    const auto again = project::repair({reduced->back().part, input->brief, unit}, {}, format, progress);
    if (!again) return mesh::errorOf(again);
    const auto& final = again->steps.empty() ? reduced->back().part : again->steps.back().part;
    // Against the repaired surface: dropped specks would otherwise hide what decimation did.
    project::Order order{{target, unit}, brief, {std::make_shared<steps::SeenOfImport>(mended)}};
    const auto delivered = project::deliver(final, order, progress);
    if (!delivered) return mesh::errorOf(delivered);
    const project::Judged& output = delivered->file;
    const measure::Comparison& comparison = delivered->compared->distance;

    const auto& before = *input->survey;
    const auto& after = *output.survey;
    Lines lines;
    lines.mended = fmt::format(
        "{:12} {:>8} {:>7} {:>6} {:>8} {:>14} | {:>8} {:>7} {:>6} {:>8} {:>14} | {:>9.3g} | {} of {}\n",
        file.stem().string(), before.counts.triangles, before.counts.boundaryEdges, before.counts.misorientedEdges,
        before.counts.selfIntersectingPairs, soundness(before), after.counts.triangles, after.counts.boundaryEdges,
        after.counts.misorientedEdges, after.counts.selfIntersectingPairs, soundness(after),
        std::max(comparison.aToB.max, comparison.bToA.max), output.verdict.met(), output.verdict.asked());
    const fs::path recipe = fs::path(file).replace_extension(".recipe.json");
    if (!fs::exists(recipe)) return lines;
    auto shaped = shapedLine(recipe, output, folder / (file.stem().string() + "-shaped.stl"), progress);
    if (!shaped) return mesh::errorOf(shaped);
    lines.shaped = std::move(*shaped);
    return lines;
}

}  // namespace

int runExample(const std::string& folder, const std::string& outputFolder, const Console& console) {
    std::ostream& out = console.out;
    std::ostream& err = console.err;
    const std::vector<fs::path> files = surfaceFiles(folder);
    if (files.empty()) {
        err << "zither-cli: " << folder << ": no surface file in this folder\n";
        return 2;
    }
    std::error_code error;
    fs::create_directories(outputFolder, error);
    out << fmt::format("{:12} {:^47} | {:^47} | {:>9} |\n", "", "before", "the written file, read back", "deviation");
    out << fmt::format("{:12} {:>8} {:>7} {:>6} {:>8} {:>14} | {:>8} {:>7} {:>6} {:>8} {:>14} | {:>9} | {}\n", "part",
                       "tri", "open", "facing", "crossing", "surface", "tri", "open", "facing", "crossing", "surface",
                       "at most", "in tune (Print)");
    int code = 0;
    std::string shaped;
    ProgressLine progress(console);
    for (std::size_t i = 0; i < files.size(); ++i) {
        const fs::path& file = files[i];
        progress.item(file.filename().string(), i, files.size());
        const auto line = oneJob(file, outputFolder, progress);
        progress.clear();
        if (!line && line.error().cancelled()) {
            err << "zither-cli: interrupted; files that were finished stay\n";
            return wasInterrupted;
        }
        if (line) {
            out << line->mended << std::flush;
            shaped += line->shaped;
        } else {
            err << "zither-cli: " << line.error().message << "\n";
            code = 2;
        }
    }
    if (!shaped.empty()) {
        out << fmt::format("\n{:34} | {:^40} | {:^55} |\n", "", "the file above",
                           "by the recipe beside the part, read back");
        out << fmt::format("{:16} {:17} | {:>9} {:>7} {:>6} {:>9} {:>5} | {:>9} {:>7} {:>6} {:>9} {:>5} {:>14} | {}\n",
                           "file", "steps", "volume", "wall", "thin", "overhang", "voids", "volume", "wall", "thin",
                           "overhang", "voids", "surface", "in tune (Print)")
            << shaped
            << "Wall: where it is thinnest, of what is thinner than the brief asks; -: nowhere. Overhang: area.\n";
    }
    out << "Files: " << outputFolder
        << ". Deviation: between the repaired part and the file, both ways, in the file's unit.\n";
    return code;
}

}  // namespace zither::cli
