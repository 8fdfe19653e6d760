// Directions are tried on normals and areas alone; what comes out is measured as the check does.
#include "measure/upright.h"
#include "measure/numbers.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>
#include <unordered_map>

#include "measure/footprint.h"
#include "measure/mass.h"
#include "measure/measure_tolerances.h"
#include "measure/slope.h"
#include "mesh/parallel.h"
#include "mesh/turn.h"

namespace zither::measure {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

namespace {

constexpr double degree = std::numbers::pi / 180;

// Entries that are 0 or 1 but for rounding are made so.
Eigen::Matrix3d tidied(Eigen::Matrix3d m) {
    constexpr double rounding = 0x1p-50;
    for (double& entry : m.reshaped())
        for (const double whole : {-1.0, 0.0, 1.0})
            if (std::abs(entry - whole) < rounding) entry = whole;
    return m;
}

}  // namespace

Eigen::Matrix3d uprightFor(const Point& up) {
    return tidied(mesh::turnFromTo(up, Point::UnitZ()));
}

Eigen::Matrix3d turnAbout(const Point& axis, double degrees) {
    return tidied(Eigen::AngleAxisd(std::remainder(degrees, 360) * degree, axis.normalized()).toRotationMatrix());
}

mesh::Box boxTurned(const Mesh& m, const Eigen::Matrix3d& linear) {
    return mesh::parallelBlocks(
        m.triangles.size(), mesh::Box(),
        [&](std::size_t begin, std::size_t end) {
            mesh::Box box;
            for (std::size_t t = begin; t < end; ++t)
                for (const mesh::VertexId v : m.triangles[t]) box.add(linear * m.positions[v]);
            return box;
        },
        [](mesh::Box a, const mesh::Box& b) {
            a.add(b);
            return a;
        });
}

std::vector<Facing> largestFacings(const Mesh& m, std::size_t most) {
    // Cells of a grid about the sphere.
    constexpr double cells = 28;
    std::unordered_map<std::int32_t, Point> sums;
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        const Point n = mesh::areaVector(m, t);
        const double length = n.norm();
        if (!(length > 0)) continue;
        std::int32_t cell = 0;
        for (const double x : n) cell = 64 * cell + static_cast<std::int32_t>(std::round((x / length + 1) * cells / 2));
        const auto [it, isNew] = sums.try_emplace(cell, n);
        if (!isNew) it->second += n;
    }
    std::vector<std::pair<std::int32_t, Point>> found(sums.begin(), sums.end());
    std::sort(found.begin(), found.end(), [](const auto& a, const auto& b) {
        const double more = a.second.squaredNorm();
        const double less = b.second.squaredNorm();
        return more > less || (more == less && a.first < b.first);
    });
    if (found.size() > most) found.resize(most);
    std::vector<Facing> facings;
    for (const auto& [cell, sum] : found)
        if (sum.norm() > 0) facings.push_back({sum.normalized(), 0.5 * sum.norm()});
    return facings;
}

std::optional<Base> largestBase(const Mesh& m) {
    constexpr std::size_t most = 64;
    const double near = tolerance::standsOn * mesh::boxOf(m).diagonal();
    const Point middle = centreOfMass(m).value_or(mesh::boxOf(m).centre());
    std::optional<Base> best;
    for (const Facing& facing : largestFacings(m, most)) {
        if (best && best->steady && facing.area < best->area) break;
        const Eigen::Matrix3d upright = uprightFor(-facing.normal);
        const Point up = upright.row(2);
        double low = std::numeric_limits<double>::infinity();
        for (const mesh::Triangle& t : m.triangles)
            for (const mesh::VertexId v : t) low = std::min(low, up.dot(m.positions[v]));
        Base base{facing.normal};
        std::vector<Flat> corners;
        for (TriangleId t = 0; t < m.triangles.size(); ++t) {
            const Point n = mesh::areaVector(m, t);
            if (!(n.dot(up) < 0)) continue;
            bool lies = true;
            for (unsigned k = 0; k < 3; ++k) lies &= up.dot(m.corner(t, k)) <= low + near;
            if (!lies) continue;
            base.area += -0.5 * n.dot(up);
            for (unsigned k = 0; k < 3; ++k) corners.emplace_back(upright.topRows<2>() * m.corner(t, k));
        }
        if (!(base.area > 0)) continue;
        base.steady = isWithin(convexHull(std::move(corners)), upright.topRows<2>() * middle);
        const auto rank = [](const Base& b) { return std::pair(b.steady, b.area); };
        if (!best || rank(base) > rank(*best)) best = base;
    }
    return best;
}

namespace {

class Standing {
public:
    Standing(const Mesh& m, const UprightOptions& options)
        : m_(m),
          options_(options),
          steep_(std::cos((options.slopeDeg - tolerance::slopeDeg) * degree)),
          normals_(m.triangles.size()),
          areas_(m.triangles.size()),
          used_(m.positions.size(), 0) {
        mesh::parallelFor(normals_.size(), mesh::blockSize, [&](std::size_t t) {
            const Point n = mesh::areaVector(m, static_cast<TriangleId>(t));
            const double length = n.norm();
            areas_[t] = 0.5 * length;
            normals_[t] = length > 0 ? Point(n / length) : Point(Point::Zero());
        });
        for (const mesh::Triangle& t : m.triangles)
            for (const mesh::VertexId v : t) used_[v] = 1;
    }

    struct Tried {
        Point up;
        double overhang = 0;
        double height = 0;
    };

