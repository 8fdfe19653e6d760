// Large surfaces are brought down in pieces first, then the engine goes over the whole.
#include "shape/decimate_pass.h"

#include <algorithm>
#include <cmath>

#include "shape/decimate_pieces.h"
#include "shape/edge_collapse.h"

namespace zither::shape {
namespace {

// The pieces leave this much more than the target, for the last pass over the whole to spend where it costs least.
constexpr double leftForTheWhole = 1.12;

class Passing {
public:
    Passing(const Mesh& m, const std::vector<std::uint8_t>& fixed, const PassOptions& options)
        : mesh_(m),
          options_(options),
          target_(std::min(options.targetTriangles, m.triangles.size())),
          allowed_(m.positions.size(), VertexKind::Inner) {
        for (VertexId v = 0; v < fixed.size(); ++v)
            if (fixed[v]) allowed_[v] = VertexKind::Fixed;
        const mesh::Box box = mesh::boxOf(m);
        settings_ = {box.centre(), box.diagonal() > 0 ? box.diagonal() : 1, options.lockBorders};
        settings_.mostReach = options.mostReach / settings_.scale;
        if (options.preferShape) settings_.shapePrice = tolerance::shapePricePreferred;
        settings_.rounding = options.rounding / settings_.scale;
    }

    Outcome<Pass> run(Progress& progress) {
        const double wanted = leftForTheWhole * static_cast<double>(target_);
        const bool inPieces =
            mesh_.triangles.size() > 3 * pieceTriangles && wanted < static_cast<double>(mesh_.triangles.size());
        if (!inPieces) return whole(mesh_, allowed_, options_.reach, progress);
        mesh::PartOfProgress first(progress, 0, 0.8);
        Outcome<Pass> lighter = throughPieces(static_cast<std::size_t>(wanted), first);
        if (!lighter) return lighter;
        mesh::PartOfProgress last(progress, 0.8, 1);
        // What a limit on the reach forbids inside of a piece it forbids again; only seams are new.
        if (std::isfinite(settings_.mostReach)) settings_.offered = &lighterSeam_;
        Outcome<Pass> pass = whole(lighter->mesh, lighterAllowed_, lighter->reach, last);
        settings_.offered = nullptr;
        if (!pass) return pass;
        for (TriangleId& t : pass->sourceOf) t = lighter->sourceOf[t];
        for (const Collapse& c : pass->made) lighter->made.push_back({lighterGiven_[c.u], lighterGiven_[c.v], c.at});
        for (VertexId& v : lighter->wentTo)
            if (v != mesh::noIndex) v = pass->wentTo[v];
        pass->wentTo = std::move(lighter->wentTo);
        pass->made = std::move(lighter->made);
        return std::move(*pass);
    }

    // Makes collapses again that another pass over the same mesh made.
    Pass redo(const std::vector<Collapse>& made, const std::vector<std::uint8_t>& held) {
        settings_.onlyRedoes = true;
        EdgeCollapse engine(mesh_, allowed_, settings_);
        engine.startFrom(options_.reach);
        for (const Collapse& c : made)
            if (!held[c.u] && !held[c.v]) engine.redo(c);
        return taken(mesh_, engine);
    }

private:
    Outcome<Pass> whole(const Mesh& m, const std::vector<VertexKind>& allowed, const std::vector<float>& reach,
                        Progress& progress) const {
        EdgeCollapse engine(m, allowed, settings_);
        engine.startFrom(reach);
        const std::size_t surplus = m.triangles.size() - std::min(target_, m.triangles.size());
        if (!engine.advance(std::numeric_limits<double>::infinity(), surplus, progress)) return mesh::cancelled();
        return taken(m, engine);
    }

    [[nodiscard]] Pass taken(const Mesh& m, const EdgeCollapse& engine) const {
        Pass pass;
        pass.mesh.positions = m.positions;
        pass.mesh.regionNames = m.regionNames;
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

    Outcome<Pass> throughPieces(std::size_t wanted, Progress& progress) {
        auto left = bringDownInPieces({mesh_, allowed_, options_.reach, settings_}, wanted, target_, progress);
        if (!left) return tl::unexpected(left.error());
        Pass pass;
        pass.mesh.positions = std::move(left->positions);
        pass.mesh.regionNames = mesh_.regionNames;
        pass.wentTo = std::move(left->wentTo);
        pass.made = std::move(left->made);
        for (TriangleId t = 0; t < left->triangles.size(); ++t) {
            if (!left->alive[t]) continue;
            pass.mesh.triangles.push_back(left->triangles[t]);
            pass.sourceOf.push_back(t);
            if (!left->reach.empty()) pass.reach.push_back(left->reach[t]);
            if (!mesh_.regions.empty()) pass.mesh.regions.push_back(mesh_.regions[t]);
        }
        const std::vector<VertexId> numberOf = compact(pass);
        for (VertexId v = 0; v < numberOf.size(); ++v) {
            if (numberOf[v] == mesh::noIndex) continue;
            lighterAllowed_.push_back(allowed_[v]);
            lighterSeam_.push_back(left->seam[v]);
            lighterGiven_.push_back(v);
        }
        return pass;
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
    std::size_t target_;
    std::vector<VertexKind> allowed_;
    std::vector<VertexKind> lighterAllowed_;  // of the vertices that pieces leave
    std::vector<std::uint8_t> lighterSeam_;
    std::vector<VertexId> lighterGiven_;  // and which they were
    CollapseSettings settings_;
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
