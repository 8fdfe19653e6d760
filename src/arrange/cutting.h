// A surface cut wherever it meets itself: every triangle that others touch in pieces that meet in whole edges, and what
// is known of the winding numbers at its rim.
#pragma once

#include <cstdint>
#include <memory>
#include <utility>
#include <vector>

#include "arrange/crossing_figures.h"
#include "arrange/cut_surface.h"
#include "arrange/triangle_cutter.h"
#include "check/surveyed.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::arrange {

// Both surfaces must outlive it. Blocks of triangles are cut in parallel; what comes out does not depend on threads.
class Cutting {
public:
    // `surveyed`: the surface, or one with the same triangles.
    Cutting(const CutSurface& surface, const check::Surveyed& surveyed)
        : points(surface.mesh), surface_(surface), surveyed_(surveyed) {}

    // As in TriangleCutter; to be set before. Where no winding number is below 0, no other piece is on the skin of a
    // union, and most of them are buried.
    bool leastOnly = false;

    // Once; before it all below is empty. Error: only cancelled.
    mesh::Outcome<void> run(mesh::Progress& progress);

    struct Block {
        std::vector<Piece> pieces;
        std::vector<Weights> weights;  // of pieces that are cut together; else those of the source
        std::vector<Generator> made;
        std::vector<Point> madeAt;
        std::vector<std::pair<TriangleId, Rim>> rims;
        std::uint32_t sheets = 0;
        std::uint32_t firstPoint = 0;
        std::uint32_t firstSheet = 0;
    };

    ExactPoints points;
    std::vector<check::TrianglePair> pairs;  // that meet in more than a common edge or corner, in order
    std::vector<Figure> figures;             // in which they do
    std::unique_ptr<Partners> partners;
    std::vector<Block> blocks;
    std::uint32_t sheetCount = 0;  // sheets of whole triangles have the triangle's number

private:
    mesh::Outcome<void> findPairs(mesh::Progress& progress);
    bool cutAll(mesh::Progress& progress);
    void numberWhatWasMade();

    const CutSurface& surface_;
    const check::Surveyed& surveyed_;
};

}  // namespace zither::arrange
