// Points spread by area over each shell; rays off both sides say what is seen, the other surface's tree what is near.
#include "measure/loss.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

#include "measure/measure_tolerances.h"
#include "measure/visibility.h"
#include "mesh/blocks.h"
#include "mesh/disjoint_sets.h"
#include "space/cell_grid.h"

namespace zither::measure {
namespace {

using mesh::Box;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

constexpr std::size_t pointsInAll = 20'000;
constexpr std::size_t pointsAShell = 16;

// A hash as a number from 0 to 1 (Steele, Lea & Flood 2014): the same for a point whatever the threads.
double hashed(std::uint64_t x) {
    x += 0x9E3779B97F4A7C15ULL;
    x = (x ^ (x >> 30)) * 0xBF58476D1CE4E5B9ULL;
    x = (x ^ (x >> 27)) * 0x94D049BB133111EBULL;
    return static_cast<double>((x ^ (x >> 31)) >> 11) * 0x1.0p-53;
}

// Shells share the points by area, each at least its few; within a shell they are spread along the triangles.
std::vector<SeenPoint> samplesOf(const LossSurface& surface) {
    const Mesh& m = surface.tree.surface();
    std::vector<double> areaOf(surface.shells.count, 0);
    std::vector<double> area(m.triangles.size(), 0);
    for (TriangleId t = 0; t < area.size(); ++t) {
        if (surface.shells.of[t] == mesh::noEdge) continue;
        area[t] = 0.5 * mesh::areaVector(m, t).norm();
        areaOf[surface.shells.of[t]] += area[t];
    }
    double total = 0;
    for (const double a : areaOf) total += a;
    if (!(total > 0)) return {};
    std::vector<double> step(areaOf.size(), 0);  // area a point
    std::vector<double> next(areaOf.size(), 0);  // area from the shell's beginning to its next point
    for (std::size_t s = 0; s < areaOf.size(); ++s) {
        const auto share = static_cast<std::size_t>(std::ceil(static_cast<double>(pointsInAll) * areaOf[s] / total));
        step[s] = areaOf[s] / static_cast<double>(std::max(pointsAShell, share));
        next[s] = step[s] * hashed(s);
    }
    std::vector<double> passed(areaOf.size(), 0);
    std::vector<SeenPoint> samples;
    for (TriangleId t = 0; t < area.size(); ++t) {
        if (!(area[t] > 0)) continue;
        const std::uint32_t s = surface.shells.of[t];
        passed[s] += area[t];
        while (next[s] < passed[s]) {
            const std::uint64_t seed = samples.size();
            const double root = std::sqrt(hashed(3 * seed + 1));
            const double along = hashed(3 * seed + 2);
            SeenPoint& sample = samples.emplace_back();
            sample.at =
                (1 - root) * m.corner(t, 0) + root * (1 - along) * m.corner(t, 1) + root * along * m.corner(t, 2);
            sample.normal = mesh::areaVector(m, t).normalized();
            sample.area = step[s];
            sample.triangle = t;
            sample.shell = s;
            next[s] += step[s] * (0.5 + hashed(3 * seed));
        }
    }
    return samples;
}

template <class Body>
bool forAll(std::size_t count, mesh::Progress& progress, const Body& body) {
    constexpr std::size_t block = 256;
    return mesh::forBlocks(count, block, progress, [&](std::size_t begin, std::size_t end) {
        for (std::size_t i = begin; i < end; ++i) body(i);
    });
}

class Comparing {
public:
    Comparing(const LossSurface& import, const LossSurface& result, const LossOptions& options)
        : import_(import), result_(result), options_(options) {
        loss_.tolerance = options.tolerance > 0 ? options.tolerance : lossTolerance(import.tree.surface());
        diagonal_ = mesh::boxOf(import.tree.surface()).diagonal();
    }

