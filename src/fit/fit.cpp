// Rungs of a ladder: each longer length takes out more of what rounding cannot hold.
#include "fit/fit.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "check/check_tolerances.h"
#include "check/crossing_pairs.h"
#include "fit/cover.h"
#include "fit/fit_tolerances.h"
#include "fit/separate.h"
#include "fit/sliver_removal.h"
#include "fit/spots.h"
#include "measure/loss.h"
#include "measure/mass.h"
#include "mesh/pick.h"
#include "mesh/vertex_join.h"
#include "space/triangle_tree.h"

namespace zither::fit {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// The flags of vertices of `from` for those of `to`: a vertex with other coordinates than any of `from` is made.
std::vector<std::uint8_t> carried(const Mesh& from, const std::vector<std::uint8_t>& made, const Mesh& to) {
    std::vector<std::uint8_t> flags;
    for (const VertexId same : mesh::equalIn(from.positions, to.positions))
        flags.push_back(same == mesh::noIndex || (!made.empty() && made[same]));
    return flags;
}

// Triangles that cross others, or are degenerate, because constructed points are not where they are exactly.
mesh::Outcome<std::vector<std::uint8_t>> brokenByApproximation(const Mesh& m, const std::vector<std::uint8_t>& made,
                                                               mesh::Progress& progress) {
    std::vector<std::uint8_t> suspect(m.triangles.size(), 0);
    std::vector<std::uint8_t> broken(m.triangles.size(), 0);
    std::vector<TriangleId> sound;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        const mesh::Triangle& v = m.triangles[t];
        suspect[t] = made[v[0]] || made[v[1]] || made[v[2]];
        broken[t] = suspect[t] && check::isDegenerate(m, t);
        if (!broken[t]) sound.push_back(t);
    }
    const space::TriangleTree tree(m, sound);
    auto pairs = check::crossingPairs(tree, progress, {.suspects = suspect});
    if (!pairs) return mesh::errorOf(pairs);
    for (const auto& [a, b] : *pairs) broken[a] = broken[b] = 1;
    return broken;
}

class Fitting {
public:
    Fitting(const Mesh& m, const FitOptions& options) : m_(m), options_(options) {
        const mesh::Box box = mesh::boxOf(m);
        if (box.empty()) return;
        // Far from the origin a file's own grid is coarser than the length that most meshers go by.
        const double farthest = box.farthest();
        reach_ =
            std::max(tolerance::needleHeight * box.diagonal(), 2 * mesh::unitInLastPlace(options.precision, farthest));
        grid_ = madeGrid(m);
    }

    mesh::Outcome<Fit> run(mesh::Progress& progress) {
        mesh::PartOfProgress beginning(progress, 0, 0.1);
        if (auto done = begin(beginning); !done) return mesh::errorOf(done);
        mesh::PartOfProgress climbing(progress, 0.1, 0.4);
        if (auto done = climbAll(1, climbing); !done) return mesh::errorOf(done);
        mesh::PartOfProgress covering(progress, 0.4, 0.5);
        if (auto done = cover(covering); !done) return mesh::errorOf(done);
        // What plates do not cover either may still be mended over longer lengths.
        if (goesOn() && !progress.isLate()) {
            mesh::PartOfProgress higher(progress, 0.5, 0.7);
            if (auto done = climbAll(2, higher); !done) return mesh::errorOf(done);
            mesh::PartOfProgress again(progress, 0.7, 0.9);
            if (auto done = cover(again); !done) return mesh::errorOf(done);
        }
        mesh::PartOfProgress cleaning(progress, 0.9, 1);
        if (auto done = cleanRounded(cleaning); !done) return mesh::errorOf(done);
        if (closed_ && !best_.unsound.empty()) best_.coverable = trouble_.size();
        if (!progress.report(1)) return mesh::cancelled();
        return std::move(best_);
    }

private:
    mesh::Outcome<void> begin(mesh::Progress& progress) {
        now_ = mesh::Traced::all(m_);
        movable_ = options_.made;
        fixed_ = options_.untouched;
        if (anythingMoves()) {
            auto found = brokenByApproximation(m_, movable_, progress);
            if (!found) return mesh::errorOf(found);
            broken_ = std::move(*found);
        } else {
            movable_.assign(m_.positions.size(), 0);
        }
        fixed_.resize(m_.triangles.size(), 0);
        // What an open surface encloses is a guess: it is rounded, but nothing is cut out of it.
        closed_ = oddEdges(m_) == 0;
        rungs_ = closed_ ? 6 : 3;
        return {};
    }

