// The labelling in two of least cost.
#pragma once

#include <cstdint>
#include <vector>

namespace zither::enclose {

// Costs are not negative.
struct CutNode {
    double full = 0;   // cost where the node is full
    double empty = 0;  // cost where it is empty
};
struct CutEdge {
    std::uint32_t a = 0;
    std::uint32_t b = 0;
    double aFull = 0;  // cost where a is full and b is empty
    double bFull = 0;  // cost where b is full and a is empty
};

// One flag a node: it is full. The least sum of all costs (Boykov & Kolmogorov 2004); of several such the one with most
// nodes empty.
std::vector<std::uint8_t> minimumCut(const std::vector<CutNode>& nodes, const std::vector<CutEdge>& edges);

}  // namespace zither::enclose
