// Tries that are measured and tested exactly, and made again with shorter edges, or less of the surface.
#include "shape/remesh.h"

#include <algorithm>
#include <atomic>
#include <cmath>

#include "check/crossing_pairs.h"
#include "measure/deviation.h"
#include "measure/mass.h"
#include "mesh/blocks.h"
#include "mesh/memory.h"
#include "mesh/parallel.h"
#include "mesh/precision.h"
#include "shape/even_triangles.h"
#include "shape/reach.h"

namespace zither::shape {
namespace {

using Flags = std::vector<std::uint8_t>;

// What came of a try, as a file holds it.
struct Try {
    std::shared_ptr<const check::Surveyed> part;
    std::vector<TriangleId> sources;  // of each triangle
};

class Remeshing {
public:
    Remeshing(const check::Surveyed& s, const Pick& pick, const RemeshOptions& options)
        : s_(s), m_(s.mesh()), options_(options), precision_(mesh::precisionOf(m_)), locked_(m_.triangles.size(), 0) {
        if (!pick.everything()) {
            const Flags picked = pick.mask(m_);
            for (TriangleId t = 0; t < locked_.size(); ++t) locked_[t] = picked[t] == 0;
        }
        for (TriangleId t = 0; t < locked_.size(); ++t) locked_[t] |= s.degenerate()[t];
    }

    Outcome<Remeshed> run(Progress& progress) {
        mesh::PartOfProgress asking(progress, 0, 0.1);
        const auto survey = s_.survey(s_.knownOptions(), asking);
        if (!survey) return mesh::errorOf(survey);
        for (const auto& [a, b] : (*survey)->crossingPairs) locked_[a] = locked_[b] = 1;
        notAsked_ = locked_;
        result_.heldTriangles = 0;
        constexpr int most = 20;
        double from = 0.1;
        for (int i = 0; i < most; ++i) {
            mesh::PartOfProgress trying(progress, from, from + 0.5 * (1 - from));
            from += 0.5 * (1 - from);
            auto now = attempt(trying);
            if (!now) return mesh::errorOf(now);
            auto good = judge(*now, i, trying);
            if (!good) return mesh::errorOf(good);
            if (*good) {
                // The last word has the survey.
                const auto is = now->part->survey(s_.knownOptions(), trying);
                if (!is) return mesh::errorOf(is);
                if ((*is)->solid || !(*survey)->solid) return finished(*now);
            }
            if (*good || isHopeless_) break;
        }
        // Nothing of it can be had without harm.
        result_.part = std::make_shared<const check::Surveyed>(s_.shared());
        result_.heldTriangles = m_.triangles.size();
        return std::move(result_);
    }

private:
    static constexpr double spurs = 1;  // edges: creases that end nowhere and are shorter are noise
    static constexpr int patience = 3;  // tries with shorter edges, before what came in stays

    [[nodiscard]] bool limited() const { return std::isfinite(options_.target.deviation); }

    Outcome<Try> attempt(Progress& progress) {
        LinkedSurface surface(m_, s_.edges());
        Flags tied(m_.positions.size());
        for (VertexId v = 0; v < tied.size(); ++v) tied[v] = surface.isTied(v) ? 1 : 0;
        const FeatureLines lines = featureLinesOf(
            m_, s_.edges(), {options_.creaseDeg, spurs * options_.target.shortest, locked_, std::move(tied)});
        if (lengths_.empty()) lengths_ = targetLengths(m_, s_.edges(), lines, options_.target);
        constexpr double bytesATriangle = 800;
        const double bytes = std::min(1e18, bytesATriangle * expectedTriangles(m_, lengths_));
        if (auto fits = mesh::enoughMemory("so many triangles", static_cast<std::uint64_t>(bytes)); !fits)
            return mesh::errorOf(fits);
        result_.lines = lines.lines.size();
        EvenTriangles even({m_, s_.edges(), s_.tree(), lines, lengths_, options_.target.deviation}, std::move(surface));
        mesh::PartOfProgress working(progress, 0, 0.7);
        if (!even.run(working)) return mesh::cancelled();
        LinkedSurface::Compact compact = even.surface().compact(m_);
        for (Point& p : compact.mesh.positions) p = mesh::rounded(precision_, p);
        return Try{std::make_shared<const check::Surveyed>(std::move(compact.mesh)), std::move(compact.sources)};
    }

