#include "session/display.h"

#include <Eigen/Geometry>
#include <QColor>
#include <algorithm>
#include <cmath>
#include <unordered_map>

#include "check/catalogue.h"
#include "measure/deviation.h"
#include "measure/mass.h"
#include "mesh/parallel.h"
#include "project/provenance.h"
#include "session/inks.h"
#include "session/strings.h"

namespace zither::session {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

std::vector<float> cornersOf(const Mesh& m, const Point& origin) {
    std::vector<float> corners(9 * m.triangles.size());
    mesh::parallelFor(m.triangles.size(), 4096, [&](std::size_t t) {
        for (unsigned k = 0; k < 3; ++k) {
            const Point p = m.corner(static_cast<TriangleId>(t), k) - origin;
            for (int i = 0; i < 3; ++i) corners[9 * t + 3 * k + static_cast<unsigned>(i)] = static_cast<float>(p[i]);
        }
    });
    return corners;
}

class LineWriter {
public:
    LineWriter(std::vector<float>& out, const Point& origin) : out_(out), origin_(origin) {}
    void add(const Point& a, const Point& b) {
        for (const Point& p : {Point(a - origin_), Point(b - origin_)})
            for (int i = 0; i < 3; ++i) out_.push_back(static_cast<float>(p[i]));
    }

private:
    std::vector<float>& out_;
    Point origin_;
};

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
void addCrossing(const Mesh& m, const check::TrianglePair& pair, LineWriter& lines) {
    std::array<Point, 3> a;
    std::array<Point, 3> b;
    for (unsigned k = 0; k < 3; ++k) {
        a[k] = m.corner(pair.first, k);
        b[k] = m.corner(pair.second, k);
    }
    const Point na = mesh::areaVector(m, pair.first).normalized();
    const Point nb = mesh::areaVector(m, pair.second).normalized();
    const Point along = na.cross(nb);
    if (along.norm() < 1e-9) return;
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
    lines.add(onLine + low * unit, onLine + high * unit);
}

void addFindingLines(Display& d, const check::Survey& survey) {
    constexpr std::size_t most = 400'000;
    for (const check::Finding& f : survey.findings.list) {
        std::vector<float>& out = d.lines[static_cast<std::size_t>(f.defect)];
        if (out.size() > 6 * most || f.defect == check::shells || f.defect == check::selfIntersections) continue;
        LineWriter lines(out, d.origin);
        for (const auto& e : survey.findings.edgesOf(f)) lines.add(d.mesh->positions[e[0]], d.mesh->positions[e[1]]);
        if (f.edgeCount > 0 || f.defect == check::inwardShells) continue;
        for (TriangleId t : survey.findings.trianglesOf(f))
            for (unsigned k = 0; k < 3; ++k) lines.add(d.mesh->corner(t, k), d.mesh->corner(t, (k + 1) % 3));
    }
    LineWriter crossings(d.lines[static_cast<std::size_t>(check::selfIntersections)], d.origin);
    for (std::size_t i = 0; i < std::min(most, survey.crossingPairs.size()); ++i)
        addCrossing(*d.mesh, survey.crossingPairs[i], crossings);
}

}  // namespace

Mesh clusteredStandIn(const Mesh& m, std::size_t most) {
    const mesh::Box box = mesh::boxOf(m);
    // A surface in an n^3 grid touches about 2 n^2 cells, each with about two triangles; coarser until it fits.
    double cells = std::sqrt(static_cast<double>(most) / 3);
    for (;; cells *= 0.85) {
        const double size = std::max(box.extent().maxCoeff() / cells, 1e-300);
        std::unordered_map<std::uint64_t, mesh::VertexId> cellVertex;
        std::vector<mesh::VertexId> cluster(m.positions.size());
        Mesh result;
        for (std::size_t v = 0; v < m.positions.size(); ++v) {
            const Eigen::Array3d c = ((m.positions[v] - box.min).array() / size).floor();
            const std::uint64_t key = (static_cast<std::uint64_t>(c[0]) << 42) |
                                      (static_cast<std::uint64_t>(c[1]) << 21) | static_cast<std::uint64_t>(c[2]);
            const auto [it, fresh] = cellVertex.emplace(key, static_cast<mesh::VertexId>(result.positions.size()));
            if (fresh) result.positions.push_back(m.positions[v]);
            cluster[v] = it->second;
        }
        for (const mesh::Triangle& t : m.triangles) {
            const mesh::Triangle c = {cluster[t[0]], cluster[t[1]], cluster[t[2]]};
            if (!mesh::isCollapsed(c)) result.triangles.push_back(c);
        }
        if (result.triangles.size() <= most) return result;
    }
}

