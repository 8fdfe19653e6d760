// Generated broken parts: sound shapes with one to five kinds of damage each, seeded. What must hold for all of them.
#include <cmath>
#include <set>

#include "measure/deviation.h"
#include "measure/mass.h"
#include "project/delivery.h"
#include "shape/decimate.h"
#include "steps/automatic_repair.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using mesh::TriangleId;
using mesh::VertexId;

// ---- sound shapes

Mesh torus(double ring, double tube, std::size_t around, std::size_t across) {
    Mesh m;
    for (std::size_t i = 0; i < around; ++i)
        for (std::size_t j = 0; j < across; ++j) {
            const double a = 2 * 3.14159265358979 * static_cast<double>(i) / static_cast<double>(around);
            const double b = 2 * 3.14159265358979 * static_cast<double>(j) / static_cast<double>(across);
            const double r = ring + tube * std::cos(b);
            m.positions.emplace_back(r * std::cos(a), r * std::sin(a), tube * std::sin(b));
        }
    const auto at = [&](std::size_t i, std::size_t j) {
        return static_cast<VertexId>((i % around) * across + j % across);
    };
    for (std::size_t i = 0; i < around; ++i)
        for (std::size_t j = 0; j < across; ++j) {
            m.triangles.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1)});
            m.triangles.push_back({at(i, j), at(i + 1, j + 1), at(i, j + 1)});
        }
    return m;
}

// A box whose sides are grids.
Mesh gridBox(int n) {
    rig::Soup soup;
    const auto face = [&](int axis, double side) {
        for (int i = 0; i < n; ++i)
            for (int j = 0; j < n; ++j) {
                const auto p = [&](int u, int v) {
                    Point q;
                    q[axis] = side * n;
                    q[(axis + 1) % 3] = u;
                    q[(axis + 2) % 3] = v;
                    return q;
                };
                if (side > 0)
                    soup.addQuad(p(i, j), p(i + 1, j), p(i + 1, j + 1), p(i, j + 1));
                else
                    soup.addQuad(p(i, j), p(i, j + 1), p(i + 1, j + 1), p(i + 1, j));
            }
    };
    for (int axis = 0; axis < 3; ++axis)
        for (double side : {0.0, 1.0}) face(axis, side);
    return fromSoup(soup);
}

Mesh soundShape(std::size_t index) {
    switch (index % 10) {
        case 0:
            return sphere(10, 40, 30);
        case 1:
            return torus(10, 3.1, 60, 24);
        case 2:
            return gridBox(9);
        case 3:
            return fromSoup(rig::strut(Point(0, 0, 0), Point(3, 5, 20), 4, 32, 24));
        case 4: {
            Mesh plate = gridBox(12);
            for (Point& p : plate.positions) p = p.cwiseProduct(Point(1.5, 1, 0.12));
            return plate;
        }
        case 5:
            return torus(10, 1.2, 120, 16);
        case 6: {
            Mesh rough = sphere(10, 60, 40);
            rig::Random random(index);
            for (Point& p : rough.positions) p *= 1 + 0.004 * random.direction().x();
            return rough;
        }
        case 7:
            return fromSoup(rig::strut(Point(0, 0, 0), Point(3, 5, 20), 4, 8, 6));
        case 8: {
            Mesh two = together(sphere(6, 40, 30), torus(14, 2, 80, 20));
            two.regions.clear();
            two.regionNames.clear();
            return two;
        }
        default: {
            Mesh hollow = together(sphere(10, 40, 30), flipped(fromSoup(rig::sphere(Point(0, 0, 0.5), 6, 30, 20))));
            // Damage below adds triangles; a surface with regions would need one for each.
            hollow.regions.clear();
            hollow.regionNames.clear();
            return hollow;
        }
    }
}

// ---- damage

struct Broken {
    Mesh sound;
    Mesh mesh;
    std::string story;
};

void tearHole(Mesh& m, rig::Random& random) {
    const Point centre = mesh::centroid(m, static_cast<TriangleId>(random.below(m.triangles.size())));
    std::vector<std::uint8_t> keep(m.triangles.size(), 1);
    for (TriangleId t = 0; t < keep.size(); ++t) keep[t] = (mesh::centroid(m, t) - centre).norm() > 0.9;
    m = mesh::keepTriangles(m, keep);
}

