// Flooding from triangle to triangle in the frame of the piece, each clipped to it.
#include "measure/overlay.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "measure/measure_tolerances.h"

namespace zither::measure {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

double reachOf(const std::array<Point, 3>& t) {
    double reach = 0;
    for (const Point& p : t) reach = std::max({reach, std::abs(p.x()), std::abs(p.y())});
    return reach;
}

// A convex polygon of a few corners.
struct Polygon {
    std::array<Point, 6> corner;
    std::size_t size = 0;

    // Leaves what lies to the left of the line from a to b.
    void cut(const Point& a, const Point& b) {
        if (size == 0) return;
        Polygon left;
        double before = twiceAreaSeen(a, b, corner[size - 1]);
        for (std::size_t i = 0; i < size; ++i) {
            const Point& from = corner[(i + size - 1) % size];
            const double here = twiceAreaSeen(a, b, corner[i]);
            if ((before < 0) != (here < 0) && left.size < corner.size())
                left.corner[left.size++] = from + before / (before - here) * (corner[i] - from);
            if (here >= 0 && left.size < corner.size()) left.corner[left.size++] = corner[i];
            before = here;
        }
        *this = left;
    }
};

// The piece in a frame of its own: it lies in z = 0 with a corner at the origin, and turns to the left.
class Laid {
public:
    explicit Laid(const std::array<Point, 3>& piece) : origin_(piece[0]) {
        const Point normal = (piece[1] - piece[0]).cross(piece[2] - piece[0]);
        flat_ = normal.norm() > 0;
        if (!flat_) return;
        frame_.row(0) = (piece[1] - piece[0]).normalized();
        frame_.row(2) = normal.normalized();
        frame_.row(1) = frame_.row(2).cross(frame_.row(0));
        for (unsigned k = 0; k < 3; ++k) corner_[k] = from(piece[k]);
        reach_ = reachOf(corner_);
        flat_ = twiceAreaSeen(corner_[0], corner_[1], corner_[2]) > marginTo(corner_);
    }
    // It has an area.
    [[nodiscard]] bool flat() const { return flat_; }
    [[nodiscard]] Point from(const Point& p) const { return frame_ * (p - origin_); }
    [[nodiscard]] Point back(const Point& p) const { return origin_ + frame_.transpose() * Point(p.x(), p.y(), 0); }
    // Areas below this may be nothing but rounding.
    [[nodiscard]] double marginTo(const std::array<Point, 3>& t) const {
        const double reach = std::max(reach_, reachOf(t));
        return tolerance::overlayRounding * reach * reach;
    }
    // The edge runs through the inside of the piece, by more than rounding.
    [[nodiscard]] bool holds(const Point& a, const Point& b, double margin) const {
        double least = std::numeric_limits<double>::infinity();
        double most = -least;
        for (const Point& c : corner_) {
            const double side = twiceAreaSeen(a, b, c);
            least = std::min(least, side);
            most = std::max(most, side);
        }
        if (least > -margin || most < margin) return false;
        for (unsigned k = 0; k < 3; ++k)
            if (std::max(twiceAreaSeen(corner_[k], corner_[(k + 1) % 3], a),
                         twiceAreaSeen(corner_[k], corner_[(k + 1) % 3], b)) < margin)
                return false;
        return true;
    }
    // What of the triangle lies over the piece: raises the height, and returns twice its area.
    double clip(const std::array<Point, 3>& t, Height& height) const {
        Polygon part{{t[0], t[1], t[2]}, 3};
        for (unsigned k = 0; k < 3; ++k) part.cut(corner_[k], corner_[(k + 1) % 3]);
        double twiceArea = 0;
        for (std::size_t i = 0; i < part.size; ++i) {
            if (i >= 2) twiceArea += twiceAreaSeen(part.corner[0], part.corner[i - 1], part.corner[i]);
            height.raise(std::abs(part.corner[i].z()), part.corner[i]);
        }
        return twiceArea;
    }
    // What of the piece lies to the right of the edge, where the surface does not go on: how far it is from the edge.
    void beyond(const Point& a, const Point& b, Height& height) const {
        Polygon part{{corner_[0], corner_[1], corner_[2]}, 3};
        part.cut(b, a);
        for (std::size_t i = 0; i < part.size; ++i) {
            const Point& p = part.corner[i];
            const double along = std::clamp((p - a).dot(b - a) / (b - a).squaredNorm(), 0.0, 1.0);
            height.raise((a + along * (b - a) - p).norm(), p);
        }
    }

private:
    Point origin_;
    Eigen::Matrix3d frame_;
    std::array<Point, 3> corner_;
    double reach_ = 0;
    bool flat_ = false;
};

// The triangles under a piece, from a first one on: those that turn as it does and are linked to it over edges that run
// through the piece.
class Flood {
public:
    static constexpr std::size_t most = 400;

