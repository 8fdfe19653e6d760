// Corners first, then pieces whose bound exceeds what was found, split in rounds.
#include "measure/deviation.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <cmath>
#include <limits>
#include <optional>
#include <utility>

#include "measure/by_corners.h"
#include "measure/mass.h"
#include "measure/measure_tolerances.h"
#include "measure/overlay.h"
#include "mesh/parallel.h"

namespace zither::measure {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

// A point of the surface with how far it is from the other one.
struct Probe {
    Point at;
    TriangleId near = 0;
    double distance = 0;
};

// A part of a triangle with what is known of its distance.
struct Piece {
    std::array<Probe, 3> corner;
    TriangleId under = 0;  // what is nearest to the middle of it, or of what it was split from
    double bound = 0;      // no point of the piece is farther than this
};

double distanceTo(const Mesh& m, TriangleId t, const Point& p) {
    return (space::nearestOnTriangle(p, m.corner(t, 0), m.corner(t, 1), m.corner(t, 2)) - p).norm();
}

// The distance to any one triangle is convex over the piece: its maximum lies at a corner.
double boundTo(const Mesh& m, TriangleId t, const Piece& piece) {
    double farthest = 0;
    for (const Probe& p : piece.corner)
        farthest = std::max(farthest, p.near == t ? p.distance : distanceTo(m, t, p.at));
    return farthest;
}

double boundOf(const Mesh& m, const Piece& piece) {
    const auto& c = piece.corner;
    double bound = boundTo(m, c[0].near, piece);
    for (unsigned k = 1; k < 3; ++k)
        if (c[k].near != c[0].near && (k == 1 || c[2].near != c[1].near))
            bound = std::min(bound, boundTo(m, c[k].near, piece));
    return bound;
}

// The surface that distances are measured to.
struct Target {
    const MeasuredSurface& surface;
    double beside = 0;  // so close to it nothing nearer is looked for
};

Probe probe(const Target& to, const Point& p, std::optional<TriangleId> hint) {
    const auto nearest = to.surface.tree.nearest(p, std::numeric_limits<double>::infinity(), hint, to.beside);
    return {p, nearest->triangle, std::sqrt(nearest->distanceSquared)};
}

// Of what is near to its corners, that which is nearest to a point of the piece.
TriangleId nearestOfCorners(const Mesh& to, const Piece& piece, const Point& p) {
    const auto& c = piece.corner;
    TriangleId best = c[0].near;
    double least = distanceTo(to, best, p);
    for (unsigned k = 1; k < 3; ++k) {
        if (c[k].near == best || c[k].near == c[0].near) continue;
        const double distance = distanceTo(to, c[k].near, p);
        if (distance >= least) continue;
        least = distance;
        best = c[k].near;
    }
    return best;
}

const Probe& farther(const Probe& a, const Probe& b) {
    return a.distance < b.distance ? b : a;
}

// A bound above `enough` is made sharper by the triangle under the middle of the piece, and by laying the piece onto
// what lies under it; returns what was met where the height is largest, or `met`.
Probe sharpen(const Target& to, double enough, Piece& piece, Probe met) {
    const Mesh& m = to.surface.mesh();
    if (piece.bound > enough) piece.bound = std::min(piece.bound, boundTo(m, piece.under, piece));
    const auto& c = piece.corner;
    const std::array<TriangleId, 4> starts{piece.under, c[0].near, c[1].near, c[2].near};
    for (auto start = starts.begin(); start != starts.end() && piece.bound > enough; ++start) {
        if (std::find(starts.begin(), start, *start) != start) continue;
        const auto height = heightOver(m, to.surface.edges, {c[0].at, c[1].at, c[2].at}, *start);
        if (!height) continue;
        piece.bound = std::min(piece.bound, height->most);
        if (height->most > met.distance) met = farther(met, probe(to, height->at, *start));
        break;
    }
    return met;
}

// Four pieces by the midpoints of the edges; returns the farthest point that was met.
Probe split(const Target& to, double enough, const Piece& piece, std::array<Piece, 4>& parts) {
    std::array<Probe, 3> mid;
    for (unsigned k = 0; k < 3; ++k)
        mid[k] = probe(to, 0.5 * (piece.corner[k].at + piece.corner[(k + 1) % 3].at), piece.corner[k].near);
    for (unsigned k = 0; k < 3; ++k) parts[k].corner = {piece.corner[k], mid[k], mid[(k + 2) % 3]};
    parts[3].corner = mid;
    Probe met = farther(farther(mid[0], mid[1]), mid[2]);
    for (Piece& part : parts) {
        part.under = piece.under;
        part.bound = std::min(boundOf(to.surface.mesh(), part), piece.bound);
        met = sharpen(to, enough, part, met);
    }
    return met;
}

class Search {
public:
    Search(const MeasuredSurface& from, const MeasuredSurface& to, const DeviationOptions& options,
           mesh::Progress& progress)
        : from_(from.mesh()), order_(from.tree.order()), to_{to}, options_(options), progress_(progress) {
        if (options.enough > 0) return;
        mesh::Box box = mesh::boxOf(from_);
        box.add(mesh::boxOf(to.mesh()));
        tolerance_ = tolerance::deviationRelative * box.diagonal();
        to_.beside = tolerance::deviationBeside * box.diagonal();
    }

