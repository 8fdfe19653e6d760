// Points by area, their nearest neighbours, and the small motion that brings them nearer; again and again.
#include "measure/align.h"

#include <Eigen/Cholesky>
#include <Eigen/Eigenvalues>
#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <optional>

#include "measure/measure_tolerances.h"
#include "mesh/parallel.h"
#include "mesh/turn.h"

namespace zither::measure {
namespace {

using mesh::Mesh;
using mesh::Motion;
using mesh::Outcome;
using mesh::Point;
using mesh::TriangleId;

// Evenly by area: the same for the same surface.
std::vector<Point> pointsByArea(const Mesh& m, std::size_t count) {
    std::vector<double> upTo(m.triangles.size() + 1, 0);
    for (TriangleId t = 0; t < m.triangles.size(); ++t) upTo[t + 1U] = upTo[t] + mesh::areaVector(m, t).norm();
    std::vector<Point> points;
    if (!(upTo.back() > 0)) return points;
    for (std::size_t i = 0; i < count; ++i) {
        const double at = (static_cast<double>(i) + 0.5) / static_cast<double>(count) * upTo.back();
        const auto t = static_cast<TriangleId>(std::min<std::size_t>(
            m.triangles.size() - 1,
            static_cast<std::size_t>(std::upper_bound(upTo.begin(), upTo.end(), at) - upTo.begin() - 1)));
        // Within the triangle by the sequence of Roberts (2018), folded back into it.
        double u = std::fmod(0.5 + 0.7548776662466927 * static_cast<double>(i), 1);
        double v = std::fmod(0.5 + 0.5698402909980532 * static_cast<double>(i), 1);
        if (u + v > 1) {
            u = 1 - u;
            v = 1 - v;
        }
        points.emplace_back(m.corner(t, 0) + u * (m.corner(t, 1) - m.corner(t, 0)) +
                            v * (m.corner(t, 2) - m.corner(t, 0)));
    }
    return points;
}

struct Inertia {
    Point middle = Point::Zero();
    Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();  // columns, a rotation
};
Inertia inertiaOf(const std::vector<Point>& points) {
    Inertia inertia;
    for (const Point& p : points) inertia.middle += p / static_cast<double>(points.size());
    Eigen::Matrix3d spread = Eigen::Matrix3d::Zero();
    for (const Point& p : points) spread += (p - inertia.middle) * (p - inertia.middle).transpose();
    inertia.axes = Eigen::SelfAdjointEigenSolver<Eigen::Matrix3d>(spread).eigenvectors();
    if (inertia.axes.determinant() < 0) inertia.axes.col(0) *= -1;
    return inertia;
}

// The 24 turns of a cube.
std::vector<Eigen::Matrix3d> cubeTurns() {
    std::vector<Eigen::Matrix3d> turns;
    for (int a = 0; a < 3; ++a)
        for (int b = 0; b < 3; ++b)
            for (const int s : {1, -1})
                for (const int t : {1, -1}) {
                    if (a == b) continue;
                    Eigen::Matrix3d turn;
                    turn.col(0) = s * Point::Unit(a);
                    turn.col(1) = t * Point::Unit(b);
                    turn.col(2) = turn.col(0).cross(turn.col(1));
                    turns.push_back(turn);
                }
    return turns;
}

class Fitting {
public:
    Fitting(const space::TriangleTree& to, double share) : to_(to), share_(share) {}

    // How far the nearer points lie, as a root mean square.
    double measure(const std::vector<Point>& points, const Motion& motion) {
        pairs_.resize(points.size());
        mesh::parallelFor(points.size(), 64, [&](std::size_t i) {
            const Point p = motion.of(points[i]);
            const auto nearest = to_.nearest(p);
            pairs_[i] = {p, nearest->point, mesh::areaVector(to_.surface(), nearest->triangle).normalized(),
                         nearest->distanceSquared};
        });
        counted_ = std::max<std::size_t>(6, static_cast<std::size_t>(share_ * static_cast<double>(pairs_.size())));
        counted_ = std::min(counted_, pairs_.size());
        std::nth_element(pairs_.begin(), pairs_.begin() + static_cast<std::ptrdiff_t>(counted_ - 1), pairs_.end(),
                         [](const Pair& a, const Pair& b) { return a.squared < b.squared; });
        double sum = 0;
        for (std::size_t i = 0; i < counted_; ++i) sum += pairs_[i].squared;
        return std::sqrt(sum / static_cast<double>(counted_));
    }

