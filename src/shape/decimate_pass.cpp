// Large surfaces are taken apart into pieces that fit the cache, whose insides are brought down in parallel; then the
// engine goes over the whole.
#include "shape/decimate_pass.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <cmath>
#include <memory>

#include "mesh/parallel.h"
#include "shape/edge_collapse.h"
#include "space/hilbert.h"

namespace zither::shape {
namespace {

// Pieces of this many triangles stay within a core's cache with all that is known of them.
constexpr std::size_t pieceTriangles = 24'000;
// The pieces leave this much more than the target, for the last pass over the whole to spend where it costs least.
constexpr double leftForTheWhole = 1.12;

// A piece of the surface with numbers of its own.
struct Piece {
    Mesh mesh;
    std::vector<TriangleId> triangles;  // in the whole
    std::vector<VertexId> vertices;     // in the whole
    std::unique_ptr<EdgeCollapse> engine;
};

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
        startFrom(engine, options_.reach);
        for (const Collapse& c : made)
            if (!held[c.u] && !held[c.v]) engine.redo(c);
        return taken(mesh_, engine);
    }

private:
    // Reaches are kept as shares of the scale.
    void startFrom(EdgeCollapse& engine, std::vector<float> reach) const {
        if (!engine.keepsReach() || reach.empty()) return;
        for (float& r : reach) r = reachAbove(r / settings_.scale);
        engine.startFrom(std::move(reach));
    }

