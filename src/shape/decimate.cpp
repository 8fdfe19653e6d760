// Passes that are tested exactly, and taken again with what they broke held fast.
#include "shape/decimate.h"

#include <algorithm>
#include <cmath>
#include <memory>
#include <numeric>
#include <optional>
#include <utility>

#include "check/shell_list.h"
#include "check/surveyed.h"
#include "measure/measure_tolerances.h"
#include "mesh/parallel.h"
#include "mesh/precision.h"
#include "mesh/vertex_join.h"
#include "shape/decimate_pass.h"
#include "shape/edge_swaps.h"
#include "shape/reach.h"
#include "shape/shape_tolerances.h"

namespace zither::shape {
namespace {

// A surface on the way, with the triangles of the input that its own were.
struct Stage {
    std::shared_ptr<const Mesh> surface;
    std::vector<TriangleId> sourceOf;
    std::vector<float> reach = {};  // of each triangle, where the deviation is limited; empty: 0
    // One flag a vertex: it was held fast on the way to the target itself, and would have to be again. Empty: none was.
    std::vector<std::uint8_t> held = {};
    std::size_t swapped = 0;  // edges, so far
};

// What a pass broke.
struct Broken {
    // One flag a triangle: it changed and meets others, or is one of these, where that is not how it was; degenerate
    // ones; and those at corners that lie on each other.
    std::vector<std::uint8_t> triangles;
    std::size_t swapped = 0;  // edges
    // Boxes of shells that face the wrong way now, because they turned, or what is around them moved past them. Looked
    // for where there are no such triangles.
    std::vector<mesh::Box> turned;
    std::vector<check::TrianglePair> pairs;  // that meet and of which one changed, broken or not

    [[nodiscard]] std::size_t count() const {
        return static_cast<std::size_t>(std::count(triangles.begin(), triangles.end(), 1));
    }
    [[nodiscard]] bool empty() const { return count() == 0 && turned.empty(); }
};

class Decimating {
public:
    Decimating(const check::Surveyed& s, const Pick& pick, const DecimateOptions& options)
        : input_(s),
          options_(options),
          precision_(mesh::precisionOf(s.mesh())),
          box_(mesh::boxOf(s.mesh())),
          chosen_(pick.everything() ? std::vector<std::uint8_t>() : pick.mask(s.mesh())) {
        const double open = tolerance::deviationRelative * box_.diagonal();
        mostReach_ =
            std::max(options.maxDeviation / 2, (options.maxDeviation - open) / (1 + tolerance::deviationOfValue));
        const double largest = std::max(box_.min.cwiseAbs().maxCoeff(), box_.max.cwiseAbs().maxCoeff());
        constexpr double halfDiagonal = 0.87;  // of a cube of side 1
        rounding_ = halfDiagonal * mesh::unitInLastPlace(precision_, largest) +
                    4 * mesh::unitInLastPlace(mesh::Precision::Double, largest + box_.diagonal());
        flatness_ = std::max(tolerance::swapFlatness * box_.diagonal(), 2 * rounding_);
    }