    [[nodiscard]] Tried at(const Point& up) const {
        std::vector<double> heights(m_.positions.size());
        mesh::parallelFor(heights.size(), mesh::blockSize,
                          [&](std::size_t v) { heights[v] = up.dot(m_.positions[v]); });
        double low = std::numeric_limits<double>::infinity();
        double high = -low;
        for (std::size_t v = 0; v < heights.size(); ++v) {
            if (!used_[v]) continue;
            low = std::min(low, heights[v]);
            high = std::max(high, heights[v]);
        }
        const double floor = low + tolerance::onFloor * (high - low);
        const double area = mesh::parallelBlocks(
            normals_.size(), 0.0,
            [&](std::size_t begin, std::size_t end) {
                double sum = 0;
                for (std::size_t t = begin; t < end; ++t) {
                    if (!(-normals_[t].dot(up) > steep_)) continue;
                    const mesh::Triangle& tri = m_.triangles[t];
                    if (std::max({heights[tri[0]], heights[tri[1]], heights[tri[2]]}) > floor) sum += areas_[t];
                }
                return sum;
            },
            [](double a, double b) { return a + b; });
        return {up, area, high - low};
    }

    // The turn about the upright in which it fits; none: it does not.
    [[nodiscard]] std::optional<double> fits(const Tried& tried) const {
        if (!options_.within) return 0;
        const Point& size = *options_.within;
        if (tried.height > size.z() * (1 + tolerance::justFits)) return std::nullopt;
        return turnToFit(footprintOf(m_, uprightFor(tried.up)), size.x(), size.y());
    }

    // The first is better; `alike`: areas that differ by less do not count.
    [[nodiscard]] static bool isBetter(const Tried& a, const Tried& b, double alike) {
        if (std::abs(a.overhang - b.overhang) > alike) return a.overhang < b.overhang;
        return a.height < b.height * (1 - tolerance::overhangsAlike);
    }

private:
    const Mesh& m_;
    const UprightOptions& options_;
    double steep_;
    std::vector<Point> normals_;
    std::vector<double> areas_;
    std::vector<std::uint8_t> used_;
};

// Axes and large faces first: of what is alike, the first is taken.
std::vector<Point> directionsToTry(const Mesh& m) {
    constexpr std::size_t faces = 40;
    constexpr int around = 200;
    std::vector<Point> ways{Point::UnitZ(), -Point::UnitZ()};
    for (const Point& axis : {Point(Point::UnitX()), Point(Point::UnitY())}) ways.insert(ways.end(), {axis, -axis});
    for (const Facing& f : largestFacings(m, faces)) ways.emplace_back(-f.normal);
    // Evenly over the sphere (Fibonacci).
    constexpr double golden = std::numbers::pi * (3 - 2.23606797749979);
    for (int i = 0; i < around; ++i) {
        const double z = 1 - (2 * i + 1) / static_cast<double>(around);
        const double r = std::sqrt(1 - z * z);
        ways.emplace_back(r * std::cos(golden * i), r * std::sin(golden * i), z);
    }
    return ways;
}

}  // namespace

mesh::Outcome<std::optional<Upright>> leastOverhang(const Mesh& m, const UprightOptions& options,
                                                    mesh::Progress& progress) {
    if (m.triangles.empty()) return std::nullopt;
    const Standing standing(m, options);
    std::vector<Standing::Tried> tried;
    const std::vector<Point> ways = directionsToTry(m);
    constexpr double first = 0.7;  // of the work
    for (const Point& up : ways) {
        tried.push_back(standing.at(up));
        if (!progress.report(first * static_cast<double>(tried.size()) / static_cast<double>(ways.size())))
            return mesh::cancelled();
    }
    const double alike = tolerance::overhangsAlike * massOf(m).area;
    std::stable_sort(tried.begin(), tried.end(), [](const auto& a, const auto& b) { return a.overhang < b.overhang; });
    // The best few of those that fit go on by small turns.
    constexpr std::size_t few = 4;
    std::vector<Standing::Tried> best;
    for (const auto& one : tried) {
        if (best.size() == few) break;
        if (!progress.report(first)) return mesh::cancelled();
        if (standing.fits(one)) best.push_back(one);
    }
    if (best.empty()) return std::nullopt;
    constexpr double smallest = 0.25;  // degrees
    constexpr int ring = 8;
    for (std::size_t b = 0; b < best.size(); ++b)
        for (double turn = 8; turn >= smallest;) {
            if (!progress.report(first + (1 - first) * static_cast<double>(b) / few)) return mesh::cancelled();
            const Standing::Tried from = best[b];
            const Point side = from.up.unitOrthogonal();
            for (int i = 0; i < ring; ++i) {
                const Point axis = Eigen::AngleAxisd(2 * std::numbers::pi * i / ring, from.up) * side;
                const auto next = standing.at(Eigen::AngleAxisd(turn * degree, axis) * from.up);
                // A face that lies flat stays so unless a turn saves something.
                if (next.overhang < best[b].overhang - alike && standing.fits(next)) best[b] = next;
            }
            if (best[b].up == from.up) turn /= 2;
        }
    Standing::Tried chosen = best.front();
    for (const auto& one : best)
        if (Standing::isBetter(one, chosen, alike)) chosen = one;
    // As it lies, unless that saves something.
    const auto asItLies = standing.at(Point::UnitZ());
    if (asItLies.overhang <= chosen.overhang + alike && standing.fits(asItLies)) chosen = asItLies;
    return Upright{chosen.up, standing.fits(chosen).value_or(0), chosen.overhang, asItLies.overhang};
}

}  // namespace zither::measure