mesh::Outcome<std::shared_ptr<const Display>> prepareDisplay(std::shared_ptr<const Mesh> m, const check::Survey& survey,
                                                             mesh::Progress& progress) {
    auto d = std::make_shared<Display>();
    d->mesh = std::move(m);
    d->box = survey.mass.size;
    d->origin = d->box.centre();
    d->corners = cornersOf(*d->mesh, d->origin);
    if (!progress.report(0.3)) return mesh::cancelled();
    if (d->mesh->triangles.size() > standInTriangles)
        d->standIn = cornersOf(clusteredStandIn(*d->mesh, standInTriangles), d->origin);
    if (!progress.report(0.6)) return mesh::cancelled();
    d->tree = std::make_unique<space::TriangleTree>(*d->mesh);
    addFindingLines(*d, survey);
    if (!progress.report(1)) return mesh::cancelled();
    return std::shared_ptr<const Display>(std::move(d));
}

namespace {

std::uint32_t packed(const QColor& c) {
    return 0xFF000000U | static_cast<std::uint32_t>(c.blue()) << 16 | static_cast<std::uint32_t>(c.green()) << 8 |
           static_cast<std::uint32_t>(c.red());
}

// From paper over wood to ink: light is little, dark is much; readable without telling hues apart.
std::uint32_t ramp(double t) {
    static const std::array<QColor, 5> stops = {QColor(0xF2, 0xE6, 0xC9), QColor(0xE0, 0xB0, 0x6A),
                                                QColor(0xC4, 0x6A, 0x3C), QColor(0x8C, 0x2F, 0x4B),
                                                QColor(0x3D, 0x1B, 0x45)};
    const double x = std::clamp(t, 0.0, 1.0) * (stops.size() - 1);
    const auto i = std::min<std::size_t>(static_cast<std::size_t>(x), stops.size() - 2);
    const double f = x - static_cast<double>(i);
    const auto mix = [&](int a, int b) { return static_cast<int>(std::lround((1 - f) * a + f * b)); };
    return packed(QColor(mix(stops[i].red(), stops[i + 1].red()), mix(stops[i].green(), stops[i + 1].green()),
                         mix(stops[i].blue(), stops[i + 1].blue())));
}

// One value a triangle, as colours and histogram.
Coat coatOfValues(const std::vector<double>& values, double low, double high, bool darkIsLow, Legend legend) {
    Coat coat;
    constexpr std::size_t bins = 48;
    legend.low = low;
    legend.high = high;
    legend.continuous = true;
    legend.histogram.assign(bins, 0);
    coat.colours.resize(values.size());
    const double range = high > low ? high - low : 1;
    for (std::size_t t = 0; t < values.size(); ++t) {
        const double x = std::clamp((values[t] - low) / range, 0.0, 1.0);
        coat.colours[t] = ramp(darkIsLow ? 1 - x : x);
        ++legend.histogram[std::min(bins - 1, static_cast<std::size_t>(x * bins))];
    }
    coat.legend = std::move(legend);
    return coat;
}

mesh::Outcome<std::vector<double>> distancesTo(const Mesh& from, const Mesh& to, mesh::Progress& progress) {
    const space::TriangleTree tree(to);
    std::vector<double> distance(from.positions.size());
    std::atomic<bool> stop = false;
    constexpr std::size_t block = 16384;
    mesh::parallelFor((distance.size() + block - 1) / block, 1, [&](std::size_t b) {
        std::optional<TriangleId> hint;
        for (std::size_t v = b * block; v < std::min(distance.size(), (b + 1) * block) && !stop; ++v) {
            const auto nearest = tree.nearest(from.positions[v], std::numeric_limits<double>::infinity(), hint);
            if (!nearest) continue;
            hint = nearest->triangle;
            distance[v] = std::sqrt(nearest->distanceSquared);
        }
        if (!progress.report(static_cast<double>(b) * block / static_cast<double>(distance.size()))) stop = true;
    });
    if (stop) return mesh::cancelled();
    std::vector<double> ofTriangle(from.triangles.size());
    for (std::size_t t = 0; t < ofTriangle.size(); ++t) {
        const mesh::Triangle& tri = from.triangles[t];
        ofTriangle[t] = std::max({distance[tri[0]], distance[tri[1]], distance[tri[2]]});
    }
    return ofTriangle;
}

Coat shellCoat(const check::Survey& survey) {
    Coat coat;
    coat.colours.resize(survey.shellOf.size());
    for (std::size_t t = 0; t < coat.colours.size(); ++t) {
        const std::uint32_t shell = survey.shellOf[t];
        if (shell == mesh::noEdge) {
            coat.colours[t] = packed(paper::quiet);
            continue;
        }
        // Golden-angle hues in earth tones: neighbours in number differ, none shouts.
        const int hue = static_cast<int>(std::fmod(28 + 137.508 * shell, 360));
        coat.colours[t] = packed(
            QColor::fromHsl(hue, 70 + static_cast<int>(shell * 31 % 50), 150 + static_cast<int>(shell * 17 % 50)));
    }
    coat.legend.title = QString("%1 shells").arg(survey.counts.shells);
    return coat;
}

// By how many closed shells enclose a shell: what a cavity is cut out of, and what hides inside, show apart.
Coat nestingCoat(const check::Survey& survey) {
    Coat coat;
    coat.colours.resize(survey.shellOf.size());
    std::array<std::size_t, 4> shells{};
    std::uint32_t deepest = 0;
    for (const check::Shell& shell : survey.shells) {
        ++shells[shell.closed ? std::min<std::size_t>(shell.depth, 2) : 3];
        deepest = std::max(deepest, shell.depth);
    }
    for (std::size_t t = 0; t < coat.colours.size(); ++t) {
        const std::uint32_t shell = survey.shellOf[t];
        const bool closed = shell != mesh::noEdge && survey.shells[shell].closed;
        coat.colours[t] = !closed ? packed(QColor(0xB8, 0xB4, 0xA8))
                                  : ramp(0.22 + 0.6 * survey.shells[shell].depth / std::max(2.0, 1.0 * deepest));
    }
    coat.legend.title = "What encloses it";
    coat.legend.note = QString("light: nothing, %1   ·   darker: one shell, %2; more, %3   ·   grey: open, %4")
                           .arg(shells[0])
                           .arg(shells[1])
                           .arg(shells[2])
                           .arg(shells[3]);
    return coat;
}

// What came with each step, by the colour of its turn; what it did is said beside its name.
Coat changeCoat(const Mesh& m, const std::vector<PastStop>& past) {
    static const std::array<QColor, 6> inks = {QColor(0x2F, 0x6F, 0x8F), QColor(0x8A, 0x4F, 0x7D),
                                               QColor(0x5B, 0x7F, 0x2E), QColor(0xB0, 0x5A, 0x1E),
                                               QColor(0x1F, 0x4E, 0x4A), QColor(0x9A, 0x2C, 0x3F)};
    static const std::array<const char*, 6> names = {"blue", "plum", "moss", "rust", "fir", "red"};
    std::vector<std::shared_ptr<const Mesh>> stops;
    for (const PastStop& stop : past) stops.push_back(stop.mesh);
    const std::vector<std::uint32_t> first = project::firstStopWith(m, stops);
    std::vector<std::size_t> counts(past.size() + 1, 0);
    Coat coat;
    coat.colours.resize(m.triangles.size());
    for (std::size_t t = 0; t < coat.colours.size(); ++t) {
        ++counts[first[t]];
        coat.colours[t] = packed(first[t] == 0 ? paper::clay : inks[(first[t] - 1) % inks.size()]);
    }
    coat.legend.title = "Change since the import, by step";
    const double whole = std::max<double>(1, static_cast<double>(m.triangles.size()));
    coat.legend.note =
        QString("clay: bit-identical, %1 %").arg(100 * static_cast<double>(counts[0]) / whole, 0, 'f', 1);
    for (std::size_t s = 1; s < past.size(); ++s) {
        if (counts[s] == 0) continue;
        coat.legend.note += QString("\n%1: %2, %3 %4")
                                .arg(names[(s - 1) % names.size()], QString::fromStdString(past[s].label))
                                .arg(counts[s])
                                .arg(text(past[s].brings));
    }
    return coat;
}

}  // namespace