    Flood(const Mesh& m, const mesh::Edges& edges, const Laid& laid) : mesh_(m), edges_(edges), laid_(laid) {
        slots_.fill(none);
    }

    // The height over them all; nothing where they do not lie under the piece.
    std::optional<Height> from(TriangleId start) {
        Height height{0, Point::Zero()};
        if (!turnsAlike(add(start))) return std::nullopt;
        bool covered = false;
        for (std::size_t i = 0; i < count_; ++i) {
            const Reached& r = reached_[i];
            if (!r.alike) continue;
            for (unsigned k = 0; k < 3; ++k) {
                const Point& a = r.corner[k];
                const Point& b = r.corner[(k + 1) % 3];
                if (!laid_.holds(a, b, r.margin)) continue;
                const HalfEdge twin = edges_.twin(3 * std::uint32_t{r.triangle} + k);
                if (twin != mesh::noEdge) {
                    const std::size_t next = add(mesh::triangleOf(twin));
                    if (count_ > most) return std::nullopt;
                    if (turnsAlike(next)) continue;
                }
                turn_ > 0 ? laid_.beyond(a, b, height) : laid_.beyond(b, a, height);
            }
            covered |= std::abs(laid_.clip(r.corner, height)) > r.margin;
        }
        if (!covered) return std::nullopt;
        return height;
    }

    void listUnder(std::vector<TriangleId>& under) const {
        for (std::size_t i = 0; i < count_; ++i)
            if (reached_[i].alike) under.push_back(reached_[i].triangle);
    }

private:
    // Nothing is set beforehand: to clear 400 of them would take longer than all the rest.
    struct Reached {
        std::uint32_t triangle;
        bool alike;                   // it turns as the first one does
        std::array<Point, 3> corner;  // laid
        double margin;
        double twiceArea;
    };

    // Its place among those that were reached.
    std::size_t add(TriangleId t) {
        std::size_t slot = (std::uint32_t{t} * 2654435761U) % slots_.size();
        for (; slots_[slot] != none; slot = (slot + 1) % slots_.size())
            if (reached_[slots_[slot]].triangle == t) return slots_[slot];
        Reached& r = reached_[count_];
        r.triangle = t;
        for (unsigned k = 0; k < 3; ++k) r.corner[k] = laid_.from(mesh_.corner(t, k));
        r.margin = laid_.marginTo(r.corner);
        r.twiceArea = twiceAreaSeen(r.corner[0], r.corner[1], r.corner[2]);
        if (count_ == 0) turn_ = r.twiceArea;
        r.alike = turn_ * r.twiceArea > 0 && std::abs(r.twiceArea) > r.margin;
        slots_[slot] = static_cast<std::uint16_t>(count_);
        return count_++;
    }
    [[nodiscard]] bool turnsAlike(std::size_t i) const { return reached_[i].alike; }

    static constexpr std::uint16_t none = 0xFFFF;
    const Mesh& mesh_;
    const mesh::Edges& edges_;
    const Laid& laid_;
    double turn_ = 0;
    std::size_t count_ = 0;
    std::array<std::uint16_t, 1024> slots_;  // by hash: places in reached_
    std::array<Reached, most + 1> reached_;
};

}  // namespace

std::optional<Height> heightOver(const Mesh& m, const mesh::Edges& edges, const std::array<Point, 3>& piece,
                                 TriangleId start, std::vector<TriangleId>* under) {
    const Laid laid(piece);
    if (!laid.flat()) return std::nullopt;
    Flood flood(m, edges, laid);
    auto height = flood.from(start);
    if (!height) return height;
    height->at = laid.back(height->at);
    if (under) flood.listUnder(*under);
    return height;
}

}  // namespace zither::measure
