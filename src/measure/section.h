// A plane cut through a surface, computed: its outline, and the cap over what the surface encloses there.
#pragma once

#include <array>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::measure {

// The points p with across.dot(p) == at.
struct Plane {
    mesh::Point across = mesh::Point::UnitX();  // of length 1
    double at = 0;

    bool operator==(const Plane&) const = default;
};

struct Section {
    Plane plane;
    std::vector<std::array<mesh::Point, 2>> outline;  // with what is enclosed on the left, seen against `across`
    mesh::Mesh cap;                                   // facing along `across`
    std::vector<int>
        depth;              // winding number of each triangle of the cap: 1 enclosed once, 2 twice, negative inside out
    double area = 0;        // of what is enclosed, in the file's unit squared
    double areaTwice = 0;   // of what is enclosed more than once
    double length = 0;      // of the outline
    std::size_t loops = 0;  // pieces of the outline that hang together
    // Points where the outline ends: the surface is open there. For the cap each is led straight on to the nearest one
    // that fits; where there are too many for that there is no cap.
    std::size_t openEnds = 0;
};

// The cut of a surface. A corner exactly in the plane counts as beyond it. Outlines may cross: winding numbers are
// exact for the rounded outline. Looks at every triangle, on all cores. Error: cancelled.
mesh::Outcome<Section> sectionOf(const mesh::Mesh& m, const Plane& plane, mesh::Progress& progress);
// The triangles that it passes through.
std::vector<mesh::TriangleId> trianglesAcross(const mesh::Mesh& m, const Plane& plane);

// Two directions in the plane across a direction of length 1; u, v and it are right-handed, each of length 1. Across an
// axis they are axes.
struct PlaneFrame {
    mesh::Point u;
    mesh::Point v;
};
PlaneFrame frameAcross(const mesh::Point& across);

}  // namespace zither::measure