    Outcome<DecimateResult> run(Progress& progress) {
        const std::size_t given = input_.mesh().triangles.size();
        Stage now{input_.shared(), std::vector<TriangleId>(given), {}, {}};
        std::iota(now.sourceOf.begin(), now.sourceOf.end(), 0U);
        bool stopped = false;
        for (int step = 0; now.surface->triangles.size() > options_.targetTriangles && !stopped; ++step) {
            const double done = 1 - std::ldexp(1.0, -step);
            mesh::PartOfProgress part(progress, done, (done + 1) / 2);
            auto lower = stepDown(now, part);
            if (!lower) return mesh::errorOf(lower);
            const std::size_t count = now.surface->triangles.size();
            // A limit is measured anew before each further step, which must be worth it.
            const std::size_t oneIn = limited() ? 20 : 200;
            stopped = !*lower || oneIn * (count - (*lower)->surface->triangles.size()) < count;
            if (*lower) now = std::move(**lower);
            if (limited() && options_.oneStep) break;
            if (!limited() || stopped || now.surface->triangles.size() <= options_.targetTriangles) continue;
            const auto sharper = measureReach(now, part);
            if (!sharper) return mesh::errorOf(sharper);
            stopped = !*sharper;
        }
        DecimateResult result;
        result.swapped = now.swapped;
        result.removed = given - now.surface->triangles.size();
        result.reachedTarget = now.surface->triangles.size() <= options_.targetTriangles;
        // A limit on the deviation stops it sooner or later anyway.
        result.heldBack = !result.reachedTarget && held_ && !limited();
        for (const float r : now.reach) result.measuredDeviation = std::max<double>(result.measuredDeviation, r);
        result.mesh = *now.surface;
        return result;
    }

private:
    // False where it is not measured, because that would say nothing new or, for a large surface, take longer than what
    // it gains is worth.
    Outcome<bool> measureReach(Stage& now, Progress& progress) {
        constexpr std::size_t worthMeasuring = 3'000'000;
        const std::size_t work = input_.mesh().triangles.size() + now.surface->triangles.size();
        if (measured_ > 0 && measured_ + work > worthMeasuring) return false;
        measured_ += work;
        const check::Surveyed surface(now.surface);
        if (!reachIsLoose(input_, surface, now.reach)) return false;
        auto reach = measuredReach(input_, surface, now.reach, static_cast<float>(mostReach_), progress);
        if (!reach) return mesh::errorOf(reach);
        now.reach = std::move(*reach);
        return true;
    }

    [[nodiscard]] bool limited() const { return std::isfinite(options_.maxDeviation); }

    // One flag a vertex: it has a triangle that was not picked.
    [[nodiscard]] std::vector<std::uint8_t> fixedIn(const Stage& now) const {
        std::vector<std::uint8_t> fixed = now.held;
        fixed.resize(now.surface->positions.size(), 0);
        if (!chosen_.empty())
            for (TriangleId t = 0; t < now.sourceOf.size(); ++t)
                if (!chosen_[now.sourceOf[t]])
                    for (const VertexId v : now.surface->triangles[t]) fixed[v] = 1;
        return fixed;
    }

    // Down to the target, but to a quarter of the triangles at most, or, where that breaks much, to half of them; less
    // where something must be held fast. Nothing where all of it would be. What is held stays as fine as it was before
    // the step, and others must give for it: after a long step so much that nothing would be left of them.
    Outcome<std::optional<Stage>> stepDown(const Stage& now, Progress& progress) {
        constexpr std::size_t keptOneIn = 4;
        const std::size_t most = limited() ? 0 : now.surface->triangles.size() / keptOneIn;
        const std::vector<std::uint8_t> fixed = fixedIn(now);
        PassOptions pass{box_,
                         std::max(options_.targetTriangles, most),
                         options_.lockBorders,
                         mostReach_,
                         rounding_,
                         options_.preferShape,
                         now.reach};
        mesh::PartOfProgress straight(progress, 0, 0.3);
        auto taken = decimatePass(*now.surface, fixed, pass, straight);
        if (!taken) return mesh::errorOf(taken);
        std::vector<std::uint8_t> held(now.surface->positions.size(), 0);
        auto broken = newlyBroken(now, *taken, held, nullptr, straight);
        if (!broken) return mesh::errorOf(broken);
        constexpr std::size_t muchIsOneIn = 100;
        const std::size_t half = now.surface->triangles.size() / 2;
        if (muchIsOneIn * broken->count() > taken->mesh.triangles.size() && pass.targetTriangles < half) {
            pass.targetTriangles = half;
            mesh::PartOfProgress halving(progress, 0.3, 0.6);
            taken = decimatePass(*now.surface, fixed, pass, halving);
            if (!taken) return mesh::errorOf(taken);
            broken = newlyBroken(now, *taken, held, nullptr, halving);
            if (!broken) return mesh::errorOf(broken);
        }
        const std::vector<Collapse> made = std::move(taken->made);
        constexpr int mostTries = 24;
        for (int attempt = 0; attempt < mostTries; ++attempt) {
            if (broken->empty()) {
                taken->trace(now.sourceOf);
                Stage next{std::make_shared<const Mesh>(std::move(taken->mesh)), std::move(taken->sourceOf),
                           std::move(taken->reach)};
                next.swapped = now.swapped + broken->swapped;
                if (pass.targetTriangles == options_.targetTriangles) {
                    next.held.assign(next.surface->positions.size(), 0);
                    for (VertexId v = 0; v < held.size(); ++v)
                        if (taken->wentTo[v] != mesh::noIndex)
                            next.held[taken->wentTo[v]] |= held[v] || (!now.held.empty() && now.held[v]);
                }
                return std::optional<Stage>(std::move(next));
            }
            held_ = true;
            hold(*now.surface, *taken, *broken, attempt, held);
            mesh::PartOfProgress again(progress, 0.6 + 0.4 * attempt / mostTries,
                                       0.6 + 0.4 * (attempt + 1) / mostTries);
            const Pass before = std::exchange(*taken, redoWithout(held, made, *now.surface, fixed, pass));
            const Tested tested{before, *broken};
            broken = newlyBroken(now, *taken, held, &tested, again);
            if (!broken) return mesh::errorOf(broken);
        }
        return std::optional<Stage>();
    }

