// Splits of a surface that knows its neighbours; each vertex knows its place on a triangle that came in.
#include "shape/refine.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "mesh/memory.h"
#include "mesh/parallel.h"
#include "shape/curved_patches.h"
#include "shape/longest_first.h"

namespace zither::shape {
namespace {

using mesh::Outcome;
using mesh::Progress;

constexpr double bytesATriangle = 300;

class Refinement {
public:
    Refinement(const check::Surveyed& s, const mesh::Pick& pick, const RefineOptions& options)
        : s_(s),
          m_(s.mesh()),
          options_(options),
          surface_(m_, s.edges()),
          picked_(pick.everything() ? std::vector<std::uint8_t>(m_.triangles.size(), 1) : pick.mask(m_)),
          curved_(m_.positions) {
        if (options.curved || std::isfinite(options.deviation))
            patches_.emplace(m_, s.edges(), options.creaseDeg, picked_);
        for (mesh::EdgeId e = 0; e < s.edges().count(); ++e) {
            const auto around = s.edges().around(e);
            bool free = around.size() <= 2 && (around.size() < 2 || !mesh::runsAlong(m_, around[0], around[1]));
            for (const HalfEdge h : around) free = free && picked_[h / 3];
            if (free) continue;
            for (const HalfEdge h : around) surface_.setLine(h, lockedLine);
        }
    }

    // Of all that is asked for, about; an edge as far from its curve as so many deviations becomes the root of as many.
    [[nodiscard]] double expected() const {
        double count = 0;
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) {
            double far = 0;
            double longest = 0;
            for (unsigned k = 0; k < 3; ++k) {
                const Point from = m_.corner(t, k);
                const Point to = m_.corner(t, (k + 1) % 3);
                longest = std::max(longest, (to - from).norm());
                if (patches_) far = std::max(far, (patches_->over(t, 0.5 * (from + to)) - 0.5 * (from + to)).norm());
            }
            // Along its longest side, and across: a needle stays one.
            double along = longest / options_.length;
            if (std::isfinite(options_.deviation)) along = std::max(along, std::sqrt(far / options_.deviation));
            if (options_.smallest > 0) along = std::min(along, longest / options_.smallest);
            const double height = longest > 0 ? mesh::areaVector(m_, t).norm() / longest : 0;
            const double across = longest > 0 ? along * height / longest : 0;
            const double pieces = std::max(1.0, along * std::max(1.0, across));
            count += picked_[t] ? pieces : 1;
        }
        // Bisected triangles are half as large as even ones, on average.
        return 2 * count;
    }

    Outcome<Refined> run(Progress& progress) {
        const double bytes = std::min(1e18, bytesATriangle * expected());
        if (auto fits = mesh::enoughMemory("so many triangles", static_cast<std::uint64_t>(bytes)); !fits)
            return mesh::errorOf(fits);
        mesh::PartOfProgress splitting(progress, 0, options_.curved ? 0.3 : 1);
        if (auto split = splitAll(splitting); !split) return mesh::errorOf(split);
        if (!options_.curved) {
            result_.mesh = surface_.compact(m_).mesh;
            return std::move(result_);
        }
        mesh::PartOfProgress bending(progress, 0.3, 1);
        return bend(bending);
    }

private:
    // A new vertex: its place in the flat triangle that came in.
    struct Place {
        TriangleId source = 0;
        Point flat = Point::Zero();
    };

    [[nodiscard]] Point middle(HalfEdge h) const {
        return 0.5 * (surface_.at(surface_.from(h)) + surface_.at(surface_.to(h)));
    }

    // Over what is allowed: of its length, or of its distance from the curve.
    [[nodiscard]] double excess(HalfEdge h) const {
        if (full_) return 0;
        const Point& from = curved_[surface_.from(h)];
        const Point& to = curved_[surface_.to(h)];
        const double length = (from - to).norm();
        if (length < 2 * options_.smallest) return 0;
        double most = length / options_.length;
        if (std::isfinite(options_.deviation)) {
            const Point onCurve = patches_->over(surface_.source(h / 3), middle(h));
            most = std::max(most, (onCurve - 0.5 * (from + to)).norm() / options_.deviation);
        }
        return most;
    }

