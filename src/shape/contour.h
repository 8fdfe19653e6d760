// The skin of a body that is known by a field: which points are inside, and where and how its surface passes between
// two of them.
#pragma once

#include <cstdint>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/precision.h"
#include "mesh/progress.h"
#include "space/winding.h"

namespace zither::shape {

// A corner of a grid, or the cell above it. A key has 21 bits for each number and two to spare.
struct GridIndex {
    int x = 0;
    int y = 0;
    int z = 0;
    [[nodiscard]] GridIndex plus(int axis, int by) const {
        return {x + (axis == 0) * by, y + (axis == 1) * by, z + (axis == 2) * by};
    }
};
using GridKey = std::uint64_t;

inline GridKey keyOf(const GridIndex& i) {
    return static_cast<GridKey>(i.x) << 42 | static_cast<GridKey>(i.y) << 21 | static_cast<GridKey>(i.z);
}
inline GridIndex indexOf(GridKey key) {
    return {static_cast<int>(key >> 42), static_cast<int>(key >> 21 & 0x1FFFFF), static_cast<int>(key & 0x1FFFFF)};
}

// Of the corners of a grid every seventh is a seed (x + 2y + 3z divisible by 7); every other one has exactly one of
// them beside it, which this gives, and seeds themselves.
GridIndex seedBeside(const GridIndex& i);

// Ascending, each once.
void sortUnique(std::vector<GridKey>& keys);

// Cells along a side at most: a key has 20 bits for each, and the part takes half of them.
inline constexpr double mostGridCells = 1 << 19;

// Cubes of edge `cell`, corner 0,0,0 at `origin`.
struct Grid {
    mesh::Point origin = mesh::Point::Zero();
    double cell = 0;
    [[nodiscard]] mesh::Point place(const GridIndex& i) const { return origin + cell * mesh::Point(i.x, i.y, i.z); }
    [[nodiscard]] GridIndex cellAt(const mesh::Point& p) const;
};

// Winding numbers at corners of a grid that follow on each other: within what says on which side of a surface they lie.
// False where it was cancelled.
bool windingAt(const space::WindingTree& winding, const Grid& grid, const std::vector<GridKey>& corners,
               std::vector<double>& values, mesh::Progress& progress);

// Where a skin passes an edge of the grid, and how it faces there.
struct Passing {
    mesh::Point point;
    mesh::Point normal;  // outwards, of length 1
};

// Asked from several threads.
class Field {
public:
    Field() = default;
    virtual ~Field() = default;
    Field(const Field&) = delete;
    Field& operator=(const Field&) = delete;
    // Cells of which every part of the skin passes at least one; ascending, each once.
    [[nodiscard]] virtual std::vector<GridKey> startCells(const Grid& grid) const = 0;
    // 1 where a corner is inside; false where it was cancelled. `corners` ascend.
    virtual bool signs(const Grid& grid, const std::vector<GridKey>& corners, std::vector<std::uint8_t>& signs,
                       mesh::Progress& progress) const = 0;
    // Between two neighbouring corners.
    [[nodiscard]] virtual Passing passing(const mesh::Point& inside, const mesh::Point& outside) const = 0;
};

struct Skin {
    mesh::Mesh mesh;
    std::size_t cells = 0;    // that the skin runs through
    std::size_t relaxed = 0;  // vertices drawn back from sharp edges because triangles crossed there
    bool fused = false;       // what crossed still was cut and fused
    bool solid = false;
};

// Manifold dual contouring (Ju 2002; Schaefer, Ju, Warren 2007) on a sparse grid: from the cells to start from to
// wherever the sign still changes. A vertex stands where the planes of the surface around meet best, within its cell:
// sharp edges stay. A cell has a vertex for each sheet of the skin in it. Triangles that cross are drawn back to the
// middles of their cells, and fused at last. Error: only cancelled.
mesh::Outcome<Skin> contour(const Field& field, const Grid& grid, mesh::Precision precision, mesh::Progress& progress);

// A skin has about three triangles for each square of its cell: two a cell that it runs through, and it runs through
// half as many again where it lies aslant.
inline constexpr double trianglesASquare = 3;

}  // namespace zither::shape
