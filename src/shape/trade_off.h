// The trade-off of decimation: how far the surface goes for how few triangles, as one curve.
#pragma once

#include <vector>

#include "check/surveyed.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::shape {

struct TradeOff {
    std::size_t triangles = 0;
    double distance = 0;  // of what came in from what is left, in the file's unit: the largest at the points looked at
};

// From the surface as it came down to a hundredth of it, fewer triangles with each entry, distances never falling. One
// pass of collapses in the order of their errors, looked at on its way from some thousands of points of the surface:
// what it tells is found, not proven, and what `decimate` does at a count may lie a little beside it. Empty for a
// surface without triangles. Error: only cancelled.
mesh::Outcome<std::vector<TradeOff>> tradeOffOf(const check::Surveyed& s, mesh::Progress& progress);

}  // namespace zither::shape