void flipPatch(Mesh& m, rig::Random& random) {
    const Point centre = mesh::centroid(m, static_cast<TriangleId>(random.below(m.triangles.size())));
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if ((mesh::centroid(m, t) - centre).norm() < 2) std::swap(m.triangles[t][1], m.triangles[t][2]);
}

void doubleTriangles(Mesh& m, rig::Random& random) {
    for (int i = 0; i < 5; ++i) m.triangles.push_back(m.triangles[random.below(m.triangles.size())]);
}

void addCollapsed(Mesh& m, rig::Random& random) {
    const mesh::Triangle t = m.triangles[random.below(m.triangles.size())];
    m.triangles.push_back({t[0], t[1], t[1]});
}

void addSpeck(Mesh& m, rig::Random& random) {
    const Point at = Point(20, 20, 20) + 3 * random.direction();
    const auto first = static_cast<VertexId>(m.positions.size());
    for (const Point& p : {Point(0, 0, 0), Point(0.1, 0, 0), Point(0, 0.1, 0)}) m.positions.emplace_back(at + p);
    m.triangles.push_back({first, first + 1, first + 2});
}

// Triangles on one side of a plane get vertices of their own, a hair away.
void crack(Mesh& m, rig::Random& random) {
    const Point normal = random.direction();
    const double level = mesh::boxOf(m).centre().dot(normal);
    const Point shift = 1e-4 * random.direction();
    std::vector<VertexId> copy(m.positions.size(), mesh::noEdge);
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (mesh::centroid(m, t).dot(normal) < level) continue;
        for (VertexId& v : m.triangles[t]) {
            if (copy[v] == mesh::noEdge) {
                copy[v] = static_cast<VertexId>(m.positions.size());
                m.positions.push_back(m.positions[v] + shift);
            }
            v = copy[v];
        }
    }
    mesh::dropUnusedVertices(m);
}

// A triangle that hangs on an edge.
void addFin(Mesh& m, rig::Random& random) {
    const auto t = static_cast<TriangleId>(random.below(m.triangles.size()));
    const mesh::Triangle corners = m.triangles[t];
    const Point n = mesh::areaVector(m, t).normalized();
    m.positions.push_back(mesh::centroid(m, t) + 0.3 * n);
    m.triangles.push_back({corners[0], corners[1], static_cast<VertexId>(m.positions.size() - 1)});
}

// A vertex far out of its place, as scanners make them: through whatever lies there.
void addSpike(Mesh& m, rig::Random& random) {
    // Of a vertex with little area around it: a spike on a coarse fan would be another part.
    const double whole = measure::massOf(m).area;
    const mesh::Corners corners(m);
    for (int attempt = 0; attempt < 50; ++attempt) {
        const auto t = static_cast<TriangleId>(random.below(m.triangles.size()));
        const VertexId v = m.triangles[t][0];
        double around = 0;
        for (mesh::HalfEdge h : corners.at(v)) around += 0.5 * mesh::areaVector(m, mesh::triangleOf(h)).norm();
        if (around > 0.005 * whole) continue;
        const double inwards = random.below(2) == 0 ? -1 : 1;
        m.positions[v] += inwards * 0.8 * (mesh::areaVector(m, t).normalized() + 0.5 * random.direction());
        return;
    }
}

// One side of an edge gets a vertex in its middle, the other one not.
void addTJunction(Mesh& m, rig::Random& random) {
    const auto t = static_cast<TriangleId>(random.below(m.triangles.size()));
    const mesh::Triangle c = m.triangles[t];
    if (mesh::isCollapsed(c)) return;
    const auto middle = static_cast<VertexId>(m.positions.size());
    m.positions.push_back(0.5 * (m.positions[c[0]] + m.positions[c[1]]));
    m.triangles[t] = {c[0], middle, c[2]};
    m.triangles.push_back({middle, c[1], c[2]});
}

// A small closed body through the surface.
void addBoss(Mesh& m, rig::Random& random) {
    const Point at = mesh::centroid(m, static_cast<TriangleId>(random.below(m.triangles.size())));
    m = together(m, box(at - Point(0.3, 0.25, 0.2), at + Point(0.2, 0.3, 0.25)));
    m.regions.clear();
    m.regionNames.clear();
}

