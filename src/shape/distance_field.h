// Bodies by distance: what lies within a length of a surface, or deeper than that inside a solid.
#pragma once

#include <optional>
#include <string>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "shape/contour.h"
#include "space/triangle_tree.h"
#include "space/winding.h"

namespace zither::shape {

class DistanceField final : public Field {
public:
    enum class Body {
        Around,  // within the length of the surface, on either side: of what encloses nothing
        Grown,   // inside the solid, or within the length of it
        Shrunk,  // inside the solid, and not within the length of its surface
    };
    // Of a solid for Grown and Shrunk. The surface must outlive it. `length` above 0, in the file's unit; cells should
    // be at most half of it.
    DistanceField(const check::Surveyed& s, Body body, double length);

    // Where a grid for this body with such cells begins.
    [[nodiscard]] Grid gridOf(double cell) const;
    // What is wrong with such a grid, as a clause: too many cells along a side, or so small that coordinates of the
    // part hardly tell their corners apart. Empty: nothing.
    [[nodiscard]] std::string wrongWith(double cell, mesh::Precision precision) const;

    [[nodiscard]] std::vector<GridKey> startCells(const Grid& grid) const override;
    bool signs(const Grid& grid, const std::vector<GridKey>& corners, std::vector<std::uint8_t>& signs,
               mesh::Progress& progress) const override;
    [[nodiscard]] Passing passing(const mesh::Point& inside, const mesh::Point& outside) const override;

private:
    [[nodiscard]] bool enclosed(const mesh::Point& p) const;

    const mesh::Mesh& m_;
    const space::TriangleTree& tree_;
    std::optional<space::WindingTree> winding_;
    Body body_;
    double length_;
};

// How far points of a closed surface are from another: corners of its triangles, and middles of them and of their
// edges.
struct Distances {
    double least = 0;
    double greatest = 0;
    std::size_t points = 0;
};
Distances distancesFrom(const mesh::Mesh& from, const space::TriangleTree& to);

}  // namespace zither::shape
