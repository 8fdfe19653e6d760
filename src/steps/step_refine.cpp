// Descriptor of `refine`.
#include <fmt/format.h>

#include <cmath>

#include "shape/refine.h"
#include "steps/all_steps.h"
#include "steps/keep_solid.h"

namespace zither::steps {
namespace {

// Half the mean edge.
double proposedLength(const Surveyed& s) {
    double sum = 0;
    const mesh::Edges& edges = s.edges();
    for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
        const mesh::HalfEdge h = edges.around(e)[0];
        sum += (s.mesh().positions[fromVertex(s.mesh(), h)] - s.mesh().positions[toVertex(s.mesh(), h)]).norm();
    }
    return edges.count() > 0 ? 0.5 * sum / static_cast<double>(edges.count()) : 0;
}

const Number length({.name = "length",
                     .kind = ParameterKind::Length,
                     .min = 0,
                     .max = 1e300,
                     .help = "Longer edges are split. Proposed: half the mean edge.",
                     .propose = proposedLength,
                     .zero = "by the deviation alone"});
const Number deviation({.name = "deviation",
                        .kind = ParameterKind::Length,
                        .min = 0,
                        .max = 1e300,
                        .help = "So are edges farther from the curved surface that the triangles stand for.",
                        .zero = "by the length alone"});
const Number smallest({.name = "smallest",
                       .kind = ParameterKind::Length,
                       .min = 0,
                       .max = 1e300,
                       .help = "Edges shorter than twice this are not split.",
                       .zero = "no limit"});
enum class Onto { Flat, Curved };
const Choice<Onto> shape({.name = "shape",
                          .help = "New vertices lie on the triangles, so that the shape stays; or on a smooth surface "
                                  "through their corners, with the creases kept."},
                         {{"flat", Onto::Flat}, {"curved", Onto::Curved}});
const Number crease({.name = "crease",
                     .kind = ParameterKind::Angle,
                     .min = 1,
                     .max = 180,
                     .fallback = 35,
                     .help = "Edges that turn by more are creases: sharp, in the curved surface too."});

shape::RefineOptions optionsOf(const Surveyed& s, const Arguments& a) {
    shape::RefineOptions options;
    const double longest = a[length];
    const double farthest = a[deviation];
    if (farthest > 0) options.deviation = farthest;
    if (longest > 0)
        options.length = longest;
    else if (!(farthest > 0))
        options.length = proposedLength(s);
    options.smallest = a[smallest];
    options.curved = a[shape] == Onto::Curved;
    options.creaseDeg = a[crease];
    options.precision = mesh::precisionOf(s.mesh());
    return options;
}

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    Record record;
    if (s.mesh().triangles.empty()) return StepOutput{s.mesh(), std::move(record)};
    const shape::RefineOptions options = optionsOf(s, a);
    if (!(options.length > 0)) return StepOutput{s.mesh(), std::move(record)};  // nothing of it has a length
    mesh::PartOfProgress refining(progress, 0, 0.6);
    auto result = shape::refine(s, pick, options, refining);
    if (!result) return mesh::errorOf(result);
    record.add("edges_split", result->split);
    record.add("farthest_from_triangles", result->farthest);
    record.add("triangles_kept_flat", result->keptFlat);
    if (result->split == 0) {
        record.say("No edge is longer, or farther from the curve: nothing was done.");
        return StepOutput{s.mesh(), std::move(record)};
    }
    record.say(fmt::format("Split {} times: {} in place of {}, {}.", result->split,
                           counted(result->mesh.triangles.size(), "triangle"), s.mesh().triangles.size(),
                           options.curved
                               ? fmt::format("on a curved surface at most {} from theirs", lengthText(result->farthest))
                               : "in the same faces"));
    if (result->keptFlat > 0)
        record.say(fmt::format("{} flat: curved {} would have met others.",
                               counted(result->keptFlat, "triangle stayed", "triangles stayed"),
                               result->keptFlat == 1 ? "it" : "they"));
    mesh::PartOfProgress rest(progress, 0.6, 1);
    if (!options.curved) return keepSolid(s, {std::move(result->mesh), options.precision}, std::move(record), rest);
    record.told = toldShaped(s.mesh(), result->mesh);
    return unlessWorse(s, std::make_shared<const Surveyed>(std::move(result->mesh)), std::move(record), rest);
}

}  // namespace

const Step& refineStep() {
    static const Step step = {
        .name = "refine",
        .title = "Refine",
        .summary = "Splits edges that are long, or far from a curve; flat, or onto the curved surface.",
        .family = &familyTriangles,
        .words = {"subdivide", "tessellate", "split edges", "finer", "densify", "more triangles", "resolution"},
        .parameters = {length, deviation, smallest, shape, crease},
        .helpsWith = {},
        .run = run,
        .brings = "cut"};
    return step;
}

}  // namespace zither::steps
