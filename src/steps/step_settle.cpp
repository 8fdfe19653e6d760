// Descriptor of `settle`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "fit/cover.h"
#include "fit/fit.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

const WholeNumber bits({.name = "bits",
                        .min = 32,
                        .max = 64,
                        .fallback = 32,
                        .help = "Bits of a coordinate in the file: 32 (STL) or 64."});

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    const auto precision = precisionAsked("settle", a, bits);
    if (!precision) return mesh::errorOf(precision);
    mesh::PartOfProgress checking(progress, 0, 0.4);
    auto survey = s.survey(s.knownOptions(), checking);
    if (!survey) return mesh::errorOf(survey);
    const std::vector<check::TrianglePair>& crossing = (*survey)->crossingPairs;
    Record record;
    record.add("crossing_pairs_before", crossing.size());
    if (!crossing.empty()) {
        // What crosses already is not for rounding to mend.
        record.sentences.push_back(
            fmt::format("Left as it is: it crosses itself in {} before any rounding; fuse it first.",
                        counted(crossing.size(), "pair of triangles", "pairs of triangles")));
        return StepOutput{m, std::move(record)};
    }
    mesh::PartOfProgress settling(progress, 0.4, 1);
    fit::FitOptions options;
    options.precision = *precision;
    auto result = fit::makeFit(m, options, settling);
    if (!result) return mesh::errorOf(result);
    return StepOutput{std::move(result->mesh), settleRecord(*result)};
}

}  // namespace

Outcome<mesh::Precision> precisionAsked(std::string_view step, const Arguments& a, const WholeNumber& which) {
    const std::size_t asked = a[which];
    if (asked != 32 && asked != 64)
        return mesh::badInput(fmt::format("step '{}': bits must be 32 or 64, not {}", step, asked));
    return asked == 32 ? mesh::Precision::Single : mesh::Precision::Double;
}

std::string platesText(std::size_t plates, double height) {
    return fmt::format("Covered with {} what no file can hold; they reach up to {} beyond it.",
                       counted(plates, "plate"), lengthText(fit::plateReach * height));
}

Record settleRecord(const fit::Fit& r) {
    Record record;
    record.add("vertices_rounded", r.rounded);
    record.add("vertices_joined", r.joined);
    record.add("triangles_mended", r.recut);
    record.add("vertices_parted", r.separated);
    record.add("farthest_moved", r.farthestMoved);
    record.add("unsettled_places", r.unsound.size());
    if (r.rounded > 0)
        record.sentences.push_back(fmt::format("Rounded {}; none moved farther than {}.",
                                               counted(r.rounded, "vertex", "vertices"), lengthText(r.farthestMoved)));
    if (r.recut + r.joined > 0)
        record.sentences.push_back(fmt::format("Rounding made {} coincide and {} meet; they were mended.",
                                               counted(r.joined, "vertex", "vertices"), counted(r.recut, "triangle")));
    if (r.collapsed + r.swapped > 0) {
        record.add("edges_collapsed", r.collapsed);
        record.add("edges_swapped", r.swapped);
        record.sentences.push_back(fmt::format("What the file cannot hold went: {} collapsed, {} swapped.",
                                               counted(r.collapsed, "edge"), counted(r.swapped, "edge")));
    }
    if (!r.patched.empty()) {
        record.add("spots_patched", r.patched.size());
        record.sentences.push_back(
            fmt::format("Cut out {} that the file cannot hold, the largest {} across, and closed them anew.",
                        counted(r.patched.size(), "spot"), lengthText(r.largestPatch)));
    }
    if (r.plates > 0) {
        record.add("plates", r.plates);
        record.sentences.push_back(platesText(r.plates, r.plateHeight));
    }
    if (r.separated > 0)
        record.sentences.push_back(
            fmt::format("Touching bodies were parted at {}.", counted(r.separated, "vertex", "vertices")));
    listUnsettled(r.unsound, record);
    return record;
}

const Step& settleStep() {
    static const Step step = {
        .name = "settle",
        .title = "Settle for the file",
        .summary = "Rounds coordinates as the file will hold them, and mends what rounding breaks.",
        .family = &familyTriangles,
        .words = {"round", "precision", "single precision", "float", "export", "digits", "snap"},
        .parameters = {bits},
        .helpsWith = {check::degenerate},
        .run = run,
        .brings = "moved"};
    return step;
}

}  // namespace zither::steps
