// A flat piece laid onto a surface along its own normal: how high it lies above it, everywhere.
#pragma once

#include <array>
#include <limits>
#include <optional>
#include <vector>

#include "mesh/edges.h"

namespace zither::measure {

// Of a triangle seen along z; positive where it turns to the left.
inline double twiceAreaSeen(const mesh::Point& a, const mesh::Point& b, const mesh::Point& c) {
    return (b.x() - a.x()) * (c.y() - a.y()) - (b.y() - a.y()) * (c.x() - a.x());
}

// The largest height between the piece and the surface, and the point of the piece where it is.
struct Height {
    double most = std::numeric_limits<double>::infinity();
    mesh::Point at = mesh::Point::Zero();
    void raise(double height, const mesh::Point& p) {
        if (height > most) *this = {height, p};
    }
};

// Every point of the flat triangle `piece` lies within the height of the surface, but for rounding (2^-46 of the
// extent). Nothing where that cannot be shown: where `start` does not lie under the piece, seen along its normal, or
// more than 400 triangles do. Cost in proportion to those.
//
// Why it holds: triangles that turn alike are gathered from `start` on over every edge through the piece. Where there
// is none on the other side, because the surface ends or turns over there, the edge is a rim, and what of the piece
// lies beyond its line is measured to the edge itself. Over the rest as many triangles lie over one point as over
// another, for only a rim changes that, so at least one, as one does somewhere. Two flat things are farthest apart at a
// corner of their overlay.
// `under`, where it is given, gets the triangles of the surface in which all that is as near lies.
std::optional<Height> heightOver(const mesh::Mesh& m, const mesh::Edges& edges, const std::array<mesh::Point, 3>& piece,
                                 mesh::TriangleId start, std::vector<mesh::TriangleId>* under = nullptr);

}  // namespace zither::measure
