// Segments where triangles pass the plane, triangulated with constraints; winding numbers spread from outside.
#include "measure/section.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <map>
#include <queue>
#include <tuple>
#include <utility>

#include "exact/planar_triangulation.h"
#include "measure/measure_tolerances.h"
#include "mesh/parallel.h"

namespace zither::measure {
namespace {

using exact::PlanarTriangulation;
using mesh::Point;

constexpr std::uint32_t none = PlanarTriangulation::none;

// Outline segments in the plane as (x, y, 0), and the points where they cross.
class Outline final : private exact::PlanarSource {
public:
    explicit Outline(const std::vector<std::array<Point, 2>>& segments) {
        for (const auto& s : segments)
            for (const Point& p : s) flat_.positions.push_back(p);
        for (std::uint32_t i = 0; i < segments.size(); ++i) flat_.triangles.push_back({2 * i, 2 * i + 1, 2 * i});
        mesh::joinEqualVertices(flat_);
        mesh::Box box = mesh::boxOf(flat_);
        const double extent = std::max(
            {box.extent().maxCoeff(), box.max.cwiseAbs().maxCoeff() * tolerance::sectionFrame, tolerance::aboveZero});
        const auto base = static_cast<std::uint32_t>(flat_.positions.size());
        // A triangle around everything.
        flat_.positions.emplace_back(box.min.x() - extent, box.min.y() - extent, 0);
        flat_.positions.emplace_back(box.min.x() + 6 * extent, box.min.y() - extent, 0);
        flat_.positions.emplace_back(box.min.x() - extent, box.min.y() + 6 * extent, 0);
        frame_ = base;
    }

    // Fills cap (in the flat plane) and depth.
    bool fill(Section& section, mesh::Progress& progress) {
        const exact::IntegerGrid grid(flat_.positions);
        grid_ = &grid;
        PlanarTriangulation plane;
        plane.start(*this, 2, 1, grid.approximationError());
        const auto vertex = [&](std::uint32_t v) { return plane.vertexAt(v, flat_.positions[v], true, {}); };
        plane.startWith({vertex(frame_), vertex(frame_ + 1), vertex(frame_ + 2)});
        std::vector<std::uint32_t> local(frame_);
        for (std::uint32_t v : nearToNear()) local[v] = plane.insert(vertex(v));
        if (!progress.report(0.6)) return false;
        for (std::uint32_t i = 0; i < flat_.triangles.size(); ++i) {
            const std::uint32_t a = local[flat_.triangles[i][0]];
            const std::uint32_t b = local[flat_.triangles[i][1]];
            ends_.push_back({a, b});
            if (a != b) plane.constrain(a, b, i);
        }
        if (!progress.report(0.9)) return false;
        flood(plane, section);
        return true;
    }

private:
    [[nodiscard]] exact::Homogeneous exactPoint(std::uint32_t name) const override {
        if (name < flat_.positions.size()) return grid_->point(flat_.positions[name]);
        const auto& [a, b, c, d] = made_[name - flat_.positions.size()];
        const auto& p = flat_.positions;
        return exact::lineCrossing(*grid_, 2, p[a], p[b], p[c], p[d]);
    }
    Crossing cross(std::uint32_t a, std::uint32_t b) override {
        const auto name = static_cast<std::uint32_t>(flat_.positions.size() + made_.size());
        made_.push_back({flat_.triangles[a][0], flat_.triangles[a][1], flat_.triangles[b][0], flat_.triangles[b][1]});
        return {name, grid_->nearest(exactPoint(name))};
    }

    // Points in an order in which each is near the one before: strips across, run through to and fro.
    [[nodiscard]] std::vector<std::uint32_t> nearToNear() const {
        std::vector<std::uint32_t> order(frame_);
        for (std::uint32_t v = 0; v < frame_; ++v) order[v] = v;
        mesh::Box box;
        for (std::uint32_t v = 0; v < frame_; ++v) box.add(flat_.positions[v]);
        const double strips = std::max(1.0, std::sqrt(static_cast<double>(frame_) / 4));
        const double height = std::max(box.extent().y() / strips, tolerance::aboveZero);
        const auto stripOf = [&](std::uint32_t v) {
            return std::floor((flat_.positions[v].y() - box.min.y()) / height);
        };
        std::sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) {
            const double sa = stripOf(a);
            const double sb = stripOf(b);
            if (sa != sb) return sa < sb;
            const double xa = flat_.positions[a].x();
            const double xb = flat_.positions[b].x();
            if (xa != xb) return (std::fmod(sa, 2) == 0) == (xa < xb);
            return a < b;
        });
        return order;
    }

