// Connected places in which material is thinner than the edges of the mesh that is to fill it.
#include "check/catalogue.h"
#include "check/surveyed.h"
#include "measure/wall.h"

namespace zither::check {
namespace {

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress& progress) {
    Shape& shape = survey.shape;
    shape.narrowPlaces = shape.narrowest = Shape::untold;
    const double edge = options.narrowEdge > 0 ? options.narrowEdge : survey.edgeLength.mean;
    const double least = options.narrowEdges * edge;
    // Material is behind a closed surface that faces outward, and nowhere else.
    if (!(least > 0) || !survey.watertight || !(survey.mass.volume > 0)) return Findings();
    const auto walls = measure::wallsOf({s.mesh(), s.edges(), s.rays(), survey.solid}, {least}, progress);
    if (!walls) return tl::unexpected(walls.error());
    shape.narrowPlaces = static_cast<double>(walls->places.size());
    shape.narrowest = walls->thinnest;
    Findings result;
    for (const measure::ThinPlace& place : walls->places) {
        result.add(narrowWalls, s.mesh(), place.triangles, {});
        result.list.back().position = place.where;
    }
    return result;
}

constexpr Setting settings[] = {
    {.id = "edges", .title = "walls below", .unit = "edges", .usual = 2, .option = &SurveyOptions::narrowEdges},
    {.id = "edge", .title = "of", .unit = "unit", .usual = 0, .option = &SurveyOptions::narrowEdge}};

}  // namespace

constinit const DefectDescriptor narrowWalls = {
    .key = "narrow-walls",
    .name = "Walls thin for the mesh",
    .sentence = "Material with room for fewer elements across it than the brief asks: smaller edges are needed there.",
    .ink = 0xA84300,
    .glyph = glyph::pinch,
    .draw = drawBorders,
    .run = run,
    .limited = {.id = "narrow_places",
                .title = "walls thin for the mesh",
                .unit = "",
                .value = shapeOf<&Shape::narrowPlaces>,
                .mendable = false,
                .topological = false,
                .settings = settings},
    .afterOthers = true,
    .byOptions = true,
};

}  // namespace zither::check
