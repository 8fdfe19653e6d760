// A surface made ready to be cut: what encloses nothing is left out, what lies twice becomes a weight.
#pragma once

#include <array>
#include <cstdint>
#include <vector>

#include "arrange/skin_options.h"
#include "check/surveyed.h"
#include "mesh/mesh.h"

namespace zither::arrange {

using mesh::Mesh;
using mesh::TriangleId;

// A number for each operand.
using Windings = std::array<std::int16_t, 2>;
inline Windings operator+(const Windings& a, const Windings& b) {
    return {static_cast<std::int16_t>(a[0] + b[0]), static_cast<std::int16_t>(a[1] + b[1])};
}
inline Windings operator-(const Windings& a, const Windings& b) {
    return {static_cast<std::int16_t>(a[0] - b[0]), static_cast<std::int16_t>(a[1] - b[1])};
}

// The surface that is cut: no degenerate and no duplicate triangles. Passing through a triangle from its front to its
// back adds its weight to the winding number.
struct CutSurface {
    Mesh mesh;
    std::vector<Windings> weight;
    std::vector<Windings> exactWeight;   // the same for triangles of closed shells, zero for those of open ones
    std::vector<std::uint8_t> mayCross;  // as in SkinOptions
};

// What comes in, without degenerate triangles, with duplicates merged into weights; and which shells are closed.
struct Prepared {
    CutSurface surface;
    std::vector<TriangleId> original;     // of each triangle of the surface
    std::vector<std::uint32_t> shellOf;   // of each triangle that came in
    std::vector<std::uint8_t> shellOpen;  // an edge of it is run along more often one way than the other
    std::size_t shells = 0;
};

// 1 where the triangles, of the same three vertices, run the same way around, -1 where they do not.
int sameTurn(const mesh::Triangle& a, const mesh::Triangle& b);

// How many more triangles run along an edge one way than the other; 0 at every edge of a closed surface.
int balanceAt(const Mesh& m, const mesh::Edges& edges, mesh::EdgeId e);

Prepared prepare(const check::Surveyed& s, const SkinOptions& options);

}  // namespace zither::arrange