void paintPick(std::vector<std::uint32_t>& colours, const Mesh& m, const mesh::Pick& pick) {
    if (pick.everything()) return;
    if (colours.empty()) colours.assign(m.triangles.size(), packed(paper::clay));
    for (TriangleId t : pick.triangles())
        if (t < colours.size()) colours[t] = packed(paper::picked);
}

mesh::Outcome<Coat> coatFor(Lens lens, const Mesh& m, const check::Survey& survey, const std::vector<PastStop>& past,
                            mesh::Progress& progress) {
    Coat coat;
    switch (lens) {
        case Lens::Plain:
            return coat;
        case Lens::Facing:
            coat.legend.title = "Facing";
            coat.legend.note = "clay: outward   ·   ochre hatch: you look at an inside";
            return coat;
        case Lens::Shells:
            return shellCoat(survey);
        case Lens::Nesting:
            return nestingCoat(survey);
        case Lens::Change:
            return changeCoat(m, past);
        case Lens::Quality: {
            std::vector<double> angles(m.triangles.size());
            mesh::parallelFor(angles.size(), 4096, [&](std::size_t t) {
                angles[t] = measure::smallestAngleDeg(m, static_cast<TriangleId>(t));
            });
            coat.legend.title = "Smallest angle";
            coat.legend.unit = "°";
            return coatOfValues(angles, 0, 60, true, coat.legend);
        }
        case Lens::Deviation: {
            auto distances = distancesTo(m, *past.front().mesh, progress);
            if (!distances) return tl::unexpected(distances.error());
            const double most = distances->empty() ? 0 : *std::max_element(distances->begin(), distances->end());
            coat.legend.title = "Distance from the import, at corners";
            if (most > 0) {
                const Point worst =
                    mesh::centroid(m, static_cast<TriangleId>(std::max_element(distances->begin(), distances->end()) -
                                                              distances->begin()));
                coat.legend.note = QString("farthest near %1, %2, %3")
                                       .arg(shortNumber(worst.x()), shortNumber(worst.y()), shortNumber(worst.z()));
            }
            return coatOfValues(*distances, 0, most, false, coat.legend);
        }
    }
    return coat;
}

}  // namespace zither::session
