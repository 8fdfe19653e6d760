// Places in which material is thinner than a limit, for the classes that differ in where the limit comes from.
#pragma once

#include <optional>

#include "check/surveyed.h"
#include "measure/wall.h"

namespace zither::check {

struct WallPlaces {
    measure::Walls walls;
    Findings findings;  // one a place
};

// None where nothing is asked (no limit above 0), or no material is behind the surface: it is not closed, or faces
// inward. Needs what the checks before it found. Error: only cancelled.
mesh::Outcome<std::optional<WallPlaces>> wallPlaces(const Surveyed& s, const Survey& survey, DefectClass defect,
                                                    double limit, mesh::Progress& progress);

}  // namespace zither::check
