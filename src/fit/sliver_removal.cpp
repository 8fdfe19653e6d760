// A queue of needles and caps; each change is tested exactly before it is made (local_changes.h).
#include "fit/sliver_removal.h"

#include <algorithm>

#include "fit/local_changes.h"
#include "fit/settle.h"
#include "measure/mass.h"
#include "mesh/parallel.h"

namespace zither::fit {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

class SliverRemover {
public:
    SliverRemover(const Mesh& m, const SliverOptions& options)
        : options_(options),
          surface_(m, {.tolerance = options.tolerance,
                       .angleDeg = options.angleDeg,
                       .fixed = options.fixed,
                       .broken = options.broken,
                       .moveTouching = options.moveTouching}) {}

    mesh::Outcome<SliverResult> run(mesh::Progress& progress) {
        // A swap may lay bare a short edge, and a collapse a cap.
        constexpr int rounds = 6;
        for (int round = 0; round < rounds; ++round) {
            mesh::PartOfProgress part(progress, 0.1 + 0.8 * round / rounds, 0.1 + 0.8 * (round + 1) / rounds);
            const std::size_t before = changes();
            if (!collapseShort(part) ||
                !eachSliver(part, 0.3, [&](TriangleId t) { result_.swapped += surface_.swapLongest(t); }) ||
                (options_.slides && !eachSliver(part, 0.6, [&](TriangleId t) { result_.collapsed += slideOff(t); })) ||
                (options_.widens && !eachSliver(part, 0.9, [&](TriangleId t) { result_.widened += widen(t); })))
                return mesh::cancelled();
            if (changes() == before) break;
            surface_.nextRound();
        }
        const std::vector<std::uint8_t>& alive = surface_.alive();
        for (TriangleId t = 0; t < alive.size(); ++t) {
            if (!alive[t]) continue;
            result_.left += surface_.isSliver(t);
            result_.sourceOf.push_back(t);
        }
        result_.farthestMoved = surface_.farthestMoved();
        result_.mesh = mesh::keepTriangles(mesh(), alive);
        if (!progress.report(1)) return mesh::cancelled();
        return std::move(result_);
    }

private:
    using Moves = LocalChanges::Moves;

    struct Edge {
        double length;
        VertexId a;
        VertexId b;
        bool operator<(const Edge& o) const {
            return length != o.length ? length < o.length : a != o.a ? a < o.a : b < o.b;
        }
    };

    [[nodiscard]] const Mesh& mesh() const { return surface_.mesh(); }
    [[nodiscard]] std::size_t changes() const { return result_.collapsed + result_.swapped + result_.widened; }
    [[nodiscard]] bool byAngle() const { return options_.angleDeg > 0; }
    [[nodiscard]] bool isMovable(VertexId v) const { return options_.movable.empty() || options_.movable[v]; }

    // An edge below the tolerance, or where angles count the shortest of a needle.
    [[nodiscard]] bool wantsCollapse(TriangleId t, unsigned k) const {
        const auto& [length, a, b] = edge(t, k);
        if (!isMovable(a) && !isMovable(b)) return false;
        if (length < options_.tolerance) return true;
        if (!byAngle() || measure::smallestAngleDeg(mesh(), t) >= options_.angleDeg) return false;
        const double next = (mesh().corner(t, (k + 2) % 3) - mesh().corner(t, (k + 1) % 3)).norm();
        const double last = (mesh().corner(t, k) - mesh().corner(t, (k + 2) % 3)).norm();
        return length < 0.5 * std::min(next, last);
    }

    [[nodiscard]] bool wantsCollapse(TriangleId t) const {
        if (!surface_.alive()[t] || !surface_.isTouched(t)) return false;
        return wantsCollapse(t, 0) || wantsCollapse(t, 1) || wantsCollapse(t, 2);
    }

    // One flag a triangle, by all cores.
    template <class Test>
    [[nodiscard]] std::vector<std::uint8_t> flagged(const Test& test) const {
        std::vector<std::uint8_t> flags(mesh().triangles.size());
        mesh::parallelFor(flags.size(), 4096, [&](std::size_t t) { flags[t] = test(static_cast<TriangleId>(t)); });
        return flags;
    }