    // What went into the corners of broken triangles, and after some tries a ring around it: rims may be in the way.
    static void hold(const Mesh& m, const Pass& pass, const Broken& broken, int attempt,
                     std::vector<std::uint8_t>& held) {
        const std::vector<std::uint8_t> corner = mesh::cornersOf(pass.mesh, broken.triangles);
        std::vector<std::uint8_t> fresh(held.size(), 0);
        for (VertexId v = 0; v < held.size(); ++v) fresh[v] = pass.wentTo[v] != mesh::noIndex && corner[pass.wentTo[v]];
        for (const mesh::Box& turned : broken.turned) {
            const mesh::Box box = turned.widened(std::ldexp(turned.diagonal(), attempt - 1));
            for (VertexId v = 0; v < held.size(); ++v) {
                mesh::Box at;
                at.add(m.positions[v]);
                fresh[v] |= box.overlaps(at);
            }
        }
        constexpr int patience = 3;
        for (const mesh::Triangle& t : m.triangles) {
            const bool near = fresh[t[0]] || fresh[t[1]] || fresh[t[2]];
            for (const VertexId v : t) held[v] |= fresh[v] || (near && attempt >= patience);
        }
    }

    // One flag a triangle: it was picked, and none of its corners is held.
    [[nodiscard]] std::vector<std::uint8_t> swappable(const Stage& now, const Pass& pass,
                                                      const std::vector<std::uint8_t>& held) const {
        std::vector<std::uint8_t> fast(pass.mesh.positions.size(), 0);
        for (VertexId v = 0; v < held.size(); ++v)
            if (held[v] && pass.wentTo[v] != mesh::noIndex) fast[pass.wentTo[v]] = 1;
        std::vector<std::uint8_t> may(pass.mesh.triangles.size(), 1);
        for (TriangleId t = 0; t < may.size(); ++t) {
            const Triangle& corners = pass.mesh.triangles[t];
            may[t] = !fast[corners[0]] && !fast[corners[1]] && !fast[corners[2]] &&
                     (chosen_.empty() || chosen_[now.sourceOf[pass.sourceOf[t]]]);
        }
        return may;
    }

    // A pass from the same surface with what it broke.
    struct Tested {
        const Pass& pass;
        const Broken& broken;
    };

    // Of each triangle of a pass that was tested and is sound: the one of another pass that is just that; noIndex:
    // there is none.
    static std::vector<TriangleId> soundIn(const Tested& before, const Pass& pass, std::size_t sources) {
        std::vector<TriangleId> now(sources, mesh::noIndex);
        for (TriangleId t = 0; t < pass.sourceOf.size(); ++t) now[pass.sourceOf[t]] = t;
        std::vector<TriangleId> sound(before.pass.sourceOf.size(), mesh::noIndex);
        mesh::parallelFor(sound.size(), 1024, [&](std::size_t i) {
            const auto was = static_cast<TriangleId>(i);
            const TriangleId t = now[before.pass.sourceOf[was]];
            if (t == mesh::noIndex || before.broken.triangles[was]) return;
            bool same = true;
            for (unsigned k = 0; k < 3; ++k) same &= before.pass.mesh.corner(was, k) == pass.mesh.corner(t, k);
            if (same) sound[was] = t;
        });
        return sound;
    }

