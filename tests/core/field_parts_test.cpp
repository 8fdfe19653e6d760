// Generated parts with the damage that real files bring: faces written twice, boxes that touch, sheets, folds of a
// scan, rims a hair wide with crossings, bodies through open ones, coarse coordinates far out, noise around zero,
// loose, missing and turned triangles. Repaired with every question answered they end solid in the file, with nothing
// lost.
#include <cmath>
#include <functional>
#include <iostream>
#include <numbers>
#include <set>

#include "fit/fuse.h"
#include "measure/mass.h"
#include "project/delivery.h"
#include "steps/automatic_repair.h"
#include "steps/lost.h"
#include "steps/step.h"
#include "tests/core/assemblies.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::TriangleId;
using mesh::VertexId;

struct FieldPart {
    Mesh mesh;
    double volume = 0;     // of the result; NaN: not known beforehand
    double within = 0.01;  // of it
    std::string story;
    std::size_t shells = 0;  // of the result; 0: not known beforehand
};

constexpr double unknown = std::numeric_limits<double>::quiet_NaN();

double volumeOf(const Mesh& m) {
    return measure::massOf(m).volume;
}

Mesh plain(Mesh m) {
    m.regions.clear();
    m.regionNames.clear();
    return m;
}

Mesh joined(const std::vector<Mesh>& parts) {
    return plain(assembled(parts));
}

Eigen::Affine3d turned(rig::Random& random, const Point& to = Point::Zero()) {
    const double angle = static_cast<double>(random.below(1000)) / 1000 * 6;
    return Eigen::Translation3d(to) * Eigen::AngleAxisd(angle, random.direction().normalized());
}

double between(rig::Random& random, double low, double high) {
    return low + (high - low) * static_cast<double>(random.below(10001)) / 10000;
}

// ---- kinds

// As modelling programs write both sides of a face.
FieldPart facesTwice(rig::Random& random) {
    const Mesh ball =
        moved(sphere(between(random, 4, 9), 20 + random.below(12), 10 + random.below(8)), turned(random), false);
    Mesh back = flipped(ball);
    // In some a few faces are there once.
    std::vector<std::uint8_t> keep(back.triangles.size(), 1);
    for (std::size_t i = 0; i < random.below(4); ++i) keep[random.below(keep.size())] = 0;
    return {joined({ball, mesh::keepTriangles(back, keep)}), volumeOf(ball), 0.01, "faces written twice"};
}

// A stair or a shelf of boxes whose faces lie on each other, whole and in part.
FieldPart touchingBoxes(rig::Random& random) {
    std::vector<Mesh> boxes;
    double volume = 0;
    double x = 0;
    for (std::size_t i = 0; i < 3 + random.below(8); ++i) {
        const double wide = between(random, 0.5, 2);
        const double high = between(random, 0.5, 4);
        const double low = i % 2 == 0 ? 0 : between(random, 0, 0.4);
        boxes.push_back(box(rig::rounded(Point(x, 0, low)), rig::rounded(Point(x + wide, 3, low + high))));
        volume += volumeOf(boxes.back());
        x = boxes.back().positions.empty() ? x : mesh::boxOf(boxes.back()).max.x();
    }
    return {joined(boxes), volume, 0.01, "boxes that touch"};
}

// Open sheets, flat and bent, some through each other, some through a body.
FieldPart sheets(rig::Random& random) {
    std::vector<Mesh> parts;
    if (random.below(2) == 0) parts.push_back(box(Point(-2, -2, -2), Point(2, 2, 2)));
    for (std::size_t i = 0; i < 1 + random.below(4); ++i) {
        Mesh sheet;
        const std::size_t n = 3 + random.below(5);
        const double bend = between(random, -0.1, 0.1);
        for (std::size_t v = 0; v <= n; ++v)
            for (std::size_t u = 0; u <= n; ++u) {
                const double a = 4 * static_cast<double>(u) / static_cast<double>(n) - 2;
                const double b = 4 * static_cast<double>(v) / static_cast<double>(n) - 2;
                sheet.positions.emplace_back(a, b, bend * a * a);
            }
        const auto at = [&](std::size_t u, std::size_t v) { return static_cast<VertexId>(v * (n + 1) + u); };
        for (std::size_t v = 0; v < n; ++v)
            for (std::size_t u = 0; u < n; ++u) {
                sheet.triangles.push_back({at(u, v), at(u + 1, v), at(u + 1, v + 1)});
                sheet.triangles.push_back({at(u, v), at(u + 1, v + 1), at(u, v + 1)});
            }
        parts.push_back(moved(sheet, turned(random, 2 * random.direction()), false));
    }
    return {joined(parts), unknown, 0, "sheets"};
}

