// Connected places in which material is thinner than the brief allows.
#include "check/catalogue.h"
#include "check/wall_places.h"

namespace zither::check {

constinit const Measure thinnest = {.key = "thinnest"};

namespace {

constexpr Measure area = {.key = "thin_area"};  // as a share of the part's
constexpr Measure places = {.key = "thin_places"};
constexpr Measure sampledAt = {.key = "wall_sampled_at"};  // grid within triangles that are longer than the limit
constexpr const Measure* measures[] = {&area, &thinnest, &places, &sampledAt};

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress& progress) {
    auto thin = wallPlaces(s, survey, thinWalls, options.wall, progress);
    if (!thin) return mesh::errorOf(thin);
    if (!*thin) return Findings();
    const measure::Walls& walls = (*thin)->walls;
    survey.measured.set(area, walls.thinArea);
    survey.measured.set(thinnest, walls.thinnest);
    survey.measured.set(places, static_cast<double>(walls.places.size()));
    survey.measured.set(sampledAt, walls.step);
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
                .value = measuredOf<places>,
                .mendable = false,
                .topological = false,
                .settings = settings},
    .measures = measures,
    .afterOthers = true,
    .byRays = true,
    .byOptions = true,
};

}  // namespace zither::check
