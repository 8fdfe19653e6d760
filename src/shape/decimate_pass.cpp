// Large surfaces are brought down in pieces, then taken apart anew with other seams.
#include "shape/decimate_pass.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "shape/decimate_pieces.h"
#include "shape/edge_collapse.h"
#include "shape/shape_tolerances.h"

namespace zither::shape {
namespace {

// Surfaces of fewer triangles are brought down as a whole.
constexpr std::size_t worthTakingApart = 72'000;
// Around what only seams had.
constexpr int rings = 3;

class Passing {
public:
    Passing(const Mesh& m, const std::vector<std::uint8_t>& fixed, const PassOptions& options)
        : mesh_(m),
          options_(options),
          box_(options.box),
          target_(std::min(options.targetTriangles, m.triangles.size())),
          allowed_(m.positions.size(), VertexKind::Inner) {
        for (VertexId v = 0; v < fixed.size(); ++v)
            if (fixed[v]) allowed_[v] = VertexKind::Fixed;
        settings_ = {box_.centre(), box_.diagonal() > 0 ? box_.diagonal() : 1, options.lockBorders};
        settings_.mostReach = options.mostReach / settings_.scale;
        if (options.preferShape) settings_.shapePrice = tolerance::shapePricePreferred;
        settings_.rounding = options.rounding / settings_.scale;
    }

    Outcome<Pass> run(Progress& progress) {
        mesh::PartOfProgress first(progress, 0, 0.8);
        mesh::PartOfProgress last(progress, 0.8, 1);
        const bool limited = std::isfinite(settings_.mostReach);
        const auto brought = limited ? towardsLimit(first) : towardsTarget(first);
        if (!brought) return mesh::errorOf(brought);
        // Pieces that had a limit alone, and their seams, have nothing more to give.
        const bool spent = limited && target_ == 0;
        if (!now_ || (count() > target_ && !spent))
            if (const auto done = whole(last); !done) return mesh::errorOf(done);
        return std::move(*now_);
    }

    // Makes collapses again that another pass over the same mesh made.
    Pass redo(const std::vector<Collapse>& made, const std::vector<std::uint8_t>& held) {
        settings_.onlyRedoes = true;
        EdgeCollapse engine(mesh_, allowed_, settings_);
        engine.startFrom(options_.reach);
        for (const Collapse& c : made)
            if (!held[c.u] && !held[c.v]) engine.redo(c);
        return taken(engine);
    }

private:
    // As far as it has come.
    [[nodiscard]] const Mesh& mesh() const { return now_ ? now_->mesh : mesh_; }
    [[nodiscard]] const std::vector<float>& reach() const { return now_ ? now_->reach : options_.reach; }
    [[nodiscard]] std::size_t count() const { return mesh().triangles.size(); }

    // What the limit forbids inside of a piece it forbids again: only seams are offered once more.
    Outcome<void> towardsLimit(Progress& progress) {
        if (count() <= worthTakingApart || target_ + target_ / 8 >= count()) return {};
        mesh::PartOfProgress first(progress, 0, 0.7);
        auto brought = bringDown(piecesOf(mesh(), box_, shiftOf(0)), {target_ + target_ / 8, target_, true}, first);
        offered_ = seam_;
        if (!brought || target_ > 0) return brought;
        mesh::PartOfProgress second(progress, 0.7, 0.95);
        brought = bringDown(piecesOf(mesh(), box_, shiftOf(1)), {}, second);
        if (!brought) return brought;
        mesh::PartOfProgress last(progress, 0.95, 1);
        offered_ = always_;
        return bringDown(pieceAround(mesh(), always_, rings), {}, last);
    }

    // Large surfaces, until what is left to do lies where seams met seams, and that.
    Outcome<void> towardsTarget(Progress& progress) {
        bool last = false;
        for (int level = 0; !last && count() > worthTakingApart && count() > target_; ++level) {
            const double done = 1 - std::ldexp(1.0, -level);
            mesh::PartOfProgress part(progress, done, (done + 1) / 2);
            const Pieces pieces = piecesOf(mesh(), box_, shiftOf(level));
            const std::size_t before = count();
            // Then what its own seams keep is little.
            last = level > 0 && before < target_ + target_ / 4;
            const std::size_t leave = target_ + leftAt(pieces.seam, last);
            if (leave >= before) break;
            auto brought = bringDown(pieces, {leave, target_, level == 0}, part);
            if (!brought) return brought;
            // Where hardly anything may go, more of the same finds no more.
            if (!last && before - count() < before / 8) return {};
        }
        if (!last || count() <= target_) return {};
        return bringDown(pieceAround(mesh(), always_, rings), {target_, target_}, progress);
    }

    // Each turn takes the surface apart elsewhere.
    static double shiftOf(int level) {
        constexpr double goldenSection = 0.38196601125;
        return level * goldenSection - std::floor(level * goldenSection);
    }

    // About how many triangles too many there will be, as nothing touches the seams, and nothing has touched some yet.
    [[nodiscard]] std::size_t leftAt(const std::vector<std::uint8_t>& seam, bool last) const {
        const auto shareToGo = [&](std::size_t of) {
            return 1 - static_cast<double>(target_) / static_cast<double>(std::max<std::size_t>(1, of));
        };
        double left = 0;
        if (!last) left += 2 * shareToGo(count()) * static_cast<double>(std::count(seam.begin(), seam.end(), 1));
        for (VertexId v = 0; v < always_.size(); ++v)
            if (always_[v] && seam[v]) left += 2 * shareToGo(mesh_.triangles.size());
        return static_cast<std::size_t>(left);
    }

