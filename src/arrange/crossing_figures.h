// Where crossing triangles meet: for each pair the point, the segment, or that they lie in one plane; with the points
// kept exactly, by the edges and planes that they come from.
#pragma once

#include <array>
#include <cstdint>
#include <span>
#include <vector>

#include "check/crossing_pairs.h"
#include "exact/constructed_point.h"
#include "mesh/edges.h"

namespace zither::arrange {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// What an exact point comes from.
struct Generator {
    enum Kind : std::uint8_t {
        EdgePlane,    // vertices a, b; triangle c
        EdgeEdge,     // vertices a, b; vertices c, d: where the segments cross in the plane without `axis`
        ThreePlanes,  // triangles a, b, c, ascending
    } kind = EdgePlane;
    std::uint8_t axis = 0;
    std::array<std::uint32_t, 4> from{};
};

// The points of a surface and the constructed ones, numbered on: exact on demand, approximate at once.
class ExactPoints {
public:
    explicit ExactPoints(const Mesh& m) : mesh_(&m), grid_(m.positions) {}

    [[nodiscard]] std::uint32_t givenCount() const { return static_cast<std::uint32_t>(mesh_->positions.size()); }
    [[nodiscard]] std::uint32_t count() const { return givenCount() + static_cast<std::uint32_t>(made_.size()); }
    [[nodiscard]] bool isGiven(std::uint32_t point) const { return point < givenCount(); }
    [[nodiscard]] const Point& approximate(std::uint32_t point) const {
        return isGiven(point) ? mesh_->positions[point] : approximate_[point - givenCount()];
    }
    [[nodiscard]] const Generator& generator(std::uint32_t point) const { return made_[point - givenCount()]; }
    [[nodiscard]] exact::Homogeneous exactPoint(std::uint32_t point) const {
        return isGiven(point) ? grid_.point(mesh_->positions[point]) : exactPoint(generator(point));
    }
    [[nodiscard]] exact::Homogeneous exactPoint(const Generator& g) const;
    [[nodiscard]] Point approximate(const Generator& g) const;
    [[nodiscard]] const exact::IntegerGrid& grid() const { return grid_; }
    [[nodiscard]] const Mesh& surface() const { return *mesh_; }
    [[nodiscard]] exact::Corner3 planeOf(TriangleId t) const {
        return {&mesh_->corner(t, 0), &mesh_->corner(t, 1), &mesh_->corner(t, 2)};
    }

    void resize(std::size_t made) {
        made_.resize(made);
        approximate_.resize(made);
    }
    // Of the number-th constructed point.
    void set(std::size_t number, const Generator& g, const Point& approximation) {
        made_[number] = g;
        approximate_[number] = approximation;
    }

private:
    const Mesh* mesh_;
    exact::IntegerGrid grid_;
    std::vector<Generator> made_;
    std::vector<Point> approximate_;
};

// How triangles a and b of a pair meet.
struct Figure {
    std::array<std::uint32_t, 2> point{};
    std::array<std::int8_t, 2> edgeOfA{-1, -1};  // edge k of a (from corner k) that the point lies inside of, or -1
    std::array<std::int8_t, 2> edgeOfB{-1, -1};
    std::uint8_t count = 0;  // points: a segment has two
    bool coplanar = false;   // then no points
};

// The pairs that a triangle is in, as indices, by ascending partner.
class Partners {
public:
    Partners(std::size_t triangles, const std::vector<check::TrianglePair>& pairs);
    [[nodiscard]] std::span<const std::uint32_t> of(TriangleId t) const {
        return {pairs_.data() + first_[t], pairs_.data() + first_[t + 1]};
    }

private:
    std::vector<std::uint32_t> pairs_;
    std::vector<std::uint32_t> first_;
};

// Figures of all pairs (ascending); points receives what they construct. A point where an edge pierces a triangle is
// made once, however many triangles there are at the edge.
std::vector<Figure> figuresOf(const mesh::Edges& edges, const std::vector<check::TrianglePair>& pairs,
                              const Partners& partners, ExactPoints& points);

}  // namespace zither::arrange
