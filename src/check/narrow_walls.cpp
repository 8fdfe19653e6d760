// Connected places in which material is thinner than the edges of the mesh that is to fill it.
#include "check/catalogue.h"
#include "check/wall_places.h"

namespace zither::check {

constinit const Measure narrowest = {.key = "narrowest"};

namespace {

constexpr Measure places = {.key = "narrow_places"};
constexpr const Measure* measures[] = {&places, &narrowest};

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress& progress) {
    const double edge = options.narrowEdge > 0 ? options.narrowEdge : survey.edgeLength.mean;
    auto narrow = wallPlaces(s, survey, narrowWalls, options.narrowEdges * edge, progress);
    if (!narrow) return mesh::errorOf(narrow);
    if (!*narrow) return Findings();
    survey.measured.set(places, static_cast<double>((*narrow)->walls.places.size()));
    survey.measured.set(narrowest, (*narrow)->walls.thinnest);
    return std::move((*narrow)->findings);
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
