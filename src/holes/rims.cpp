// Walks along boundary half-edges; where one meets itself it comes apart into simple loops.
#include "holes/rims.h"
#include "mesh/tolerances.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <numbers>

namespace zither::holes {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::noEdge;
using mesh::Point;
using mesh::VertexId;

// A circle of fewer edges is told from damage by nothing.
constexpr std::size_t leastRoundEdges = 16;

class RimFinder {
public:
    RimFinder(const Mesh& m, const mesh::Edges& edges)
        : mesh_(m), edges_(edges), first_(m.positions.size() + 1, 0), used_(3 * m.triangles.size(), 0) {
        // Open half-edges by the vertex they start from.
        for (HalfEdge h = 0; h < 3 * m.triangles.size(); ++h)
            if (isOpen(h)) ++first_[fromVertex(m, h) + 1];
        for (std::size_t v = 0; v < m.positions.size(); ++v) first_[v + 1] += first_[v];
        out_.resize(first_.back());
        std::vector<std::uint32_t> next(first_.begin(), first_.end() - 1);
        for (HalfEdge h = 0; h < 3 * m.triangles.size(); ++h)
            if (isOpen(h)) out_[next[fromVertex(m, h)]++] = h;
    }

    // Walks along the rim and cuts off a loop whenever a vertex is met again.
    std::vector<Rim> run(std::size_t& notClosed) {
        std::vector<Rim> rims;
        std::vector<std::uint32_t> placeInWalk(mesh_.positions.size(), noEdge);
        for (HalfEdge start = 0; start < 3 * mesh_.triangles.size(); ++start) {
            if (!isOpen(start) || used_[start]) continue;
            Rim walk;
            for (HalfEdge h = start; h != noEdge; h = nextAt(toVertex(mesh_, h))) {
                used_[h] = 1;
                placeInWalk[fromVertex(mesh_, h)] = static_cast<std::uint32_t>(walk.size());
                walk.push_back(h);
                const std::uint32_t met = placeInWalk[toVertex(mesh_, h)];
                if (met == noEdge) continue;
                rims.emplace_back(walk.begin() + met, walk.end());
                for (HalfEdge cut : rims.back()) placeInWalk[fromVertex(mesh_, cut)] = noEdge;
                walk.resize(met);
                if (walk.empty()) break;
            }
            for (HalfEdge left : walk) placeInWalk[fromVertex(mesh_, left)] = noEdge;
            notClosed += !walk.empty();
        }
        return rims;
    }

private:
    [[nodiscard]] bool isOpen(HalfEdge h) const {
        return edges_.edgeOf(h) != noEdge && edges_.degree(edges_.edgeOf(h)) == 1;
    }

    [[nodiscard]] HalfEdge nextAt(VertexId v) const {
        for (std::uint32_t i = first_[v]; i < first_[v + 1]; ++i)
            if (!used_[out_[i]]) return out_[i];
        return noEdge;
    }

    const Mesh& mesh_;
    const mesh::Edges& edges_;
    std::vector<std::uint32_t> first_;
    std::vector<HalfEdge> out_;
    std::vector<std::uint8_t> used_;
};

}  // namespace

std::vector<Rim> rimsOf(const Mesh& m, const mesh::Edges& edges, std::size_t& notClosed) {
    return RimFinder(m, edges).run(notClosed);
}

double RimShape::roundness() const {
    const double a = area.norm();
    return a > 0 ? length * length / (4 * std::numbers::pi * a) : std::numeric_limits<double>::infinity();
}

RimShape shapeOf(const Mesh& m, const Rim& rim) {
    RimShape shape;
    mesh::Box box;
    Point middle = Point::Zero();
    for (HalfEdge h : rim) {
        box.add(m.positions[fromVertex(m, h)]);
        middle += m.positions[fromVertex(m, h)] / static_cast<double>(rim.size());
    }
    shape.centre = box.centre();
    shape.size = box.diagonal();
    const auto normalAt = [&](std::size_t i) {
        return Point(mesh::areaVector(m, mesh::triangleOf(rim[i % rim.size()])).normalized());
    };
    for (std::size_t i = 0; i < rim.size(); ++i) {
        const Point& a = m.positions[fromVertex(m, rim[i])];
        const Point& b = m.positions[toVertex(m, rim[i])];
        // The patch runs along the rim against the surface.
        shape.area += 0.5 * (b - middle).cross(a - middle);
        const double length = (b - a).norm();
        shape.length += length;
        shape.steadiness += length * normalAt(i).dot(normalAt(i + 1));
    }
    const Point n = shape.area.normalized();
    for (std::size_t i = 0; i < rim.size(); ++i) {
        const Point& a = m.positions[fromVertex(m, rim[i])];
        shape.offPlane = std::max(shape.offPlane, std::abs(n.dot(a - middle)));
        shape.continuation += (m.positions[toVertex(m, rim[i])] - a).norm() * n.dot(normalAt(i));
    }
    if (shape.length > 0) {
        shape.continuation /= shape.length;
        shape.steadiness /= shape.length;
    }
    return shape;
}

std::string_view whyMeant(const Rim& rim, const RimShape& shape, double partSize) {
    if (shape.size > tolerance::openingLargeShare * partSize) return "large against the part";
    if (rim.size() >= leastRoundEdges && shape.offPlane <= 0.005 * shape.size &&
        shape.roundness() <= tolerance::openingRound)
        return "flat and round";
    return {};
}

}  // namespace zither::holes