    // Those that meet and of which one changed. What was tested before and is sound meets only what came since.
    static Outcome<std::vector<check::TrianglePair>> meeting(const check::Surveyed& after,
                                                             const std::vector<std::uint8_t>& changed,
                                                             const std::vector<std::uint8_t>& flat, const Pass& pass,
                                                             std::size_t sources, const Tested* before,
                                                             Progress& progress) {
        if (!before) return check::crossingPairs(after.tree(), progress, {.suspects = changed, .leftOut = flat});
        const std::vector<TriangleId> sound = soundIn(*before, pass, sources);
        std::vector<std::uint8_t> suspects = changed;
        for (const TriangleId t : sound)
            if (t != mesh::noIndex) suspects[t] = 0;
        auto pairs = check::crossingPairs(after.tree(), progress, {.suspects = suspects, .leftOut = flat});
        if (!pairs) return pairs;
        for (const auto& [a, b] : before->broken.pairs)
            if (sound[a] != mesh::noIndex && sound[b] != mesh::noIndex)
                pairs->push_back(std::minmax(sound[a], sound[b]));
        return pairs;
    }

    // Rounds what the pass moved, which adds to the reach, and swaps edges where that makes better triangles, but not
    // at what is held. `before`: nullptr where nothing was tested.
    Outcome<Broken> newlyBroken(const Stage& now, Pass& pass, const std::vector<std::uint8_t>& held,
                                const Tested* before, Progress& progress) {
        for (mesh::Point& p : pass.mesh.positions) p = mesh::rounded(precision_, p);
        Broken result;
        const Mesh& m = pass.mesh;
        std::vector<std::uint8_t> changed(m.triangles.size(), 0);
        std::vector<std::uint8_t> flat(m.triangles.size(), 0);
        mesh::parallelFor(changed.size(), 1024, [&](std::size_t i) {
            const auto t = static_cast<TriangleId>(i);
            for (unsigned k = 0; k < 3; ++k) changed[i] |= m.corner(t, k) != now.surface->corner(pass.sourceOf[t], k);
            if (changed[i] && !pass.reach.empty()) pass.reach[i] = reachAbove(pass.reach[i] + rounding_);
        });
        result.swapped =
            swapForShape(pass.mesh, swappable(now, pass, held), changed, pass.reach, {flatness_, mostReach_});
        mesh::parallelFor(flat.size(), 1024,
                          [&](std::size_t i) { flat[i] = check::isDegenerate(m, static_cast<TriangleId>(i)); });
        std::vector<std::uint8_t>& broken = result.triangles;
        broken.assign(m.triangles.size(), 0);
        for (TriangleId t = 0; t < changed.size(); ++t) broken[t] = changed[t] && flat[t];
        const std::vector<VertexId> first = mesh::firstOfEqual(m.positions);
        std::vector<std::uint8_t> doubled(m.positions.size(), 0);
        for (VertexId v = 0; v < first.size(); ++v)
            if (first[v] != v) doubled[v] = doubled[first[v]] = 1;
        for (TriangleId t = 0; t < changed.size(); ++t)
            for (const VertexId v : m.triangles[t]) broken[t] |= changed[t] && doubled[v];
        const check::Surveyed after(m);
        Outcome<std::vector<check::TrianglePair>> pairs;
        // Finding the shells is the work of one core, what meets that of all.
        mesh::parallelFor(2, 1, [&](std::size_t job) {
            if (job == 0)
                pairs = meeting(after, changed, flat, pass, now.surface->triangles.size(), before, progress);
            else
                static_cast<void>(after.shells());
        });
        if (!pairs) return mesh::errorOf(pairs);
        const auto wereOf = [&](TriangleId t) { return now.sourceOf[pass.sourceOf[t]]; };
        const auto met = metBefore(*pairs, wereOf, progress);
        if (!met) return mesh::errorOf(met);
        for (const auto& [a, b] : *pairs)
            if (!(*met)[wereOf(a)] || !(*met)[wereOf(b)]) broken[a] = broken[b] = 1;
        result.pairs = std::move(*pairs);
        // Where shells cross, none can say which way another should face.
        if (result.count() > 0) return result;
        auto shells = check::shellList(after, result.pairs, progress);
        if (!shells) return mesh::errorOf(shells);
        if (std::any_of(shells->begin(), shells->end(), [](const check::Shell& s) { return s.isMisplaced(); })) {
            const auto given = ofInput(progress);
            if (!given) return mesh::errorOf(given);
            std::vector<std::uint8_t> known(shells->size(), 0);
            for (TriangleId t = 0; t < changed.size(); ++t)
                if (const std::uint32_t shell = after.shells().of[t]; shell != mesh::noEdge)
                    known[shell] |= (*given)->misplaced[now.sourceOf[pass.sourceOf[t]]];
            for (std::size_t i = 0; i < shells->size(); ++i)
                if ((*shells)[i].isMisplaced() && !known[i]) result.turned.push_back((*shells)[i].box);
        }
        return result;
    }

