// Groups flagged triangles that share edges, each group one finding.
#pragma once

#include <cstdint>
#include <vector>

#include "check/surveyed.h"

namespace zither::check {

// In the order of their first triangles.
Findings linkedTriangles(const Surveyed& s, DefectClass defect, const std::vector<std::uint8_t>& flags);

}  // namespace zither::check
