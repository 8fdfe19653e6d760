// The engine of decimation: collapses edges of one mesh in the order of the quadric error that they cause.
#pragma once

#include <bit>
#include <cmath>
#include <limits>
#include <optional>
#include <span>
#include <utility>
#include <vector>

#include "mesh/edges.h"
#include "mesh/progress.h"
#include "shape/quadric.h"
#include "shape/shape_tolerances.h"
#include "shape/star_change.h"

namespace zither::shape {

using mesh::Mesh;
using mesh::Point;
using mesh::Progress;
using mesh::Triangle;
using mesh::TriangleId;
using mesh::VertexId;

// A collapse waiting in the queue; out of date once a vertex has a newer version.
struct Candidate {
    VertexId u;
    VertexId v;
    static constexpr std::uint32_t versions = 0x7FFFFFFF;
    std::uint32_t version : 31;   // sum of both vertices' versions when it was made
    std::uint32_t unshapely : 1;  // it is known to make a bad triangle, and waits with an error that says so
};

// Candidates in buckets of the error's logarithm: eight a power of two.
class BucketQueue {
public:
    void push(double error, const Candidate& c) {
        const std::size_t bucket = bucketOf(error);
        if (bucket >= buckets_.size()) buckets_.resize(bucket + 1);
        buckets_[bucket].push_back(c);
        lowest_ = std::min(lowest_, bucket);
    }
    // The next candidate of at most this error; false where there is none.
    bool popUpTo(double error, Candidate& c) {
        while (lowest_ < buckets_.size() && buckets_[lowest_].empty()) ++lowest_;
        if (lowest_ >= buckets_.size() || lowest_ > bucketOf(error)) return false;
        c = buckets_[lowest_].back();
        buckets_[lowest_].pop_back();
        return true;
    }
    // How many candidates wait with at most this error; those out of date included.
    [[nodiscard]] std::size_t countUpTo(double error) const {
        std::size_t count = 0;
        for (std::size_t b = lowest_; b < std::min(buckets_.size(), bucketOf(error) + 1); ++b)
            count += buckets_[b].size();
        return count;
    }

private:
    // Exponent and first three bits of the mantissa: monotonous in the error. Errors are relative to the whole, those
    // below 2^-140 of it count as none.
    static std::size_t bucketOf(double error) {
        constexpr std::uint64_t base = (1023 - 140) << 3;
        const std::uint64_t bits = std::bit_cast<std::uint64_t>(error) >> 49;
        return bits > base ? static_cast<std::size_t>(bits - base) : 0;
    }

    std::vector<std::vector<Candidate>> buckets_;
    std::size_t lowest_ = 0;
};

enum class VertexKind : std::uint8_t {
    Inner,
    Border,   // on an open edge or a region border: moves only along it
    Fixed,    // non-manifold, where borders meet, or not picked: others may collapse onto it
    Foreign,  // also used by triangles that the engine does not know: nothing may touch it
};

// One that was made: v went into u, which went to `at`, in the engine's own coordinates.
struct Collapse {
    VertexId u;
    VertexId v;
    Point at;
};

// Reaches (see EdgeCollapse) are kept as floats that are above what they stand for.
inline float reachAbove(double reach) {
    return std::nextafter(static_cast<float>(reach), std::numeric_limits<float>::infinity());
}

struct CollapseSettings {
    // Errors are relative to this length, squared, and positions to this point: the same for all parts of a surface.
    Point origin = Point::Zero();
    double scale = 1;
    bool lockBorders = false;
    bool onlyRedoes = false;  // collapses are only made again; nothing is weighed
    // No collapse may bring a triangle's reach (see EdgeCollapse) above this; infinite: reaches are not kept.
    double mostReach = std::numeric_limits<double>::infinity();
    // One flag a vertex: edges without such an end are not offered, until something near them changes; nullptr: all
    // are.
    const std::vector<std::uint8_t>* offered = nullptr;
    // A collapse that leaves a bad angle costs as much as moving what is around it by this share of its size.
    double shapePrice = tolerance::shapePrice;
    // By so much a vertex may move once more, when it is rounded for the file.
    double rounding = 0;
};

class EdgeCollapse {
public:
    // `allowed[v]`: Inner where nothing stands against moving vertex v, else Fixed or Foreign. Keeps a reference to m.
    EdgeCollapse(const Mesh& m, const std::vector<VertexKind>& allowed, const CollapseSettings& settings);

    // What the reach of each triangle is before, in the mesh's unit; none: 0. Not needed where settings do not limit
    // it.
    void startFrom(std::vector<float> reach) {
        if (!keepsReach() || reach.empty()) return;
        for (float& r : reach) r = reachAbove(r / settings_.scale);
        reach_ = std::move(reach);
    }

    // Collapses in rising order up to the error limit, until at least `mostRemoved` triangles are gone or nothing is
    // left to do. False where cancelled.
    bool advance(double errorLimit, std::size_t mostRemoved, Progress& progress);

    // Makes a collapse of another engine over the same mesh and settings again, if it is still allowed. Needs
    // onlyRedoes.
    void redo(const Collapse& c);