    [[nodiscard]] Edge edge(TriangleId t, unsigned k) const {
        const VertexId a = mesh().triangles[t][k];
        const VertexId b = mesh().triangles[t][(k + 1) % 3];
        return {(mesh().positions[a] - mesh().positions[b]).norm(), std::min(a, b), std::max(a, b)};
    }

    bool collapseShort(mesh::Progress& progress) {
        std::vector<Edge> edges;
        const std::vector<std::uint8_t> wanting = flagged([&](TriangleId t) { return wantsCollapse(t); });
        for (TriangleId t = 0; t < wanting.size(); ++t)
            for (unsigned k = 0; wanting[t] && k < 3; ++k)
                if (wantsCollapse(t, k)) edges.push_back(edge(t, k));
        std::sort(edges.begin(), edges.end());
        edges.erase(std::unique(edges.begin(), edges.end(),
                                [](const Edge& x, const Edge& y) { return x.a == y.a && x.b == y.b; }),
                    edges.end());
        const Moves moves = byAngle() ? Moves::Surface : Moves::Vertex;
        for (std::size_t i = 0; i < edges.size(); ++i) {
            if (i % 4096 == 0 && !progress.report(0)) return false;
            const auto& [length, a, b] = edges[i];
            result_.collapsed +=
                (isMovable(b) && surface_.collapse(b, a, moves)) || (isMovable(a) && surface_.collapse(a, b, moves));
        }
        return true;
    }

    template <class Change>
    bool eachSliver(mesh::Progress& progress, double share, const Change& change) {
        const std::vector<std::uint8_t> were = flagged([&](TriangleId t) { return mayChange(t); });
        for (TriangleId t = 0; t < were.size(); ++t) {
            if (t % 65536 == 0 && !progress.report(share)) return false;
            if ((were[t] || surface_.isTouchedNow(t)) && mayChange(t)) change(t);
        }
        return true;
    }

    [[nodiscard]] bool mayChange(TriangleId t) const {
        return surface_.alive()[t] && surface_.isTouched(t) && !surface_.isFixed(t) && surface_.isSliver(t);
    }

    // A corner slides along the surface onto another, however far that is, if the surface stays where it is.
    bool slideOff(TriangleId t) {
        std::array<Edge, 3> edges{edge(t, 0), edge(t, 1), edge(t, 2)};
        std::sort(edges.begin(), edges.end());
        return std::any_of(edges.begin(), edges.end(),
                           [&](const Edge& e) { return slide(e.a, e.b) || slide(e.b, e.a); });
    }
    bool slide(VertexId from, VertexId onto) {
        return isMovable(from) && surface_.collapse(from, onto, Moves::Surface);
    }

    // A corner moves away from the longest edge, until the triangle is as wide as the tolerance.
    bool widen(TriangleId t) {
        const auto [k, longest] = surface_.longestEdge(t);
        const VertexId v = mesh().triangles[t][(k + 2) % 3];
        if (!isMovable(v)) return false;
        const Point along = (mesh().corner(t, (k + 1) % 3) - mesh().corner(t, k)) / longest;
        const Point over = mesh().positions[v] - mesh().corner(t, k);
        const Point across = over - along.dot(over) * along;
        const double height = across.norm();
        if (!(height > 0)) return false;
        // Beyond the tolerance by a little, so that it is still as wide when the point is placed.
        constexpr double beyond = 1.05;
        const Point to = mesh().positions[v] + (beyond * options_.tolerance / height - 1) * across;
        return surface_.moveTo(v, placedOn(options_.grid, options_.precision, to));
    }

    const SliverOptions& options_;
    LocalChanges surface_;
    SliverResult result_;
};

}  // namespace

mesh::Outcome<SliverResult> removeSlivers(const Mesh& m, const SliverOptions& options, mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    return SliverRemover(m, options).run(progress);
}

}  // namespace zither::fit