    // True where nothing is wrong with it; else what is wrong is seen to, for the next try: at first edges become
    // shorter there, then what came in stays, and ever more around it.
    Outcome<bool> judge(const Try& now, int tries, Progress& progress) {
        mesh::PartOfProgress testing(progress, 0.7, 0.8);
        const auto broken = brokenIn(now, testing);
        if (!broken) return mesh::errorOf(broken);
        Wrong wrong{std::vector<double>(m_.positions.size(), 1), Flags(m_.triangles.size(), 0)};
        // Shorter edges lie closer to a curved wall; where that does not help, walls are nearer than any edge is short.
        constexpr double shorter = 0.6;
        Flags meets(m_.triangles.size(), 0);
        forGivenIn(now.part->mesh(), *broken, [&](TriangleId given) {
            wrong.add(m_, given, shorter);
            meets[given] = 1;
        });
        mesh::PartOfProgress measuring(progress, 0.8, 1);
        if (limited() && !measure(now, broken->empty(), wrong, measuring)) return mesh::cancelled();
        if (wrong.none()) return true;
        // What is wrong nearly everywhere after edges were shortened is not mended place by place.
        const auto count = std::count(wrong.triangles.begin(), wrong.triangles.end(), 1);
        isHopeless_ = tries > 0 && 2 * static_cast<std::size_t>(count) > m_.triangles.size();
        if (tries > 0 && !broken->empty() && tries < patience) hold(meets, tries - 1);
        if (tries < patience) {
            const double least = leastOfShortest * options_.target.shortest;
            for (VertexId v = 0; v < lengths_.size(); ++v)
                if (lengths_[v] > least) lengths_[v] = std::max(least, lengths_[v] * wrong.shorter[v]);
            limitGrowth(lengths_, m_, options_.target.growth);
        } else {
            hold(wrong.triangles, tries - patience);
        }
        return false;
    }

    // Where something is wrong: triangles of the input, and by how much edges should be shorter at their corners.
    struct Wrong {
        std::vector<double> shorter;
        Flags triangles;

        void add(const Mesh& m, TriangleId t, double share) {
            triangles[t] = 1;
            for (const VertexId v : m.triangles[t]) shorter[v] = std::min(shorter[v], share);
        }
        [[nodiscard]] bool none() const { return std::find(triangles.begin(), triangles.end(), 1) == triangles.end(); }
    };

    // Calls use(triangle of the input) for those whose boxes these overlap.
    template <class Use>
    void forGivenIn(const Mesh& m, const std::vector<TriangleId>& triangles, const Use& use) const {
        for (const TriangleId t : triangles) s_.tree().overlapping(mesh::boxOf(m, t), use);
    }

    // These stay, and what is around them, as far as a few edges.
    void hold(const Flags& wrong, int times) {
        constexpr double growth = 0.5;
        const double reach = growth * times * options_.target.longest;
        for (TriangleId t = 0; t < wrong.size(); ++t) {
            if (!wrong[t]) continue;
            s_.tree().overlapping(mesh::boxOf(m_, t).widened(reach), [&](TriangleId given) { locked_[given] = 1; });
        }
    }

    // Triangles that meet others now, or are none any more; those at vertices that fell together.
    Outcome<std::vector<TriangleId>> brokenIn(const Try& now, Progress& progress) {
        const Mesh& m = now.part->mesh();
        Flags suspects(m.triangles.size());
        for (TriangleId t = 0; t < suspects.size(); ++t) suspects[t] = locked_[now.sources[t]] == 0;
        const Flags& degenerate = now.part->degenerate();
        std::vector<TriangleId> broken;
        for (TriangleId t = 0; t < suspects.size(); ++t)
            if (suspects[t] && degenerate[t]) broken.push_back(t);
        const auto pairs =
            check::crossingPairs(now.part->tree(), progress, {.suspects = suspects, .leftOut = degenerate});
        if (!pairs) return mesh::errorOf(pairs);
        for (const auto& [a, b] : *pairs)
            for (const TriangleId t : {a, b})
                if (suspects[t]) broken.push_back(t);
        return broken;
    }

    // How far the two are from each other, both ways; where nothing is too far, and `prove` says so, the bound is
    // proven. False: cancelled.
    bool measure(const Try& now, bool prove, Wrong& wrong, Progress& progress) {
        constexpr double room = 0.9;  // between what is sampled and what is proven
        constexpr double aim = 0.6;   // of the limit
        const double limit = options_.target.deviation;
        const auto shorter = [&](double distance) { return std::clamp(std::sqrt(aim * limit / distance), 0.35, 0.9); };
        mesh::PartOfProgress looking(progress, 0, 0.5);
        const auto seen = lookForFar(now, room * limit, looking);
        if (!seen) return false;
        for (const Far& f : seen->far) wrong.add(m_, f.given, shorter(f.distance));
        if (!prove || !wrong.none()) return true;
        result_.deviation = seen->bound;
        if (seen->bound <= limit) return true;
        mesh::PartOfProgress proving(progress, 0.5, 1);
        const auto both =
            measure::compare({s_.tree(), s_.edges()}, {now.part->tree(), now.part->edges()}, proving, limit);
        if (!both) return false;
        result_.deviation = std::max(both->aToB.max, both->bToA.max);
        for (const auto& side : {both->aToB, both->bToA})
            if (side.max > limit)
                if (const auto nearest = s_.tree().nearest(side.worst))
                    wrong.add(m_, nearest->triangle, shorter(side.max));
        return true;
    }

