// A brush over a surface: vertices under it move, dab by dab; only what it touches is worked on.
#pragma once

#include <cstdint>
#include <memory>
#include <span>
#include <vector>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/pick.h"
#include "mesh/precision.h"

namespace zither::shape {

struct BrushOptions {
    enum Way { Smooth, Out, In };
    Way way = Smooth;
    double width = 0;       // of what a dab touches, in the file's unit
    double strength = 0.5;  // from 0 to 1
    mesh::Precision precision = mesh::Precision::Single;
};

// One stroke. Dabs are places on the surface as it came in, and so are their distances: the same dabs give the same
// surface, whoever draws them. A dab reaches what hangs together with it along edges within half the width, less
// towards its rim. Smoothing takes ripples off and leaves what is evenly curved; pushing moves them along the mean normal
// of the surface under the brush, by at most a twentieth of the width. Vertices on open and non-manifold edges and on
// borders of regions stay, and so do those of triangles that are not picked. No triangle turns over or loses its area
// (exactly, as rounded): where one would, its corners stay. The cost of a dab is that of the triangles under it.
class Stroke {
public:
    // Borrows the surface.
    Stroke(const check::Surveyed& s, const mesh::Pick& pick, const BrushOptions& options);
    ~Stroke();
    Stroke(const Stroke&) = delete;
    Stroke& operator=(const Stroke&) = delete;

    void dab(const mesh::Point& place);

    // Triangles of which a corner was moved, in the order in which they were first touched.
    [[nodiscard]] std::span<const mesh::TriangleId> touched() const;
    // Where a vertex is now.
    [[nodiscard]] const mesh::Point& at(mesh::VertexId v) const;
    // The touched triangles that meet others, of those that met none before. Exact.
    [[nodiscard]] std::vector<mesh::TriangleId> crossing() const;
    // Where the stroke made triangles meet, it is taken back by halves; how many vertices were moved back.
    std::size_t takeBackCrossings();

    struct Done {
        mesh::Mesh mesh;
        std::size_t moved = 0;  // vertices
        double farthest = 0;    // that one was moved
    };
    [[nodiscard]] Done done() const;

private:
    class Work;
    std::unique_ptr<Work> work_;
};

// How far apart dabs of a stroke lie, as a share of the width.
inline constexpr double dabSpacing = 1.0 / 8;

}  // namespace zither::shape
