// Pieces follow on each other in Hilbert order. Some of them tell in rounds of rising error how dear it gets; the
// others repeat the rounds, so that few are in memory at once.
#include "shape/decimate_pieces.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <numeric>
#include <optional>
#include <span>
#include <unordered_map>

#include "mesh/hilbert.h"
#include "mesh/parallel.h"

namespace zither::shape {
namespace {

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

class Pieces {
public:
    Pieces(const Undivided& surface, std::size_t wanted, std::size_t least)
        : s_(surface),
          m_(surface.mesh),
          wanted_(wanted),
          least_(least),
          order_(mesh::hilbertOrder(surface.mesh)),
          numberInPiece_(m_.positions.size(), mesh::noIndex),
          made_(pieceCount()) {
        left_.triangles.resize(m_.triangles.size());
        left_.alive.resize(m_.triangles.size(), 0);
        left_.positions = m_.positions;
        left_.wentTo.resize(m_.positions.size());
        std::iota(left_.wentTo.begin(), left_.wentTo.end(), 0U);
        if (std::isfinite(s_.settings.mostReach)) left_.reach.resize(m_.triangles.size());
        findSeams();
    }

    Outcome<BroughtDown> run(Progress& progress) {
        if (!progress.report(0.1)) return mesh::cancelled();
        const std::size_t sampled = std::min(pieceCount(), std::max(fewestSampled, pieceCount() / oneSampledIn));
        std::vector<std::size_t> sample;
        std::vector<std::size_t> others;
        for (std::size_t i = 0; i < pieceCount(); ++i)
            (i * sampled / pieceCount() != (i + 1) * sampled / pieceCount() ? sample : others).push_back(i);
        mesh::PartOfProgress first(progress, 0.1, others.empty() ? 1 : 0.25);
        if (!findRounds(sample, first)) return mesh::cancelled();
        mesh::PartOfProgress rest(progress, 0.25, 1);
        if (!repeatRounds(others, rest)) return mesh::cancelled();
        for (std::vector<Collapse>& made : made_) {
            left_.made.insert(left_.made.end(), made.begin(), made.end());
            made = {};
        }
        return std::move(left_);
    }

private:
    [[nodiscard]] std::size_t pieceCount() const { return (order_.size() + pieceTriangles - 1) / pieceTriangles; }
    [[nodiscard]] std::span<const TriangleId> trianglesOf(std::size_t piece) const {
        const std::size_t begin = piece * pieceTriangles;
        return std::span(order_).subspan(begin, std::min(pieceTriangles, order_.size() - begin));
    }

    void findSeams() {
        left_.seam.assign(m_.positions.size(), 0);
        std::vector<std::uint32_t> pieceOf(m_.positions.size(), mesh::noIndex);
        for (std::uint32_t piece = 0; piece < pieceCount(); ++piece)
            for (const TriangleId t : trianglesOf(piece))
                for (const VertexId v : m_.triangles[t]) {
                    left_.seam[v] |= pieceOf[v] != mesh::noIndex && pieceOf[v] != piece;
                    pieceOf[v] = piece;
                }
    }

    // Vertices of several pieces are Foreign to each.
    void cut(std::size_t number, Piece& piece) {
        piece.triangles = trianglesOf(number);
        // Several pieces number the vertices of a seam, perhaps at once.
        std::unordered_map<std::uint32_t, VertexId> onSeam;
        for (const TriangleId t : piece.triangles) {
            Triangle local;
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId v = m_.triangles[t][k];
                const bool seam = left_.seam[v] != 0;
                VertexId& inPiece = seam ? onSeam.try_emplace(v, mesh::noIndex).first->second : numberInPiece_[v];
                if (inPiece == mesh::noIndex) {
                    inPiece = static_cast<VertexId>(piece.vertices.size());
                    piece.vertices.push_back(v);
                    piece.mesh.positions.push_back(m_.positions[v]);
                    piece.allowed.push_back(seam ? VertexKind::Foreign : s_.allowed[v]);
                }
                local[k] = inPiece;
            }
            piece.mesh.triangles.push_back(local);
            if (!m_.regions.empty()) piece.mesh.regions.push_back(m_.regions[t]);
        }
        piece.engine.emplace(piece.mesh, piece.allowed, s_.settings);
        if (s_.reach.empty()) return;
        std::vector<float> reach;
        for (const TriangleId t : piece.triangles) reach.push_back(s_.reach[t]);
        piece.engine->startFrom(std::move(reach));
    }