    mesh::Outcome<OneSidedDeviation> run() {
        if (!measureCorners() || !measureTriangles() || !refine()) return mesh::cancelled();
        return result_;
    }

private:
    [[nodiscard]] bool skipped(std::size_t t) const { return !options_.skip.empty() && options_.skip[t] != 0; }
    // Bounds up to this need not be made sharper.
    [[nodiscard]] double enough() const {
        return std::max(options_.enough,
                        result_.found + std::max(tolerance_, tolerance::deviationOfValue * result_.found));
    }

    void found(double distance, const Point& at) {
        if (!(distance > result_.found)) return;
        result_.found = distance;
        result_.worst = at;
    }

    [[nodiscard]] std::optional<TriangleId> closeTo(TriangleId t) const {
        if (options_.close.empty() || options_.close[t] == mesh::noIndex) return std::nullopt;
        return options_.close[t];
    }

    struct Corner {
        mesh::VertexId vertex;
        std::optional<TriangleId> hint;
    };
    // Those that a measured triangle uses, neighbours one after the other.
    [[nodiscard]] std::vector<Corner> cornersInOrder() const {
        std::vector<std::uint8_t> taken(from_.positions.size(), 0);
        std::vector<Corner> corners;
        // Those of a triangle that something is known about first.
        for (const bool known : {true, false})
            for (const TriangleId t : order_)
                if (!skipped(t) && closeTo(t).has_value() == known)
                    for (const mesh::VertexId v : from_.triangles[t])
                        if (!std::exchange(taken[v], 1)) corners.push_back({v, closeTo(t)});
        return corners;
    }

    // Nearest triangle and distance of every vertex that a measured triangle uses.
    bool measureCorners() {
        const std::vector<Corner> corners = cornersInOrder();
        probe_.resize(from_.positions.size());
        std::atomic<bool> stop = false;
        const std::size_t blocks = (corners.size() + mesh::blockSize - 1) / mesh::blockSize;
        mesh::parallelFor(blocks, 1, [&](std::size_t b) {
            if (stop) return;
            std::optional<TriangleId> hint;
            for (std::size_t i = b * mesh::blockSize; i < std::min(corners.size(), (b + 1) * mesh::blockSize); ++i) {
                const auto& [vertex, close] = corners[i];
                Probe& at = probe_[vertex];
                at = probe(to_, from_.positions[vertex], close ? close : hint);
                hint = at.near;
            }
            if (!progress_.report(0.4 * static_cast<double>(b) / static_cast<double>(blocks))) stop = true;
        });
        for (const Corner& c : corners) found(probe_[c.vertex].distance, from_.positions[c.vertex]);
        return !stop;
    }

    [[nodiscard]] double measuredArea() const {
        return mesh::parallelBlocks(
            from_.triangles.size(), 0.0,
            [&](std::size_t begin, std::size_t end) {
                double area = 0;
                for (std::size_t t = begin; t < end; ++t)
                    if (!skipped(t)) area += mesh::areaVector(from_, static_cast<TriangleId>(t)).norm() / 2;
                return area;
            },
            [](double a, double b) { return a + b; });
    }

    // Into so many parts each edge of a triangle of that area is split.
    [[nodiscard]] unsigned finer(double area) const {
        return areaAPoint_ > 0 ? static_cast<unsigned>(std::ceil(std::sqrt(area / areaAPoint_))) : 1U;
    }

    // Over a triangle: exact for quadratics where it is small; else by the centroids of the `parts` squared triangles
    // that it falls into.
    double meanOver(const Piece& piece, const Probe& centre, unsigned parts, std::size_t& points) const {
        const auto& c = piece.corner;
        if (parts <= 2) {
            points += 4;
            return (c[0].distance + c[1].distance + c[2].distance + 9 * centre.distance) / 12;
        }
        const double n = parts;
        const Point along = (c[1].at - c[0].at) / n;
        const Point across = (c[2].at - c[0].at) / n;
        double sum = 0;
        for (unsigned i = 0; i < parts; ++i) {
            TriangleId hint = centre.near;
            for (unsigned j = 0; j + i < parts; ++j)
                for (const double third : {1.0 / 3, 2.0 / 3}) {
                    if (third > 0.5 && i + j + 1 == parts) continue;
                    const Probe at = probe(to_, c[0].at + (i + third) * along + (j + third) * across, hint);
                    sum += at.distance;
                    hint = at.near;
                }
        }
        points += static_cast<std::size_t>(parts) * parts;
        return sum / (n * n);
    }

