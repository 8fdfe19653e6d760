// Descriptors of `fuse`, `subtract` and `intersect`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "fit/fuse.h"
#include "measure/mass.h"
#include "shape/decimate.h"
#include "steps/all_steps.h"
#include "steps/other_surface.h"
#include "steps/steps_tolerances.h"

namespace zither::steps {
namespace {

const FilePath with({.name = "with",
                     .help = "Another surface, to be fused with this one; none: this one with itself.",
                     .optional = true});

FilePath tool(std::string_view help) {
    return FilePath({.name = with.name, .help = help});
}

// Narrow enough to be of no use, too small to be seen: a hundred thousandth of the part.
double proposedSliver(const Surveyed& s) {
    return shareOfPart(s, tolerance::unseenLength);
}

const Number slivers({.name = "slivers",
                      .kind = ParameterKind::Length,
                      .max = 1e300,
                      .help = "Needles and caps among the cuts that are narrower go; the surface moves no farther.",
                      .propose = proposedSliver,
                      .zero = "none"});
const Number tidy({.name = "tidy",
                   .kind = ParameterKind::Length,
                   .max = 1e300,
                   .help = "Pieces of cut triangles are merged again where the surface moves no farther for it.",
                   .propose = proposedSliver,
                   .zero = "none"});

void sayWhatWent(const fit::FuseResult& r, Record& record) {
    if (r.gone.empty()) return;
    record.sentences.push_back(fmt::format("{} of {} lie inside the rest and go; the largest is {} across.",
                                           counted(r.gone.size(), "shell"), r.shellsIn,
                                           lengthText(r.gone.front().box.diagonal())));
    for (const arrange::GoneShell& g : r.gone)
        record.listed.push_back(
            {Listed::Within, g.box.centre(), g.box.diagonal(),
             fmt::format("{} across at {}, {}{}.", lengthText(g.box.diagonal()), placeText(g.box.centre()),
                         counted(g.triangles, "triangle"), g.inward ? ", facing inwards" : "")});
}

StepOutput outputOf(const Mesh& m, fit::FuseResult&& r, std::size_t trianglesIn, Record record = {}) {
    if (r.mesh.triangles.empty() && !m.triangles.empty()) {
        record.sentences.push_back(
            r.inwardShells > 0
                ? "Nothing would be left, so nothing was done: shells that face inwards enclose no solid; orient first."
                : "Nothing would be left, so nothing was done.");
        return {m, std::move(record)};
    }
    record.add("crossing_pairs", r.crossingPairs);
    record.add("shells_in", r.shellsIn);
    record.add("shells_gone", r.gone.size());
    record.add("largest_gone", r.gone.empty() ? 0.0 : r.gone.front().box.diagonal());
    record.add("triangles_cut", r.trianglesCut);
    record.add("triangles_kept", r.kept);
    record.add("open_shells", r.openShells);
    record.add("buried_pieces", r.buriedPieces);
    record.add("inward_shells", r.inwardShells);
    record.add("triangles_mended", r.recut);
    record.add("vertices_parted", r.separated);
    record.add("farthest_rounded", r.farthestRounded);
    record.add("vertices_snapped", r.snapped);
    record.add("snap_distance", r.snapDistance);
    record.add("slivers_removed", r.sliversRemoved);
    record.add("farthest_moved", r.farthestMoved);
    record.add("unsettled_places", r.unsound.size());
    if (r.trianglesCut > 0)
        record.sentences.push_back(fmt::format("Cut {} along {}; {} of {} kept as they were.",
                                               counted(r.trianglesCut, "triangle"),
                                               counted(r.crossingPairs, "crossing"), r.kept, trianglesIn));
    if (r.sliversRemoved > 0)
        record.sentences.push_back(fmt::format("{} among the cuts went; no corner moved farther than {}.",
                                               counted(r.sliversRemoved, "sliver"), lengthText(r.farthestMoved)));
    sayWhatWent(r, record);
    if (r.inwardShells > 0)
        record.sentences.push_back(fmt::format(
            "{} inwards and cut away what they enclose, as cavities do; orient first if they were meant as solids.",
            counted(r.inwardShells, "shell faces", "shells face")));
    if (r.openShells > 0)
        record.sentences.push_back(fmt::format(
            "{} open: what lies inside was judged by how much they enclose, and {} dropped as buried.",
            counted(r.openShells, "shell is", "shells are"), counted(r.buriedPieces, "piece was", "pieces were")));
    if (r.snapped > 0)
        record.sentences.push_back(
            fmt::format("Surfaces lay closer together than the file can tell: {} moved by up to {} first.",
                        counted(r.snapped, "vertex", "vertices"), lengthText(r.snapDistance)));
    if (r.separated > 0)
        record.sentences.push_back(fmt::format("Bodies that only touched were parted at {} by a hair.",
                                               counted(r.separated, "vertex", "vertices")));
    listUnsettled(r.unsound, record);
    return {std::move(r.mesh), std::move(record)};
}

// Cuts leave fans of small pieces: what can go within `bound` goes, among what did not come in as it is.
Outcome<StepOutput> tidied(Outcome<StepOutput> output, const std::vector<const Mesh*>& cameIn, double bound,
                           Progress& progress) {
    if (!output || bound <= 0 || output->mesh.triangles.empty()) return output;
    std::vector<std::uint8_t> kept(output->mesh.triangles.size(), 0);
    for (const Mesh* m : cameIn) {
        const std::vector<std::uint8_t> in = measure::keptOf(*m, output->mesh).in;
        for (std::size_t t = 0; t < kept.size(); ++t) kept[t] |= in[t];
    }
    std::vector<mesh::TriangleId> cut;
    for (mesh::TriangleId t = 0; t < kept.size(); ++t)
        if (!kept[t]) cut.push_back(t);
    if (cut.empty()) return output;
    const Surveyed before(output->mesh);
    auto lighter =
        shape::decimate(before, Pick(cut), {.targetTriangles = 0, .maxDeviation = bound, .oneStep = true}, progress);
    if (!lighter) return mesh::errorOf(lighter);
    Record& record = output->record;
    record.add("pieces_merged", lighter->removed);
    record.add("merged_within", lighter->measuredDeviation);
    if (lighter->removed > 0)
        record.sentences.push_back(
            fmt::format("{} merged with what they lay beside, within {} of the surface as it was cut.",
                        counted(lighter->removed, "piece was", "pieces were"), lengthText(lighter->measuredDeviation)));
    output->mesh = std::move(lighter->mesh);
    return output;
}

Outcome<StepOutput> runWith(const Surveyed& s, const Pick& pick, const Arguments& a, arrange::Solid solid,
                            Progress& progress) {
    const Mesh& m = s.mesh();
    const std::string& file = a[with];
    mesh::PartOfProgress reading(progress, 0, 0.1);
    Record record;
    Outcome<io::Surface> other = readOther(a, file, record, reading);
    if (!other) return mesh::errorOf(other);
    const bool single =
        mesh::precisionOf(m) == mesh::Precision::Single && mesh::precisionOf(other->mesh) == mesh::Precision::Single;
    mesh::PartOfProgress fusing(progress, 0.1, 0.7);
    auto result = fit::fuse(s, pick,
                            {.with = &other->mesh,
                             .solid = solid,
                             .precision = single ? mesh::Precision::Single : mesh::Precision::Double,
                             .slivers = a[slivers]},
                            fusing);
    if (!result) return mesh::errorOf(result);
    mesh::PartOfProgress tidying(progress, 0.7, 1);
    return tidied(outputOf(m, std::move(*result), m.triangles.size() + other->mesh.triangles.size(), std::move(record)),
                  {&m, &other->mesh}, a[tidy], tidying);
}

Outcome<StepOutput> runFuse(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    if (!a[with].empty()) return runWith(s, pick, a, arrange::Solid::Union, progress);
    mesh::PartOfProgress fusing(progress, 0, 0.7);
    auto result = fit::fuse(s, pick, {.precision = mesh::precisionOf(m), .slivers = a[slivers]}, fusing);
    if (!result) return mesh::errorOf(result);
    mesh::PartOfProgress tidying(progress, 0.7, 1);
    return tidied(outputOf(m, std::move(*result), m.triangles.size()), {&m}, a[tidy], tidying);
}

Outcome<StepOutput> asAsked(const Surveyed& s, Outcome<StepOutput> output) {
    if (output) output->record.told = toldToGo(s.mesh(), output->mesh);
    return output;
}

Outcome<StepOutput> runSubtract(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    return asAsked(s, runWith(s, pick, a, arrange::Solid::Difference, progress));
}

Outcome<StepOutput> runIntersect(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    return asAsked(s, runWith(s, pick, a, arrange::Solid::Intersection, progress));
}

// The surface that is cut, and the pieces of what crosses: measured on lattices.
double memoryOf(const Surveyed& s, const Arguments&) {
    constexpr double bytesATriangle = 500;
    constexpr double bytesACrossing = 300;
    const auto known = s.known();
    const double crossings = known ? static_cast<double>(known->crossingPairs.size()) : 0;
    return bytesATriangle * static_cast<double>(s.mesh().triangles.size()) + bytesACrossing * crossings;
}

std::string reason(const Survey& s, const Arguments&, std::span<const double>) {
    if (s.counts.selfIntersectingPairs == 0 || s.counts.boundaryEdges > 0) return {};
    return fmt::format("{} of closed shells.",
                       counted(s.counts.selfIntersectingTriangles, "triangle meets others", "triangles meet others"));
}

}  // namespace

const Step& fuseStep() {
    static const Step step = {
        .name = "fuse",
        .title = "Fuse into one skin",
        .summary = "Cuts everything where it crosses, and keeps only the skin between outside and inside.",
        .family = &familyJoin,
        .words = {"union", "boolean", "unite", "merge shells", "combine", "self-intersection", "overlap", "weld bodies",
                  "manifold"},
        .parameters = {with, slivers, tidy},
        .helpsWith = {check::selfIntersections, check::shells},
        .run = runFuse,
        .brings = "cut",
        .reason = reason,
        .memory = memoryOf};
    return step;
}

const Step& subtractStep() {
    static const Step step = {.name = "subtract",
                              .title = "Subtract another surface",
                              .summary = "Takes away what lies inside another surface.",
                              .family = &familyJoin,
                              .words = {"boolean", "difference", "cut out", "minus", "cavity", "mould"},
                              .parameters = {tool("The surface whose inside is taken away."), slivers, tidy},
                              .helpsWith = {},
                              .run = runSubtract,
                              .brings = "cut",
                              .memory = memoryOf};
    return step;
}

const Step& intersectStep() {
    static const Step step = {.name = "intersect",
                              .title = "Intersect with another surface",
                              .summary = "Keeps only what lies inside another surface as well.",
                              .family = &familyJoin,
                              .words = {"boolean", "intersection", "common", "overlap", "clip"},
                              .parameters = {tool("The surface inside which things are kept."), slivers, tidy},
                              .helpsWith = {},
                              .run = runIntersect,
                              .brings = "cut",
                              .memory = memoryOf};
    return step;
}

}  // namespace zither::steps
