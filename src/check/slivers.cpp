// Triangles with area but with an angle below the limit of the brief.
#include "check/catalogue.h"
#include "check/flagged.h"
#include "check/surveyed.h"
#include "measure/mass.h"
#include "mesh/parallel.h"

namespace zither::check {
namespace {

double smallestAngle(const Mesh& m) {
    return mesh::parallelBlocks(
        m.triangles.size(), m.triangles.empty() ? 0.0 : 60.0,
        [&](std::size_t begin, std::size_t end) {
            double smallest = 60;
            for (auto t = static_cast<TriangleId>(begin); t < end; ++t)
                smallest = std::min(smallest, measure::smallestAngleDeg(m, t));
            return smallest;
        },
        [](double a, double b) { return std::min(a, b); });
}

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress&) {
    const Mesh& m = s.mesh();
    survey.smallestAngleDeg = smallestAngle(m);
    if (!(survey.smallestAngleDeg < options.sliverAngleDeg)) return Findings();
    std::vector<std::uint8_t> sliver(m.triangles.size(), 0);
    mesh::parallelFor(sliver.size(), 4096, [&](std::size_t t) {
        sliver[t] = measure::smallestAngleDeg(m, static_cast<TriangleId>(t)) < options.sliverAngleDeg;
    });
    return flaggedTriangles(m, slivers, sliver);
}

double value(const Survey& survey) {
    return survey.smallestAngleDeg;
}

void listen(SurveyOptions& options, double limit) {
    options.sliverAngleDeg = limit;
}

double listened(const SurveyOptions& options) {
    return options.sliverAngleDeg;
}

}  // namespace

constinit const DefectDescriptor slivers = {
    .key = "slivers",
    .name = "Slivers",
    .sentence = "Triangles with a corner sharper than the brief allows.",
    .ink = 0x33518E,
    .glyph = glyph::needle,
    .draw = drawOutlines,
    .run = run,
    .limited = {.id = "smallest_angle",
                .title = "smallest angle",
                .unit = "deg",
                .value = value,
                .atLeast = true,
                .topological = false,
                .listen = listen,
                .listened = listened},
    .byOptions = true,
    .onlyWhenChosen = true,
};

}  // namespace zither::check
