// Large surfaces are taken apart into pieces that fit the cache, whose insides are brought down in parallel: some tell
// how dear it gets, and the others follow. Then the engine goes over the whole.
#include "shape/decimate_pass.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <cmath>
#include <numeric>
#include <optional>
#include <span>
#include <unordered_map>

#include "mesh/parallel.h"
#include "shape/edge_collapse.h"
#include "space/hilbert.h"

namespace zither::shape {
namespace {

// Pieces of this many triangles stay within a core's cache with all that is known of them.
constexpr std::size_t pieceTriangles = 24'000;
// The pieces leave this much more than the target, for the last pass over the whole to spend where it costs least.
constexpr double leftForTheWhole = 1.12;

// So many pieces at least, and one in so many, tell how dear it will be to bring the whole down.
constexpr std::size_t fewestSampled = 12;
constexpr std::size_t oneSampledIn = 8;

// A piece of the surface with numbers of its own, and what brings it down.
struct Piece {
    Mesh mesh;
    std::span<const TriangleId> triangles;  // in the whole
    std::vector<VertexId> vertices;         // in the whole
    std::vector<VertexKind> allowed;
    std::optional<EdgeCollapse> engine;
};

// What costs at most `error` goes, but no more than this share of what is offered.
struct Round {
    double error = 0;
    double share = 0;

    [[nodiscard]] std::size_t mostOf(const EdgeCollapse& engine) const {
        return static_cast<std::size_t>(share * static_cast<double>(engine.candidatesUpTo(error)));
    }
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
    void planPieces() {
        order_ = space::hilbertOrder(mesh_);
        seam_.assign(mesh_.positions.size(), 0);
        numberInPiece_.assign(mesh_.positions.size(), mesh::noIndex);
        std::vector<std::uint32_t> pieceOf(mesh_.positions.size(), mesh::noIndex);
        for (std::size_t i = 0; i < order_.size(); ++i)
            for (const VertexId v : mesh_.triangles[order_[i]]) {
                const auto piece = static_cast<std::uint32_t>(i / pieceTriangles);
                seam_[v] |= pieceOf[v] != mesh::noIndex && pieceOf[v] != piece;
                pieceOf[v] = piece;
            }
    }

    [[nodiscard]] std::size_t pieceCount() const { return (order_.size() + pieceTriangles - 1) / pieceTriangles; }

    void cut(std::size_t i, Piece& piece) {
        const std::size_t begin = i * pieceTriangles;
        piece.triangles = std::span(order_).subspan(begin, std::min(pieceTriangles, order_.size() - begin));
        // Several pieces number the vertices of a seam, perhaps at once.
        std::unordered_map<std::uint32_t, VertexId> onSeam;
        for (const TriangleId t : piece.triangles) {
            Triangle local;
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId v = mesh_.triangles[t][k];
                VertexId& number = seam_[v] ? onSeam.try_emplace(v, mesh::noIndex).first->second : numberInPiece_[v];
                if (number == mesh::noIndex) {
                    number = static_cast<VertexId>(piece.vertices.size());
                    piece.vertices.push_back(v);
                    piece.mesh.positions.push_back(mesh_.positions[v]);
                    piece.allowed.push_back(seam_[v] ? VertexKind::Foreign : allowed_[v]);
                }
                local[k] = number;
            }
            piece.mesh.triangles.push_back(local);
            if (!mesh_.regions.empty()) piece.mesh.regions.push_back(mesh_.regions[t]);
        }
        piece.engine.emplace(piece.mesh, piece.allowed, settings_);
        if (options_.reach.empty()) return;
        std::vector<float> reach;
        for (const TriangleId t : piece.triangles) reach.push_back(options_.reach[t]);
        startFrom(*piece.engine, std::move(reach));
    }

    // What the pieces leave, in the numbers of what came in.
    struct Left {
        std::vector<Triangle> triangles;
        std::vector<std::uint8_t> alive;
        std::vector<Point> positions;
        std::vector<VertexId> wentTo;
        std::vector<float> reach;
        std::vector<std::vector<Collapse>> made;  // of each piece
        std::atomic<std::size_t> count = 0;
    };

    // Pieces touch no triangle and no vertex in common, but for vertices that stay.
    void keep(std::size_t i, const Piece& piece, Left& left) const {
        const EdgeCollapse& engine = *piece.engine;
        left.made[i].reserve(engine.made().size());
        for (const Collapse& c : engine.made())
            left.made[i].push_back({piece.vertices[c.u], piece.vertices[c.v], c.at});
        for (VertexId v = 0; v < piece.vertices.size(); ++v)
            if (const VertexId to = engine.survivorOf(v); to != v) left.wentTo[piece.vertices[v]] = piece.vertices[to];
        for (TriangleId t = 0; t < piece.triangles.size(); ++t) {
            if (!engine.alive(t)) continue;
            const TriangleId whole = piece.triangles[t];
            left.alive[whole] = 1;
            if (!left.reach.empty()) left.reach[whole] = reachAbove(engine.reach(t) * settings_.scale);
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId v = engine.triangle(t)[k];
                left.triangles[whole][k] = piece.vertices[v];
                if (piece.allowed[v] != VertexKind::Foreign) left.positions[piece.vertices[v]] = engine.position(v);
            }
        }
        left.count += engine.triangleCount();
    }

