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
constexpr std::size_t fewestSampled = 24;
constexpr std::size_t oneSampledIn = 8;

// Relative to the whole, as errors are: more than any that there is.
constexpr double lastError = 1;

// A piece of the surface with numbers of its own, and what brings it down.
struct Piece {
    Mesh mesh;
    std::span<const TriangleId> triangles;  // in the whole
    std::vector<VertexId> vertices;         // in the whole
    std::vector<VertexKind> allowed;
    std::vector<std::uint8_t> offered;
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

class BringingDown {
public:
    BringingDown(const Undivided& surface, const Pieces& pieces, const Goal& goal)
        : s_(surface),
          m_(surface.mesh),
          pieces_(pieces),
          goal_(goal),
          numberInPiece_(m_.positions.size(), mesh::noIndex),
          made_(pieces.count()) {
        const bool all = pieces.order.size() == m_.triangles.size();
        if (all)
            left_.triangles.resize(m_.triangles.size());
        else
            left_.triangles = m_.triangles;
        left_.alive.resize(m_.triangles.size(), all ? 0 : 1);
        for (const TriangleId t : pieces.order) left_.alive[t] = 0;
        left_.positions = m_.positions;
        left_.wentTo.resize(m_.positions.size());
        std::iota(left_.wentTo.begin(), left_.wentTo.end(), 0U);
        if (std::isfinite(s_.settings.mostReach))
            left_.reach = s_.reach.empty() ? std::vector<float>(m_.triangles.size()) : s_.reach;
    }

    Outcome<BroughtDown> run(Progress& progress) {
        if (!progress.report(0.1)) return mesh::cancelled();
        const std::size_t count = pieces_.count();
        // Where there is no number to come to, none has to know of the others.
        if (goal_.wanted == 0) rounds_ = {{lastError, 1e9}};
        const std::size_t sampled = goal_.wanted == 0 ? 0
                                    : goal_.sampled   ? std::min(count, std::max(fewestSampled, count / oneSampledIn))
                                                      : count;
        std::vector<std::size_t> sample;
        std::vector<std::size_t> others;
        for (std::size_t i = 0; i < count; ++i)
            (i * sampled / count != (i + 1) * sampled / count ? sample : others).push_back(i);
        mesh::PartOfProgress first(progress, 0.1, others.empty() ? 1 : 0.25);
        if (!sample.empty() && !findRounds(sample, first)) return mesh::cancelled();
        mesh::PartOfProgress rest(progress, 0.25, 1);
        if (!repeatRounds(others, rest)) return mesh::cancelled();
        for (std::vector<Collapse>& made : made_) {
            left_.made.insert(left_.made.end(), made.begin(), made.end());
            made = {};
        }
        return std::move(left_);
    }

private:
    // Vertices of several pieces are Foreign to each.
    void cut(std::size_t number, Piece& piece) {
        piece.triangles = pieces_[number];
        // Several pieces number the vertices of a seam, perhaps at once.
        std::unordered_map<std::uint32_t, VertexId> onSeam;
        for (const TriangleId t : piece.triangles) {
            Triangle local;
            for (unsigned k = 0; k < 3; ++k) {
                const VertexId v = m_.triangles[t][k];
                const bool seam = pieces_.seam[v] != 0;
                VertexId& inPiece = seam ? onSeam.try_emplace(v, mesh::noIndex).first->second : numberInPiece_[v];
                if (inPiece == mesh::noIndex) {
                    inPiece = static_cast<VertexId>(piece.vertices.size());
                    piece.vertices.push_back(v);
                    piece.mesh.positions.push_back(m_.positions[v]);
                    piece.allowed.push_back(seam ? VertexKind::Foreign : s_.allowed[v]);
                    if (!s_.offered.empty()) piece.offered.push_back(s_.offered[v]);
                }
                local[k] = inPiece;
            }
            piece.mesh.triangles.push_back(local);
            if (!m_.regions.empty()) piece.mesh.regions.push_back(m_.regions[t]);
        }
        CollapseSettings settings = s_.settings;
        settings.offered = piece.offered.empty() ? nullptr : &piece.offered;
        piece.engine.emplace(piece.mesh, piece.allowed, settings);
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
        const std::size_t untouched = m_.triangles.size() - pieces_.order.size();
        const double wanted = static_cast<double>(goal_.wanted > untouched ? goal_.wanted - untouched : 0);
        const double share = wanted / static_cast<double>(std::max<std::size_t>(1, pieces_.order.size()));
        const double enough = std::round(triangles() * share);
        constexpr double firstError = 0x1p-90;
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
                // Less one: a collapse takes two.
                const std::size_t most = std::max<std::size_t>(1, round.mostOf(engine)) - 1;
                if (!stop && !engine.advance(error, most, quiet)) stop = true;
            });
        }
        // What is left when shares are rounded down.
        for (std::size_t i = 0; i < pieces.size() && !goal_.sampled && !stop; ++i) {
            const double surplus = triangles() - enough;
            if (surplus < 1) break;
            if (!pieces[i].engine->advance(lastError, static_cast<std::size_t>(surplus), quiet)) stop = true;
        }
        if (stop) return false;
        mesh::parallelFor(pieces.size(), 1, [&](std::size_t i) { keep(sample[i], pieces[i]); });
        return true;
    }

    // One piece after another, some at once. Should they have more to give than those that were sampled, the last ones
    // give less. False where cancelled.
    bool repeatRounds(const std::vector<std::size_t>& others, Progress& progress) {
        constexpr std::size_t atOnce = 48;
        std::size_t untouched = 0;  // triangles of pieces that are still to come
        for (const std::size_t i : others) untouched += pieces_[i].size();
        std::atomic<bool> stop = false;
        for (std::size_t begin = 0; begin < others.size() && !stop; begin += atOnce) {
            const std::size_t some = std::min(atOnce, others.size() - begin);
            const std::size_t all = count_ + untouched;
            // Less one: a collapse takes two.
            const std::size_t most = all > goal_.least + some ? (all - goal_.least) / some - 1 : 0;
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
            for (std::size_t k = 0; k < some; ++k) untouched -= pieces_[others[begin + k]].size();
        }
        return !stop;
    }

    const Undivided& s_;
    const Mesh& m_;
    const Pieces& pieces_;
    Goal goal_;
    std::vector<VertexId> numberInPiece_;  // of each vertex that is of one piece
    std::vector<Round> rounds_;
    BroughtDown left_;
    std::vector<std::vector<Collapse>> made_;  // of each piece
    std::atomic<std::size_t> count_ = 0;       // of triangles that are left of pieces that are done
};