    Outcome<void> whole(Progress& progress) {
        CollapseSettings settings = settings_;
        settings.offered = offered_.empty() ? nullptr : &offered_;
        EdgeCollapse engine(mesh(), allowed_, settings);
        engine.startFrom(reach());
        if (!engine.advance(std::numeric_limits<double>::infinity(), count() - std::min(target_, count()), progress))
            return mesh::cancelled();
        Pass pass = taken(engine);
        follow(pass);
        return {};
    }

    [[nodiscard]] Pass taken(const EdgeCollapse& engine) const {
        const Mesh& m = mesh();
        Pass pass;
        pass.mesh.positions = m.positions;
        pass.mesh.regionNames = m.regionNames;
        pass.mesh.regionsAre = m.regionsAre;
        for (TriangleId t = 0; t < m.triangles.size(); ++t) {
            if (!engine.alive(t)) continue;
            pass.mesh.triangles.push_back(engine.triangle(t));
            pass.sourceOf.push_back(t);
            if (engine.keepsReach()) pass.reach.push_back(engine.reach(t));
            if (!m.regions.empty()) pass.mesh.regions.push_back(m.regions[t]);
            for (VertexId v : engine.triangle(t)) pass.mesh.positions[v] = engine.position(v);
        }
        for (VertexId v = 0; v < m.positions.size(); ++v) pass.wentTo.push_back(engine.survivorOf(v));
        pass.made = engine.made();
        compact(pass);
        return pass;
    }

    Outcome<void> bringDown(const Pieces& pieces, const Goal& goal, Progress& progress) {
        auto left = bringDownInPieces({mesh(), allowed_, reach(), settings_, offered_}, pieces, goal, progress);
        if (!left) return mesh::errorOf(left);
        Pass pass;
        pass.mesh.positions = std::move(left->positions);
        pass.mesh.regionNames = mesh_.regionNames;
        pass.mesh.regionsAre = mesh_.regionsAre;
        pass.wentTo = std::move(left->wentTo);
        pass.made = std::move(left->made);
        for (TriangleId t = 0; t < left->triangles.size(); ++t) {
            if (!left->alive[t]) continue;
            pass.mesh.triangles.push_back(left->triangles[t]);
            pass.sourceOf.push_back(t);
            if (!left->reach.empty()) pass.reach.push_back(left->reach[t]);
            if (!mesh().regions.empty()) pass.mesh.regions.push_back(mesh().regions[t]);
        }
        const std::vector<VertexId> numberOf = compact(pass);
        const bool first = !now_;
        std::vector<VertexId> given;
        std::vector<VertexKind> allowed;
        std::vector<std::uint8_t> always;
        seam_.clear();
        for (VertexId v = 0; v < numberOf.size(); ++v) {
            if (numberOf[v] == mesh::noIndex) continue;
            given.push_back(first ? v : given_[v]);
            allowed.push_back(allowed_[v]);
            seam_.push_back(pieces.seam[v]);
            always.push_back(pieces.seam[v] && (first || always_[v]));
        }
        follow(pass);
        given_ = std::move(given);
        allowed_ = std::move(allowed);
        always_ = std::move(always);
        return {};
    }

    // What comes after what there is: all of it in the numbers of what came in.
    void follow(Pass& pass) {
        if (now_) {
            pass.trace(now_->sourceOf);
            for (const Collapse& c : pass.made) now_->made.push_back({given_[c.u], given_[c.v], c.at});
            for (VertexId& v : now_->wentTo)
                if (v != mesh::noIndex) v = pass.wentTo[v];
            pass.wentTo = std::move(now_->wentTo);
            pass.made = std::move(now_->made);
        }
        now_ = std::move(pass);
    }

    // Drops unused vertices; the new number of each, noIndex for those that are gone.
    static std::vector<VertexId> compact(Pass& pass) {
        std::vector<VertexId> numberOf(pass.mesh.positions.size(), mesh::noIndex);
        for (const Triangle& t : pass.mesh.triangles)
            for (VertexId v : t) numberOf[v] = 0;
        std::size_t next = 0;
        for (VertexId& n : numberOf)
            if (n != mesh::noIndex) n = next++;
        mesh::dropUnusedVertices(pass.mesh);
        for (VertexId& v : pass.wentTo) v = numberOf[v];
        return numberOf;
    }

    const Mesh& mesh_;
    const PassOptions& options_;
    mesh::Box box_;
    std::size_t target_;
    CollapseSettings settings_;
    std::optional<Pass> now_;           // nothing: as it came in
    std::vector<VertexKind> allowed_;   // of the vertices that there are
    std::vector<VertexId> given_;       // and which they were; empty as long as nothing was done
    std::vector<std::uint8_t> seam_;    // which nothing touched the last time
    std::vector<std::uint8_t> always_;  // or ever
    // At which edges are offered; empty: all are.
    std::vector<std::uint8_t> offered_;
};

}  // namespace

Outcome<Pass> decimatePass(const Mesh& m, const std::vector<std::uint8_t>& fixed, const PassOptions& options,
                           Progress& progress) {
    return Passing(m, fixed, options).run(progress);
}

Pass redoWithout(const std::vector<std::uint8_t>& held, const std::vector<Collapse>& made, const Mesh& m,
                 const std::vector<std::uint8_t>& fixed, const PassOptions& options) {
    return Passing(m, fixed, options).redo(made, held);
}

}  // namespace zither::shape
