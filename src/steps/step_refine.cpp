// Descriptor of `refine`.
#include <fmt/format.h>

#include <cmath>

#include "shape/refine.h"
#include "steps/keep_solid.h"
#include "steps/steps_list.h"

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

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    double length = a.find("length")->second;
    if (!(length > 0)) length = proposedLength(s);
    Record record;
    if (!(length > 0)) return StepOutput{s.mesh(), std::move(record)};
    auto result = shape::refine(s, pick, length);
    if (!result) return tl::unexpected(result.error());
    if (!progress.report(0.3)) return mesh::cancelled();
    record.add("edges_split", result->split);
    if (result->split == 0) {
        record.say("No edge is longer: nothing was done.");
        return StepOutput{s.mesh(), std::move(record)};
    }
    record.say(fmt::format("Split {} times: {} in place of {}, in the same faces.", result->split,
                           counted(result->mesh.triangles.size(), "triangle"), s.mesh().triangles.size()));
    mesh::PartOfProgress rest(progress, 0.3, 1);
    return keepSolid(s, std::move(result->mesh), std::move(record), rest);
}

}  // namespace

const Step& refineStep() {
    static const Step step = {.name = "refine",
                              .title = "Refine",
                              .summary = "Splits edges that are longer than a length; the shape stays as it is.",
                              .parameters = {{.name = "length",
                                              .kind = ParameterKind::Length,
                                              .min = 0,
                                              .max = 1e300,
                                              .help = "Longer edges are split. Proposed: half the mean edge.",
                                              .propose = proposedLength}},
                              .helpsWith = {},
                              .run = run,
                              .brings = "cut"};
    return step;
}

}  // namespace zither::steps
