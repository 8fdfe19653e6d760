// Corners that hang together across edges share a copy of their vertex; what encloses the tetrahedra between triangles
// and their copies is the sum of their boundaries.
#include "enclose/thicken.h"

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "enclose/enclose_tolerances.h"
#include "exact/predicates.h"
#include "mesh/disjoint_sets.h"
#include "mesh/edges.h"

namespace zither::enclose {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

// The way from a vertex to its copy, for a thickness of 1: n_i . v = -1 for the planes around it, in the least squares,
// held near the mean normal where they say nothing.
Point wayBack(const std::vector<std::pair<Point, double>>& normals) {
    Point mean = Point::Zero();
    for (const auto& [n, weight] : normals) mean += weight * n;
    if (mean.isZero()) mean = normals.front().first;
    mean.normalize();
    Eigen::Matrix3d left = Eigen::Matrix3d::Zero();
    Point right = Point::Zero();
    double total = 0;
    for (const auto& [n, weight] : normals) {
        left += weight * n * n.transpose();
        right += weight * n;
        total += weight;
    }
    constexpr double hold = 0.01;  // far below the weight of planes, far above rounding
    left += hold * total * Eigen::Matrix3d::Identity();
    right += hold * total * mean;
    Point way = left.ldlt().solve(right);
    constexpr double farthest = 2;
    if (const double length = way.norm(); length > farthest) way *= farthest / length;
    // Where the surface folds back there is no way that leads behind all of it.
    return way.dot(mean) > 0.1 ? Point(-way) : Point(-mean);
}

// A face of a tetrahedron.
struct Face {
    mesh::Triangle sorted{};  // corners
    int turn = 0;             // 1 where it faces as these do in this order, else -1
    TriangleId beside = 0;    // the triangle of the sheets whose body it is part of
};

Face faceOf(mesh::Triangle corners, TriangleId beside) {
    int turn = 1;
    const auto order = [&](unsigned i, unsigned k) {
        if (!(corners[k] < corners[i])) return;
        std::swap(corners[i], corners[k]);
        turn = -turn;
    };
    order(0, 1);
    order(1, 2);
    order(0, 1);
    return {corners, turn, beside};
}

// The copy of each corner's vertex, corner k of triangle t at 3 t + k; copies are added to `positions`.
std::vector<mesh::VertexId> copies(const Mesh& sheets, double thickness, mesh::Precision precision,
                                   std::vector<Point>& positions) {
    // Corners of one vertex that are linked across an edge which the sheet goes on over.
    const mesh::Edges edges(sheets);
    mesh::DisjointSets linked(3 * sheets.triangles.size());
    const auto goesOn = [&](HalfEdge h) {
        const HalfEdge twin = edges.twin(h);
        return twin != mesh::noEdge && !mesh::runsAlong(sheets, h, twin);
    };
    for (HalfEdge h = 0; h < 3 * sheets.triangles.size(); ++h) {
        if (edges.edgeOf(h) == mesh::noEdge || !goesOn(h)) continue;
        // Half-edges stand for the corner they start from.
        const HalfEdge twin = edges.twin(h);
        linked.join(h, mesh::nextInTriangle(twin));
        linked.join(mesh::nextInTriangle(h), twin);
    }
    std::vector<std::vector<std::pair<Point, double>>> normals(3 * sheets.triangles.size());
    for (HalfEdge h = 0; h < 3 * sheets.triangles.size(); ++h) {
        const TriangleId t = mesh::triangleOf(h);
        if (mesh::isCollapsed(sheets.triangles[t])) continue;
        const Point& at = sheets.positions[fromVertex(sheets, h)];
        const Point a = sheets.positions[toVertex(sheets, h)] - at;
        const Point b = sheets.positions[oppositeVertex(sheets, h)] - at;
        const double angle = std::atan2(a.cross(b).norm(), a.dot(b));
        const Point n = mesh::areaVector(sheets, t).normalized();
        if (!n.isZero()) normals[linked.find(h)].emplace_back(n, std::max(angle, tolerance::leastAngle));
    }
    std::vector<mesh::VertexId> copyOf(3 * sheets.triangles.size(), mesh::noIndex);
    for (HalfEdge h = 0; h < copyOf.size(); ++h) {
        if (mesh::isCollapsed(sheets.triangles[mesh::triangleOf(h)])) continue;
        const HalfEdge root = linked.find(h);
        if (copyOf[root] == mesh::noIndex) {
            copyOf[root] = positions.size();
            const Point back = normals[root].empty() ? Point(Point::Zero()) : wayBack(normals[root]);
            const Point& from = sheets.positions[fromVertex(sheets, h)];
            positions.push_back(mesh::rounded(precision, from + thickness * back));
        }
        copyOf[h] = copyOf[root];
    }
    return copyOf;
}

// The boundaries of all tetrahedra between triangles and their copies, each turned outward.
std::vector<Face> facesOf(const Mesh& sheets, const std::vector<mesh::VertexId>& copyOf,
                          const std::vector<Point>& positions) {
    std::vector<Face> faces;
    for (TriangleId t = 0; t < sheets.triangles.size(); ++t) {
        if (mesh::isCollapsed(sheets.triangles[t])) continue;
        // Cut from the lowest vertex on, so that neighbours agree about the diagonals of the wall between them.
        std::array<unsigned, 3> k{0, 1, 2};
        std::sort(k.begin(), k.end(),
                  [&](unsigned a, unsigned b) { return sheets.triangles[t][a] < sheets.triangles[t][b]; });
        std::array<mesh::VertexId, 6> v;
        for (unsigned i = 0; i < 3; ++i) {
            v[i] = sheets.triangles[t][k[i]];
            v[3 + i] = copyOf[3 * t + k[i]];
        }
        for (unsigned i = 0; i < 3; ++i) {
            std::array<mesh::VertexId, 4> c{v[0], v[1], v[2], v[5]};
            if (i == 1) c = {v[0], v[1], v[4], v[5]};
            if (i == 2) c = {v[0], v[3], v[4], v[5]};
            const int turn = exact::orient3d(positions[c[0]], positions[c[1]], positions[c[2]], positions[c[3]]);
            if (turn == 0) continue;
            if (turn < 0) std::swap(c[0], c[1]);
            for (const mesh::Triangle& face : {mesh::Triangle{c[0], c[1], c[2]}, mesh::Triangle{c[0], c[3], c[1]},
                                               mesh::Triangle{c[1], c[3], c[2]}, mesh::Triangle{c[2], c[3], c[0]}})
                faces.push_back(faceOf(face, t));
        }
    }
    return faces;
}

}  // namespace

