// A plane cut through a surface, computed: its outline, and the cap over what the surface encloses there.
#pragma once

#include <array>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "space/triangle_tree.h"

namespace zither::measure {

struct Section {
    int axis = 0;
    double position = 0;
    std::vector<std::array<mesh::Point, 2>> outline;  // with what is enclosed on the left, seen against the axis
    mesh::Mesh cap;                                   // facing along the axis
    std::vector<int>
        depth;             // winding number of each triangle of the cap: 1 enclosed once, 2 twice, negative inside out
    double area = 0;       // of what is enclosed, in the file's unit squared
    double areaTwice = 0;  // of what is enclosed more than once
    double length = 0;     // of the outline
    std::size_t openEnds = 0;  // points where the outline ends: the surface is open there, and the cap leaks
};

// The cut at `position` along the axis, of the surface that the tree stands over. A corner exactly in the plane counts
// as beyond it. Outlines may cross: winding numbers are exact for the rounded outline.
mesh::Outcome<Section> sectionOf(const space::TriangleTree& tree, int axis, double position, mesh::Progress& progress);

}  // namespace zither::measure
