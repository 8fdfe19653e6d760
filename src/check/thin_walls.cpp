// Connected places in which material is thinner than the brief allows.
#include "check/catalogue.h"
#include "check/wall_places.h"

namespace zither::check {
namespace {

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress& progress) {
    Shape& shape = survey.shape;
    shape.thinArea = shape.thinnest = shape.thinPlaces = shape.wallStep = Shape::untold;
    auto thin = wallPlaces(s, survey, thinWalls, options.wall, progress);
    if (!thin) return mesh::errorOf(thin);
    if (!*thin) return Findings();
    const measure::Walls& walls = (*thin)->walls;
    shape.thinArea = walls.thinArea;
    shape.thinnest = walls.thinnest;
    shape.thinPlaces = static_cast<double>(walls.places.size());
    shape.wallStep = walls.step;
    shape.wallCoarser = walls.coarser;
    return std::move((*thin)->findings);
}

constexpr Setting settings[] = {
    {.id = "wall", .title = "walls below", .unit = "unit", .usual = 0.8, .option = &SurveyOptions::wall}};

}  // namespace

constinit const DefectDescriptor thinWalls = {
    .key = "thin-walls",
    .name = "Thin walls",
    .sentence = "Material thinner than the brief allows, measured straight in from the surface.",
    .ink = 0xA84300,
    .glyph = glyph::pinch,
    .draw = drawBorders,
    .run = run,
    .limited = {.id = "thin_places",
                .title = "thin walls",
                .unit = "",
                .value = shapeOf<&Shape::thinPlaces>,
                .mendable = false,
                .topological = false,
                .settings = settings},
    .afterOthers = true,
    .byRays = true,
    .byOptions = true,
};

}  // namespace zither::check
