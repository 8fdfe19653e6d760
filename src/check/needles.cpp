// Triangles with area whose least height is too small for the tolerance of most meshers.
#include "check/catalogue.h"
#include "check/check_tolerances.h"
#include "check/flagged.h"
#include "check/surveyed.h"
#include "measure/mass.h"
#include "mesh/parallel.h"

namespace zither::check {
namespace {

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    const Mesh& m = s.mesh();
    const double least = tolerance::needleHeight * mesh::boxOf(m).diagonal();
    std::vector<std::uint8_t> needle(m.triangles.size(), 0);
    mesh::parallelFor(needle.size(), 4096, [&](std::size_t t) {
        needle[t] = !s.degenerate()[t] && measure::leastHeight(m, static_cast<TriangleId>(t)) < least;
    });
    Findings result = flaggedTriangles(m, needles, needle);
    survey.counts.needles = result.list.size();
    return result;
}

}  // namespace

constinit const DefectDescriptor needles = {
    .key = "needles",
    .name = "Needles",
    .sentence = "Triangles lower than a millionth of the part: exact, but too thin for the tolerance of most meshers.",
    .ink = 0x7A5C1E,
    .glyph = glyph::needle,
    .draw = drawOutlines,
    .run = run,
    .limited =
        {.id = "needles", .title = "needles", .unit = "", .value = countOf<&Counts::needles>, .topological = false},
};

}  // namespace zither::check
