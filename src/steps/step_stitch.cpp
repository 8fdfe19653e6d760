// Descriptor of `stitch`.
#include <fmt/format.h>

#include <algorithm>

#include "check/catalogue.h"
#include "repair/places.h"
#include "repair/stitch.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

const Number distance({.name = "distance",
                       .kind = ParameterKind::Length,
                       .min = 0,
                       .max = 1e300,
                       .help = "No corner moves farther than this. Proposed: just above the cracks found.",
                       .propose = repair::proposedStitchDistance,
                       .samples = repair::gapsOf});
const Flag sameFacing({.name = "same-facing",
                       .help = "Only borders of surfaces that face the same way; no: orient turns one of them later."});
enum class Worse { Keep, PutBack };
const Choice<Worse> whereWorse(
    {.name = "where-worse",
     .help = "Places where edges get more than two triangles, or triangles lie on each other "
             "then: keep them so, or leave their cracks."},
    {{"keep", Worse::Keep}, {"put-back", Worse::PutBack}});
const Choice<Worse> worse({.name = "worse", .help = "As where-worse.", .retired = true},
                          {{"keep", Worse::Keep}, {"put-back", Worse::PutBack}});

std::size_t usedVertices(Mesh m) {
    mesh::dropUnusedVertices(m);
    return m.positions.size();
}

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    auto result = repair::stitch(s, pick, {.distance = a[distance], .sameFacingOnly = a[sameFacing]}, progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    if (a[whereWorse] == Worse::PutBack || a[worse] == Worse::PutBack) {
        const repair::Places places(s.mesh(), result->mesh);
        mesh::PartOfProgress judging(progress, 1, 1);
        const auto back = repair::placesToPutBack(s, result->mesh, places,
                                                  {.classes = {check::nonmanifoldEdges, check::duplicates}}, judging);
        if (!back) return mesh::errorOf(back);
        if (!back->flags.empty()) {
            result->mesh = places.putBack(back->flags).mesh;
            // What was joined or split there counts no more.
            const std::size_t joined = usedVertices(s.mesh()) - usedVertices(result->mesh);
            const std::size_t triangles = result->mesh.triangles.size() + result->collapsed;
            const std::size_t split = triangles - std::min(triangles, s.mesh().triangles.size());
            result->joined = std::min(result->joined, joined);
            result->split = std::min(result->split, split);
        }
        record.add("places_put_back", back->left.size());
        for (const repair::PlaceLeft& place : back->left)
            record.listed.push_back({Listed::AsItCame, place.box.centre(), place.box.diagonal(),
                                     fmt::format("Not stitched at {}, {} across ({}).", placeText(place.box.centre()),
                                                 lengthText(place.box.diagonal()), place.why)});
    }
    record.add("vertices_joined", result->joined);
    record.add("edges_split", result->split);
    record.add("collapsed_removed", result->collapsed);
    record.add("farthest_moved", result->farthestMoved);
    if (result->joined + result->split > 0)
        record.say(fmt::format("Joined {} and split {} where a corner met it; nothing moved farther than {}.",
                               counted(result->joined, "vertex", "vertices"), counted(result->split, "edge"),
                               lengthText(result->farthestMoved)));
    if (result->collapsed > 0)
        record.say(
            fmt::format("{} narrower than the crack collapsed and went.", counted(result->collapsed, "triangle")));
    return StepOutput{std::move(result->mesh), std::move(record)};
}

std::string reason(const Survey& s, const Arguments& a, std::span<const double> gaps) {
    const double reach = a[distance];
    if (s.counts.boundaryEdges == 0 || !(reach > 0)) return {};
    const auto narrow = std::count_if(gaps.begin(), gaps.end(), [&](double gap) { return gap <= reach; });
    return fmt::format("{} of {} are narrower than {}.", narrow, counted(gaps.size(), "gap"), lengthText(reach));
}

}  // namespace

const Step& stitchStep() {
    static const Step step = {
        .name = "stitch",
        .title = "Stitch the cracks",
        .summary =
            "Joins borders that run along each other within a distance, and splits edges at corners that lie on them.",
        .family = &familyClose,
        .words = {"weld", "merge vertices", "sew", "zip", "gap", "crack", "seam", "tolerance", "join edges",
                  "watertight"},
        .parameters = {distance, sameFacing, whereWorse, worse},
        .helpsWith = {check::openEdges},
        .run = run,
        .brings = "moved",
        .reason = reason};
    return step;
}

}  // namespace zither::steps