    // Winding numbers spread from the rim of the frame, changing by the segments that are crossed.
    void flood(const PlanarTriangulation& plane, Section& section) const {
        const auto& faces = plane.faces();
        std::vector<int> winding(faces.size(), 0);
        std::vector<std::uint8_t> seen(faces.size(), 0);
        std::queue<std::uint32_t> queue;
        for (std::uint32_t f = 0; f < faces.size() && queue.empty(); ++f)
            for (std::uint32_t n : faces[f].neighbour)
                if (n == none && queue.empty()) {
                    seen[f] = 1;
                    queue.push(f);
                }
        for (; !queue.empty(); queue.pop()) {
            const std::uint32_t f = queue.front();
            for (unsigned i = 0; i < 3; ++i) {
                const std::uint32_t g = faces[f].neighbour[i];
                if (g == none || seen[g]) continue;
                seen[g] = 1;
                winding[g] = winding[f];
                const std::uint32_t a = faces[f].v[exact::next(i)];
                const std::uint32_t b = faces[f].v[exact::previous(i)];
                // f lies left of a to b; what is left of a segment is enclosed once more.
                plane.constraintsOf(faces[f].constraints[i], [&](std::uint32_t c) {
                    winding[g] += plane.sameDirection(a, b, ends_[c][0], ends_[c][1]) ? -1 : 1;
                });
                queue.push(g);
            }
        }
        std::vector<std::uint32_t> number(plane.vertices().size(), none);
        for (std::uint32_t f = 0; f < faces.size(); ++f) {
            if (winding[f] == 0) continue;
            mesh::Triangle t;
            for (unsigned k = 0; k < 3; ++k) {
                std::uint32_t& n = number[faces[f].v[k]];
                if (n == none) {
                    n = static_cast<std::uint32_t>(section.cap.positions.size());
                    const auto& v = plane.vertices()[faces[f].v[k]];
                    section.cap.positions.emplace_back(v.x, v.y, 0);
                }
                t[k] = n;
            }
            section.cap.triangles.push_back(t);
            section.depth.push_back(winding[f]);
        }
    }

    mesh::Mesh flat_;
    std::uint32_t frame_ = 0;
    const exact::IntegerGrid* grid_ = nullptr;
    std::vector<std::array<std::uint32_t, 4>> made_;
    std::vector<std::array<std::uint32_t, 2>> ends_;
};

struct PointOrder {
    bool operator()(const Point& a, const Point& b) const {
        return std::lexicographical_compare(a.data(), a.data() + 3, b.data(), b.data() + 3);
    }
};

// Where the edge meets the plane, the same from both of its triangles.
Point onEdge(const Point& a, const Point& b, const Plane& plane) {
    const bool swap = PointOrder()(b, a);
    const Point& p = swap ? b : a;
    const Point& q = swap ? a : b;
    const double low = plane.across.dot(p);
    const Point r = p + (plane.at - low) / (plane.across.dot(q) - low) * (q - p);
    // Exactly into it where it lies across an axis.
    return r - (plane.across.dot(r) - plane.at) * plane.across;
}

// Of each vertex: whether it lies beyond the plane.
std::vector<std::uint8_t> beyondPlane(const mesh::Mesh& m, const Plane& plane) {
    std::vector<std::uint8_t> beyond(m.positions.size());
    mesh::parallelFor(beyond.size(), 8192,
                      [&](std::size_t v) { beyond[v] = plane.across.dot(m.positions[v]) >= plane.at; });
    return beyond;
}

// Calls for each triangle that has corners on both sides, block by block; blocks side by side.
constexpr std::size_t blockSize = 16384;
template <class Each>
void eachAcross(const mesh::Mesh& m, const std::vector<std::uint8_t>& beyond, Each&& each) {
    const std::size_t blocks = (m.triangles.size() + blockSize - 1) / blockSize;
    mesh::parallelFor(blocks, 1, [&](std::size_t b) {
        for (std::size_t t = b * blockSize; t < std::min(m.triangles.size(), (b + 1) * blockSize); ++t) {
            const mesh::Triangle& tri = m.triangles[t];
            const int sum = beyond[tri[0]] + beyond[tri[1]] + beyond[tri[2]];
            if (sum != 0 && sum != 3) each(b, static_cast<mesh::TriangleId>(t));
        }
    });
}

using Segment = std::array<Point, 2>;

// In the order of the triangles.
std::vector<Segment> outlineOf(const mesh::Mesh& m, const Plane& plane) {
    const std::vector<std::uint8_t> beyond = beyondPlane(m, plane);
    std::vector<std::vector<Segment>> ofBlock((m.triangles.size() + blockSize - 1) / blockSize);
    eachAcross(m, beyond, [&](std::size_t block, mesh::TriangleId t) {
        Segment segment;
        for (unsigned k = 0; k < 3; ++k) {
            const unsigned n = (k + 1) % 3;
            const bool here = beyond[m.triangles[t][k]] != 0;
            if (here == (beyond[m.triangles[t][n]] != 0)) continue;
            // Down through the plane is where the outline starts, up where it ends: what is behind the triangle is on
            // its left.
            segment[here ? 0 : 1] = onEdge(m.corner(t, k), m.corner(t, n), plane);
        }
        if (segment[0] != segment[1]) ofBlock[block].push_back(segment);
    });
    std::vector<Segment> outline;
    for (const auto& block : ofBlock) outline.insert(outline.end(), block.begin(), block.end());
    return outline;
}