// A triangle on its neighbour's back: the same corners, facing the other way.
void addBackToBack(Mesh& m, rig::Random& random) {
    const mesh::Triangle t = m.triangles[random.below(m.triangles.size())];
    m.triangles.push_back({t[0], t[2], t[1]});
}

struct DamageKind {
    const char* name;
    void (*apply)(Mesh&, rig::Random&);
};
// Cracks come first: a crack through a torn rim would be two kinds of opening at once.
constexpr DamageKind kinds[] = {{"crack", crack},
                                {"T-junction", addTJunction},
                                {"hole", tearHole},
                                {"flipped patch", flipPatch},
                                {"spike", addSpike},
                                {"fin", addFin},
                                {"boss", addBoss},
                                {"doubles", doubleTriangles},
                                {"back to back", addBackToBack},
                                {"collapsed", addCollapsed},
                                {"speck", addSpeck}};

Broken brokenPart(std::uint64_t seed) {
    rig::Random random(seed);
    Broken b;
    b.sound = soundShape(seed);
    b.mesh = b.sound;
    // One to five kinds.
    std::set<std::size_t> chosen;
    const std::size_t count = 1 + random.below(5);
    while (chosen.size() < count) chosen.insert(random.below(std::size(kinds)));
    for (const std::size_t k : chosen) {
        const DamageKind& kind = kinds[k];
        kind.apply(b.mesh, random);
        b.story += std::string(" ") + kind.name;
    }
    EXPECT_EQ(mesh::validate(b.mesh), "");
    return b;
}

std::uint64_t seeds() {
    return seedsOf(50, 1000);
}

// ---- what must hold

TEST(BrokenParts, TheSoundShapesAreSolid) {
    for (std::size_t i = 0; i < 10; ++i) EXPECT_TRUE(surveyed(soundShape(i)).solid) << i;
}

// Repaired, written as binary STL and read back.
TEST(BrokenParts, RepairEndsSolidInTheFileAndNearTheSoundPart) {
    const TemporaryFolder folder;
    double worst = 0;
    for (std::uint64_t seed = 0; seed < seeds(); ++seed) {
        const Broken b = brokenPart(seed);
        SCOPED_TRACE("seed " + std::to_string(seed) + ", shape " + std::to_string(seed % 10) + ":" + b.story);
        const auto repaired = steps::repairAutomatically(shared(b.mesh), {}, silent());
        ASSERT_TRUE(repaired);
        const Mesh& m = repaired->steps.empty() ? b.mesh : repaired->steps.back().part->mesh();
        EXPECT_EQ(mesh::validate(m), "");
        const auto file = project::writeAndProve(m, {folder / "part.stl"}, steps::builtInBriefs().front(), silent());
        ASSERT_TRUE(file);
        EXPECT_TRUE(file->survey->solid);
        const double volume = measure::massOf(b.sound).volume;
        EXPECT_NEAR(file->survey->mass.volume, volume, 0.01 * volume);
        worst = std::max(worst, std::abs(file->survey->mass.volume / volume - 1));
    }
    RecordProperty("worst_volume_permille", static_cast<int>(1000 * worst));
}

TEST(BrokenParts, RepairKeepsWhatItHasNoReasonToTouch) {
    for (std::uint64_t seed = 0; seed < seeds(); ++seed) {
        const Broken b = brokenPart(seed);
        if (b.story.find("crack") != std::string::npos) continue;
        SCOPED_TRACE("seed " + std::to_string(seed) + ":" + b.story);
        const auto repaired = steps::repairAutomatically(shared(b.mesh), {}, silent());
        const Mesh& m = repaired->steps.empty() ? b.mesh : repaired->steps.back().part->mesh();
        // All that may go are the five doubles, the pair back to back, the collapsed one, the fin and the speck; what a
        // boss crosses, and a spike, is cut.
        const bool cut = b.story.find("boss") != std::string::npos || b.story.find("spike") != std::string::npos;
        const auto missing = static_cast<double>(b.mesh.triangles.size()) * (1 - measure::keptOf(b.mesh, m).share);
        EXPECT_LE(missing, cut ? 40 : 10.5);
    }
}