    Outcome<Pass> whole(const Mesh& m, const std::vector<VertexKind>& allowed, const std::vector<float>& reach,
                        Progress& progress) const {
        EdgeCollapse engine(m, allowed, settings_);
        startFrom(engine, reach);
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
            if (engine.keepsReach()) pass.reach.push_back(reachAbove(engine.reach(t) * settings_.scale));
            if (!m.regions.empty()) pass.mesh.regions.push_back(m.regions[t]);
            for (VertexId v : engine.triangle(t)) pass.mesh.positions[v] = engine.position(v);
        }
        for (VertexId v = 0; v < m.positions.size(); ++v) pass.wentTo.push_back(engine.survivorOf(v));
        pass.made = engine.made();
        compact(pass);
        return pass;
    }

    // Neighbours in Hilbert order make compact pieces; vertices of several pieces are Foreign to each.
    std::vector<Piece> takeApart() {
        const std::vector<TriangleId> order = space::hilbertOrder(mesh_);
        std::vector<Piece> pieces((order.size() + pieceTriangles - 1) / pieceTriangles);
        std::vector<std::uint32_t> pieceOf(mesh_.positions.size(), mesh::noEdge);
        std::vector<VertexId> numberInPiece(mesh_.positions.size());
        std::vector<std::uint8_t>& foreign = seam_;
        foreign.assign(mesh_.positions.size(), 0);
        for (std::uint32_t i = 0; i < pieces.size(); ++i) {
            Piece& piece = pieces[i];
            const auto begin = order.begin() + static_cast<std::ptrdiff_t>(i * pieceTriangles);
            const auto end =
                order.begin() + static_cast<std::ptrdiff_t>(std::min(order.size(), (i + 1) * pieceTriangles));
            piece.triangles.assign(begin, end);
            for (TriangleId t : piece.triangles) {
                Triangle local;
                for (unsigned k = 0; k < 3; ++k) {
                    const VertexId v = mesh_.triangles[t][k];
                    if (pieceOf[v] != i) {
                        foreign[v] |= pieceOf[v] != mesh::noEdge;
                        pieceOf[v] = i;
                        numberInPiece[v] = static_cast<VertexId>(piece.vertices.size());
                        piece.vertices.push_back(v);
                    }
                    local[k] = numberInPiece[v];
                }
                piece.mesh.triangles.push_back(local);
                if (!mesh_.regions.empty()) piece.mesh.regions.push_back(mesh_.regions[t]);
            }
        }
        mesh::parallelFor(pieces.size(), 1, [&](std::size_t i) { start(pieces[i], foreign); });
        return pieces;
    }

    void start(Piece& piece, const std::vector<std::uint8_t>& foreign) const {
        std::vector<VertexKind> allowed;
        for (VertexId v : piece.vertices) {
            piece.mesh.positions.push_back(mesh_.positions[v]);
            allowed.push_back(foreign[v] ? VertexKind::Foreign : allowed_[v]);
        }
        piece.engine = std::make_unique<EdgeCollapse>(piece.mesh, allowed, settings_);
        if (options_.reach.empty()) return;
        std::vector<float> reach;
        for (const TriangleId t : piece.triangles) reach.push_back(options_.reach[t]);
        startFrom(*piece.engine, std::move(reach));
    }

    // Rounds of rising error over all pieces: what is cheap anywhere goes before what is dear elsewhere. In each round
    // a piece may remove its share of what is still to go, so that the sum does not depend on which piece ran first.
    Outcome<Pass> throughPieces(std::size_t wanted, Progress& progress) {
        std::vector<Piece> pieces = takeApart();
        constexpr double firstError = 0x1p-90;
        constexpr double lastError = 1;
        std::size_t left = mesh_.triangles.size();
        std::atomic<bool> stop = !progress.report(0.3);
        for (double error = firstError; error < lastError && left > wanted && !stop; error *= 4) {
            std::size_t candidates = 0;
            for (const Piece& p : pieces) candidates += p.engine->candidatesUpTo(error);
            const double share =
                candidates > 0 ? static_cast<double>(left - wanted) / static_cast<double>(candidates) : 0;
            mesh::parallelFor(pieces.size(), 1, [&](std::size_t i) {
                const auto most =
                    static_cast<std::size_t>(share * static_cast<double>(pieces[i].engine->candidatesUpTo(error)));
                mesh::PartOfProgress quiet(progress, 0.3, 0.9);
                if (!stop && !pieces[i].engine->advance(error, most, quiet)) stop = true;
            });
            left = 0;
            for (const Piece& p : pieces) left += p.engine->triangleCount();
        }
        if (stop) return mesh::cancelled();
        return putTogether(pieces);
    }

    Pass putTogether(const std::vector<Piece>& pieces) {
        Pass pass;
        pass.mesh.positions = mesh_.positions;
        pass.mesh.regionNames = mesh_.regionNames;
        for (VertexId v = 0; v < mesh_.positions.size(); ++v) pass.wentTo.push_back(v);
        std::vector<Triangle> triangles(mesh_.triangles.size());
        std::vector<std::uint8_t> alive(mesh_.triangles.size(), 0);
        std::vector<float> reach;
        if (std::isfinite(settings_.mostReach)) reach.resize(mesh_.triangles.size());
        for (const Piece& p : pieces) {
            for (const Collapse& c : p.engine->made()) pass.made.push_back({p.vertices[c.u], p.vertices[c.v], c.at});
            // A vertex of several pieces goes nowhere in any.
            for (VertexId v = 0; v < p.vertices.size(); ++v)
                if (const VertexId to = p.engine->survivorOf(v); to != v) pass.wentTo[p.vertices[v]] = p.vertices[to];
            for (TriangleId t = 0; t < p.triangles.size(); ++t) {
                if (!p.engine->alive(t)) continue;
                alive[p.triangles[t]] = 1;
                if (!reach.empty()) reach[p.triangles[t]] = reachAbove(p.engine->reach(t) * settings_.scale);
                for (unsigned k = 0; k < 3; ++k) {
                    const VertexId v = p.engine->triangle(t)[k];
                    triangles[p.triangles[t]][k] = p.vertices[v];
                    pass.mesh.positions[p.vertices[v]] = p.engine->position(v);
                }
            }
        }
        for (TriangleId t = 0; t < triangles.size(); ++t) {
            if (!alive[t]) continue;
            pass.mesh.triangles.push_back(triangles[t]);
            pass.sourceOf.push_back(t);
            if (!reach.empty()) pass.reach.push_back(reach[t]);
            if (!mesh_.regions.empty()) pass.mesh.regions.push_back(mesh_.regions[t]);
        }
        const std::vector<VertexId> numberOf = compact(pass);
        for (VertexId v = 0; v < numberOf.size(); ++v) {
            if (numberOf[v] == mesh::noIndex) continue;
            lighterAllowed_.push_back(allowed_[v]);
            lighterSeam_.push_back(seam_[v]);
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
    std::vector<std::uint8_t> seam_;          // one flag a vertex: of several pieces
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