    // Rounds of rising error over some of the pieces: what is cheap anywhere goes before what is dear elsewhere. In
    // each a piece may remove its share of what is still to go. The others make the same rounds, one piece after
    // another, so that few are in memory at once. What is removed does not depend on which piece ran first.
    Outcome<Pass> throughPieces(std::size_t wanted, Progress& progress) {
        planPieces();
        if (!progress.report(0.1)) return mesh::cancelled();
        Left left;
        left.triangles.resize(mesh_.triangles.size());
        left.alive.resize(mesh_.triangles.size(), 0);
        left.positions = mesh_.positions;
        left.wentTo.resize(mesh_.positions.size());
        std::iota(left.wentTo.begin(), left.wentTo.end(), 0U);
        if (std::isfinite(settings_.mostReach)) left.reach.resize(mesh_.triangles.size());
        left.made.resize(pieceCount());

        const std::size_t sampled = std::min(pieceCount(), std::max(fewestSampled, pieceCount() / oneSampledIn));
        std::vector<std::size_t> sample;
        std::vector<std::size_t> others;
        for (std::size_t i = 0; i < pieceCount(); ++i)
            (i * sampled / pieceCount() != (i + 1) * sampled / pieceCount() ? sample : others).push_back(i);
        mesh::PartOfProgress first(progress, 0.1, others.empty() ? 0.9 : 0.25);
        auto rounds = roundsOf(sample, wanted, left, first);
        if (!rounds) return tl::unexpected(rounds.error());
        mesh::PartOfProgress rest(progress, 0.25, 0.9);
        if (!repeat(*rounds, others, left, rest)) return mesh::cancelled();
        return putTogether(left);
    }

    Outcome<std::vector<Round>> roundsOf(const std::vector<std::size_t>& sample, std::size_t wanted, Left& left,
                                         Progress& progress) {
        std::vector<Piece> pieces(sample.size());
        mesh::parallelFor(pieces.size(), 1, [&](std::size_t i) { cut(sample[i], pieces[i]); });
        std::atomic<bool> stop = !progress.report(0.3);
        std::size_t count = 0;
        for (const Piece& p : pieces) count += p.engine->triangleCount();
        const double enough =
            static_cast<double>(count) * static_cast<double>(wanted) / static_cast<double>(mesh_.triangles.size());
        std::vector<Round> rounds;
        constexpr double firstError = 0x1p-90;
        constexpr double lastError = 1;
        for (double error = firstError; error<lastError&& static_cast<double>(count)> enough && !stop; error *= 4) {
            std::size_t candidates = 0;
            for (const Piece& p : pieces) candidates += p.engine->candidatesUpTo(error);
            const double share =
                candidates > 0 ? (static_cast<double>(count) - enough) / static_cast<double>(candidates) : 0;
            rounds.push_back({error, share});
            mesh::parallelFor(pieces.size(), 1, [&](std::size_t i) {
                EdgeCollapse& engine = *pieces[i].engine;
                mesh::PartOfProgress quiet(progress, 0.3, 0.9);
                if (!stop && !engine.advance(error, rounds.back().mostOf(engine), quiet)) stop = true;
            });
            count = 0;
            for (const Piece& p : pieces) count += p.engine->triangleCount();
        }
        if (stop) return mesh::cancelled();
        mesh::parallelFor(pieces.size(), 1, [&](std::size_t i) { keep(sample[i], pieces[i], left); });
        return rounds;
    }

    // False where cancelled.
    bool repeat(const std::vector<Round>& rounds, const std::vector<std::size_t>& others, Left& left,
                Progress& progress) {
        std::size_t count = left.count;
        for (const std::size_t i : others) count += std::min(pieceTriangles, order_.size() - i * pieceTriangles);
        std::atomic<bool> stop = false;
        // Should they have more to give than those that were sampled, the last ones give less.
        constexpr std::size_t atOnce = 16;
        for (std::size_t begin = 0; begin < others.size() && !stop; begin += atOnce) {
            const std::size_t some = std::min(atOnce, others.size() - begin);
            const std::size_t most = count > target_ ? (count - target_) / some : 0;
            const std::size_t before = left.count;
            mesh::parallelFor(some, 1, [&](std::size_t k) {
                if (stop) return;
                Piece piece;
                cut(others[begin + k], piece);
                const std::size_t whole = piece.engine->triangleCount();
                for (const Round& round : rounds) {
                    const std::size_t gone = whole - piece.engine->triangleCount();
                    mesh::PartOfProgress quiet(progress, 0, 1);
                    if (gone >= most || stop) break;
                    if (!piece.engine->advance(round.error, std::min(most - gone, round.mostOf(*piece.engine)), quiet))
                        stop = true;
                }
                keep(others[begin + k], piece, left);
            });
            for (std::size_t k = 0; k < some; ++k)
                count -= std::min(pieceTriangles, order_.size() - others[begin + k] * pieceTriangles);
            count += left.count - before;
            if (!progress.report(static_cast<double>(begin + some) / static_cast<double>(others.size()))) stop = true;
        }
        return !stop;
    }

    Pass putTogether(Left& left) {
        order_ = {};
        numberInPiece_ = {};
        Pass pass;
        pass.mesh.positions = std::move(left.positions);
        pass.mesh.regionNames = mesh_.regionNames;
        pass.wentTo = std::move(left.wentTo);
        for (std::vector<Collapse>& made : left.made) {
            pass.made.insert(pass.made.end(), made.begin(), made.end());
            made = {};
        }
        for (TriangleId t = 0; t < left.triangles.size(); ++t) {
            if (!left.alive[t]) continue;
            pass.mesh.triangles.push_back(left.triangles[t]);
            pass.sourceOf.push_back(t);
            if (!left.reach.empty()) pass.reach.push_back(left.reach[t]);
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
    std::vector<TriangleId> order_;           // piece after piece
    std::vector<VertexId> numberInPiece_;     // of each vertex that is of one piece
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