    Outcome<void> splitAll(Progress& progress) {
        constexpr std::size_t between = 1 << 16;
        splitLongestFirst(
            surface_, [&](HalfEdge h) { return excess(h); },
            [&](HalfEdge h) {
                const Place place{surface_.source(h / 3), middle(h)};
                const VertexId v = surface_.split(h, place.flat);
                curved_.resize(surface_.vertexSlots());
                curved_[v] = patches_ ? patches_->over(place.source, place.flat) : place.flat;
                places_.resize(surface_.vertexSlots() - m_.positions.size());
                places_[v - m_.positions.size()] = place;
                if (++result_.split % between == 0) full_ = !mayGoOn(progress);
            });
        if (stopped_) return tl::unexpected(*stopped_);
        return {};
    }

    // It is not known beforehand how many a deviation asks for.
    bool mayGoOn(Progress& progress) {
        if (!progress.report(0.5)) stopped_ = mesh::cancelled().value();
        const auto wanted = static_cast<std::uint64_t>(bytesATriangle * static_cast<double>(surface_.alive()));
        if (auto fits = mesh::enoughMemory("so many triangles", wanted); !fits) stopped_ = fits.error();
        return !stopped_;
    }

    [[nodiscard]] Refined bent() {
        for (std::size_t i = 0; i < places_.size(); ++i) {
            const VertexId v(static_cast<std::uint32_t>(m_.positions.size() + i));
            surface_.moveTo(v, mesh::rounded(options_.precision, patches_->over(places_[i].source, places_[i].flat)));
        }
        auto [made, sources] = surface_.compact(m_);
        sources_ = std::move(sources);
        Refined result = result_;
        result.mesh = std::move(made);
        for (std::size_t i = 0; i < places_.size(); ++i) {
            const VertexId v(static_cast<std::uint32_t>(m_.positions.size() + i));
            result.farthest = std::max(result.farthest, (surface_.at(v) - places_[i].flat).norm());
        }
        return result;
    }

    Outcome<Refined> bend(Progress& progress) {
        mesh::PartOfProgress asking(progress, 0, 0.2);
        const auto before = s_.survey(s_.knownOptions(), asking);
        if (!before) return mesh::errorOf(before);
        const bool meetsItself = (*before)->counts.selfIntersectingPairs > 0;
        std::vector<std::uint8_t> flat(m_.triangles.size(), 0);
        constexpr int rounds = 12;
        for (int round = 0; round < rounds; ++round) {
            Refined result = bent();
            const check::Surveyed part(result.mesh);
            mesh::PartOfProgress looking(progress, 0.2 + 0.8 * round / rounds, 0.2 + 0.8 * (round + 1) / rounds);
            const auto survey = part.survey(s_.knownOptions(), looking);
            if (!survey) return mesh::errorOf(survey);
            if (meetsItself || (*survey)->crossingPairs.empty()) return result;
            // What meets is made flat; where that is not enough, what lies about it too.
            bool any = false;
            for (const check::TrianglePair& pair : (*survey)->crossingPairs)
                for (const TriangleId t : {pair.first, pair.second}) any |= flatten(sources_[t], round >= 3, flat);
            if (!any) break;
        }
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) flatten(t, false, flat);
        return bent();
    }

    // Whether any was curved so far.
    bool flatten(TriangleId t, bool withNeighbours, std::vector<std::uint8_t>& flat) {
        bool any = !std::exchange(flat[t], 1);
        if (any) {
            patches_->flatten(t);
            ++result_.keptFlat;
        }
        if (!withNeighbours) return any;
        for (unsigned k = 0; k < 3; ++k)
            for (const HalfEdge h : s_.edges().around(s_.edges().edgeOf(static_cast<HalfEdge>(3 * t + k))))
                any |= flatten(mesh::triangleOf(h), false, flat);
        return any;
    }

    const check::Surveyed& s_;
    const Mesh& m_;
    const RefineOptions& options_;
    LinkedSurface surface_;  // flat until it is bent
    std::vector<std::uint8_t> picked_;
    std::optional<CurvedPatches> patches_;
    std::vector<Point> curved_;  // of each vertex, its place on the curved surface
    std::vector<Place> places_;  // of each new vertex
    std::vector<TriangleId> sources_;
    std::optional<mesh::Error> stopped_;
    bool full_ = false;
    Refined result_;
};

}  // namespace

mesh::Outcome<Refined> refine(const check::Surveyed& s, const mesh::Pick& pick, const RefineOptions& options,
                              Progress& progress) {
    return Refinement(s, pick, options).run(progress);
}

}  // namespace zither::shape
