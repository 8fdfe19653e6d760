// Triangles without area: collapsed, or with their corners on one line in exact arithmetic.
#include <algorithm>

#include "check/catalogue.h"
#include "check/flagged.h"
#include "check/surveyed.h"

namespace zither::check {
namespace {

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    const auto& triangles = s.mesh().triangles;
    survey.counts.collapsedTriangles =
        static_cast<std::uint64_t>(std::count_if(triangles.begin(), triangles.end(), mesh::isCollapsed));
    Findings result = flaggedTriangles(s.mesh(), degenerate, s.degenerate());
    survey.counts.degenerateTriangles = result.list.size();
    return result;
}

}  // namespace

constinit const DefectDescriptor degenerate = {
    .key = "degenerate",
    .name = "Degenerate",
    .sentence = "Triangles without area: their corners lie on one line.",
    .ink = 0x33518E,
    .glyph = glyph::needle,
    .draw = drawOutlines,
    .run = run,
    .limited = {.id = "degenerate_triangles",
                .title = "degenerate",
                .unit = "",
                .value = countOf<&Counts::degenerateTriangles>},
};

}  // namespace zither::check