// A scan: a rough ball; patches of it pushed over their neighbours, so that they fold and cross, and small holes.
FieldPart scanFolds(rig::Random& random) {
    Mesh ball = plain(sphere(10, 48, 32));
    for (Point& p : ball.positions) p *= 1 + 0.01 * random.direction().x();
    const double volume = volumeOf(ball);
    for (std::size_t i = 0; i < 1 + random.below(5); ++i) {
        const Point centre = ball.positions[random.below(ball.positions.size())];
        const Point push = 0.8 * random.direction();
        for (Point& p : ball.positions)
            if ((p - centre).norm() < 0.9) p += push;
    }
    for (std::size_t i = 0; i < random.below(4); ++i) {
        const Point centre = ball.positions[random.below(ball.positions.size())];
        std::vector<std::uint8_t> keep(ball.triangles.size(), 1);
        for (TriangleId t = 0; t < keep.size(); ++t) keep[t] = (mesh::centroid(ball, t) - centre).norm() > 1.2;
        ball = mesh::keepTriangles(ball, keep);
    }
    return {moved(ball, turned(random), false), volume, 0.02, "folds of a scan"};
}

// Two halves that nearly meet: their rims run along each other a hair apart, and cross.
FieldPart hairRims(rig::Random& random) {
    const Mesh ball = plain(sphere(10, 36, 24));
    std::vector<std::uint8_t> upper(ball.triangles.size(), 0);
    for (TriangleId t = 0; t < upper.size(); ++t) upper[t] = mesh::centroid(ball, t).z() > 0;
    Mesh one = mesh::keepTriangles(ball, upper);
    for (std::uint8_t& flag : upper) flag ^= 1;
    Mesh other = mesh::keepTriangles(ball, upper);
    const double hair = between(random, 1e-4, 2e-3);
    for (Point& p : one.positions) p += hair * random.direction();
    return {moved(joined({one, other}), turned(random), false), volumeOf(ball), 0.01, "rims a hair wide"};
}

// A body stuck into the open side of another, and one through its wall.
FieldPart throughOpen(rig::Random& random) {
    Mesh tube = plain(cylinder(3, 8, 16 + random.below(16)));
    std::vector<std::uint8_t> keep(tube.triangles.size(), 1);
    const double top = mesh::boxOf(tube).max.z();
    for (TriangleId t = 0; t < keep.size(); ++t) keep[t] = mesh::centroid(tube, t).z() < top - 1e-6;
    tube = mesh::keepTriangles(tube, keep);
    const Mesh rod =
        moved(box(Point(-0.7, -0.7, -3), Point(0.7, 0.7, 3)),
              Eigen::Affine3d(Eigen::Translation3d(between(random, -1, 1), between(random, -1, 1), 4)), false);
    const Mesh bar = moved(box(Point(-6, -0.4, -0.5), Point(6, 0.45, 0.5)), turned(random), false);
    return {moved(joined({tube, rod, bar}), turned(random), false), unknown, 0, "bodies through an open one"};
}

// Solids that cross, written with 32 bits so far from the origin that a unit of the last place can be seen.
FieldPart farOut(rig::Random& random) {
    const double away = between(random, 5e3, 2e4);
    const Point to = away * Point(1, -0.7, 0.4);
    const Mesh ball = moved(sphere(8, 24, 14), Eigen::Affine3d(Eigen::Translation3d(to)), false);
    const Mesh bar = moved(box(Point(-9, -2, -2), Point(9, 2, 2)), turned(random, to), false);
    return {joined({ball, bar}), unknown, 0, "coarse coordinates far out"};
}

// Two bodies through each other, and what they enclose together.
std::pair<Mesh, double> crossingBodies(rig::Random& random) {
    const Mesh ball = plain(sphere(between(random, 4, 6), 16 + random.below(8), 10 + random.below(6)));
    const Mesh bar = moved(box(Point(-8, -1.5, -1), Point(8, 1.5, 1)), turned(random), false);
    const auto united = fit::fuse(joined({ball, bar}), mesh::Pick(), {}, silent());
    EXPECT_TRUE(united);
    return {joined({ball, bar}), united ? volumeOf(united.value().mesh) : unknown};
}

// The corners of each triangle by themselves, changed one by one.
Mesh changed(const Mesh& m, const std::function<Point(const Point&)>& change) {
    Mesh out = loose(soupOf(m).triangles);
    for (Point& p : out.positions) p = rig::rounded(change(p));
    mesh::joinEqualVertices(out);
    return out;
}