    // The mean, and the pieces that are not settled yet.
    bool measureTriangles() {
        struct Sums {
            std::size_t points = 0;
            double area = 0;
            double integral = 0;
            double found = 0;
            double settled = 0;
            Point worst = Point::Zero();
            std::vector<Piece> open;
        };
        std::atomic<bool> stop = false;
        const double enoughSoFar = enough();
        if (options_.meanPoints > 0) areaAPoint_ = measuredArea() / options_.meanPoints;
        Sums sums = mesh::parallelBlocks(
            order_.size(), Sums{},
            [&](std::size_t begin, std::size_t end) {
                Sums s;
                for (std::size_t i = begin; i < end && !stop; ++i) {
                    const TriangleId t = order_[i];
                    const double area = mesh::areaVector(from_, t).norm() / 2;
                    s.area += area;
                    if (skipped(t)) continue;
                    const mesh::Triangle& tri = from_.triangles[t];
                    Piece piece{{probe_[tri[0]], probe_[tri[1]], probe_[tri[2]]}};
                    const Point middle = mesh::centroid(from_, t);
                    const auto close = closeTo(t);
                    const Probe centre =
                        probe(to_, middle, close ? *close : nearestOfCorners(to_.surface.mesh(), piece, middle));
                    s.integral += area * meanOver(piece, centre, finer(area), s.points);
                    piece.under = centre.near;
                    piece.bound = boundOf(to_.surface.mesh(), piece);
                    const Probe met = sharpen(to_, enoughSoFar, piece, centre);
                    if (met.distance > s.found) {
                        s.found = met.distance;
                        s.worst = met.at;
                    }
                    if (piece.bound > enoughSoFar)
                        s.open.push_back(piece);
                    else
                        s.settled = std::max(s.settled, piece.bound);
                }
                if (!progress_.report(0.4 + 0.4 * static_cast<double>(begin) / static_cast<double>(order_.size())))
                    stop = true;
                return s;
            },
            [](Sums a, Sums b) {
                a.area += b.area;
                a.integral += b.integral;
                a.points += b.points;
                a.settled = std::max(a.settled, b.settled);
                if (b.found > a.found) {
                    a.found = b.found;
                    a.worst = b.worst;
                }
                a.open.insert(a.open.end(), b.open.begin(), b.open.end());
                return a;
            });
        found(sums.found, sums.worst);
        result_.area = sums.area;
        result_.mean = sums.area > 0 ? sums.integral / sums.area : 0;
        result_.meanPoints = sums.points;
        result_.max = sums.settled;
        open_ = std::move(sums.open);
        return !stop;
    }

    // Leaves only the pieces that could still hold a point farther than what is close enough.
    void settle() {
        const double limit = enough();
        std::erase_if(open_, [&](const Piece& p) {
            if (p.bound <= limit) result_.max = std::max(result_.max, p.bound);
            return p.bound <= limit;
        });
    }

    // Rounds of splitting. A round takes the pieces with at least half the largest bound, so that a few large triangles
    // do not wait behind a million small ones; what is found does not depend on the number of threads.
    bool refine() {
        std::size_t splits = 0;
        for (settle(); !open_.empty(); settle()) {
            double largest = 0;
            for (const Piece& p : open_) largest = std::max(largest, p.bound);
            const auto first = std::stable_partition(open_.begin(), open_.end(),
                                                     [&](const Piece& p) { return p.bound < 0.5 * largest; });
            const std::vector<Piece> now(first, open_.end());
            if (splits + now.size() > options_.mostSplits) break;
            splits += now.size();
            open_.erase(first, open_.end());
            splitAll(now, enough());
            if (!progress_.report(0.9)) return false;
        }
        // What is still open at the limit keeps its own, larger bound: the maximum stays a true upper bound.
        for (const Piece& p : open_) result_.max = std::max(result_.max, p.bound);
        return true;
    }

