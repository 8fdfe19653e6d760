// How thick material is behind a surface: along a straight way, against the outward normal, to where it is left first.
#pragma once

#include <limits>
#include <vector>

#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "space/ray_scene.h"

namespace zither::measure {

// A closed surface that faces outward, and rays about every triangle of it.
struct WallSurface {
    const mesh::Mesh& mesh;
    const mesh::Edges& edges;
    const space::RayScene& rays;
    // Nothing crosses, touches or lies on itself: what is met first is where material is left.
    bool solid = true;
};

struct WallOptions {
    double limit = 0;                    // thinner is thin; in the file's unit, above 0
    std::size_t mostPoints = 4'000'000;  // where the grid needs more it is made coarser
};

// A connected patch of points thinner than the limit.
struct ThinPlace {
    double area = 0;
    double thinnest = std::numeric_limits<double>::infinity();
    mesh::Point where = mesh::Point::Zero();       // of the thinnest point
    std::vector<mesh::TriangleId> triangles = {};  // that have a point in it; ascending
};

struct Walls {
    double thinArea = 0;  // of the whole area, 0 to 1
    // The least wall in a thin place; infinite where there is none.
    double thinnest = std::numeric_limits<double>::infinity();
    std::vector<ThinPlace> places;  // of at least the limit squared in area; by their first triangle
    std::size_t points = 0;         // that were measured
    double step = 0;                // of the grid within triangles longer than the limit
    bool coarser = false;           // than half the limit, as there would be too many points
};

// Every triangle at its centre; those longer than the limit on a grid of half the limit. Points are joined to a patch
// within a triangle and across shared edges. Collapsed triangles have no area and are left out. The same for any number
// of threads. About 1 us a point. Error: only cancelled.
mesh::Outcome<Walls> wallsOf(const WallSurface& surface, const WallOptions& options, mesh::Progress& progress);

// The wall at the centre of each triangle; infinite where nothing is met, and for those without area.
mesh::Outcome<std::vector<double>> wallsAtCentres(const WallSurface& surface, mesh::Progress& progress);

}  // namespace zither::measure