    // As far as rungs go; but where what is left in trouble can be covered, `atLeast` so many in all.
    mesh::Outcome<void> climbAll(int atLeast, mesh::Progress& progress) {
        std::size_t least = rung_ == 0 ? std::numeric_limits<std::size_t>::max() : best_.unsound.size();
        while (rung_ < rungs_) {
            mesh::PartOfProgress part(progress, static_cast<double>(rung_) / rungs_, (rung_ + 1.0) / rungs_);
            auto sound = climb(rung_++, part);
            if (!sound) return mesh::errorOf(sound);
            const bool idle = 10 * best_.unsound.size() > 9 * least;
            least = std::min(least, best_.unsound.size());
            if (*sound || idle || isHopeless() || (rung_ >= atLeast && canBeCovered()) || progress.isLate()) break;
        }
        return {};
    }

    // What fills a fifth of the surface is no matter of some spots.
    [[nodiscard]] bool isHopeless() const { return 5 * best_.unsound.size() > best_.mesh.triangles.size(); }

    // What little is left is covered sooner than longer lengths would mend it.
    [[nodiscard]] bool canBeCovered() const { return closed_ && trouble_.size() <= options_.mostCovered; }

    // Plates were tried after the first rung, and did not do.
    [[nodiscard]] bool goesOn() const {
        return rung_ == 1 && !best_.unsound.empty() && canBeCovered() && !isHopeless();
    }

    // The last resort: what is in trouble still is covered with plates, higher ones where that was not enough.
    mesh::Outcome<void> cover(mesh::Progress& progress) {
        constexpr int heights = 4;
        double height = reach_;
        std::vector<Corners> trouble = trouble_;
        if (!canBeCovered()) return {};
        for (int i = 0; i < heights && !best_.unsound.empty() && !progress.isLate(); ++i) {
            mesh::PartOfProgress part(progress, static_cast<double>(i) / heights, (i + 1.0) / heights);
            height *= 4;
            // Far from the origin a few last places are as much as what counts as lost: then plates would bury the
            // part.
            if (plateReach * height > measure::lossTolerance(m_)) break;
            mesh::PartOfProgress covering(part, 0, 0.2);
            const auto over = covered(m_, trouble, {height, grid_, options_.precision}, covering);
            if (!over) return mesh::errorOf(over);
            FitOptions options{.precision = options_.precision};
            for (const VertexId v : over->givenVertex)
                options.made.push_back(v == mesh::noIndex || (!options_.made.empty() && options_.made[v]));
            for (TriangleId t = 0; t < over->whole.size(); ++t)
                options.untouched.push_back(over->whole[t] &&
                                            (options_.untouched.empty() || options_.untouched[over->sourceOf[t]]));
            Fitting fitting(over->mesh, options);
            // Plates reach farther beyond what they cover than that.
            fitting.reach_ = height / 2;
            mesh::PartOfProgress climbing(part, 0.2, 1);
            if (auto done = fitting.begin(climbing); !done) return done;
            if (auto done = fitting.climbAll(2, climbing); !done) return done;
            trouble.insert(trouble.end(), fitting.trouble_.begin(), fitting.trouble_.end());
            if (fitting.best_.unsound.size() >= best_.unsound.size()) continue;
            best_ = std::move(fitting.best_);
            best_.trace(over->sourceOf);
            best_.plates = over->plates;
            best_.plateHeight = height;
        }
        return {};
    }

    // Needles that rounding, cutting anew and patches left, then small angles: vertices only move onto others, so that
    // all stays rounded.
    mesh::Outcome<void> cleanRounded(mesh::Progress& progress) {
        // What was only rounded keeps the needles that it came with.
        if (!best_.unsound.empty() || (options_.made.empty() && best_.troubled.empty())) return {};
        if (best_.plates > 0)
            if (auto done = clean({.tolerance = best_.plateHeight / 2, .fixed = untouched(), .slides = true}, progress);
                !done)
                return done;
        SliverOptions options{.tolerance = reach_,
                              .fixed = untouched(),
                              .slides = true,
                              .widens = true,
                              .precision = options_.precision,
                              .grid = grid_};
        if (auto done = clean(options, progress); !done) return done;
        options.fixed = untouched();
        if (freeBesideNeedles(options.fixed))
            if (auto done = clean(options, progress); !done) return done;
        options = {.tolerance = reach_, .angleDeg = tolerance::fitAngleDeg, .fixed = untouched(), .slides = true};
        if (auto done = clean(options, progress); !done) return done;
        const std::vector<std::uint8_t> stands = untouched();
        for (TriangleId t = 0; t < stands.size(); ++t)
            best_.smallAngles += !stands[t] && measure::smallestAngleDeg(best_.mesh, t) < tolerance::fitAngleDeg;
        return {};
    }

