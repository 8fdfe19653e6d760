// Constrained triangulation of points and segments in one plane, for cutting a triangle (or several coplanar ones)
// along the curves in which others meet it. What is on which side is decided exactly; only which of two valid diagonals
// is the better one is left to rounded numbers, so that the result is nearly Delaunay and always right. Insertion after
// Lawson 1977, constraints by flips after Sloan 1993.
#pragma once

#include <algorithm>
#include <array>
#include <cstdint>
#include <initializer_list>
#include <memory>
#include <utility>
#include <vector>

#include "exact/constructed_point.h"

namespace zither::exact {

// Corners and edges of a triangle in turn.
inline unsigned next(unsigned i) {
    return i == 2 ? 0 : i + 1;
}
inline unsigned previous(unsigned i) {
    return i == 0 ? 2 : i - 1;
}

// What the triangulation asks of the geometry it stands for.
class PlanarSource {
public:
    virtual ~PlanarSource() = default;
    // The exact point of a vertex, by the name it was inserted with.
    [[nodiscard]] virtual Homogeneous exactPoint(std::uint32_t name) const = 0;
    // Makes the point where two constraints cross: its name and approximation.
    struct Crossing {
        std::uint32_t name = 0;
        Point3 approximation;
    };
    virtual Crossing cross(std::uint32_t constraintA, std::uint32_t constraintB) = 0;
};

// The constraints on whose lines a point is known to lie: what lies on one line need not be computed to be known.
class LineSet {
public:
    LineSet() = default;
    LineSet(std::initializer_list<std::uint32_t> lines) {
        for (const std::uint32_t line : lines) add(line);
    }
    void add(std::uint32_t line) {
        if (line < 64) {
            first_ |= std::uint64_t{1} << line;
            return;
        }
        const auto at = std::lower_bound(more_.begin(), more_.end(), line);
        if (at == more_.end() || *at != line) more_.insert(at, line);
    }
    void add(const LineSet& other) {
        first_ |= other.first_;
        for (const std::uint32_t line : other.more_) add(line);
    }
    // Some line is in all three.
    [[nodiscard]] static bool haveCommon(const LineSet& a, const LineSet& b, const LineSet& c) {
        if ((a.first_ & b.first_ & c.first_) != 0) return true;
        return std::any_of(a.more_.begin(), a.more_.end(),
                           [&](std::uint32_t line) { return b.hasMore(line) && c.hasMore(line); });
    }

private:
    [[nodiscard]] bool hasMore(std::uint32_t line) const {
        return std::binary_search(more_.begin(), more_.end(), line);
    }

    std::uint64_t first_ = 0;          // bit n: line n
    std::vector<std::uint32_t> more_;  // in order: those from 64 on
};

class PlanarTriangulation {
public:
    static constexpr std::uint32_t none = 0xFFFFFFFFU;

    struct Vertex {
        double x = 0;  // in the plane, so that the start runs counter-clockwise; approximate, or exact where `given`
        double y = 0;
        LineSet lines;
        std::uint32_t name = 0;
        std::uint32_t triangle = none;
        bool given = false;
    };
    // Edge i is opposite corner i.
    struct Face {
        std::array<std::uint32_t, 3> v{};
        std::array<std::uint32_t, 3> neighbour{none, none, none};
        std::array<std::uint32_t, 3> constraints{none, none, none};  // head of a list, see constraintsOf
    };
    struct ConstraintNode {
        std::uint32_t constraint = 0;
        std::uint32_t next = none;
    };

    // Starts with one triangle, given counter-clockwise in the plane without `axis`, seen so that `turn` (1 or -1)
    // times orient2dDropping is positive. `error`: of approximations, in each coordinate.
    void start(PlanarSource& source, int axis, int turn, double error);
    // The three corners, before anything else.
    void startWith(const std::array<Vertex, 3>& corners);
    [[nodiscard]] Vertex vertexAt(std::uint32_t name, const Point3& position, bool given, LineSet lines) const {
        return {position[axisX_], position[axisY_], std::move(lines), name, none, given};
    }

