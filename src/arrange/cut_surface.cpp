// Duplicates become weights of the first of their kind; degenerate triangles are left out.
#include "arrange/cut_surface.h"

#include <algorithm>
#include <map>

#include "check/surplus_triangles.h"
#include "mesh/edges.h"

namespace zither::arrange {
namespace {

constexpr mesh::NoIndex none;

std::vector<std::uint8_t> openShells(const Mesh& m, const mesh::Edges& edges, const mesh::Groups& shells) {
    std::vector<std::uint8_t> open(shells.count, 0);
    for (mesh::EdgeId e = 0; e < edges.count(); ++e)
        if (balanceAt(m, edges, e) != 0) open[shells.of[mesh::triangleOf(edges.around(e).front())]] = 1;
    return open;
}

}  // namespace

int balanceAt(const Mesh& m, const mesh::Edges& edges, mesh::EdgeId e) {
    int balance = 0;
    for (const mesh::HalfEdge h : edges.around(e)) balance += mesh::fromVertex(m, h) < mesh::toVertex(m, h) ? 1 : -1;
    return balance;
}

int sameTurn(const mesh::Triangle& a, const mesh::Triangle& b) {
    for (unsigned k = 0; k < 3; ++k)
        if (a[0] == b[k]) return a[1] == b[(k + 1) % 3] ? 1 : -1;
    return 0;
}

Prepared prepare(const check::Surveyed& s, const SkinOptions& options) {
    const Mesh& m = s.mesh();
    const mesh::Groups& shells = s.shells();
    const std::vector<std::uint8_t>& degenerate = s.degenerate();
    Prepared p;
    p.shellOf = shells.of;
    p.shells = shells.count;
    p.shellOpen = openShells(m, s.edges(), shells);
    const auto weightOf = [&](TriangleId t, int sign) {
        Windings w{};
        const bool second = options.solid != Solid::Union && !options.operandOf.empty() && options.operandOf[t] != 0;
        w[second ? 1 : 0] = static_cast<std::int16_t>(sign);
        return w;
    };
    // Duplicates add to the first of their kind, or take from it.
    std::map<mesh::Triangle, TriangleId> firstOf;
    std::vector<std::uint8_t> surplus(m.triangles.size(), 0);
    for (TriangleId t : check::surplusTriangles(s)) {
        surplus[t] = 1;
        firstOf.emplace(mesh::sortedCorners(m.triangles[t]), none);
    }
    std::vector<TriangleId> placeOf(firstOf.empty() ? 0 : m.triangles.size());
    CutSurface& out = p.surface;
    out.mesh.positions = m.positions;
    const auto isExact = [&](TriangleId t) {
        return options.soundElsewhere || (!options.around && !p.shellOpen[shells.of[t]]);
    };
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (degenerate[t] || surplus[t]) continue;
        if (!firstOf.empty()) {
            const auto found = firstOf.find(mesh::sortedCorners(m.triangles[t]));
            if (found != firstOf.end()) found->second = t;
            placeOf[t] = static_cast<TriangleId>(out.mesh.triangles.size());
        }
        p.original.push_back(t);
        out.mesh.triangles.push_back(m.triangles[t]);
        out.weight.push_back(weightOf(t, 1));
        out.exactWeight.push_back(isExact(t) ? weightOf(t, 1) : Windings{});
    }
    for (TriangleId t = 0; t < surplus.size(); ++t) {
        if (!surplus[t] || degenerate[t]) continue;
        const TriangleId first = firstOf.at(mesh::sortedCorners(m.triangles[t]));
        const TriangleId place = placeOf[first];
        const Windings w = weightOf(t, sameTurn(m.triangles[first], m.triangles[t]));
        out.weight[place] = out.weight[place] + w;
        if (isExact(t)) out.exactWeight[place] = out.exactWeight[place] + w;
    }
    if (!firstOf.empty() && !options.keepCancelled) {
        // What cancelled out separates nothing.
        std::size_t kept = 0;
        for (std::size_t i = 0; i < p.original.size(); ++i) {
            if (out.weight[i] == Windings{} && out.exactWeight[i] == Windings{}) continue;
            p.original[kept] = p.original[i];
            out.mesh.triangles[kept] = out.mesh.triangles[i];
            out.weight[kept] = out.weight[i];
            out.exactWeight[kept++] = out.exactWeight[i];
        }
        p.original.resize(kept);
        out.mesh.triangles.resize(kept);
        out.weight.resize(kept);
        out.exactWeight.resize(kept);
    }
    if (!options.mayCross.empty())
        for (const TriangleId t : p.original) out.mayCross.push_back(options.mayCross[t]);
    return p;
}

}  // namespace zither::arrange