    // What is wrong with the input: one flag a triangle.
    struct Given {
        std::vector<std::uint8_t> meets;   // others
        std::vector<std::uint8_t> misplaced;  // it is part of a shell that faces the wrong way
    };

    // One flag a triangle of the input, true for those that these were: it met others. Few are asked about by
    // themselves.
    template <class WereOf>
    Outcome<std::vector<std::uint8_t>> metBefore(const std::vector<check::TrianglePair>& pairs, const WereOf& wereOf,
                                                 Progress& progress) {
        if (pairs.empty()) return std::vector<std::uint8_t>();
        constexpr std::size_t few = 10'000;
        if (given_ || input_.known() || pairs.size() > few) {
            const auto given = ofInput(progress);
            if (!given) return mesh::errorOf(given);
            return (*given)->meets;
        }
        std::vector<std::uint8_t> asked(input_.mesh().triangles.size(), 0);
        for (const auto& [a, b] : pairs) asked[wereOf(a)] = asked[wereOf(b)] = 1;
        const auto found =
            check::crossingPairs(input_.tree(), progress, {.suspects = asked, .leftOut = input_.degenerate()});
        if (!found) return mesh::errorOf(found);
        std::vector<std::uint8_t> met(asked.size(), 0);
        for (const auto& [a, b] : *found) met[a] = met[b] = 1;
        return met;
    }

    // Looked for when it is first asked for.
    Outcome<const Given*> ofInput(Progress& progress) {
        if (given_) return &*given_;
        const auto known = input_.known();
        auto pairs = known ? Outcome<std::vector<check::TrianglePair>>(known->crossingPairs)
                           : check::crossingPairs(input_.tree(), progress, {.leftOut = input_.degenerate()});
        if (!pairs) return mesh::errorOf(pairs);
        auto shells = check::shellList(input_, *pairs, progress);
        if (!shells) return mesh::errorOf(shells);
        const std::size_t count = input_.mesh().triangles.size();
        Given& given = given_.emplace();
        given.meets.assign(count, 0);
        given.misplaced.assign(count, 0);
        for (const auto& [a, b] : *pairs) given.meets[a] = given.meets[b] = 1;
        for (TriangleId t = 0; t < count; ++t) {
            const std::uint32_t shell = input_.shells().of[t];
            given.misplaced[t] = shell != mesh::noEdge && (*shells)[shell].isMisplaced();
        }
        return &*given_;
    }

    const check::Surveyed& input_;
    const DecimateOptions& options_;
    mesh::Precision precision_;
    mesh::Box box_;
    std::vector<std::uint8_t> chosen_;  // empty: all are
    // Below the limit, so that who measures the result is sure of it as well, within what measuring leaves open.
    double mostReach_ = 0;
    double rounding_ = 0;       // how far it may move a vertex, with what is lost on the way through other coordinates
    double flatness_ = 0;       // what lies within this of a plane is flat
    bool held_ = false;         // something was held fast
    std::size_t measured_ = 0;  // triangles, while reaches were measured

    std::optional<Given> given_;  // once it is asked for
};

}  // namespace

Outcome<DecimateResult> decimate(const check::Surveyed& s, const Pick& pick, const DecimateOptions& options,
                                 Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    return Decimating(s, pick, options).run(progress);
}

}  // namespace zither::shape