    // In the order in which they were made.
    [[nodiscard]] const std::vector<Collapse>& made() const { return made_; }
    // Of each triangle: what came to lie in it, and its own points, are within this of the other surface, at first the
    // one that came in. In the mesh's unit.
    [[nodiscard]] float reach(TriangleId t) const { return reachAbove(reach_[t] * settings_.scale); }
    [[nodiscard]] bool keepsReach() const { return !reach_.empty(); }
    [[nodiscard]] std::size_t triangleCount() const { return count_; }
    [[nodiscard]] std::size_t candidatesUpTo(double error) const { return queue_.countUpTo(error); }
    [[nodiscard]] bool alive(TriangleId t) const { return alive_[t] != 0; }
    [[nodiscard]] const Triangle& triangle(TriangleId t) const { return triangle_[t]; }
    // The vertex that this one has become, itself where it stands.
    [[nodiscard]] VertexId survivorOf(VertexId v) const {
        while (mergedInto_[v] != v) v = mergedInto_[v];
        return v;
    }
    // Where a vertex is now, in the mesh's own coordinates; with the input's bits where it did not move.
    [[nodiscard]] Point position(VertexId v) const {
        if (!original_[v]) return position_[v] * settings_.scale + settings_.origin;
        return mesh_.positions[source_.empty() ? v : source_[v]];
    }

private:
    // What a collapse would do.
    struct Placement {
        Point at;
        double error = 0;
    };

    void classify(const std::vector<VertexKind>& allowed);
    [[nodiscard]] bool isSimple(VertexId v) const;
    // Of one that is not. Notes the borders that lead from it to higher vertices.
    [[nodiscard]] VertexKind kindOf(VertexId v);
    void buildQuadrics();
    void buildCorners();
    [[nodiscard]] bool onBorder(VertexId u, VertexId v) const;
    // Where the vertex would go and what that costs; nothing where the kinds of the vertices forbid the collapse.
    [[nodiscard]] std::optional<Placement> place(VertexId u, VertexId v) const;
    // A little of the edge's length breaks ties in flat places in favour of short edges.
    void offer(VertexId u, VertexId v);
    void fillQueue();
    // Number of triangles removed: 0 where the collapse is not allowed.
    std::size_t tryCollapse(const Candidate& c);
    // What a collapse that leaves a bad angle has to cost at least; 0: the smallest one there is not worse than before.
    [[nodiscard]] double priceOfShape(VertexId u, VertexId v, const Point& at) const;
    // The vertices that both ends see must be exactly the corners opposite the edge (Dey et al. 1999); and an inner
    // edge between two border vertices is a bridge that must not be closed.
    bool linkAllows(VertexId u, VertexId v);
    // The triangles at the vertex do not go all around it.
    [[nodiscard]] bool isOpen(VertexId v);
    // What the triangles that stay come to, the worst of them: one turns far or becomes a sliver; has a bad angle;
    // none.
    enum class Fit { Turned, Unshapely, Good };
    [[nodiscard]] Fit fitOf(VertexId u, VertexId v, const Point& at) const;
    // Those around `moved` without `other`.
    [[nodiscard]] Fit fitAround(VertexId moved, VertexId other, const Point& at) const;
    // The largest reach around both and what the collapse adds to it; nothing where that is too much.
    [[nodiscard]] std::optional<float> reachAfter(VertexId u, VertexId v, const Point& at);
    // 0 where that would reach too far. It is not tried again then when something beside it changes: reaches only grow.
    std::size_t collapseWithinReach(VertexId u, VertexId v, const Point& at);
    // v goes into u.
    std::size_t collapse(VertexId u, VertexId v, const Point& at);
    void movedFrom(VertexId u, VertexId v);
    void removeTriangle(TriangleId t, VertexId u, VertexId v);
    void offerAround(VertexId u);

    // As a candidate keeps it.
    [[nodiscard]] std::uint32_t versionOf(VertexId u, VertexId v) const {
        return (version_[u] + version_[v]) & Candidate::versions;
    }
    [[nodiscard]] bool dead(VertexId v) const { return cornerCount_[v] == 0; }
    [[nodiscard]] std::span<const TriangleId> trianglesAt(VertexId v) const {
        return {around_.data() + cornerBegin_[v], cornerCount_[v]};
    }
    [[nodiscard]] bool hasVertex(TriangleId t, VertexId v) const {
        return triangle_[t][0] == v || triangle_[t][1] == v || triangle_[t][2] == v;
    }
    template <class Use>
    void forEachNeighbour(VertexId u, const Use& use) {
        ++markNow_;
        mark_[u] = markNow_;
        for (std::uint32_t i = cornerBegin_[u]; i < cornerBegin_[u] + cornerCount_[u]; ++i)
            for (VertexId w : triangle_[around_[i]]) {
                if (mark_[w] == markNow_) continue;
                mark_[w] = markNow_;
                use(w);
            }
    }

    const Mesh& mesh_;
    CollapseSettings settings_;
    std::size_t count_;  // triangles that are left
    std::vector<Point> position_;
    std::vector<std::uint8_t> original_;  // the vertex still has the coordinates of source_
    std::vector<VertexId> source_;        // empty: itself
    std::vector<VertexId> mergedInto_;    // by its last collapse; itself: none
    std::vector<Triangle> triangle_;
    std::vector<std::uint8_t> alive_;
    std::vector<Quadric> quadric_;
    std::vector<VertexKind> kind_;
    std::vector<mesh::HalfEdge> borderPlanes_;  // half-edges along borders
    // Triangles at each vertex; a collapse appends the merged list at the end.
    std::vector<std::uint32_t> cornerBegin_;
    std::vector<std::uint32_t> cornerCount_;
    std::vector<TriangleId> around_;
    std::vector<std::uint32_t> version_;
    std::vector<std::uint32_t> mark_;
    std::uint32_t markNow_ = 0;
    std::vector<std::uint8_t> refused_;  // a collapse at this vertex was not allowed
    std::vector<VertexId> refusedNearby_;
    BucketQueue queue_;
    std::vector<Collapse> made_;
    std::vector<float> reach_;  // as shares of the scale; empty: it is not kept
    StarChange change_;
};

}  // namespace zither::shape