    mesh::Outcome<Loss> run(const SeenPoints& seen, mesh::Progress& progress) {
        const std::vector<SeenPoint>& points = seen.points();
        std::vector<Fate> fates(points.size());
        mesh::PartOfProgress searching(progress, 0, 0.5);
        const auto search = [&](std::size_t i) { fates[i] = fateOf(seen, i); };
        if (!forAll(points.size(), searching, search)) return mesh::cancelled();
        sumLost(points, fates);
        const std::vector<SeenPoint> made = samplesOf(result_);
        std::vector<std::uint8_t> isNew(made.size());
        mesh::PartOfProgress judging(progress, 0.5, 1);
        const auto judge = [&](std::size_t i) {
            isNew[i] = !import_.tree.nearest(made[i].at, loss_.tolerance).has_value();
        };
        if (!forAll(made.size(), judging, judge)) return mesh::cancelled();
        sumAdded(made, isNew);
        loss_.points = points.size() + made.size();
        return std::move(loss_);
    }

private:
    using Side = SeenPoints::Side;
    enum class Fate : std::uint8_t { Hidden, Kept, Lost };

    // Seen from a side on which the result stands, it is kept; the side that more likely is one is asked first, as
    // nothing takes as long as to tell that a side is hidden.
    [[nodiscard]] Fate fateOf(const SeenPoints& seen, std::size_t i) const {
        const SeenPoint& s = seen.points()[i];
        const auto nearest = result_.tree.nearest(s.at, loss_.tolerance);
        const bool frontFirst =
            !nearest || mesh::areaVector(result_.tree.surface(), nearest->triangle).dot(s.normal) > 0;
        bool isSeen = false;
        for (const Side side : {frontFirst ? Side::Front : Side::Back, frontFirst ? Side::Back : Side::Front}) {
            if (!seen.isSeen(i, side)) continue;
            isSeen = true;
            if (nearest && stands(s, nearest->triangle, side)) return Fate::Kept;
        }
        return isSeen ? Fate::Lost : Fate::Hidden;
    }

    // The result has a point near enough, which faces that side where that is asked; `nearest` is.
    [[nodiscard]] bool stands(const SeenPoint& s, TriangleId nearest, Side side) const {
        const Mesh& m = result_.tree.surface();
        const Point n = side == Side::Front ? s.normal : Point(-s.normal);
        const auto faces = [&](TriangleId t) { return mesh::areaVector(m, t).dot(n) > 0; };
        if (!options_.facing || faces(nearest)) return true;
        Box around;
        around.add(s.at - Point::Constant(loss_.tolerance));
        around.add(s.at + Point::Constant(loss_.tolerance));
        bool found = false;
        result_.tree.overlapping(around, [&](TriangleId t) {
            if (found || !faces(t)) return;
            const Point p = space::nearestOnTriangle(s.at, m.corner(t, 0), m.corner(t, 1), m.corner(t, 2));
            found = (p - s.at).norm() <= loss_.tolerance;
        });
        return found;
    }

    void sumLost(const std::vector<SeenPoint>& samples, const std::vector<Fate>& fates) {
        struct Sums {
            double seen = 0;
            double lost = 0;
            double mayGo = 0;
            double area = 0;
            Box box;
        };
        std::vector<Sums> of(import_.shells.count);
        std::vector<SeenPoint> gone;
        double lost = 0;
        double lostReshaped = 0;
        double area = 0;
        for (std::size_t i = 0; i < samples.size(); ++i) {
            Sums& sums = of[samples[i].shell];
            area += samples[i].area;
            if (fates[i] == Fate::Hidden) continue;
            sums.seen += samples[i].area;
            loss_.seenArea += samples[i].area;
            if (fates[i] == Fate::Kept) continue;
            sums.lost += samples[i].area;
            lost += samples[i].area;
            const bool reshaped = isTold(options_.told ? options_.told->reshaped.get() : nullptr, samples[i]);
            if (reshaped) lostReshaped += samples[i].area;
            const bool asked = reshaped || isTold(options_.told ? options_.told->mayGo.get() : nullptr, samples[i]);
            if (asked) sums.mayGo += samples[i].area;
            loss_.lostPoints.push_back({samples[i].triangle, samples[i].area, asked});
            gone.push_back(samples[i]);
        }
        loss_.lost = loss_.seenArea > 0 ? lost / loss_.seenArea : 0;
        const Mesh& m = import_.tree.surface();
        for (TriangleId t = 0; t < m.triangles.size(); ++t) {
            if (import_.shells.of[t] == mesh::noEdge) continue;
            Sums& sums = of[import_.shells.of[t]];
            sums.box.add(mesh::boxOf(m, t));
            sums.area += 0.5 * mesh::areaVector(m, t).norm();
        }
        double small = 0;
        double specks = 0;
        double asked = 0;
        for (std::uint32_t s = 0; s < of.size(); ++s) {
            asked += of[s].mayGo;
            if (!(of[s].lost > 0.5 * of[s].seen)) continue;
            LostPiece piece{s,
                            of[s].box,
                            of[s].area,
                            of[s].lost,
                            of[s].box.diagonal() < tolerance::speckSize * diagonal_,
                            of[s].mayGo > 0.5 * of[s].lost};
            if (piece.speck && !piece.mayGo) {
                small += piece.area;
                specks += of[s].lost - of[s].mayGo;
            }
            loss_.pieces.push_back(piece);
        }
        if (loss_.seenArea > 0) loss_.lostListed = asked / loss_.seenArea;
        if (loss_.seenArea > 0) loss_.lostReshaped = lostReshaped / loss_.seenArea;
        if (small > tolerance::speckArea * area)
            for (LostPiece& piece : loss_.pieces) piece.speck = false;
        else if (loss_.seenArea > 0)
            loss_.lostListed += specks / loss_.seenArea;
        std::stable_sort(loss_.pieces.begin(), loss_.pieces.end(),
                         [](const LostPiece& a, const LostPiece& b) { return a.area > b.area; });
        loss_.lostPlaces = placesOf(gone, area);
    }

