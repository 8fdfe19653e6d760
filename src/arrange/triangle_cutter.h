// Cuts triangles along the figures in which others meet them, and says how the winding number changes from piece to
// piece. A triangle on its own is cut in its own plane; triangles that overlap in one plane are cut together, so that
// what they share is cut once.
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <vector>

#include "arrange/crossing_figures.h"
#include "arrange/cut_surface.h"
#include "exact/planar_triangulation.h"

namespace zither::arrange {

using exact::LineSet;
using exact::PlanarSource;
using exact::PlanarTriangulation;

// A part of a triangle, or of several in one plane. Its corners run counter-clockwise seen from its front.
struct Piece {
    mesh::Triangle corner{};  // points: those of the mesh, then the constructed ones
    TriangleId source = 0;    // one of the triangles it is part of
    std::uint32_t sheet = 0;  // pieces of one sheet know their winding numbers relative to each other
    Windings front{};         // in front of the piece, relative to the sheet, of exact weights
};

// Of all the triangles that a piece is part of, seen from its front.
struct Weights {
    Windings all{};
    Windings exact{};
};

// What is known at one end of a triangle's edge.
struct RimEnd {
    std::uint32_t sheet = 0;
    Windings front{};    // in front of the triangle there, relative to the sheet
    bool alone = false;  // no other triangle but the neighbour meets the edge there
};
using Rim = std::array<std::array<RimEnd, 2>, 3>;  // by edge, from its first corner and from its second

// Cuts one after the other; points that it makes are numbered from madeFlag on.
class TriangleCutter final : private PlanarSource {
public:
    static constexpr std::uint32_t madeFlag = 0x80000000U;

    // The pairs that cross, the figure of each, and the pairs of each triangle.
    struct Crossings {
        const std::vector<check::TrianglePair>& pairs;
        const std::vector<Figure>& figures;
        const Partners& partners;
    };
    TriangleCutter(const CutSurface& surface, const mesh::Edges& edges, const Crossings& crossings,
                   const ExactPoints& points)
        : s_(surface), edges_(edges), crossings_(crossings), points_(points) {}

    // A triangle that overlaps no other in its plane: its sheet is its own number.
    void cut(TriangleId t, Rim& rim);
    // Triangles that overlap in one plane. `rims` in their order; sheets are numbered from madeFlag on. False where it
    // was stopped: thousands may take minutes.
    bool cutTogether(const std::vector<TriangleId>& triangles, std::vector<Rim>& rims);

    // Asked now and then while many are cut together.
    std::function<bool()> goesOn = [] { return true; };

    // Of a triangle that is cut alone only the pieces with the least winding number in front are given out.
    bool leastOnly = false;

    std::vector<Piece> pieces;
    std::vector<Weights> weights;  // of pieces that are cut together; else those of the source
    std::vector<Generator> made;
    std::vector<Point> madeAt;
    std::uint32_t sheetsMade = 0;

private:
    // A triangle that stands on a constraint and reaches above the plane.
    struct Crosser {
        TriangleId triangle = 0;
        bool above = false;
        bool leftIsFront = false;  // the left of the constraint lies in front of it
    };
    struct Constraint {
        std::uint32_t p = 0;  // local vertices
        std::uint32_t q = 0;
        TriangleId triangle = 0;  // whose edge it is, or in whose plane both it and the other lie
        TriangleId other = 0;     // the plane that makes the line, unless it is an edge
        int edge = -1;
        std::vector<Crosser> crossers;
    };
    struct Local {
        std::uint32_t point = 0;
        std::uint32_t vertex = PlanarTriangulation::none;
        LineSet lines = {};
    };

    [[nodiscard]] exact::Homogeneous exactPoint(std::uint32_t name) const override;
    Crossing cross(std::uint32_t a, std::uint32_t b) override;

    void begin();
    [[nodiscard]] PlanarTriangulation::Vertex vertexOf(std::uint32_t point, LineSet lines) const;
    void gatherFigures(TriangleId t, std::uint32_t firstEdge);
    void insertPoints();
    [[nodiscard]] std::uint32_t localOf(std::uint32_t point) const;
    Constraint& constrain(const std::array<std::uint32_t, 3>& segment);
    // The stages of cutTogether.
    void startFrame(const std::vector<TriangleId>& triangles);
    bool constrainTogether(const std::vector<TriangleId>& triangles);
    bool standOnConstraints();
    void findParts(const std::vector<TriangleId>& triangles);
    void spreadSheets();
    void emitTogether(const std::vector<TriangleId>& triangles);
    void emitRims(const std::vector<TriangleId>& triangles, std::vector<Rim>& rims) const;
    [[nodiscard]] bool onEdgeOf(std::uint32_t f, unsigned i, std::uint32_t n) const;

    [[nodiscard]] Crosser crosserOf(TriangleId crosser, TriangleId plane, std::uint32_t p, std::uint32_t q) const;
    // Change of the winding number above the plane from face f to its neighbour across edge i.
    [[nodiscard]] Windings step(std::uint32_t f, unsigned i);
    [[nodiscard]] std::uint32_t nameOf(std::uint32_t vertex) const { return plane_.vertices()[vertex].name; }

    const CutSurface& s_;
    const mesh::Edges& edges_;
    const Crossings crossings_;
    const ExactPoints& points_;

    PlanarTriangulation plane_;
    std::vector<Constraint> constraints_;
    std::size_t constraintCount_ = 0;                     // of constraints_, which keeps its memory
    std::vector<Local> locals_;                           // by point
    std::vector<std::array<std::uint32_t, 3>> segments_;  // points p and q, constraint
    std::vector<Windings> front_;                         // of each face
    std::vector<std::uint32_t> queue_;
    std::vector<TriangleId> counted_;                 // in one step
    std::vector<std::uint32_t> sheet_;                // of each face, of triangles that are cut together
    std::vector<std::vector<std::uint32_t>> partOf_;  // of each face: places of the triangles it is part of
    std::vector<std::int8_t> up_;                     // of each triangle: 1 where it faces up, -1 down
    std::uint32_t edgeCount_ = 0;                     // constraints before it are edges
    std::array<Point, 3> frame_;                      // corners of the starting triangle of several
    int axis_ = 0;
    int turn_ = 1;
};

}  // namespace zither::arrange