    // The parts that are not settled by that are open. So many pieces at a time, as the parts of all would take far
    // more memory than what stays of them.
    void splitAll(const std::vector<Piece>& pieces, double limit) {
        constexpr std::size_t atATime = 65536;
        std::vector<std::array<Piece, 4>> parts(std::min(atATime, pieces.size()));
        std::vector<Probe> farthest(parts.size());
        for (std::size_t begin = 0; begin < pieces.size(); begin += atATime) {
            const std::size_t count = std::min(atATime, pieces.size() - begin);
            mesh::parallelFor(count, 64,
                              [&](std::size_t i) { farthest[i] = split(to_, limit, pieces[begin + i], parts[i]); });
            for (std::size_t i = 0; i < count; ++i) {
                found(farthest[i].distance, farthest[i].at);
                for (const Piece& part : parts[i])
                    if (part.bound > limit)
                        open_.push_back(part);
                    else
                        result_.max = std::max(result_.max, part.bound);
            }
        }
    }

    const Mesh& from_;
    const std::vector<TriangleId>& order_;  // neighbours one after the other
    Target to_;
    const DeviationOptions& options_;
    mesh::Progress& progress_;
    double tolerance_ = 0;      // where it is not said what is enough
    double areaAPoint_ = 0;     // of the mean
    std::vector<Probe> probe_;  // of each vertex that a measured triangle uses
    std::vector<Piece> open_;
    OneSidedDeviation result_;
};

}  // namespace

mesh::Outcome<OneSidedDeviation> deviationFrom(const MeasuredSurface& from, const MeasuredSurface& to,
                                               const DeviationOptions& options, mesh::Progress& progress) {
    if (from.tree.empty()) return OneSidedDeviation{};
    if (to.tree.empty()) {
        OneSidedDeviation infinite;
        infinite.max = infinite.found = infinite.mean = std::numeric_limits<double>::infinity();
        infinite.area = massOf(from.mesh()).area;
        return infinite;
    }
    return Search(from, to, options, progress).run();
}

// Each way.
constexpr double leastMeanPoints = 40'000;

mesh::Outcome<Comparison> compare(const MeasuredSurface& a, const MeasuredSurface& b, mesh::Progress& progress,
                                  double enough) {
    Comparison c;
    const double points = enough > 0 ? 0 : leastMeanPoints;
    const Kept kept = keptOf(a.mesh(), b.mesh());
    c.kept = kept.share;
    // Most of what is not kept is often only rounded.
    std::vector<TriangleId> inB;
    std::vector<TriangleId> inA;
    if (kept.share < 1) {
        inB = twinsOf(a.mesh(), b.mesh());
        inA = twinsOf(b.mesh(), a.mesh());
    }
    const Mass massA = massOf(a.mesh());
    const Mass massB = massOf(b.mesh());
    c.volumeA = massA.volume;
    c.volumeB = massB.volume;
    c.areaA = massA.area;
    c.areaB = massB.area;
    if (!progress.report(0.1)) return mesh::cancelled();
    {
        mesh::PartOfProgress half(progress, 0.1, 0.55);
        auto oneWay =
            deviationFrom(a, b, {.skip = kept.of, .close = inB, .enough = enough, .meanPoints = points}, half);
        if (!oneWay) return mesh::errorOf(oneWay);
        c.aToB = *oneWay;
    }
    mesh::PartOfProgress half(progress, 0.55, 1.0);
    auto otherWay = deviationFrom(b, a, {.skip = kept.in, .close = inA, .enough = enough, .meanPoints = points}, half);
    if (!otherWay) return mesh::errorOf(otherWay);
    c.bToA = *otherWay;
    const double area = c.aToB.area + c.bToA.area;
    c.meanPoints = c.aToB.meanPoints + c.bToA.meanPoints;
    c.mean = area > 0 ? (c.aToB.mean * c.aToB.area + c.bToA.mean * c.bToA.area) / area : 0;
    return c;
}

mesh::Outcome<std::vector<double>> distancesAtCorners(const Mesh& from, const space::TriangleTree& to,
                                                      mesh::Progress& progress) {
    std::vector<double> distance(from.positions.size());
    std::atomic<bool> stop = false;
    constexpr std::size_t block = 16384;
    mesh::parallelFor((distance.size() + block - 1) / block, 1, [&](std::size_t b) {
        std::optional<TriangleId> hint;
        for (std::size_t v = b * block; v < std::min(distance.size(), (b + 1) * block) && !stop; ++v) {
            const auto nearest = to.nearest(from.positions[v], std::numeric_limits<double>::infinity(), hint);
            if (!nearest) continue;
            hint = nearest->triangle;
            distance[v] = std::sqrt(nearest->distanceSquared);
        }
        if (!progress.report(static_cast<double>(b) * block / static_cast<double>(distance.size()))) stop = true;
    });
    if (stop) return mesh::cancelled();
    return distance;
}

}  // namespace zither::measure