    // Pieces have no triangle and no vertex in common, but for vertices that stay.
    void keep(std::size_t number, const Piece& piece) {
        const EdgeCollapse& engine = *piece.engine;
        made_[number].reserve(engine.made().size());
        for (const Collapse& c : engine.made())
            made_[number].push_back({piece.vertices[c.u], piece.vertices[c.v], c.at});
        for (VertexId v = 0; v < piece.vertices.size(); ++v)
            if (const VertexId to = engine.survivorOf(v); to != v) left_.wentTo[piece.vertices[v]] = piece.vertices[to];
        for (TriangleId t = 0; t < piece.triangles.size(); ++t) {
            if (!engine.alive(t)) continue;
            const TriangleId whole = piece.triangles[t];
            left_.alive[whole] = 1;
            if (!left_.reach.empty()) left_.reach[whole] = engine.reach(t);
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId v = engine.triangle(t)[k];
                left_.triangles[whole][k] = piece.vertices[v];
                if (piece.allowed[v] != VertexKind::Foreign) left_.positions[piece.vertices[v]] = engine.position(v);
            }
        }
        count_ += engine.triangleCount();
    }

    // Rounds of rising error over some of the pieces: what is cheap anywhere goes before what is dear elsewhere. In
    // each a piece may remove its share of what is still to go, so that the sum does not depend on which piece ran
    // first. False where cancelled.
    bool findRounds(const std::vector<std::size_t>& sample, Progress& progress) {
        std::vector<Piece> pieces(sample.size());
        mesh::parallelFor(pieces.size(), 1, [&](std::size_t i) { cut(sample[i], pieces[i]); });
        const auto sum = [&](const auto& of) {
            std::size_t total = 0;
            for (const Piece& p : pieces) total += of(*p.engine);
            return static_cast<double>(total);
        };
        const auto triangles = [&] { return sum([](const EdgeCollapse& e) { return e.triangleCount(); }); };
        const double enough = triangles() * static_cast<double>(wanted_) / static_cast<double>(m_.triangles.size());
        constexpr double firstError = 0x1p-90;
        constexpr double lastError = 1;
        std::atomic<bool> stop = !progress.report(0.5);
        // Of many pieces at once none knows how far all are: they only ask whether to go on.
        mesh::PartOfProgress quiet(progress, 0.5, 0.5);
        for (double error = firstError; error < lastError && !stop; error *= 4) {
            const double surplus = triangles() - enough;
            if (surplus <= 0) break;
            const double candidates = sum([&](const EdgeCollapse& e) { return e.candidatesUpTo(error); });
            const Round round{error, candidates > 0 ? surplus / candidates : 0};
            rounds_.push_back(round);
            mesh::parallelFor(pieces.size(), 1, [&](std::size_t i) {
                EdgeCollapse& engine = *pieces[i].engine;
                if (!stop && !engine.advance(error, round.mostOf(engine), quiet)) stop = true;
            });
        }
        if (stop) return false;
        mesh::parallelFor(pieces.size(), 1, [&](std::size_t i) { keep(sample[i], pieces[i]); });
        return true;
    }

    // One piece after another, some at once. Should they have more to give than those that were sampled, the last ones
    // give less. False where cancelled.
    bool repeatRounds(const std::vector<std::size_t>& others, Progress& progress) {
        constexpr std::size_t atOnce = 16;
        std::size_t untouched = 0;  // triangles of pieces that are still to come
        for (const std::size_t i : others) untouched += trianglesOf(i).size();
        std::atomic<bool> stop = false;
        for (std::size_t begin = 0; begin < others.size() && !stop; begin += atOnce) {
            const std::size_t some = std::min(atOnce, others.size() - begin);
            const std::size_t all = count_ + untouched;
            // Less one: a collapse takes two.
            const std::size_t most = all > least_ + some ? (all - least_) / some - 1 : 0;
            const double done = static_cast<double>(begin) / static_cast<double>(others.size());
            mesh::PartOfProgress quiet(progress, done, done);
            mesh::parallelFor(some, 1, [&](std::size_t k) {
                if (stop) return;
                Piece piece;
                cut(others[begin + k], piece);
                EdgeCollapse& engine = *piece.engine;
                const std::size_t whole = engine.triangleCount();
                for (const Round& round : rounds_) {
                    const std::size_t gone = whole - engine.triangleCount();
                    if (gone >= most || stop) break;
                    if (!engine.advance(round.error, std::min(most - gone, round.mostOf(engine)), quiet)) stop = true;
                }
                keep(others[begin + k], piece);
            });
            for (std::size_t k = 0; k < some; ++k) untouched -= trianglesOf(others[begin + k]).size();
        }
        return !stop;
    }

    const Undivided& s_;
    const Mesh& m_;
    std::size_t wanted_;
    std::size_t least_;
    std::vector<TriangleId> order_;        // piece after piece
    std::vector<VertexId> numberInPiece_;  // of each vertex that is of one piece
    std::vector<Round> rounds_;
    BroughtDown left_;
    std::vector<std::vector<Collapse>> made_;  // of each piece
    std::atomic<std::size_t> count_ = 0;       // of triangles that are left of pieces that are done
};

}  // namespace

Outcome<BroughtDown> bringDownInPieces(const Undivided& surface, std::size_t wanted, std::size_t least,
                                       Progress& progress) {
    return Pieces(surface, wanted, least).run(progress);
}

}  // namespace zither::shape
