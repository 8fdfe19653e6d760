// How the places of a class of defects are drawn: as lines over the part.
#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <limits>

#include "check/check_tolerances.h"
#include "check/defect_class.h"
#include "check/survey.h"

namespace zither::check {
namespace {

// Where the line of two planes runs inside a triangle: interval of the line's parameter. Floating-point: for drawing.
bool intervalOn(const std::array<Point, 3>& t, const std::array<double, 3>& height, const Point& along, double& low,
                double& high) {
    low = std::numeric_limits<double>::infinity();
    high = -low;
    for (unsigned k = 0; k < 3; ++k) {
        const unsigned n = (k + 1) % 3;
        if ((height[k] > 0) == (height[n] > 0) && height[k] != 0) continue;
        const double d = height[k] - height[n];
        const Point p = d != 0 ? Point(t[k] + height[k] / d * (t[n] - t[k])) : t[k];
        low = std::min(low, along.dot(p));
        high = std::max(high, along.dot(p));
    }
    return low <= high;
}

// The segment in which two triangles cross; coplanar ones give none.
void addCrossing(const Mesh& m, const TrianglePair& pair, Segments& out) {
    std::array<Point, 3> a;
    std::array<Point, 3> b;
    for (unsigned k = 0; k < 3; ++k) {
        a[k] = m.corner(pair.first, k);
        b[k] = m.corner(pair.second, k);
    }
    const Point na = mesh::areaVector(m, pair.first).normalized();
    const Point nb = mesh::areaVector(m, pair.second).normalized();
    const Point along = na.cross(nb);
    if (along.norm() < tolerance::drawnParallel) return;
    std::array<double, 3> heightA;
    std::array<double, 3> heightB;
    for (unsigned k = 0; k < 3; ++k) {
        heightA[k] = nb.dot(a[k] - b[0]);
        heightB[k] = na.dot(b[k] - a[0]);
    }
    const Point unit = along.normalized();
    double lowA = 0, highA = 0, lowB = 0, highB = 0;
    if (!intervalOn(a, heightA, unit, lowA, highA) || !intervalOn(b, heightB, unit, lowB, highB)) return;
    const double low = std::max(lowA, lowB);
    const double high = std::min(highA, highB);
    if (low > high) return;
    // A point of both planes, then along the line.
    Eigen::Matrix3d planes;
    planes.row(0) = na;
    planes.row(1) = nb;
    planes.row(2) = unit;
    const Point onLine = planes.inverse() * Point(na.dot(a[0]), nb.dot(b[0]), 0);
    out.push_back(onLine + low * unit);
    out.push_back(onLine + high * unit);
}

template <class Use>
void forEachOf(const Drawn& drawn, DefectClass defect, const Segments& out, const Use& use) {
    for (const Finding& f : drawn.survey.findings.list)
        if (f.defect == defect && out.size() <= 2 * drawn.most) use(f);
}

}  // namespace

void drawEdges(const Drawn& drawn, DefectClass defect, Segments& out) {
    forEachOf(drawn, defect, out, [&](const Finding& f) {
        for (const auto& e : drawn.survey.findings.edgesOf(f)) {
            out.push_back(drawn.mesh.positions[e[0]]);
            out.push_back(drawn.mesh.positions[e[1]]);
        }
    });
}

void drawOutlines(const Drawn& drawn, DefectClass defect, Segments& out) {
    forEachOf(drawn, defect, out, [&](const Finding& f) {
        for (const TriangleId t : drawn.survey.findings.trianglesOf(f))
            for (unsigned k = 0; k < 3; ++k) {
                out.push_back(drawn.mesh.corner(t, k));
                out.push_back(drawn.mesh.corner(t, (k + 1) % 3));
            }
    });
}

// Edges that one triangle of a place has alone.
void drawBorders(const Drawn& drawn, DefectClass defect, Segments& out) {
    forEachOf(drawn, defect, out, [&](const Finding& f) {
        std::vector<std::pair<VertexId, VertexId>> edges;
        for (const TriangleId t : drawn.survey.findings.trianglesOf(f))
            for (unsigned k = 0; k < 3; ++k)
                edges.push_back(std::minmax({drawn.mesh.triangles[t][k], drawn.mesh.triangles[t][(k + 1) % 3]}));
        std::sort(edges.begin(), edges.end());
        for (std::size_t i = 0; i < edges.size();) {
            const std::size_t begin = i;
            while (i < edges.size() && edges[i] == edges[begin]) ++i;
            if (i - begin != 1) continue;
            out.push_back(drawn.mesh.positions[edges[begin].first]);
            out.push_back(drawn.mesh.positions[edges[begin].second]);
        }
    });
}

void drawCrossings(const Drawn& drawn, DefectClass, Segments& out) {
    const std::vector<TrianglePair>& pairs = drawn.survey.crossingPairs;
    // Of more than can be drawn some everywhere, not all in one corner.
    const std::size_t count = std::min(drawn.most, pairs.size());
    for (std::size_t i = 0; i < count; ++i) addCrossing(drawn.mesh, pairs[i * pairs.size() / count], out);
}

void drawNothing(const Drawn&, DefectClass, Segments&) {}

}  // namespace zither::check