    mesh::Outcome<void> clean(const SliverOptions& options, mesh::Progress& progress) {
        auto clean = removeSlivers(best_.mesh, options, progress);
        if (!clean) return mesh::errorOf(clean);
        best_.becomes(std::move(*clean));
        best_.collapsed += clean->collapsed;
        best_.swapped += clean->swapped;
        best_.farthestMoved += clean->farthestMoved;
        return {};
    }

    // One flag a triangle of the result: it must stay, and stands as it came.
    [[nodiscard]] std::vector<std::uint8_t> untouched() const {
        std::vector<std::uint8_t> flags;
        for (TriangleId t = 0; t < best_.mesh.triangles.size(); ++t)
            flags.push_back(isUntouched(best_.mesh, t, best_.sourceOf[t]));
        return flags;
    }

    // What was made is worth more without needles than a few given triangles around them as they came. Whether any was
    // fixed.
    [[nodiscard]] bool freeBesideNeedles(std::vector<std::uint8_t>& fixed) const {
        const Mesh& m = best_.mesh;
        std::vector<std::uint8_t> near(m.triangles.size(), 0);
        for (TriangleId t = 0; t < near.size(); ++t) near[t] = !fixed[t] && measure::leastHeight(m, t) < reach_;
        mesh::growByRing(m, near);
        bool freed = false;
        for (TriangleId t = 0; t < near.size(); ++t) {
            freed |= near[t] && fixed[t];
            fixed[t] = fixed[t] && !near[t];
        }
        return freed;
    }

    // A triangle of the input that must stay, and stands as it came.
    [[nodiscard]] bool isUntouched(const Mesh& m, TriangleId t, TriangleId source) const {
        if (source == mesh::noIndex || (!options_.untouched.empty() && !options_.untouched[source])) return false;
        for (unsigned k = 0; k < 3; ++k)
            if (m.corner(t, k) != m_.corner(source, k)) return false;
        return true;
    }

    [[nodiscard]] bool anythingMoves() const {
        return std::find(movable_.begin(), movable_.end(), 1) != movable_.end();
    }

    [[nodiscard]] static mesh::Outcome<SliverResult> asItIs(const Mesh& m) {
        SliverResult same;
        static_cast<mesh::Traced&>(same) = mesh::Traced::all(m);
        return same;
    }

    // Whether all is sound.
    mesh::Outcome<bool> climb(int rung, mesh::Progress& progress) {
        mesh::PartOfProgress cleaning(progress, 0, 0.4);
        constexpr int highest = 4;
        SliverOptions options{.tolerance = std::ldexp(reach_, std::min(2 * rung, 2 * highest)),
                              .movable = movable_,
                              .fixed = fixed_,
                              .broken = broken_,
                              .moveTouching = true};
        // What is only rounded keeps the needles and caps that it came with.
        auto clean = anythingMoves() ? removeSlivers(now_.mesh, options, cleaning) : asItIs(now_.mesh);
        if (!clean) return mesh::errorOf(clean);
        collapsed_ += clean->collapsed;
        swapped_ += clean->swapped;
        moved_ = std::max(moved_, clean->farthestMoved);
        mesh::PartOfProgress rounding(progress, 0.4, 1);
        SettleOptions rounds(options_.precision);
        rounds.grid = grid_;
        rounds.impatient = true;
        rounds.made = carried(m_, options_.made, clean->mesh);
        auto settled = settle(clean->mesh, rounds, rounding);
        if (!settled) return mesh::errorOf(settled);
        clean->trace(now_.sourceOf);
        const bool sound = settled->unsound.empty();
        const std::vector<TriangleId> troubled = settled->troubled;
        if (!sound) freeAround(*clean, troubled, 1 + rung / 2);
        if (rung == 0 || settled->unsound.size() < best_.unsound.size()) {
            trouble_ = cornersOf(clean->mesh, troubled);
            take(std::move(*settled), {{{}, clean->sourceOf}});
        }
        if (sound) return true;
        now_ = {std::move(clean->mesh), std::move(clean->sourceOf)};
        return patchOver(troubled, progress);
    }

