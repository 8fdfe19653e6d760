// How far two surfaces are from each other, triangle by triangle; and with it what a limited decimation keeps account
// of, measured anew.
#pragma once

#include <optional>
#include <vector>

#include "check/surveyed.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::shape {

// No point of triangle t of m is farther from the other surface (measure/overlay.h; `under`: as there). Nothing: that
// cannot be shown. What lies below its middle is looked for from the hint on, and is the hint of t's neighbours.
std::optional<double> heightOver(const mesh::Mesh& m, mesh::TriangleId t, const check::Surveyed& other,
                                 std::optional<mesh::TriangleId>& hint, std::vector<mesh::TriangleId>* under = nullptr);

// A reach of each triangle of `now`, such that no point of a triangle is farther than its reach from `input`, and that
// every point of `input` has some triangle of `now` within that triangle's reach. `before`: one that is true of `now`
// (the sum of what its collapses added), none above `most`; neither is the new one. It says where nothing sharper is
// found. Triangles are laid onto the other surface (measure/overlay.h). O(n log n), in parallel; the same for any
// number of threads. Error: only cancelled.
mesh::Outcome<std::vector<float>> measuredReach(const check::Surveyed& input, const check::Surveyed& now,
                                                const std::vector<float>& before, float most, mesh::Progress& progress);

// A few triangles say that measuring would make the reach smaller by a quarter or more.
bool reachIsLoose(const check::Surveyed& input, const check::Surveyed& now, const std::vector<float>& reach);

}  // namespace zither::shape
