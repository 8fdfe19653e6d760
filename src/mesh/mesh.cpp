// Whole-mesh helpers that every floor needs.
#include "mesh/mesh.h"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <numeric>

#include "mesh/parallel.h"
#include "mesh/vertex_join.h"

namespace zither::mesh {

namespace {

// of(i): the i-th triangle.
template <class Of>
Box boxOfTriangles(const Mesh& m, std::size_t count, const Of& of) {
    return parallelBlocks(
        count, Box{},
        [&](std::size_t begin, std::size_t end) {
            Box box;
            for (std::size_t i = begin; i < end; ++i)
                for (VertexId v : m.triangles[of(i)]) box.add(m.positions[v]);
            return box;
        },
        [](Box a, const Box& b) {
            a.add(b);
            return a;
        });
}

}  // namespace

Box boxOf(const Mesh& m) {
    return boxOfTriangles(m, m.triangles.size(), [](std::size_t i) { return i; });
}

Box boxOf(const Mesh& m, std::span<const TriangleId> triangles) {
    return boxOfTriangles(m, triangles.size(), [&](std::size_t i) { return triangles[i]; });
}

std::size_t dropUnusedVertices(Mesh& m) {
    std::vector<VertexId> newId(m.positions.size(), noIndex);
    for (const Triangle& t : m.triangles)
        for (VertexId v : t) newId[v] = 0;
    VertexId next = 0;
    for (std::size_t v = 0; v < newId.size(); ++v) {
        if (newId[v] == noIndex) continue;
        m.positions[next] = m.positions[v];
        newId[v] = next++;
    }
    const std::size_t dropped = m.positions.size() - next;
    m.positions.resize(next);
    if (dropped > 0)
        for (Triangle& t : m.triangles)
            for (VertexId& v : t) v = newId[v];
    return dropped;
}

Mesh keepTriangles(const Mesh& m, const std::vector<std::uint8_t>& keep) {
    Mesh result;
    result.positions = m.positions;
    result.regionNames = m.regionNames;
    result.regionsAre = m.regionsAre;
    for (std::size_t t = 0; t < m.triangles.size(); ++t) {
        if (!keep[t]) continue;
        result.triangles.push_back(m.triangles[t]);
        if (!m.regions.empty()) result.regions.push_back(m.regions[t]);
    }
    dropUnusedVertices(result);
    return result;
}

bool isSameSurface(const Mesh& a, const Mesh& b) {
    if (a.triangles.size() != b.triangles.size()) return false;
    std::vector<VertexId> inB(a.positions.size(), noIndex);
    std::vector<VertexId> inA(b.positions.size(), noIndex);
    for (TriangleId t = 0; t < a.triangles.size(); ++t)
        for (unsigned k = 0; k < 3; ++k) {
            const VertexId va = a.triangles[t][k];
            const VertexId vb = b.triangles[t][k];
            if (inB[va] == noIndex && inA[vb] == noIndex) {
                if (a.positions[va] != b.positions[vb]) return false;
                inB[va] = vb;
                inA[vb] = va;
            }
            if (inB[va] != vb || inA[vb] != va) return false;
        }
    return true;
}

std::vector<VertexId> joinInPlace(Mesh& m) {
    std::vector<VertexId> first = firstOfEqual(std::span<const Point>(m.positions));
    for (Triangle& t : m.triangles)
        for (VertexId& v : t) v = first[v];
    return first;
}

void joinEqualVertices(Mesh& m) {
    joinInPlace(m);
    dropUnusedVertices(m);
}

namespace {
void ensureRegions(Mesh& m) {
    if (m.regionNames.empty()) m.regionNames.emplace_back();
    if (m.regions.empty()) m.regions.assign(m.triangles.size(), 0);
}
}  // namespace

void append(Mesh& a, const Mesh& b) {
    if (a.triangles.empty() && a.positions.empty()) {
        a = b;
        return;
    }
    Mesh right = b;
    ensureRegions(a);
    ensureRegions(right);
    const auto vertexShift = static_cast<VertexId>(a.positions.size());
    const auto regionShift = static_cast<std::uint32_t>(a.regionNames.size());
    a.positions.insert(a.positions.end(), right.positions.begin(), right.positions.end());
    for (Triangle t : right.triangles)
        a.triangles.push_back({t[0] + vertexShift, t[1] + vertexShift, t[2] + vertexShift});
    for (std::uint32_t r : right.regions) a.regions.push_back(r + regionShift);
    a.regionNames.insert(a.regionNames.end(), right.regionNames.begin(), right.regionNames.end());
}

void appendPart(Mesh& a, const Mesh& b) {
    const std::size_t first = a.triangles.size();
    const std::size_t shift = a.positions.size();
    a.positions.insert(a.positions.end(), b.positions.begin(), b.positions.end());
    for (const Triangle& v : b.triangles) a.triangles.push_back({v[0] + shift, v[1] + shift, v[2] + shift});
    if (a.regions.empty() && b.regions.empty()) return;
    a.regions.resize(first, 0);
    a.regions.insert(a.regions.end(), b.regions.begin(), b.regions.end());
    a.regions.resize(a.triangles.size(), 0);
}

std::string placeText(const Point& p) {
    return fmt::format("({:.4g}, {:.4g}, {:.4g})", p.x(), p.y(), p.z());
}

std::string validate(const Mesh& m) {
    for (std::size_t t = 0; t < m.triangles.size(); ++t)
        for (VertexId v : m.triangles[t])
            if (v >= m.positions.size())
                return fmt::format("triangle {} uses vertex {} of {}", t, v, m.positions.size());
    for (std::size_t v = 0; v < m.positions.size(); ++v)
        if (!m.positions[v].allFinite()) return fmt::format("vertex {} is not finite", v);
    if (!m.regions.empty() && m.regions.size() != m.triangles.size())
        return fmt::format("{} regions for {} triangles", m.regions.size(), m.triangles.size());
    for (std::uint32_t r : m.regions)
        if (r >= m.regionNames.size()) return fmt::format("region {} of {}", r, m.regionNames.size());
    return {};
}

}  // namespace zither::mesh