// Zeros that came out of a rotation: a few units of the last place of what was far larger, here and there another.
FieldPart noiseAroundZero(rig::Random& random) {
    auto [bodies, volume] = crossingBodies(random);
    const Mesh noisy = changed(bodies, [&](Point p) {
        for (double& c : p)
            if (std::abs(c) < 1e-5) c = 1e-15 * (static_cast<double>(random.below(5)) - 2);
        return p;
    });
    return {noisy, volume, 0.01, "noise around zero"};
}

// Every triangle by itself, its corners a few units of the last place off those of its neighbours.
FieldPart looseTriangles(rig::Random& random) {
    auto [bodies, volume] = crossingBodies(random);
    const Mesh apart = changed(bodies, [&](const Point& p) { return Point(p + 2e-6 * random.direction()); });
    return {apart, volume, 0.01, "loose triangles"};
}

// Both sides of faces written, and triangles missing all over.
FieldPart missingTriangles(rig::Random& random) {
    const Mesh ball = plain(sphere(6, 24 + random.below(8), 14 + random.below(6)));
    Mesh both = random.below(2) == 0 ? ball : joined({ball, flipped(ball)});
    std::vector<std::uint8_t> keep(both.triangles.size(), 1);
    for (std::uint8_t& flag : keep) flag = random.below(50) != 0;
    return {moved(mesh::keepTriangles(both, keep), turned(random), false), volumeOf(ball), 0.02,
            "triangles missing all over"};
}

// Triangles turned over at random, and some twice.
FieldPart turnedTriangles(rig::Random& random) {
    auto [bodies, volume] = crossingBodies(random);
    for (TriangleId t = 0; t < bodies.triangles.size(); ++t)
        if (random.below(10) == 0) std::swap(bodies.triangles[t][1], bodies.triangles[t][2]);
    const std::size_t count = bodies.triangles.size();
    for (std::size_t i = 0; i < count / 12; ++i) bodies.triangles.push_back(bodies.triangles[random.below(count)]);
    return {bodies, volume, 0.01, "triangles turned over"};
}

// Edges split on one side only.
FieldPart splitOnOneSide(rig::Random& random) {
    auto [bodies, volume] = crossingBodies(random);
    Mesh split;
    split.positions = bodies.positions;
    for (const mesh::Triangle& t : bodies.triangles) {
        if (random.below(12) != 0) {
            split.triangles.push_back(t);
            continue;
        }
        const auto middle = static_cast<VertexId>(split.positions.size());
        split.positions.push_back(rig::rounded(0.5 * (bodies.positions[t[0]] + bodies.positions[t[1]])));
        split.triangles.push_back({t[0], middle, t[2]});
        split.triangles.push_back({middle, t[1], t[2]});
    }
    mesh::joinEqualVertices(split);
    return {split, volume, 0.01, "edges split on one side"};
}

// Bodies that cross, cut off along triangles: open all around, with a jagged rim through all of them.
FieldPart cutOff(rig::Random& random) {
    auto [bodies, volume] = crossingBodies(random);
    const Point along = random.direction();
    std::vector<std::uint8_t> keep(bodies.triangles.size(), 0);
    for (TriangleId t = 0; t < keep.size(); ++t) keep[t] = mesh::centroid(bodies, t).dot(along) < 2.5;
    return {moved(mesh::keepTriangles(bodies, keep), turned(random), false), unknown, 0, "cut off"};
}