    // A place that is too far from the other surface: a triangle of the input.
    struct Far {
        TriangleId given;
        double distance;
    };
    struct FarPlaces {
        std::vector<Far> far;
        double bound = 0;  // nothing is farther; infinite: not known

        void add(const FarPlaces& more) {
            far.insert(far.end(), more.far.begin(), more.far.end());
            bound = std::max(bound, more.bound);
        }
    };

    // Triangles of both are laid onto the other; those for which that does not show that they are within the limit are
    // sampled on a grid of half the length. Nothing: cancelled.
    std::optional<FarPlaces> lookForFar(const Try& now, double limit, Progress& progress) const {
        mesh::PartOfProgress there(progress, 0, 0.5);
        mesh::PartOfProgress back(progress, 0.5, 1);
        auto all = farFrom(s_, *now.part, limit, there);
        if (!all) return std::nullopt;
        const auto others = farFrom(*now.part, s_, limit, back);
        if (!others) return std::nullopt;
        all->add(*others);
        return all;
    }

    // The places of `of` that are too far from `to`.
    std::optional<FarPlaces> farFrom(const check::Surveyed& to, const check::Surveyed& of, double limit,
                                     Progress& progress) const {
        const bool toGiven = &to == &s_;
        const Mesh& m = of.mesh();
        const std::vector<TriangleId>& order = of.tree().order();
        constexpr std::size_t block = 512;
        std::vector<FarPlaces> found((order.size() + block - 1) / block);
        const auto look = [&](std::size_t begin, std::size_t end) {
            FarPlaces& mine = found[begin / block];
            // Neighbours come one after the other.
            std::optional<TriangleId> hint;
            for (std::size_t i = begin; i < end; ++i) {
                const TriangleId t = order[i];
                const double height = heightOver(m, t, to, hint).value_or(std::numeric_limits<double>::infinity());
                mine.bound = std::max(mine.bound, height);
                if (height <= limit) continue;
                forPointsOn(m, t, [&](const Point& p) {
                    const auto nearest = to.tree().nearest(p, std::numeric_limits<double>::infinity(), hint);
                    if (!nearest) return;
                    hint = nearest->triangle;
                    if (nearest->distanceSquared > limit * limit)
                        mine.far.push_back({toGiven ? nearest->triangle : t, std::sqrt(nearest->distanceSquared)});
                });
            }
        };
        if (!mesh::forBlocks(order.size(), block, progress, look)) return std::nullopt;
        FarPlaces all;
        for (const FarPlaces& f : found) all.add(f);
        return all;
    }

    // The corners among them.
    template <class Use>
    void forPointsOn(const Mesh& m, TriangleId t, const Use& use) const {
        const Point& a = m.corner(t, 0);
        const Point& b = m.corner(t, 1);
        const Point& c = m.corner(t, 2);
        const double longest = std::max({(a - b).norm(), (b - c).norm(), (c - a).norm()});
        constexpr double most = 64;
        const auto n = static_cast<int>(std::clamp(std::ceil(2 * longest / options_.target.longest), 2.0, most));
        for (int i = 0; i <= n; ++i)
            for (int j = 0; i + j <= n; ++j) use((a * i + b * j + c * (n - i - j)) / n);
    }

    Remeshed finished(const Try& now) {
        const Mesh& m = now.part->mesh();
        result_.smallestAngleDeg = 60;
        double edges = 0;
        std::size_t came = 0;
        std::size_t below = 0;
        for (TriangleId t = 0; t < m.triangles.size(); ++t) {
            if (locked_[now.sources[t]]) continue;
            ++came;
            const double angle = measure::smallestAngleDeg(m, t);
            result_.smallestAngleDeg = std::min(result_.smallestAngleDeg, angle);
            below += angle < 30 ? 1 : 0;
            for (unsigned k = 0; k < 3; ++k) edges += (m.corner(t, k) - m.corner(t, (k + 1) % 3)).norm() / 3;
        }
        if (came > 0) {
            result_.shareBelow30 = static_cast<double>(below) / static_cast<double>(came);
            result_.meanEdge = edges / static_cast<double>(came);
        }
        for (TriangleId t = 0; t < locked_.size(); ++t) result_.heldTriangles += locked_[t] && !notAsked_[t] ? 1 : 0;
        result_.part = now.part;
        return std::move(result_);
    }

    const check::Surveyed& s_;
    const Mesh& m_;
    const RemeshOptions& options_;
    mesh::Precision precision_;
    Flags locked_;    // triangles of the input that stay as they came
    Flags notAsked_;  // of these, those that nobody asked to change, or that cannot be
    std::vector<double> lengths_;
    bool isHopeless_ = false;
    Remeshed result_;
};

}  // namespace

Outcome<Remeshed> remesh(const check::Surveyed& s, const Pick& pick, const RemeshOptions& options, Progress& progress) {
    return Remeshing(s, pick, options).run(progress);
}

}  // namespace zither::shape
