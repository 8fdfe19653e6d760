// What a change of a few triangles passes over.
#pragma once

#include <Eigen/Geometry>
#include <array>
#include <cmath>
#include <numbers>
#include <span>

#include "mesh/mesh.h"

namespace zither::fit {

using Corners3 = std::array<mesh::Point, 3>;

// Two patches with one border: true where p lies between them, so that it is on another side of the surface once the
// one has become the other. By the angle at which both are seen from it (van Oosterom & Strackee 1983).
inline bool isSwept(const mesh::Point& p, std::span<const Corners3> before, std::span<const Corners3> after) {
    const auto angle = [&](const Corners3& t) {
        const mesh::Point u = t[0] - p;
        const mesh::Point v = t[1] - p;
        const mesh::Point w = t[2] - p;
        const double lu = u.norm();
        const double lv = v.norm();
        const double lw = w.norm();
        return 2 * std::atan2(u.dot(v.cross(w)), lu * lv * lw + u.dot(v) * lw + v.dot(w) * lu + w.dot(u) * lv);
    };
    double sum = 0;
    for (const Corners3& t : before) sum += angle(t);
    for (const Corners3& t : after) sum -= angle(t);
    return std::abs(sum) > 2 * std::numbers::pi;
}

// True where a corner of something else lies between the two. eachCorner(box, visit) calls visit(point) for the corners
// in the box, others too, that are none of the patches'.
template <class EachCorner>
bool passesOver(std::span<const Corners3> before, std::span<const Corners3> after, const EachCorner& eachCorner) {
    mesh::Box box;
    for (const auto& patch : {before, after})
        for (const Corners3& t : patch)
            for (const mesh::Point& p : t) box.add(p);
    bool passes = false;
    eachCorner(box, [&](const mesh::Point& p) {
        if (passes) return;
        mesh::Box there;
        there.add(p);
        passes = box.contains(there) && isSwept(p, before, after);
    });
    return passes;
}

}  // namespace zither::fit
