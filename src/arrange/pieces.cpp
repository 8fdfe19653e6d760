// What is cut, gathered into one mesh, and the order of its pieces around crowded edges.
#include "arrange/pieces.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <map>

#include "arrange/cutting.h"
#include "arrange/edge_order.h"
#include "arrange/exact_numbering.h"
#include "mesh/parallel.h"

namespace zither::arrange {
namespace {

constexpr mesh::NoIndex none;

// 1 where q lies less than half a turn counter-clockwise of p about the direction from u to v, -1 beyond; 0 where
// errors of that size in each coordinate could change it.
int filteredTurn(const Point& u, const Point& v, const Point& p, const Point& q, double error) {
    const Point along = v - u;
    const Point a = p - u;
    const Point b = q - u;
    const double turn = along.cross(a).dot(b);
    const double size =
        std::max({along.cwiseAbs().maxCoeff(), a.cwiseAbs().maxCoeff(), b.cwiseAbs().maxCoeff()}) + error;
    // Each difference is off by 3 errors at most; of three factors one is off, in six products, and each product is
    // rounded.
    const double bound = 18 * 3 * error * size * size + 0x1p-46 * size * size * size;
    return turn > bound ? 1 : turn < -bound ? -1 : 0;
}

// All triangles and pieces, those that lie on each other once. `exactOf`: of each vertex of theirs, a point.
Pieces gather(const Mesh& input, const Prepared& prepared, Cutting& cutting, std::vector<std::uint32_t>& exactOf) {
    const CutSurface& s = prepared.surface;
    const Mesh& m = s.mesh;
    struct Kept {
        mesh::Triangle corner{};
        TriangleId source = 0;
        Windings weight{};
    };
    std::vector<Kept> wholes;
    std::vector<Kept> cut;
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (cutting.partners->of(t).empty()) wholes.push_back({m.triangles[t], t, s.weight[t]});
    for (Cutting::Block& block : cutting.blocks) {
        for (std::size_t i = 0; i < block.pieces.size(); ++i) {
            const Piece& piece = block.pieces[i];
            Windings weight = block.weights.empty() ? s.weight[piece.source] : block.weights[i].all;
            const mesh::Triangle& source = m.triangles[piece.source];
            if (!mesh::sameCorners(piece.corner, source)) {
                cut.push_back({piece.corner, piece.source, weight});
                continue;
            }
            if (sameTurn(piece.corner, source) < 0) weight = Windings{} - weight;
            wholes.push_back({source, piece.source, weight});
        }
        block.pieces = {};
    }
    std::sort(wholes.begin(), wholes.end(), [](const Kept& a, const Kept& b) { return a.source < b.source; });
    std::vector<std::uint32_t> used;
    for (const auto* list : {&wholes, &cut})
        for (const Kept& k : *list) used.insert(used.end(), k.corner.begin(), k.corner.end());
    Pieces out;
    const std::vector<VertexId> slot = numberPoints(cutting.points, std::move(used), out.mesh, out.givenVertex);
    out.whole = wholes.size();
    for (const auto* list : {&wholes, &cut})
        for (const Kept& k : *list) {
            const TriangleId original = prepared.original[k.source];
            out.mesh.triangles.push_back({slot[k.corner[0]], slot[k.corner[1]], slot[k.corner[2]]});
            out.sourceOf.push_back(original);
            out.weight.push_back(k.weight);
            if (!input.regions.empty()) out.mesh.regions.push_back(input.regions[original]);
        }
    out.mesh.regionNames = input.regionNames;
    out.mesh.regionsAre = input.regionsAre;
    exactOf.assign(out.mesh.positions.size(), none);
    for (std::uint32_t p = 0; p < slot.size(); ++p)
        if (slot[p] != none && exactOf[slot[p]] == none) exactOf[slot[p]] = p;
    return out;
}

// The angular order about edges of three and more pieces: by approximations where their errors cannot change it.
mesh::Outcome<void> orderEdges(const ExactPoints& points, const std::vector<std::uint32_t>& exactOf, Pieces& pieces,
                               mesh::Progress& progress) {
    const Mesh& m = pieces.mesh;
    const mesh::Edges edges(m);
    std::vector<mesh::EdgeId> crowded;
    for (mesh::EdgeId e = 0; e < edges.count(); ++e)
        if (edges.degree(e) > 2) crowded.push_back(e);
    pieces.fans.resize(crowded.size());
    const double error = points.grid().approximationError();
    std::atomic<bool> stop = false;
    mesh::parallelFor(crowded.size(), 64, [&](std::size_t i) {
        constexpr std::size_t asked = 16;  // edges between two questions whether to go on
        if (i % asked == 0 && !stop && !progress.report(0.9)) stop = true;
        if (stop) return;
        const auto around = edges.around(crowded[i]);
        const auto [u, v] = std::minmax({mesh::fromVertex(m, around[0]), mesh::toVertex(m, around[0])});
        std::map<std::uint32_t, exact::Homogeneous> known;
        const auto exactly = [&](std::uint32_t vertex) -> const exact::Homogeneous& {
            const auto [it, fresh] = known.try_emplace(vertex);
            if (fresh) it->second = points.exactPoint(exactOf[vertex]);
            return it->second;
        };
        pieces.fans[i] = byAngle(around, [&, u = u, v = v](mesh::HalfEdge a, mesh::HalfEdge b) {
            const VertexId p = mesh::oppositeVertex(m, a);
            const VertexId q = mesh::oppositeVertex(m, b);
            if (p == q) return 0;
            const int near = filteredTurn(m.positions[u], m.positions[v], m.positions[p], m.positions[q], error);
            return near != 0 ? near : -exact::orient3d(exactly(u), exactly(v), exactly(p), exactly(q));
        });
    });
    if (stop) return mesh::cancelled();
    return {};
}

}  // namespace

mesh::Outcome<Pieces> piecesOf(const check::Surveyed& s, const std::vector<std::uint8_t>& operandOf,
                               mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    SkinOptions options;
    options.solid = Solid::Difference;  // operands are counted apart
    options.operandOf = operandOf;
    options.keepCancelled = true;
    Prepared prepared = prepare(s, options);
    if (!progress.report(0.1)) return mesh::cancelled();
    const check::Surveyed cut(prepared.surface.mesh);
    Cutting cutting(prepared.surface, cut);
    if (auto done = cutting.run(progress); !done) return mesh::errorOf(done);
    std::vector<std::uint32_t> exactOf;
    Pieces pieces = gather(s.mesh(), prepared, cutting, exactOf);
    if (!progress.report(0.9)) return mesh::cancelled();
    if (auto done = orderEdges(cutting.points, exactOf, pieces, progress); !done) return mesh::errorOf(done);
    if (!progress.report(1)) return mesh::cancelled();
    return pieces;
}

}  // namespace zither::arrange