    // A surface on the way.
    struct Sourced : mesh::Traced {
        std::vector<Point> patched = {};  // since what was rounded
        double largestPatch = 0;
    };

    // As the file will hold it, equal vertices joined; `marked` follows.
    [[nodiscard]] Sourced roundedNow(std::vector<std::uint8_t>& marked) const {
        Sourced out{now_};
        const std::vector<std::uint8_t> made = carried(m_, options_.made, now_.mesh);
        for (VertexId v = 0; v < made.size(); ++v)
            out.mesh.positions[v] = placedOn(made[v] ? grid_ : 0, options_.precision, out.mesh.positions[v]);
        mesh::joinInPlace(out.mesh);
        std::vector<std::uint8_t> keep(out.mesh.triangles.size(), 1);
        std::vector<std::uint8_t> marks;
        for (TriangleId t = 0; t < keep.size(); ++t) {
            keep[t] = !mesh::isCollapsed(out.mesh.triangles[t]);
            if (keep[t]) marks.push_back(marked[t]);
        }
        out.keep(keep);
        marked = std::move(marks);
        return out;
    }

    // What touches comes apart by a hair, so that every rim is a loop; what crosses for that is marked as well.
    mesh::Outcome<void> part(Sourced& surface, std::vector<std::uint8_t>& marked, mesh::Progress& progress) const {
        Mesh& m = surface.mesh;
        const Separation parted =
            separateTouching(m, mesh::Edges(m),
                             {.precision = options_.precision,
                              .leastUnit = std::max(grid_, tolerance::partingLength * mesh::boxOf(m_).diagonal())});
        if (!parted.replaced.empty()) {
            for (const Point& p : parted.added) m.positions.push_back(placedOn(grid_, options_.precision, p));
            const std::size_t old = m.triangles.size();
            std::vector<std::uint8_t> keep(old, 1);
            for (const TriangleId t : parted.replaced) keep[t] = 0;
            for (std::size_t i = 0; i < parted.replacement.size(); ++i) {
                const TriangleId instead = parted.replacementOf[i];
                m.triangles.push_back(parted.replacement[i]);
                if (!m.regions.empty()) m.regions.push_back(m.regions[instead]);
                surface.sourceOf.push_back(surface.sourceOf[instead]);
                marked.push_back(marked[instead]);
            }
            keep.resize(m.triangles.size(), 1);
            surface.keep(keep);
            std::size_t kept = 0;
            for (std::size_t i = 0; i < keep.size(); ++i)
                if (keep[i]) marked[kept++] = marked[i];
            marked.resize(kept);
            // Replacements come last.
            std::vector<std::uint8_t> fresh(m.triangles.size(), 0);
            std::fill(fresh.end() - static_cast<std::ptrdiff_t>(parted.replacement.size()), fresh.end(), 1);
            std::vector<TriangleId> sound;
            for (TriangleId t = 0; t < m.triangles.size(); ++t) {
                if (!marked[t] && fresh[t] && check::isDegenerate(m, t)) marked[t] = 1;
                if (!marked[t]) sound.push_back(t);
            }
            auto pairs = check::crossingPairs(space::TriangleTree(m, sound), progress, {.suspects = fresh});
            if (!pairs) return mesh::errorOf(pairs);
            for (const auto& [a, b] : *pairs) marked[a] = marked[b] = 1;
        }
        const mesh::Edges edges(m);
        for (mesh::EdgeId e = 0; e < edges.count(); ++e)
            if (edges.degree(e) > 2)
                for (const mesh::HalfEdge h : edges.around(e)) marked[mesh::triangleOf(h)] = 1;
        return {};
    }

    // Edges of one or three triangles and so on: at none of them ends a surface that is closed.
    [[nodiscard]] static std::size_t oddEdges(const Mesh& m) {
        const mesh::Edges edges(m);
        std::size_t count = 0;
        for (mesh::EdgeId e = 0; e < edges.count(); ++e) count += edges.degree(e) % 2;
        return count;
    }

