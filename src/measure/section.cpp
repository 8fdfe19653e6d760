// Segments where triangles pass the plane, triangulated with constraints; winding numbers spread from outside.
#include "measure/section.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <map>
#include <queue>

#include "exact/planar_triangulation.h"
#include "mesh/tolerances.h"

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
Point onEdge(const Point& a, const Point& b, int axis, double position) {
    const bool swap = PointOrder()(b, a);
    const Point& p = swap ? b : a;
    const Point& q = swap ? a : b;
    Point r = p + (position - p[axis]) / (q[axis] - p[axis]) * (q - p);
    r[axis] = position;
    return r;
}

}  // namespace

mesh::Outcome<Section> sectionOf(const space::TriangleTree& tree, int axis, double position, mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    const mesh::Mesh& m = tree.surface();
    Section section;
    section.axis = axis;
    section.position = position;
    const int u = (axis + 1) % 3;
    const int v = (axis + 2) % 3;
    mesh::Box plane = mesh::boxOf(m);
    if (plane.empty()) return section;
    plane.min[axis] = plane.max[axis] = position;
    std::vector<std::array<Point, 2>> flat;
    tree.overlapping(plane, [&](mesh::TriangleId t) {
        std::array<bool, 3> beyond{};
        for (unsigned k = 0; k < 3; ++k) beyond[k] = m.corner(t, k)[axis] >= position;
        Point from = Point::Zero();
        Point to = Point::Zero();
        int found = 0;
        for (unsigned k = 0; k < 3; ++k) {
            const unsigned n = (k + 1) % 3;
            if (beyond[k] == beyond[n]) continue;
            // Down through the plane is where the outline starts, up where it ends: what is behind the triangle is on
            // its left.
            (beyond[k] ? from : to) = onEdge(m.corner(t, k), m.corner(t, n), axis, position);
            ++found;
        }
        if (found != 2 || from == to) return;
        section.outline.push_back({from, to});
        flat.push_back({Point(from[u], from[v], 0), Point(to[u], to[v], 0)});
    });
    if (!progress.report(0.2)) return mesh::cancelled();
    std::map<Point, int, PointOrder> balance;
    for (const auto& [from, to] : section.outline) {
        section.length += (to - from).norm();
        ++balance[from];
        --balance[to];
    }
    for (const auto& [point, sum] : balance) section.openEnds += sum != 0;
    if (flat.empty()) return section;
    mesh::PartOfProgress filling(progress, 0.2, 1);
    if (!Outline(flat).fill(section, filling)) return mesh::cancelled();
    for (mesh::TriangleId t = 0; t < section.cap.triangles.size(); ++t) {
        const double area = mesh::areaVector(section.cap, t).z() / 2;
        if (section.depth[t] > 0) section.area += area;
        if (section.depth[t] > 1) section.areaTwice += area;
    }
    for (Point& p : section.cap.positions) {
        const Point flatPoint = p;
        p[u] = flatPoint.x();
        p[v] = flatPoint.y();
        p[axis] = position;
    }
    if (!progress.report(1)) return mesh::cancelled();
    return section;
}

}  // namespace zither::measure
