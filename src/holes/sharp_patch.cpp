// The sharp patch: the flat faces around a rim are carried on until they meet.
#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <optional>

#include "holes/patches.h"

namespace zither::holes {
namespace {

using mesh::Point;
using mesh::VertexId;

// Cosine of a degree: triangles at a rim that turn less are one face.
constexpr double facePlaneCosine = 0.99985;
// Of the rim's size: and so near to its plane.
constexpr double facePlaneOff = 1e-3;
// Of three unit normals: below it they hardly meet in a point.
constexpr double cornerDeterminant = 0.05;

// A run of rim edges with one plane beyond them; its vertices, with the one that its last edge ends in.
struct Face {
    Point at;
    Point normal;
    std::vector<VertexId> vertices;
};

bool isSame(const Face& face, const Point& at, const Point& normal, double size) {
    return face.normal.dot(normal) > facePlaneCosine && std::abs(face.normal.dot(at - face.at)) < facePlaneOff * size;
}

// The loop as runs, once around; none where some triangle beyond it has no area.
std::vector<Face> facesAround(const std::vector<Point>& positions, const Loop& loop, double size) {
    const std::size_t n = loop.vertices.size();
    const auto at = [&](std::size_t i) -> const Point& { return positions[loop.vertices[i % n]]; };
    // Begin where one run ends and another begins.
    std::optional<std::size_t> start;
    for (std::size_t i = 0; i < n; ++i) {
        if (loop.rimNormals[i].isZero()) return {};
        const Face before{at(i), loop.rimNormals[(i + n - 1) % n], {}};
        if (!start && !isSame(before, at(i), loop.rimNormals[i], size)) start = i;
    }
    if (!start) return {};
    std::vector<Face> faces;
    for (std::size_t i = *start; i < *start + n; ++i) {
        const Point& normal = loop.rimNormals[i % n];
        if (faces.empty() || !isSame(faces.back(), at(i), normal, size))
            faces.push_back({at(i), normal, {loop.vertices[i % n]}});
        faces.back().vertices.push_back(loop.vertices[(i + 1) % n]);
    }
    return faces;
}

}  // namespace

Patch sharpPatch(const std::vector<Point>& positions, const Loop& loop) {
    mesh::Box box;
    for (VertexId v : loop.vertices) box.add(positions[v]);
    const double size = box.diagonal();
    const std::vector<Face> faces = facesAround(positions, loop, size);
    // Two faces meet in a ridge, three in a corner; of more nothing tells which meet which.
    if (faces.size() != 2 && faces.size() != 3) return {};
    Patch patch;
    std::vector<Point> local;  // the rim's, then the corner
    std::vector<VertexId> names;
    for (const Face& face : faces)
        for (std::size_t i = 0; i + 1 < face.vertices.size(); ++i) {
            local.push_back(positions[face.vertices[i]]);
            names.push_back(face.vertices[i]);
        }
    const auto rim = static_cast<std::uint32_t>(local.size());
    if (faces.size() == 3) {
        Eigen::Matrix3d normals;
        Point offsets;
        for (int i = 0; i < 3; ++i) {
            const Face& face = faces[static_cast<std::size_t>(i)];
            normals.row(i) = face.normal.transpose();
            offsets[i] = face.normal.dot(face.at);
        }
        if (std::abs(normals.determinant()) < cornerDeterminant) return {};
        const Point corner = normals.fullPivLu().solve(offsets);
        // What would reach far beyond the hole is no corner that broke off.
        constexpr double farthest = 3;
        if ((corner - box.centre()).norm() > farthest * size) return {};
        patch.added.push_back(corner);
        local.push_back(corner);
        names.push_back(static_cast<VertexId>(positions.size()));
    }
    std::uint32_t first = 0;
    for (const Face& face : faces) {
        Loop part;
        const auto count = static_cast<std::uint32_t>(face.vertices.size());
        for (std::uint32_t i = 0; i < count; ++i) part.vertices.push_back((first + i) % rim);
        if (faces.size() == 3) part.vertices.push_back(rim);
        first += count - 1;
        // Ends of a straight run in its ridge enclose nothing.
        const Patch flat = flatPatch(local, std::span(&part, 1), face.normal);
        if (flat.triangles.empty()) return {};
        const std::size_t shift = positions.size() + patch.added.size();
        for (mesh::Triangle t : flat.triangles) {
            for (VertexId& v : t) v = v < local.size() ? names[v] : static_cast<VertexId>(shift + (v - local.size()));
            patch.triangles.push_back(t);
        }
        patch.added.insert(patch.added.end(), flat.added.begin(), flat.added.end());
    }
    return patch;
}

}  // namespace zither::holes