// A body of revolution of which each face was tessellated by itself, with edges of its own along the rims that it
// shares with others: chords of one lie outside those of the other, in the plane of a flat end and across a round one.
FieldPart facesByThemselves(rig::Random& random) {
    const double out = between(random, 6, 12);
    const double in = between(random, 0.05, 0.6) * out;
    const double high = between(random, 5, 25);
    const double round = between(random, 0.5, 1.5);
    // The meridians of its faces, each from the one before: radius and height.
    using Meridian = std::vector<std::pair<double, double>>;
    std::vector<Meridian> faces;
    double top = out;
    switch (random.below(4)) {
        case 0:
            faces = {{{out, 0}, {out, high}}};
            break;
        case 1:
            faces = {{{1.6 * out, 0}, {1.6 * out, 0.2 * high}},
                     {{1.6 * out, 0.2 * high}, {out, 0.2 * high}},
                     {{out, 0.2 * high}, {out, high}}};
            break;
        case 2:
            top = 0.7 * out;
            faces = {{{out, 0}, {top, high}}};
            break;
        default: {
            Meridian corner;
            const std::size_t steps = 2 + random.below(6);
            for (std::size_t i = 0; i <= steps; ++i) {
                const double angle = 0.5 * std::numbers::pi * static_cast<double>(i) / static_cast<double>(steps);
                corner.emplace_back(out - round + round * std::cos(angle), high - round + round * std::sin(angle));
            }
            top = corner.back().first;
            faces = {{{out, 0}, corner.front()}, corner};
        }
    }
    faces.push_back({{top, high}, {in, high}});
    faces.push_back({{in, high}, {in, 0}});
    faces.push_back({{in, 0}, faces.front().front()});
    Mesh m;
    double volume = 0;
    const std::size_t patches = std::size_t{1} << random.below(3);
    const std::size_t fewest = (30 + random.below(40)) / patches;
    for (const Meridian& face : faces) {
        for (std::size_t j = 0; j + 1 < face.size(); ++j) {
            const auto& [r, z] = face[j];
            const auto& [s, y] = face[j + 1];
            volume += std::numbers::pi / 3 * (y - z) * (r * r + r * s + s * s);
        }
        for (std::size_t patch = 0; patch < patches; ++patch) {
            const std::size_t chords = fewest + random.below(fewest);
            const auto at = [&](std::size_t i, std::size_t j) {
                // The ends of a patch are those of the next one, bit for bit.
                const std::size_t turn = (patch * chords + i) % (patches * chords);
                const double angle =
                    2 * std::numbers::pi * static_cast<double>(turn) / static_cast<double>(patches * chords);
                return Point(face[j].first * std::cos(angle), face[j].first * std::sin(angle), face[j].second);
            };
            for (std::size_t i = 0; i < chords; ++i)
                for (std::size_t j = 0; j + 1 < face.size(); ++j) {
                    const auto first = static_cast<VertexId>(m.positions.size());
                    for (const Point& p : {at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)})
                        m.positions.push_back(rig::rounded(p));
                    m.triangles.push_back({first, first + 1, first + 2});
                    m.triangles.push_back({first, first + 2, first + 3});
                }
        }
    }
    mesh::joinEqualVertices(m);
    return {m, volume, 0.01, "faces tessellated by themselves", 1};
}

// A ring of triangles that stand apart, each drawn in towards its centre: some of the cracks are narrower than others.
FieldPart shrunkTriangles() {
    constexpr std::size_t around = 48;
    constexpr std::size_t across = 24;
    const auto at = [](std::size_t i, std::size_t j) {
        const double turn = 2 * std::numbers::pi * static_cast<double>(i % around) / around;
        const double angle = 2 * std::numbers::pi * static_cast<double>(j % across) / across;
        const double radius = 10 + 3 * std::cos(angle);
        return Point(radius * std::cos(turn), radius * std::sin(turn), 3 * std::sin(angle));
    };
    std::vector<std::array<Point, 3>> triangles;
    for (std::size_t i = 0; i < around; ++i)
        for (std::size_t j = 0; j < across; ++j) {
            triangles.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1)});
            triangles.push_back({at(i, j), at(i + 1, j + 1), at(i, j + 1)});
        }
    const double volume = volumeOf(loose(triangles));
    for (std::array<Point, 3>& t : triangles) {
        const Point centre = (t[0] + t[1] + t[2]) / 3;
        for (Point& p : t) p = rig::rounded(centre + 0.99 * (p - centre));
    }
    return {loose(triangles), volume, 0.01, "shrunk triangles", 1};
}

using Kind = FieldPart (*)(rig::Random&);
constexpr Kind kinds[] = {facesTwice,      touchingBoxes,  sheets,          scanFolds,      hairRims,
                          throughOpen,     farOut,         noiseAroundZero, looseTriangles, missingTriangles,
                          turnedTriangles, splitOnOneSide, cutOff};

FieldPart fieldPart(std::uint64_t seed) {
    rig::Random random(seed * 7919 + 13);
    FieldPart part = kinds[seed % std::size(kinds)](random);
    EXPECT_EQ(mesh::validate(part.mesh), "");
    part.story = "seed " + std::to_string(seed) + ": " + part.story;
    return part;
}

const Mesh& resultOf(const steps::RepairResult& r, const Mesh& m) {
    return r.steps.empty() ? m : r.steps.back().part->mesh();
}

std::uint64_t seeds() {
    return seedsOf(65, 2000);
}

// ---- what must hold

