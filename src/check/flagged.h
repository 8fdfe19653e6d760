// Findings of single triangles.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "check/finding.h"

namespace zither::check {

// One finding for each flagged triangle, ascending.
inline Findings flaggedTriangles(const Mesh& m, DefectClass defect, const std::vector<std::uint8_t>& flags) {
    Findings result;
    for (TriangleId t = 0; t < flags.size(); ++t)
        if (flags[t]) result.add(defect, m, std::array{t}, {});
    return result;
}

}  // namespace zither::check
