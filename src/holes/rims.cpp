// Walks along boundary half-edges; where one meets itself it comes apart into simple loops.
#include "holes/rims.h"

#include <Eigen/Eigenvalues>
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

#include "holes/holes_tolerances.h"
#include "measure/footprint.h"

namespace zither::holes {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::noEdge;
using mesh::Point;
using mesh::VertexId;

// A rim of fewer edges is told from damage by nothing.
constexpr std::size_t leastMeantEdges = 8;

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
    std::vector<Point> along;
    std::vector<Point> normals;
    for (HalfEdge h : rim) {
        along.push_back(m.positions[fromVertex(m, h)]);
        normals.push_back(mesh::areaVector(m, mesh::triangleOf(h)).normalized());
    }
    return shapeOf(along, normals);
}

namespace {

// Of points about their middle: across their hull, seen along the direction in which they are spread least.
double widthOf(std::span<const Point> along, const Point& middle) {
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    for (const Point& p : along) spread += (p - middle) * (p - middle).transpose();
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d> axes(spread);
    const Point u = axes.eigenvectors().col(1);
    const Point v = axes.eigenvectors().col(2);
    std::vector<measure::Flat> flat;
    for (const Point& p : along) flat.emplace_back(u.dot(p - middle), v.dot(p - middle));
    const std::vector<measure::Flat> hull = measure::convexHull(std::move(flat));
    if (hull.size() < 3) return 0;
    // The farthest corner from an edge goes round with the edge.
    const auto at = [&](std::size_t i) -> const measure::Flat& { return hull[i % hull.size()]; };
    double least = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0, far = 1; i < hull.size(); ++i) {
        const measure::Flat edge = (at(i + 1) - at(i)).normalized();
        const auto across = [&](std::size_t k) {
            const measure::Flat to = at(k) - at(i);
            return std::abs(edge.x() * to.y() - edge.y() * to.x());
        };
        far = std::max(far, i + 1);
        while (far < i + hull.size() && across(far + 1) > across(far)) ++far;
        least = std::min(least, across(far));
    }
    return std::isfinite(least) ? least : 0;
}

}  // namespace

RimShape shapeOf(std::span<const Point> along, std::span<const Point> normals) {
    RimShape shape;
    const std::size_t n = along.size();
    mesh::Box box;
    Point middle = Point::Zero();
    for (const Point& p : along) {
        box.add(p);
        middle += p / static_cast<double>(n);
    }
    shape.centre = box.centre();
    shape.size = box.diagonal();
    shape.width = widthOf(along, middle);
    const auto edgeAt = [&](std::size_t i) { return Point(along[(i + 1) % n] - along[i % n]); };
    for (std::size_t i = 0; i < n; ++i) {
        const Point a = along[i] - middle;
        const Point b = along[(i + 1) % n] - middle;
        // The patch runs along the rim against the surface.
        shape.area += 0.5 * b.cross(a);
        const double length = edgeAt(i).norm();
        shape.length += length;
        shape.steadiness += length * normals[i].dot(normals[(i + 1) % n]);
    }
    const Point up = shape.area.normalized();
    shape.convex = true;
    for (std::size_t i = 0; i < n; ++i) {
        shape.offPlane = std::max(shape.offPlane, std::abs(up.dot(along[i] - middle)));
        shape.continuation += edgeAt(i).norm() * up.dot(normals[i]);
        const Point before = edgeAt(i);
        const Point after = edgeAt(i + 1);
        // Against the patch: a turn to the right.
        shape.convex &= up.dot(before.cross(after)) <= tolerance::rimStraight * before.norm() * after.norm();
    }
    if (shape.length > 0) {
        shape.continuation /= shape.length;
        shape.steadiness /= shape.length;
    }
    return shape;
}

std::string_view whyMeant(std::size_t edges, const RimShape& shape, double partSize) {
    if (edges <= 3) return {};
    if (shape.width > tolerance::openingLargeShare * partSize) return "large against the part";
    if (edges < leastMeantEdges || shape.offPlane > tolerance::openingFlat * shape.size) return {};
    if (shape.roundness() <= tolerance::openingRound) return "flat and round";
    return shape.convex ? "flat and convex" : std::string_view();
}

}  // namespace zither::holes