    // Trouble cut out of the rounded surface and patched, each spot as narrowly as it closes; then what is left of it
    // again. Whether all is sound then.
    mesh::Outcome<bool> patchOver(const std::vector<TriangleId>& troubled, mesh::Progress& progress) {
        // Beyond a tenth of the surface it is no matter of some spots.
        if (!closed_ || troubled.empty() || troubled.size() > now_.mesh.triangles.size() / 10 + 1000) return false;
        mesh::PartOfProgress still(progress, 1, 1);
        std::vector<std::uint8_t> marked(now_.mesh.triangles.size(), 0);
        for (const TriangleId t : troubled) marked[t] = 1;
        Sourced surface = roundedNow(marked);
        if (auto done = part(surface, marked, still); !done) return mesh::errorOf(done);
        constexpr int mostTurns = 4;
        std::size_t fewest = std::numeric_limits<std::size_t>::max();
        for (int turn = 0; turn < mostTurns; ++turn) {
            auto spots = patchSpots(surface.mesh, std::move(marked), measure::lossTolerance(m_), still);
            if (!spots) return mesh::errorOf(spots);
            spots->trace(surface.sourceOf);
            Sourced next{{std::move(spots->mesh), std::move(spots->sourceOf)},
                         surface.patched,
                         std::max(surface.largestPatch, spots->largestPatch)};
            next.patched.insert(next.patched.end(), spots->patched.begin(), spots->patched.end());
            // What crossed as it was rounded is cut out: only patches may meet anything now, and what stayed.
            SettleOptions asWritten(options_.precision);
            std::vector<std::uint8_t> suspect;
            for (const TriangleId t : next.sourceOf) suspect.push_back(t == mesh::noIndex);
            for (const TriangleId t : spots->left) suspect[t] = 1;
            asWritten.made = mesh::cornersOf(next.mesh, suspect);
            asWritten.impatient = true;
            auto settled = settle(next.mesh, asWritten, still);
            if (!settled) return mesh::errorOf(settled);
            const std::vector<TriangleId> left = settled->troubled;
            const std::size_t unsound = settled->unsound.size();
            if (oddEdges(settled->mesh) == 0 && unsound < best_.unsound.size()) {
                trouble_ = cornersOf(next.mesh, left);
                take(std::move(*settled), next);
            }
            if (best_.unsound.empty()) return true;
            if (left.empty() || 10 * unsound > 9 * fewest || progress.isLate()) return false;
            fewest = unsound;
            marked.assign(next.mesh.triangles.size(), 0);
            for (const TriangleId t : left) marked[t] = 1;
            surface = std::move(next);
        }
        return false;
    }

    static std::vector<Corners> cornersOf(const Mesh& m, const std::vector<TriangleId>& triangles) {
        std::vector<Corners> list;
        list.reserve(triangles.size());
        for (const TriangleId t : triangles) list.push_back({m.corner(t, 0), m.corner(t, 1), m.corner(t, 2)});
        return list;
    }

    void take(Settled settled, const Sourced& surface) {
        static_cast<Settled&>(best_) = std::move(settled);
        best_.trace(surface.sourceOf);
        best_.patched = surface.patched;
        best_.largestPatch = surface.largestPatch;
        best_.farthestMoved += moved_;
        best_.collapsed = collapsed_;
        best_.swapped = swapped_;
    }

    // What lies within some rings of trouble may change from now on, and nothing else.
    void freeAround(const SliverResult& clean, const std::vector<TriangleId>& troubled, int rings) {
        const Mesh& m = clean.mesh;
        std::vector<std::uint8_t> inside(m.triangles.size(), 0);
        for (const TriangleId t : troubled) inside[t] = 1;
        broken_ = inside;
        for (int ring = 0; ring < rings; ++ring) mesh::growByRing(m, inside);
        movable_ = mesh::cornersOf(m, inside);
        mesh::growByRing(m, inside);
        fixed_.resize(m.triangles.size());
        for (TriangleId t = 0; t < fixed_.size(); ++t) fixed_[t] = !inside[t];
    }

    const Mesh& m_;
    const FitOptions& options_;
    double reach_ = 0;
    double grid_ = 0;
    bool closed_ = true;
    int rung_ = 0;                       // the next one
    int rungs_ = 0;                      // that there are
    mesh::Traced now_;                   // the surface with what has been taken out of it
    std::vector<std::uint8_t> movable_;  // of its vertices
    std::vector<std::uint8_t> fixed_;    // of its triangles
    std::vector<std::uint8_t> broken_;   // of its triangles
    std::size_t collapsed_ = 0;
    std::size_t swapped_ = 0;
    double moved_ = 0;
    Fit best_;
    std::vector<Corners> trouble_;  // triangles that best_ could not hold
};

}  // namespace

mesh::Outcome<Fit> makeFit(const Mesh& m, const FitOptions& options, mesh::Progress& progress) {
    return Fitting(m, options).run(progress);
}

}  // namespace zither::fit
