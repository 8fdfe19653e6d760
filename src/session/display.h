// What the view needs of a mesh, prepared beside the window: corners for the graphics card, a lighter stand-in for
// while the camera moves, a tree for picking, lines of the findings.
#pragma once

#include <QString>
#include <array>
#include <memory>
#include <vector>

#include "check/survey.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"
#include "space/triangle_tree.h"

namespace zither::session {

// Three corners a triangle, three floats a corner, relative to `origin`: so that a part far from zero loses no digits.
struct Display {
    std::shared_ptr<const mesh::Mesh> mesh;
    mesh::Box box;
    mesh::Point origin = mesh::Point::Zero();
    std::vector<float> corners;
    std::vector<float> standIn;  // the same layout; empty where the mesh is light enough to be drawn always
    std::unique_ptr<space::TriangleTree> tree;
    // Line segments of each class of defect, two points each, relative to origin.
    std::array<std::vector<float>, 10> lines;
};

// Meshes above this get a stand-in of at most this many triangles: drawn in about 40 ms by a processor alone.
inline constexpr std::size_t standInTriangles = 60'000;

mesh::Outcome<std::shared_ptr<const Display>> prepareDisplay(std::shared_ptr<const mesh::Mesh> mesh,
                                                             const check::Survey& survey, mesh::Progress& progress);

// At most `most` triangles that look like the mesh from afar: vertices joined in the cells of a grid (Rossignac &
// Borrel 1993). For drawing only.
mesh::Mesh clusteredStandIn(const mesh::Mesh& m, std::size_t most);

// Colours by triangle, as 0xAABBGGRR; for the lenses.
enum class Lens { Plain, Facing, Shells, Nesting, Quality, Deviation, Change };
struct Legend {
    QString title;
    QString unit;
    double low = 0;
    double high = 0;
    bool continuous = false;
    std::vector<std::uint32_t> histogram;
    QString note;
};
struct Coat {
    std::vector<std::uint32_t> colours;  // empty: the clay's own colour
    Legend legend;
};
// A stop on the way to the mesh, for the lens of changes.
struct PastStop {
    std::string label;
    std::string_view brings;  // as steps::Step; nothing for the import
    std::shared_ptr<const mesh::Mesh> mesh;
};
// `past`: from the import to the mesh itself, never empty.
mesh::Outcome<Coat> coatFor(Lens lens, const mesh::Mesh& m, const check::Survey& survey,
                            const std::vector<PastStop>& past, mesh::Progress& progress);

// The picked triangles in the colour of picks, the others as they are.
void paintPick(std::vector<std::uint32_t>& colours, const mesh::Mesh& m, const mesh::Pick& pick);

}  // namespace zither::session
