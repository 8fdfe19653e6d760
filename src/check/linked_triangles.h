// Groups flagged triangles that share edges or vertices, each group one finding.
#pragma once

#include <cstdint>
#include <span>
#include <vector>

#include "check/surveyed.h"

namespace zither::check {

// In the order of their first triangles.
Findings linkedTriangles(const Surveyed& s, DefectClass defect, const std::vector<std::uint8_t>& flags);

// The same across shared vertices, and across `pairs` of chosen triangles; `chosen` is ascending.
Findings linkedAcrossVertices(const Surveyed& s, DefectClass defect, const std::vector<TriangleId>& chosen,
                              std::span<const TrianglePair> pairs = {});

}  // namespace zither::check
