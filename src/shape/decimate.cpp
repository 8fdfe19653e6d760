// Policy of decimation: large surfaces are taken apart into pieces that fit the cache, whose insides are brought down
// in parallel; then the engine goes over the whole. A limit on the deviation is kept by measuring.
#include "shape/decimate.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <cmath>
#include <memory>

#include "measure/deviation.h"
#include "measure/mass.h"
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

std::vector<VertexKind> fixedOutsidePick(const Mesh& m, const Pick& pick) {
    std::vector<VertexKind> allowed(m.positions.size(), VertexKind::Inner);
    if (pick.everything()) return allowed;
    const std::vector<std::uint8_t> chosen = pick.mask(m);
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (!chosen[t])
            for (VertexId v : m.triangles[t]) allowed[v] = VertexKind::Fixed;
    return allowed;
}

class Decimating {
public:
    Decimating(const Mesh& m, const Pick& pick, const DecimateOptions& options)
        : mesh_(m),
          target_(std::min(options.targetTriangles, m.triangles.size())),
          allowed_(fixedOutsidePick(m, pick)) {
        const mesh::Box box = mesh::boxOf(m);
        settings_ = {box.centre(), box.diagonal() > 0 ? box.diagonal() : 1, options.lockBorders};
    }

    // Down to the target, or until the next collapse would cost more than errorLimit (squared length, relative).
    Outcome<DecimateResult> run(double errorLimit, Progress& progress) {
        const double wanted = leftForTheWhole * static_cast<double>(target_);
        const bool inPieces =
            mesh_.triangles.size() > 3 * pieceTriangles && wanted < static_cast<double>(mesh_.triangles.size());
        if (!inPieces) return whole(mesh_, allowed_, errorLimit, progress);
        mesh::PartOfProgress first(progress, 0, 0.8);
        Outcome<Mesh> lighter = throughPieces(errorLimit, static_cast<std::size_t>(wanted), first);
        if (!lighter) return tl::unexpected(lighter.error());
        mesh::PartOfProgress last(progress, 0.8, 1);
        return whole(*lighter, lighterAllowed_, errorLimit, last);
    }

private:
    Outcome<DecimateResult> whole(const Mesh& m, const std::vector<VertexKind>& allowed, double errorLimit,
                                  Progress& progress) {
        EdgeCollapse engine(m, allowed, settings_);
        const std::size_t surplus = m.triangles.size() - std::min(target_, m.triangles.size());
        if (!engine.advance(errorLimit, surplus, progress)) return mesh::cancelled();
        DecimateResult result;
        result.mesh.positions = m.positions;
        result.mesh.regionNames = m.regionNames;
        for (TriangleId t = 0; t < m.triangles.size(); ++t) {
            if (!engine.alive(t)) continue;
            result.mesh.triangles.push_back(engine.triangle(t));
            if (!m.regions.empty()) result.mesh.regions.push_back(m.regions[t]);
            for (VertexId v : engine.triangle(t)) result.mesh.positions[v] = engine.position(v);
        }
        mesh::dropUnusedVertices(result.mesh);
        result.removed = mesh_.triangles.size() - result.mesh.triangles.size();
        result.reachedTarget = result.mesh.triangles.size() <= target_;
        return result;
    }

    // Neighbours in Hilbert order make compact pieces; vertices of several pieces are Foreign to each.
    std::vector<Piece> takeApart() const {
        const std::vector<TriangleId> order = space::hilbertOrder(mesh_);
        std::vector<Piece> pieces((order.size() + pieceTriangles - 1) / pieceTriangles);
        std::vector<std::uint32_t> pieceOf(mesh_.positions.size(), mesh::noEdge);
        std::vector<VertexId> numberInPiece(mesh_.positions.size());
        std::vector<std::uint8_t> foreign(mesh_.positions.size(), 0);
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
    }

    // Rounds of rising error over all pieces: what is cheap anywhere goes before what is dear elsewhere. In each round
    // a piece may remove its share of what is still to go, so that the sum does not depend on which piece ran first.
    Outcome<Mesh> throughPieces(double errorLimit, std::size_t wanted, Progress& progress) {
        std::vector<Piece> pieces = takeApart();
        constexpr double firstError = 0x1p-90;
        constexpr double lastError = 1;
        std::size_t left = mesh_.triangles.size();
        std::atomic<bool> stop = !progress.report(0.3);
        for (double error = firstError; error < lastError && left > wanted && !stop; error *= 4) {
            const double limit = std::min(error, errorLimit);
            std::size_t candidates = 0;
            for (const Piece& p : pieces) candidates += p.engine->candidatesUpTo(limit);
            const double share =
                candidates > 0 ? static_cast<double>(left - wanted) / static_cast<double>(candidates) : 0;
            mesh::parallelFor(pieces.size(), 1, [&](std::size_t i) {
                const auto most =
                    static_cast<std::size_t>(share * static_cast<double>(pieces[i].engine->candidatesUpTo(limit)));
                mesh::PartOfProgress quiet(progress, 0.3, 0.9);
                if (!stop && !pieces[i].engine->advance(limit, most, quiet)) stop = true;
            });
            left = 0;
            for (const Piece& p : pieces) left += p.engine->triangleCount();
            if (limit < error) break;
        }
        if (stop) return mesh::cancelled();
        return putTogether(pieces);
    }