// Of its pieces each vertex notes any; the others see that it is not theirs alone.
std::vector<std::uint8_t> seamsOf(const Mesh& m, const Pieces& pieces) {
    std::vector<std::uint32_t> pieceOf(m.positions.size(), mesh::noIndex);
    std::vector<std::uint8_t> seam(m.positions.size(), 0);
    const auto forEachCorner = [&](const auto& use) {
        mesh::parallelFor(pieces.count(), 1, [&](std::size_t piece) {
            for (const TriangleId t : pieces[piece])
                for (const VertexId v : m.triangles[t]) use(v, static_cast<std::uint32_t>(piece));
        });
    };
    constexpr auto relaxed = std::memory_order_relaxed;
    forEachCorner([&](VertexId v, std::uint32_t piece) { std::atomic_ref(pieceOf[v]).store(piece, relaxed); });
    forEachCorner([&](VertexId v, std::uint32_t piece) {
        if (pieceOf[v] != piece) std::atomic_ref(seam[v]).store(1, relaxed);
    });
    return seam;
}

}  // namespace

Pieces piecesOf(const Mesh& m, mesh::Box box, double shift) {
    box.min -= shift * box.extent();
    Pieces pieces;
    pieces.order = mesh::roughHilbertOrder(m, box);
    for (std::size_t begin = 0; begin < pieces.order.size(); begin += pieceTriangles) pieces.begin.push_back(begin);
    pieces.begin.push_back(pieces.order.size());
    pieces.seam = seamsOf(m, pieces);
    return pieces;
}

Pieces pieceAround(const Mesh& m, std::vector<std::uint8_t> vertices, int rings) {
    const auto hasOne = [&](const Triangle& t) { return vertices[t[0]] || vertices[t[1]] || vertices[t[2]]; };
    for (int ring = 0; ring < rings; ++ring) {
        const std::vector<std::uint8_t> inner = vertices;
        for (const Triangle& t : m.triangles)
            if (inner[t[0]] || inner[t[1]] || inner[t[2]])
                for (const VertexId v : t) vertices[v] = 1;
    }
    Pieces pieces;
    pieces.seam.assign(m.positions.size(), 0);
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (hasOne(m.triangles[t]))
            pieces.order.push_back(t);
        else
            for (const VertexId v : m.triangles[t]) pieces.seam[v] = 1;
    pieces.begin = {0, pieces.order.size()};
    return pieces;
}

Outcome<BroughtDown> bringDownInPieces(const Undivided& surface, const Pieces& pieces, const Goal& goal,
                                       Progress& progress) {
    return BringingDown(surface, pieces, goal).run(progress);
}

}  // namespace zither::shape