TEST(BrokenParts, RepairOfTheRepairedChangesNothing) {
    for (std::uint64_t seed = 0; seed < seeds(); seed += 3) {
        const Broken b = brokenPart(seed);
        const auto first = steps::repairAutomatically(shared(b.mesh), {}, silent());
        if (first->steps.empty()) continue;
        const auto second = steps::repairAutomatically(first->steps.back().part, {}, silent());
        EXPECT_TRUE(second->steps.empty()) << seed << ":" << b.story;
    }
}

TEST(BrokenParts, RepairGivesTheSameBytesWithOneThread) {
    for (std::uint64_t seed : {3U, 8U, 19U}) {
        const auto m = shared(brokenPart(seed).mesh);
        const auto run = [&] {
            const auto r = steps::repairAutomatically(m, {}, silent());
            return Bits(r->steps.empty() ? m->mesh() : r->steps.back().part->mesh());
        };
        EXPECT_EQ(run(), withOneThread(run)) << seed;
    }
}

TEST(BrokenParts, DecimationOfBrokenPartsMakesNothingWorse) {
    for (std::uint64_t seed = 0; seed < seeds(); seed += 2) {
        const Broken b = brokenPart(seed);
        SCOPED_TRACE("seed " + std::to_string(seed) + ":" + b.story);
        const check::Survey before = surveyed(b.mesh);
        const auto r = shape::decimate(b.mesh, {}, {.targetTriangles = b.mesh.triangles.size() / 3}, silent());
        ASSERT_TRUE(r);
        const check::Survey after = surveyed(r->mesh);
        EXPECT_LE(after.counts.nonmanifoldEdges, before.counts.nonmanifoldEdges);
        EXPECT_LE(after.counts.nonmanifoldVertices, before.counts.nonmanifoldVertices);
        EXPECT_LE(after.counts.boundaryEdges, before.counts.boundaryEdges);
        EXPECT_LE(after.counts.misorientedEdges, before.counts.misorientedEdges);
        EXPECT_EQ(after.counts.holes, before.counts.holes);
        EXPECT_EQ(after.counts.shells, before.counts.shells);
    }
}

TEST(BrokenParts, DecimationInPiecesStaysSolidAndKeepsRegionBorders) {
    // Large enough to be taken apart into pieces.
    Mesh m = torus(50, 17, 420, 130);
    m.regionNames = {"inside", "outside"};
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        const Point c = mesh::centroid(m, t);
        m.regions.push_back(c.head<2>().norm() > 50);
    }
    const auto r = shape::decimate(m, {}, {.targetTriangles = 9000}, silent());
    EXPECT_TRUE(r->reachedTarget);
    EXPECT_GE(r->mesh.triangles.size(), 8998U);
    const check::Survey s = surveyed(r->mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_NEAR(s.mass.volume, measure::massOf(m).volume, 0.005 * s.mass.volume);
    for (TriangleId t = 0; t < r->mesh.triangles.size(); ++t) {
        const double radius = mesh::centroid(r->mesh, t).head<2>().norm();
        if (std::abs(radius - 50) > 1) {
            EXPECT_EQ(r->mesh.regionOf(t), radius > 50 ? 1U : 0U);
        }
    }
    const auto run = [&] { return Bits(shape::decimate(m, {}, {.targetTriangles = 9000}, silent())->mesh); };
    EXPECT_EQ(run(), withOneThread(run));
    for (int tick : {1, 2, 3, 5, 9}) {
        CancelAtTick progress(tick);
        EXPECT_TRUE(shape::decimate(m, {}, {.targetTriangles = 9000}, progress).error().cancelled()) << tick;
    }
}

TEST(BrokenParts, DecimationInPiecesHonoursThePick) {
    const Mesh m = torus(50, 17, 420, 130);
    std::vector<TriangleId> upper;
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (mesh::centroid(m, t).z() > 0) upper.push_back(t);
    const auto r = shape::decimate(m, mesh::Pick(upper), {.targetTriangles = m.triangles.size() * 7 / 10}, silent());
    const measure::Kept kept = measure::keptOf(m, r->mesh);
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (mesh::centroid(m, t).z() < -0.5) {
            ASSERT_TRUE(kept.of[t]) << t;
        }
    EXPECT_TRUE(surveyed(r->mesh).watertight);
}

}  // namespace
}  // namespace zither::tests
