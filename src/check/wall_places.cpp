// Walls as measure/wall.h finds them, as findings.
#include "check/wall_places.h"

namespace zither::check {

mesh::Outcome<std::optional<WallPlaces>> wallPlaces(const Surveyed& s, const Survey& survey, DefectClass defect,
                                                    double limit, mesh::Progress& progress) {
    if (!(limit > 0) || !survey.watertight || !(survey.mass.volume > 0)) return std::nullopt;
    auto walls = measure::wallsOf({s.mesh(), s.edges(), s.rays(), survey.solid}, {limit}, progress);
    if (!walls) return mesh::errorOf(walls);
    WallPlaces places{std::move(*walls), {}};
    for (const measure::ThinPlace& place : places.walls.places) {
        places.findings.add(defect, s.mesh(), place.triangles, {});
        places.findings.list.back().position = place.where;
    }
    return places;
}

}  // namespace zither::check
