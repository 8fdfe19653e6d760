// Triangles around an edge in the order of their angles, decided exactly.
#pragma once

#include <algorithm>
#include <span>
#include <vector>

#include "mesh/edges.h"

namespace zither::arrange {

// Half-edges around an edge by the angle of their triangles about it, counter-clockwise seen against the direction from
// its lower vertex to the higher, beginning with the first. `turn(a, b)`: 1 where the apex of b lies less than half a
// turn counter-clockwise of that of a, 0 in one plane with it, -1 beyond. Triangles on each other keep their order.
template <class Turn>
std::vector<mesh::HalfEdge> byAngle(std::span<const mesh::HalfEdge> around, const Turn& turn) {
    const mesh::HalfEdge first = around.front();
    const auto half = [&](mesh::HalfEdge h) {
        if (h == first) return 0;
        const int side = turn(first, h);
        // In the plane of the first: no two triangles of a surface that does not cross itself lie on one side.
        return side > 0 ? 1 : side == 0 ? 2 : 3;
    };
    std::vector<mesh::HalfEdge> order(around.begin(), around.end());
    std::sort(order.begin(), order.end(), [&](mesh::HalfEdge a, mesh::HalfEdge b) {
        const int ha = half(a);
        const int hb = half(b);
        if (ha != hb) return ha < hb;
        if (ha == 0 || ha == 2) return a < b;
        const int side = turn(a, b);
        return side != 0 ? side > 0 : a < b;
    });
    return order;
}

}  // namespace zither::arrange
