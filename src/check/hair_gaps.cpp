// Triangles so near to each other, without touching, that most meshers take them for one.
#include "check/catalogue.h"
#include "check/linked_triangles.h"
#include "check/surveyed.h"

namespace zither::check {
namespace {

// They were found together with the crossing ones.
mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    Findings result = linkedAcrossVertices(s, hairGaps, survey.hairs);
    survey.counts.hairGaps = result.list.size();
    return result;
}

}  // namespace

constinit const DefectDescriptor hairGaps = {
    .key = "hair-gaps",
    .name = "Hair gaps",
    .sentence =
        "Skins nearer to each other than a millionth of the part, without touching: most meshers take them for one.",
    .ink = 0x2F6C7A,
    .glyph = glyph::skins,
    .draw = drawOutlines,
    .run = run,
    .limited = {.id = "hair_gaps",
                .title = "hair gaps",
                .unit = "",
                .value = countOf<&Counts::hairGaps>,
                .topological = false},
    .afterOthers = true,
};

}  // namespace zither::check
