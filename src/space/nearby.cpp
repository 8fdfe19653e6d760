// A walk that follows the edges which the point lies beyond.
#include "space/nearby.h"

#include <Eigen/Geometry>

namespace zither::space {

Nearest nearestFrom(const Mesh& m, const mesh::Edges& edges, const Point& p, TriangleId start, double enough) {
    const auto at = [&](TriangleId t) {
        const Point q = nearestOnTriangle(p, m.corner(t, 0), m.corner(t, 1), m.corner(t, 2));
        return Nearest{t, q, (q - p).squaredNorm()};
    };
    Nearest best = at(start);
    // Nearer by each step, so that it ends by itself; far from where it began another way is quicker.
    constexpr int longest = 64;
    for (int i = 0; i < longest && best.distanceSquared > enough; ++i) {
        const TriangleId from = best.triangle;
        const std::array<Point, 3> corner{m.corner(from, 0), m.corner(from, 1), m.corner(from, 2)};
        const Point normal = (corner[1] - corner[0]).cross(corner[2] - corner[0]);
        for (unsigned k = 0; k < 3; ++k) {
            const Point& a = corner[k];
            if (normal.cross(corner[(k + 1) % 3] - a).dot(p - a) > 0) continue;
            const mesh::HalfEdge twin = edges.twin(3 * from + k);
            if (twin == mesh::noEdge) continue;
            if (const Nearest over = at(mesh::triangleOf(twin)); over.distanceSquared < best.distanceSquared)
                best = over;
        }
        if (best.triangle == from) break;
    }
    return best;
}

}  // namespace zither::space