    Mesh putTogether(const std::vector<Piece>& pieces) {
        Mesh result;
        result.positions = mesh_.positions;
        result.regionNames = mesh_.regionNames;
        std::vector<Triangle> triangles(mesh_.triangles.size());
        std::vector<std::uint8_t> alive(mesh_.triangles.size(), 0);
        for (const Piece& p : pieces)
            for (TriangleId t = 0; t < p.triangles.size(); ++t) {
                if (!p.engine->alive(t)) continue;
                alive[p.triangles[t]] = 1;
                for (unsigned k = 0; k < 3; ++k) {
                    const VertexId v = p.engine->triangle(t)[k];
                    triangles[p.triangles[t]][k] = p.vertices[v];
                    result.positions[p.vertices[v]] = p.engine->position(v);
                }
            }
        for (TriangleId t = 0; t < triangles.size(); ++t) {
            if (!alive[t]) continue;
            result.triangles.push_back(triangles[t]);
            if (!mesh_.regions.empty()) result.regions.push_back(mesh_.regions[t]);
        }
        compact(result);
        return result;
    }

    // Drops unused vertices and keeps what is allowed of the others beside them.
    void compact(Mesh& m) {
        std::vector<std::uint8_t> used(m.positions.size(), 0);
        for (const Triangle& t : m.triangles)
            for (VertexId v : t) used[v] = 1;
        for (VertexId v = 0; v < used.size(); ++v)
            if (used[v]) lighterAllowed_.push_back(allowed_[v]);
        mesh::dropUnusedVertices(m);
    }

    const Mesh& mesh_;
    std::size_t target_;
    std::vector<VertexKind> allowed_;
    std::vector<VertexKind> lighterAllowed_;
    CollapseSettings settings_;
};

// The quadric's error is a weighted sum of squared distances and bounds nothing; so the result is measured, and the
// limit on the error moved until the measure holds and, if it can be had, most of the deviation allowed is used.
Outcome<DecimateResult> decimateWithin(const Mesh& m, const Pick& pick, const DecimateOptions& options,
                                       Progress& progress) {
    constexpr int mostTries = 8;
    constexpr double wellUsed = 0.5;
    const double size = std::max(mesh::boxOf(m).diagonal(), std::numeric_limits<double>::min());
    const double meanArea =
        measure::massOf(m).area / (size * size) / std::max<double>(1, static_cast<double>(m.triangles.size()));
    const space::TriangleTree tree(m);
    DecimateResult best;
    best.mesh = m;
    best.reachedTarget = m.triangles.size() <= options.targetTriangles;
    double low = 0;
    double high = std::numeric_limits<double>::infinity();
    double limit = options.maxDeviation / size;
    for (int attempt = 0; attempt < mostTries; ++attempt) {
        mesh::PartOfProgress part(progress, static_cast<double>(attempt) / mostTries, (attempt + 1.0) / mostTries);
        Outcome<DecimateResult> result = Decimating(m, pick, options).run(limit * limit * meanArea, part);
        if (!result) return result;
        const auto comparison = measure::compare(tree, space::TriangleTree(result->mesh), part, options.maxDeviation);
        if (!comparison) return tl::unexpected(comparison.error());
        result->measuredDeviation = std::max(comparison->aToB.max, comparison->bToA.max);
        const bool holds = result->measuredDeviation <= options.maxDeviation;
        const bool done =
            holds && (result->reachedTarget || result->measuredDeviation > wellUsed * options.maxDeviation);
        (holds ? low : high) = limit;
        if (holds && result->removed >= best.removed) best = std::move(*result);
        if (done) break;
        limit = !std::isfinite(high) ? 4 * limit : low > 0 ? std::sqrt(low * high) : 0.25 * high;
    }
    return best;
}

}  // namespace

Outcome<DecimateResult> decimate(const Mesh& m, const Pick& pick, const DecimateOptions& options, Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    if (!std::isfinite(options.maxDeviation))
        return Decimating(m, pick, options).run(std::numeric_limits<double>::infinity(), progress);

    return decimateWithin(m, pick, options, progress);
}

}  // namespace zither::shape
