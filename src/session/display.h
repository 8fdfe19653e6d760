// What the view needs of a mesh, prepared beside the window: corners for the graphics card, a lighter stand-in for
// while the camera moves, a tree for picking, lines of the findings.
#pragma once

#include <QString>
#include <memory>
#include <vector>

#include "check/surveyed.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"

namespace zither::session {

// Line segments of the findings of a class: two points each, three floats a point, relative to the display's origin.
struct DefectLines {
    check::DefectClass defect;
    std::vector<float> points;
};

// Three corners a triangle, three floats a corner, relative to `origin`: so that a part far from zero loses no digits.
struct Display {
    check::SurveyedPtr part;
    mesh::Box box;
    mesh::Point origin = mesh::Point::Zero();
    std::vector<float> corners;  // empty where there are more triangles than a card takes: the stand-in is drawn always
    std::vector<float> standIn;  // the same layout; empty where the surface is light enough to be drawn always
    std::vector<DefectLines> lines;

    [[nodiscard]] const mesh::Mesh& mesh() const { return part->mesh(); }
    [[nodiscard]] const space::TriangleTree& tree() const { return part->tree(); }
};

// Meshes above this get a stand-in of at most this many triangles: drawn in about 40 ms by a processor alone.
inline constexpr std::size_t standInTriangles = 60'000;
// A buffer on the card is counted with 31 bits.
inline constexpr std::size_t mostOnCard = 59'000'000;

mesh::Outcome<std::shared_ptr<const Display>> prepareDisplay(const check::SurveyedPtr& part,
                                                             const check::Survey& survey, mesh::Progress& progress,
                                                             std::size_t most = mostOnCard);

// Says that a part is drawn with fewer triangles than it has; empty where all of them are on the card.
QString coarselyDrawn(const Display& display);

// At most `most` triangles that look like the mesh from afar: vertices joined in the cells of a grid (Rossignac &
// Borrel 1993). For drawing only.
mesh::Mesh clusteredStandIn(const mesh::Mesh& m, std::size_t most);

// The picked triangles in the colour of picks, the others as they are.
void paintPick(std::vector<std::uint32_t>& colours, const mesh::Mesh& m, const mesh::Pick& pick);

}  // namespace zither::session