// From each end straight to a beginning, the nearest pairs first, so that every loop is closed. Empty where there are
// too many; there are as many ends as beginnings.
std::vector<Segment> ledOn(const std::vector<Point>& arriving, const std::vector<Point>& leaving) {
    constexpr std::size_t most = 1500;  // all pairs are looked at
    if (arriving.size() > most) return {};
    struct Pair {
        double distance;
        std::uint32_t from;
        std::uint32_t to;
    };
    std::vector<Pair> pairs;
    pairs.reserve(arriving.size() * leaving.size());
    for (std::uint32_t a = 0; a < arriving.size(); ++a)
        for (std::uint32_t b = 0; b < leaving.size(); ++b)
            pairs.push_back({(arriving[a] - leaving[b]).squaredNorm(), a, b});
    std::sort(pairs.begin(), pairs.end(), [](const Pair& x, const Pair& y) {
        return std::tie(x.distance, x.from, x.to) < std::tie(y.distance, y.from, y.to);
    });
    std::vector<std::uint8_t> led(arriving.size(), 0);
    std::vector<std::uint8_t> met(leaving.size(), 0);
    std::vector<Segment> closing;
    for (const Pair& p : pairs) {
        if (led[p.from] || met[p.to]) continue;
        led[p.from] = met[p.to] = 1;
        closing.push_back({arriving[p.from], leaving[p.to]});
    }
    return closing;
}

// Lengths, ends and loops of the outline; what closes it for the cap.
std::vector<Segment> measureOutline(Section& section) {
    struct End {
        int balance = 0;
        std::size_t number = 0;
    };
    std::map<Point, End, PointOrder> ends;
    std::vector<std::size_t> joined;  // to which other end; the first of a loop to itself
    const auto rootOf = [&](std::size_t i) {
        while (joined[i] != i) i = joined[i] = joined[joined[i]];
        return i;
    };
    const auto endAt = [&](const Point& p) -> End& {
        const auto [it, fresh] = ends.try_emplace(p);
        if (fresh) {
            it->second.number = joined.size();
            joined.push_back(joined.size());
        }
        return it->second;
    };
    for (const auto& [from, to] : section.outline) {
        section.length += (to - from).norm();
        End& a = endAt(from);
        End& b = endAt(to);
        ++a.balance;
        --b.balance;
        joined[rootOf(a.number)] = rootOf(b.number);
    }
    std::vector<Point> leaving;   // where the outline begins without having come
    std::vector<Point> arriving;  // where it ends without going on
    for (const auto& [point, end] : ends) {
        section.openEnds += end.balance != 0;
        for (int k = 0; k < std::abs(end.balance); ++k) (end.balance > 0 ? leaving : arriving).push_back(point);
    }
    for (std::size_t i = 0; i < joined.size(); ++i) section.loops += joined[i] == i;
    return ledOn(arriving, leaving);
}

}  // namespace

PlaneFrame frameAcross(const Point& across) {
    Eigen::Index least = 0;
    across.cwiseAbs().minCoeff(&least);
    const Point u = Point::Unit(least).cross(across).normalized();
    return {u, across.cross(u)};
}

std::vector<mesh::TriangleId> trianglesAcross(const mesh::Mesh& m, const Plane& plane) {
    std::vector<std::vector<mesh::TriangleId>> ofBlock((m.triangles.size() + blockSize - 1) / blockSize);
    eachAcross(m, beyondPlane(m, plane), [&](std::size_t block, mesh::TriangleId t) { ofBlock[block].push_back(t); });
    std::vector<mesh::TriangleId> all;
    for (const auto& block : ofBlock) all.insert(all.end(), block.begin(), block.end());
    return all;
}

mesh::Outcome<Section> sectionOf(const mesh::Mesh& m, const Plane& plane, mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    Section section;
    section.plane = plane;
    section.outline = outlineOf(m, plane);
    if (!progress.report(0.2)) return mesh::cancelled();
    const std::vector<Segment> closing = measureOutline(section);
    if (section.outline.empty() || (section.openEnds > 0 && closing.empty())) return section;
    const auto [u, v] = frameAcross(plane.across);
    std::vector<Segment> flat;
    flat.reserve(section.outline.size() + closing.size());
    for (const std::vector<Segment>* segments : {&std::as_const(section.outline), &closing})
        for (const auto& [from, to] : *segments)
            flat.push_back({Point(u.dot(from), v.dot(from), 0), Point(u.dot(to), v.dot(to), 0)});
    mesh::PartOfProgress filling(progress, 0.2, 1);
    if (!Outline(flat).fill(section, filling)) return mesh::cancelled();
    for (mesh::TriangleId t = 0; t < section.cap.triangles.size(); ++t) {
        const double area = mesh::areaVector(section.cap, t).z() / 2;
        if (section.depth[t] > 0) section.area += area;
        if (section.depth[t] > 1) section.areaTwice += area;
    }
    for (Point& p : section.cap.positions) p = p.x() * u + p.y() * v + plane.at * plane.across;
    if (!progress.report(1)) return mesh::cancelled();
    return section;
}

}  // namespace zither::measure