    // The vertex at that point, which lies in the starting triangle: an earlier one where they coincide.
    std::uint32_t insert(const Vertex& vertex);
    // Makes the segment a union of edges that carry the constraint, and new vertices where it crosses others.
    void constrain(std::uint32_t a, std::uint32_t b, std::uint32_t constraint);
    // Marks an edge of the starting triangle, opposite its corner i, before anything is inserted.
    void constrainStartingEdge(unsigned i, std::uint32_t constraint);
    // Says that a vertex lies on the lines of constraints.
    void addLines(std::uint32_t vertex, const LineSet& lines) { vertices_[vertex].lines.add(lines); }
    // Makes unconstrained edges nearly Delaunay.
    void improve();

    [[nodiscard]] const std::vector<Vertex>& vertices() const { return vertices_; }
    [[nodiscard]] const std::vector<Face>& faces() const { return faces_; }
    // Calls visit(constraint) for each constraint that the edge carries.
    template <class Visit>
    void constraintsOf(std::uint32_t head, const Visit& visit) const {
        for (std::uint32_t i = head; i != none; i = lists_[i].next) visit(lists_[i].constraint);
    }

    // Sign of the turn of three vertices, counter-clockwise positive. Exact.
    [[nodiscard]] int orient(std::uint32_t a, std::uint32_t b, std::uint32_t c) const;
    // a to b runs the way that p to q does; all four lie on one line. Exact.
    [[nodiscard]] bool sameDirection(std::uint32_t a, std::uint32_t b, std::uint32_t p, std::uint32_t q) const;

private:
    struct Place {
        std::uint32_t face = 0;
        unsigned corner = 0;  // the edge, or the vertex, that the point lies on
        enum { Inside, OnEdge, AtVertex } kind = Inside;
    };
    struct EdgeOf {
        std::uint32_t a = 0;
        std::uint32_t b = 0;
    };

    // Sign of a - b in x or in y. Exact.
    [[nodiscard]] int compare(bool alongX, std::uint32_t a, std::uint32_t b) const;
    [[nodiscard]] int orientExactly(std::uint32_t a, std::uint32_t b, std::uint32_t c) const;
    [[nodiscard]] const Homogeneous& exactPoint(std::uint32_t v) const;
    [[nodiscard]] Place locate(std::uint32_t v);
    std::uint32_t newVertex(const Vertex& vertex);
    void splitFace(std::uint32_t f, std::uint32_t v);
    void splitEdge(std::uint32_t f, unsigned i, std::uint32_t v);
    void relink(std::uint32_t neighbour, std::uint32_t from, std::uint32_t to);
    [[nodiscard]] unsigned backIndex(std::uint32_t f, unsigned i) const;
    [[nodiscard]] bool canFlip(std::uint32_t f, unsigned i) const;
    void flip(std::uint32_t f, unsigned i);
    [[nodiscard]] bool wantsFlip(std::uint32_t f, unsigned i) const;
    void legalise();
    // The face and corner index of directed edge a to b: it is opposite the corner that is returned.
    [[nodiscard]] bool findEdge(std::uint32_t a, std::uint32_t b, std::uint32_t& f, unsigned& i) const;
    void mark(std::uint32_t f, unsigned i, std::uint32_t constraint);
    std::uint32_t advance(std::uint32_t from, std::uint32_t to, std::uint32_t constraint);
    void openCorridor(std::uint32_t from, std::uint32_t to, std::vector<EdgeOf> crossing);

    PlanarSource* source_ = nullptr;
    int axis_ = 0;
    int turn_ = 1;
    int axisX_ = 0;
    int axisY_ = 1;
    double error_ = 0;
    std::vector<Vertex> vertices_;
    std::vector<Face> faces_;
    std::vector<ConstraintNode> lists_;
    std::vector<std::pair<std::uint32_t, unsigned>> suspects_;  // edges that may want a flip
    mutable std::vector<std::unique_ptr<Homogeneous>> exact_;
    std::uint32_t last_ = 0;  // face where the next search starts
    std::uint32_t random_ = 1;
};

}  // namespace zither::exact