    [[nodiscard]] bool isTold(const space::TriangleTree* told, const SeenPoint& s) const {
        return told && told->nearest(s.at, loss_.tolerance);
    }

    [[nodiscard]] bool wasListed(const SeenPoint& s) const {
        if (!options_.told) return false;
        const auto lies = [&](const auto& tree) { return tree && tree->nearest(s.at, loss_.tolerance); };
        return lies(options_.told->closing) || lies(options_.told->bodies);
    }

    void sumAdded(const std::vector<SeenPoint>& samples, const std::vector<std::uint8_t>& isNew) {
        double area = 0;
        double added = 0;
        double listed = 0;
        std::vector<SeenPoint> fresh;
        for (std::size_t i = 0; i < samples.size(); ++i) {
            area += samples[i].area;
            if (!isNew[i]) continue;
            added += samples[i].area;
            if (wasListed(samples[i])) listed += samples[i].area;
            fresh.push_back(samples[i]);
        }
        if (!(area > 0)) return;
        loss_.added = added / area;
        loss_.addedListed = listed / area;
        loss_.addedPlaces = placesOf(fresh, area);
    }

    // Points nearer to each other than a few times the distance between samples are one place.
    [[nodiscard]] static std::vector<LossPlace> placesOf(const std::vector<SeenPoint>& samples, double area) {
        if (samples.empty()) return {};
        const double near = 3 * std::sqrt(area / static_cast<double>(pointsInAll));
        space::CellGrid grid(near);
        mesh::DisjointSets groups(samples.size());
        for (std::uint32_t i = 0; i < samples.size(); ++i) {
            grid.near(space::around(samples[i].at, near), [&](std::uint32_t other) {
                if ((samples[other].at - samples[i].at).norm() <= near) groups.join(i, other);
            });
            grid.add(i, samples[i].at);
        }
        std::vector<LossPlace> places;
        std::vector<Box> boxes;
        std::vector<std::uint32_t> placeOf(samples.size(), mesh::noIndex);
        for (std::uint32_t i = 0; i < samples.size(); ++i) {
            std::uint32_t& place = placeOf[groups.find(i)];
            if (place == mesh::noIndex) {
                place = static_cast<std::uint32_t>(places.size());
                places.emplace_back();
                boxes.emplace_back();
            }
            places[place].area += samples[i].area;
            boxes[place].add(samples[i].at);
        }
        std::vector<double> nearest(places.size(), std::numeric_limits<double>::infinity());
        for (std::uint32_t i = 0; i < samples.size(); ++i) {
            const std::uint32_t place = placeOf[groups.find(i)];
            const double distance = (samples[i].at - boxes[place].centre()).norm();
            if (distance >= nearest[place]) continue;
            nearest[place] = distance;
            places[place].position = samples[i].at;
            places[place].size = boxes[place].diagonal();
        }
        std::stable_sort(places.begin(), places.end(),
                         [](const LossPlace& a, const LossPlace& b) { return a.area > b.area; });
        return places;
    }

