// Rounds of three tools, each of which leaves the surface sound.
#include "fit/ease.h"

#include <algorithm>
#include <cmath>
#include <utility>

#include "check/check_tolerances.h"
#include "fit/fit_tolerances.h"
#include "fit/part_skins.h"
#include "fit/sliver_removal.h"
#include "fit/unfold.h"
#include "measure/shell_mass.h"
#include "mesh/edges.h"
#include "space/triangle_tree.h"

namespace zither::fit {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

class Easing {
public:
    Easing(const Mesh& m, const EaseOptions& options) : options_(options) {
        static_cast<mesh::Traced&>(result_) = mesh::Traced::all(m);
        const mesh::Box box = mesh::boxOf(m);
        // Far from the origin a file tells no less apart than a few of its last places.
        narrow_ = std::max(tolerance::easedLength * box.diagonal(),
                           tolerance::easedUnits * mesh::unitInLastPlace(options.precision, box.farthest()));
    }

    mesh::Outcome<EaseResult> run(mesh::Progress& progress) {
        dropFlakes();
        constexpr int rounds = 4;
        for (int round = 0; round < rounds; ++round) {
            const auto at = [&](double share) { return (round + share) / rounds; };
            const std::size_t before = changes();
            mesh::PartOfProgress first(progress, at(0), at(0.3));
            if (auto done = widen(first); !done) return mesh::errorOf(done);
            layFlat();
            mesh::PartOfProgress second(progress, at(0.4), at(0.7));
            if (auto done = widen(second); !done) return mesh::errorOf(done);
            mesh::PartOfProgress third(progress, at(0.7), at(1));
            if (auto done = part(third); !done) return mesh::errorOf(done);
            if (changes() == before || progress.isLate()) break;
        }
        if (!progress.report(1)) return mesh::cancelled();
        return std::move(result_);
    }

private:
    [[nodiscard]] std::size_t changes() const {
        return result_.flakes + result_.narrow + result_.unfolded + result_.parted;
    }

    // Closed shells that are thinner than a hair, bodies or voids, are nothing to a mesher; and what collapses edges
    // could turn one inside out.
    void dropFlakes() {
        const Mesh& m = result_.mesh;
        const mesh::Groups shells = mesh::shellsOf(m, mesh::Edges(m));
        const std::vector<measure::ShellMass> masses = measure::massOfShells(m, shells);
        std::vector<std::uint8_t> stays(shells.count);
        for (std::uint32_t i = 0; i < shells.count; ++i)
            stays[i] = 2 * std::abs(masses[i].volume) > narrow_ * masses[i].area;
        for (TriangleId t = 0; t < options_.fixed.size(); ++t)
            if (options_.fixed[t]) stays[shells.of[t]] = 1;
        if (std::find(stays.begin(), stays.end(), 0) == stays.end()) return;
        std::vector<TriangleId> others;
        for (TriangleId t = 0; t < shells.of.size(); ++t)
            if (stays[shells.of[t]]) others.push_back(t);
        // A body that stands out can be seen, however thin.
        const space::TriangleTree tree(m, others);
        for (TriangleId t = 0; t < shells.of.size(); ++t)
            if (!stays[shells.of[t]] && masses[shells.of[t]].volume > 0)
                for (const Point& p : {m.corner(t, 0), m.corner(t, 1), m.corner(t, 2), mesh::centroid(m, t)})
                    if (!tree.reaches(p, options_.tolerance)) stays[shells.of[t]] = 1;
        std::vector<std::uint8_t> keep(shells.of.size());
        for (TriangleId t = 0; t < keep.size(); ++t) keep[t] = stays[shells.of[t]];
        const auto gone = static_cast<std::size_t>(std::count(keep.begin(), keep.end(), 0));
        if (gone == 0) return;
        result_.flakes = gone;
        result_.keep(keep);
    }

    [[nodiscard]] std::vector<std::uint8_t> fixed() const {
        std::vector<std::uint8_t> flags;
        if (!options_.fixed.empty())
            for (const TriangleId source : result_.sourceOf) flags.push_back(options_.fixed[source]);
        return flags;
    }

    mesh::Outcome<void> widen(mesh::Progress& progress) {
        auto done = removeSlivers(result_.mesh,
                                  {.tolerance = std::min(narrow_, options_.tolerance),
                                   .fixed = fixed(),
                                   .slides = true,
                                   .widens = true,
                                   .precision = options_.precision},
                                  progress);
        if (!done) return mesh::errorOf(done);
        result_.narrow += done->collapsed + done->swapped + done->widened;
        moved(done->farthestMoved);
        result_.becomes(std::move(*done));
        return {};
    }

    void layFlat() {
        UnfoldResult done = unfold(result_.mesh, {.angleDeg = tolerance::foldedDeg,
                                                  .tolerance = options_.tolerance,
                                                  .needle = narrow_,
                                                  .fixed = fixed(),
                                                  .precision = options_.precision});
        result_.unfolded += done.unfolded;
        moved(done.farthestMoved);
        result_.becomes(std::move(done));
    }

    mesh::Outcome<void> part(mesh::Progress& progress) {
        auto done = partSkins(result_.mesh,
                              {.gap = narrow_,
                               .angleDeg = tolerance::foldedDeg,
                               .needle = narrow_,
                               .tolerance = options_.tolerance,
                               .fixed = fixed(),
                               .precision = options_.precision},
                              progress);
        if (!done) return mesh::errorOf(done);
        result_.parted += done->moved;
        moved(done->farthestMoved);
        result_.mesh.positions = std::move(done->positions);
        return {};
    }

    // Of one place only one tool has to do as a rule; where several have, they may go as far each.
    void moved(double by) { result_.farthestMoved = std::max(result_.farthestMoved, by); }

    const EaseOptions& options_;
    double narrow_ = 0;
    EaseResult result_;
};

}  // namespace

mesh::Outcome<EaseResult> ease(const Mesh& m, const EaseOptions& options, mesh::Progress& progress) {
    return Easing(m, options).run(progress);
}

}  // namespace zither::fit