mesh::Traced thickened(const Mesh& sheets, double thickness, mesh::Precision precision) {
    mesh::Traced out;
    out.mesh.positions = sheets.positions;
    out.mesh.regionNames = sheets.regionNames;
    out.mesh.regionsAre = sheets.regionsAre;
    const std::vector<mesh::VertexId> copyOf = copies(sheets, thickness, precision, out.mesh.positions);
    std::vector<Face> faces = facesOf(sheets, copyOf, out.mesh.positions);
    std::sort(faces.begin(), faces.end(), [](const Face& a, const Face& b) {
        return a.sorted != b.sorted ? a.sorted < b.sorted : a.beside < b.beside;
    });
    // What is left of faces with the same corners faces one way: as often as more of them did than the other way.
    struct Left {
        mesh::Triangle corners{};
        TriangleId beside = 0;
        bool own = false;
    };
    std::vector<Left> left;
    for (std::size_t i = 0; i < faces.size();) {
        const Face& first = faces[i];
        int sum = 0;
        for (; i < faces.size() && faces[i].sorted == first.sorted; ++i) sum += faces[i].turn;
        mesh::Triangle corners = first.sorted;
        if (sum < 0) std::swap(corners[1], corners[2]);
        const bool own = mesh::sameCorners(corners, sheets.triangles[first.beside]);
        for (int n = 0; n < std::abs(sum); ++n) left.push_back({corners, first.beside, own && n == 0});
    }
    std::stable_sort(left.begin(), left.end(),
                     [](const Left& a, const Left& b) { return a.own != b.own ? a.own : a.beside < b.beside; });
    for (const Left& l : left) {
        // As it stands in the sheet, where it faces as it did there.
        mesh::Triangle corners = l.corners;
        for (unsigned turn = 0; l.own && turn < 2 && corners != sheets.triangles[l.beside]; ++turn)
            std::rotate(corners.begin(), corners.begin() + 1, corners.end());
        out.mesh.triangles.push_back(corners);
        out.sourceOf.push_back(l.own ? l.beside : TriangleId(mesh::noIndex));
        if (!sheets.regions.empty()) out.mesh.regions.push_back(sheets.regions[l.beside]);
    }
    return out;
}

}  // namespace zither::enclose