    // The small motion that brings what was measured nearer, after the one that it was measured with.
    [[nodiscard]] Motion nearer(const Motion& motion) const {
        Point middle = Point::Zero();
        for (std::size_t i = 0; i < counted_; ++i) middle += pairs_[i].at / static_cast<double>(counted_);
        double size = 0;
        for (std::size_t i = 0; i < counted_; ++i) size = std::max(size, (pairs_[i].at - middle).norm());
        if (!(size > 0)) size = 1;
        Eigen::Matrix<double, 6, 6> left = Eigen::Matrix<double, 6, 6>::Zero();
        Eigen::Matrix<double, 6, 1> right = Eigen::Matrix<double, 6, 1>::Zero();
        const auto add = [&](const Point& at, const Point& towards, const Point& n, double weight) {
            Eigen::Matrix<double, 6, 1> row;
            row << ((at - middle) / size).cross(n), n;
            left += weight * row * row.transpose();
            right += weight * row * n.dot(towards - at);
        };
        for (std::size_t i = 0; i < counted_; ++i) {
            const Pair& p = pairs_[i];
            add(p.at, p.on, p.normal, 1);
            // What slides along planes is held a little by the points themselves.
            for (int k = 0; k < 3; ++k) add(p.at, p.on, Point::Unit(k), tolerance::slideHold);
        }
        const Eigen::Matrix<double, 6, 1> x = left.ldlt().solve(right);
        if (!x.allFinite()) return motion;
        const Point turn = x.head<3>() / size;
        const Point way = x.tail<3>();
        const double angle = turn.norm();
        const Eigen::Matrix3d rotation =
            angle > 0 ? Eigen::AngleAxisd(angle, turn / angle).toRotationMatrix() : Eigen::Matrix3d::Identity();
        return mesh::then(motion, {rotation, middle + way - rotation * middle});
    }

    [[nodiscard]] std::size_t counted() const { return counted_; }

private:
    struct Pair {
        Point at;
        Point on;
        Point normal;
        double squared = 0;
    };
    const space::TriangleTree& to_;
    double share_;
    std::vector<Pair> pairs_;
    std::size_t counted_ = 0;
};

// Rounds of measuring and coming nearer, until that gains nothing; the best that was met.
Motion settled(Fitting& fitting, const std::vector<Point>& points, Motion motion, int most, double& distance,
               int& rounds) {
    Motion best = motion;
    distance = fitting.measure(points, motion);
    int idle = 0;
    for (int i = 0; i < most && idle < 3; ++i) {
        motion = fitting.nearer(motion);
        const double now = fitting.measure(points, motion);
        ++rounds;
        idle = now < distance * (1 - tolerance::alignGain) ? 0 : idle + 1;
        if (now < distance) {
            distance = now;
            best = motion;
        }
    }
    return best;
}

std::vector<Point> some(const std::vector<Point>& points, std::size_t count) {
    std::vector<Point> few;
    const std::size_t step = std::max<std::size_t>(1, points.size() / count);
    for (std::size_t i = 0; i < points.size(); i += step) few.push_back(points[i]);
    return few;
}

}  // namespace

Outcome<Aligned> aligned(const Mesh& m, const space::TriangleTree& to, const AlignOptions& options,
                         mesh::Progress& progress) {
    Aligned result;
    const std::vector<Point> points = pointsByArea(m, options.points);
    if (points.empty() || to.empty()) return result;
    Fitting fitting(to, options.share);
    result.before = fitting.measure(points, {});
    std::vector<Motion> starts{{}};
    if (options.fromAnywhere) {
        const Inertia from = inertiaOf(points);
        const Inertia onto = inertiaOf(pointsByArea(to.surface(), options.points));
        for (const Eigen::Matrix3d& turn : cubeTurns()) {
            const Eigen::Matrix3d rotation = onto.axes * turn * from.axes.transpose();
            starts.push_back({rotation, onto.middle - rotation * from.middle});
        }
    }
    // All of them a little with few points, the best few to the end.
    const std::vector<Point> few = some(points, 300);
    std::vector<std::pair<double, Motion>> tried;
    for (std::size_t i = 0; i < starts.size(); ++i) {
        if (!progress.report(0.5 * static_cast<double>(i) / static_cast<double>(starts.size())))
            return mesh::cancelled();
        double distance = 0;
        constexpr int short_ = 12;
        const Motion motion = settled(fitting, few, starts[i], short_, distance, result.rounds);
        tried.emplace_back(distance, motion);
    }
    std::stable_sort(tried.begin(), tried.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    constexpr std::size_t finalists = 4;
    constexpr int long_ = 100;
    result.after = std::numeric_limits<double>::infinity();
    for (std::size_t i = 0; i < std::min(finalists, tried.size()); ++i) {
        if (!progress.report(0.5 + 0.5 * static_cast<double>(i) / finalists)) return mesh::cancelled();
        double distance = 0;
        const Motion motion = settled(fitting, points, tried[i].second, long_, distance, result.rounds);
        if (distance < result.after) {
            result.after = distance;
            result.motion = motion;
        }
    }
    result.points = fitting.counted();
    // Many small turns after each other are no turn to the last bit.
    result.motion.linear = mesh::nearestTurn(result.motion.linear);
    return result;
}

Motion alignedByPoints(const std::array<Point, 3>& from, const std::array<Point, 3>& to) {
    return mesh::motionOfPoints(from, to);
}

}  // namespace zither::measure