    const LossSurface& import_;
    const LossSurface& result_;
    const LossOptions& options_;
    double diagonal_ = 0;
    Loss loss_;
};

}  // namespace

void Told::append(const Told& other) {
    mesh::append(closing, other.closing);
    mesh::append(mayGo, other.mayGo);
    mesh::append(reshaped, other.reshaped);
    mesh::append(bodies, other.bodies);
}

ToldTrees::ToldTrees(Told told) : told_(std::move(told)) {
    const auto tree = [](const Mesh& m) -> std::unique_ptr<const space::TriangleTree> {
        if (m.triangles.empty()) return nullptr;
        return std::make_unique<const space::TriangleTree>(m);
    };
    closing = tree(told_.closing);
    mayGo = tree(told_.mayGo);
    reshaped = tree(told_.reshaped);
    bodies = tree(told_.bodies);
}

double lossTolerance(const Mesh& import) {
    double area = 0;
    for (TriangleId t = 0; t < import.triangles.size(); ++t) area += 0.5 * mesh::areaVector(import, t).norm();
    return std::min(mesh::boxOf(import).diagonal() / 1000, std::sqrt(area) / 500);
}

SeenPoints::SeenPoints(const LossImport& import)
    : visibility_(std::in_place, import.tree.surface(), import.rays, mesh::Mesh(), import.tight),
      points_(samplesOf(import)),
      known_(2 * points_.size()) {}

SeenPoints::SeenPoints(std::shared_ptr<const SeenPoints> free, const LossImport& import, const Mesh& closing)
    : behind_(std::move(free)),
      visibility_(std::in_place, import.tree.surface(), import.rays, closing, import.tight),
      points_(behind_->points_),
      known_(2 * points_.size()) {}

SeenPoints::SeenPoints(std::shared_ptr<const SeenPoints> still, std::vector<SeenPoint> moved)
    : behind_(std::move(still)), points_(std::move(moved)), known_(2 * points_.size()) {}

bool SeenPoints::isSeen(std::size_t point, Side side) const {
    // Two threads may find the same at once.
    std::atomic<std::uint8_t>& known = known_[2 * point + (side == Side::Back)];
    if (known == unknown) {
        const SeenPoint& p = points_[point];
        const bool is = (!behind_ || behind_->isSeen(point, side)) &&
                        (!visibility_ || visibility_->isSeen(p.at, side == Side::Front ? p.normal : Point(-p.normal)));
        known = is ? seen : hidden;
    }
    return known == seen;
}

mesh::Outcome<Loss> lossBetween(const SeenPoints& seen, const LossSurface& import, const LossSurface& result,
                                const LossOptions& options, mesh::Progress& progress) {
    return Comparing(import, result, options).run(seen, progress);
}

double unlisted(const Loss& loss) {
    const double rest = loss.lost - loss.lostListed;
    return rest > tolerance::sumsAlike ? rest : 0;
}

bool isMissed(const LostPiece& piece) {
    return !piece.speck && !piece.mayGo && piece.lost >= tolerance::glimpse * piece.area;
}

bool losesNothing(const Loss& loss) {
    return unlisted(loss) <= mostLost && std::none_of(loss.pieces.begin(), loss.pieces.end(), isMissed);
}

mesh::Outcome<double> farShare(const LossSurface& import, const space::TriangleTree& result, mesh::Progress& progress) {
    const std::vector<SeenPoint> points = samplesOf(import);
    const double tolerance = lossTolerance(import.tree.surface());
    std::vector<std::uint8_t> far(points.size());
    const auto look = [&](std::size_t i) { far[i] = !result.nearest(points[i].at, tolerance).has_value(); };
    if (!forAll(points.size(), progress, look)) return mesh::cancelled();
    double all = 0;
    double gone = 0;
    for (std::size_t i = 0; i < points.size(); ++i) {
        all += points[i].area;
        if (far[i]) gone += points[i].area;
    }
    return all > 0 ? gone / all : 0;
}

mesh::Outcome<Loss> lossBetween(const LossImport& import, const LossSurface& result, const LossOptions& options,
                                mesh::Progress& progress) {
    auto seen = std::make_shared<const SeenPoints>(import);
    if (options.told && options.told->closing)
        seen = std::make_shared<const SeenPoints>(seen, import, options.told->closing->surface());
    return lossBetween(*seen, import, result, options, progress);
}

}  // namespace zither::measure