void expectSolidWithNothingLost(const FieldPart& part, steps::RepairOptions options) {
    const TemporaryFolder folder;
    const auto import = shared(part.mesh);
    const auto repaired = steps::repairAutomatically(import, options, silent());
    ASSERT_TRUE(repaired);
    const auto file =
        project::writeAndProve(resultOf(*repaired, part.mesh), {folder / "part.stl"}, options.brief, silent());
    ASSERT_TRUE(file);
    EXPECT_TRUE(file->survey->solid);
    if (part.shells > 0) {
        EXPECT_EQ(file->survey->counts.shells, part.shells);
    }
    // What steps on the way could not do is not told of a part in which it is done: only what fails the brief.
    for (const steps::Listed& l : repaired->left)
        EXPECT_TRUE(l.kind != steps::Listed::Left || l.text.find(", limit ") != std::string::npos) << l.text;
    steps::SeenOfImport seen(import);
    const auto loss = seen.lossTo(*file->part, steps::toldBy(repaired->steps), silent());
    ASSERT_TRUE(loss);
    EXPECT_TRUE(measure::losesNothing(*loss)) << 100 * loss->lost << " % lost";
    EXPECT_LE(loss->added - loss->addedListed, 0.01);
    if (!std::isnan(part.volume)) {
        EXPECT_NEAR(file->survey->mass.volume, part.volume, part.within * part.volume);
    }
}

TEST(FieldParts, EveryQuestionAnsweredTheyEndSolidAndNothingIsLost) {
    steps::RepairOptions options;
    options.closeOpenings = true;
    options.sheets = steps::SheetWay::Thicken;
    options.narrow = true;
    for (std::uint64_t seed = 0; seed < seeds(); ++seed) {
        // Half an hour is long to wait without a word.
        if (longMode() && seed % 100 == 0) std::cerr << seed << " of " << seeds() << "\n";
        const FieldPart part = fieldPart(seed);
        SCOPED_TRACE(part.story);
        // What is seen of a sheet from behind alone moves by the thickness.
        options.thickness = 0.8 * measure::lossTolerance(part.mesh);
        expectSolidWithNothingLost(part, options);
    }
}

// Whatever is answered: nothing of such a part is a sheet, an opening or another body.
void expectOneBody(const FieldPart& part) {
    for (const steps::SheetWay way : {steps::SheetWay::Ask, steps::SheetWay::Drop, steps::SheetWay::Thicken})
        expectSolidWithNothingLost(part, {.closeOpenings = way != steps::SheetWay::Ask, .sheets = way, .narrow = true});
}

TEST(FieldParts, FacesTessellatedByThemselvesBecomeOneBody) {
    for (std::uint64_t seed = 0; seed < seedsOf(6, 300); ++seed) {
        rig::Random random(seed * 7919 + 13);
        const FieldPart part = facesByThemselves(random);
        SCOPED_TRACE("seed " + std::to_string(seed) + ": " + part.story);
        expectOneBody(part);
    }
}

TEST(FieldParts, ShrunkTrianglesBecomeOneBody) {
    expectOneBody(shrunkTriangles());
}

TEST(FieldParts, AskedNothingNoCountIsWorseAndNothingIsLost) {
    for (std::uint64_t seed = 0; seed < seeds(); seed += longMode() ? 5 : 2) {
        const FieldPart part = fieldPart(seed);
        SCOPED_TRACE(part.story);
        const auto import = shared(part.mesh);
        const auto repaired = steps::repairAutomatically(import, {.narrow = true}, silent());
        ASSERT_TRUE(repaired);
        const Mesh& result = resultOf(*repaired, part.mesh);
        const check::Counts before = surveyed(part.mesh).counts;
        const check::Counts after = surveyed(result).counts;
        EXPECT_LE(after.boundaryEdges, before.boundaryEdges);
        EXPECT_LE(after.nonmanifoldEdges, before.nonmanifoldEdges);
        EXPECT_LE(after.nonmanifoldVertices, before.nonmanifoldVertices);
        EXPECT_LE(after.misorientedEdges, before.misorientedEdges);
        EXPECT_LE(after.inwardShells, before.inwardShells);
        EXPECT_LE(after.selfIntersectingTriangles, before.selfIntersectingTriangles);
        EXPECT_LE(after.duplicateTriangles, before.duplicateTriangles);
        steps::SeenOfImport seen(import);
        const auto loss = seen.lossTo(check::Surveyed(result), steps::toldBy(repaired->steps), silent());
        ASSERT_TRUE(loss);
        EXPECT_TRUE(measure::losesNothing(*loss)) << 100 * loss->lost << " % lost";
    }
}

}  // namespace
}  // namespace zither::tests
