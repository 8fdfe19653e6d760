// Untying non-manifold edges, and repairs by hand.
#include "fit/resolve.h"
#include <cmath>

#include "fit/fuse.h"
#include "measure/mass.h"
#include "repair/by_hand.h"
#include "repair/close_handles.h"
#include "repair/drop_shells.h"
#include "repair/orient.h"
#include "shape/wrap.h"
#include "steps/step.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using fit::RemovedSheet;
using mesh::Pick;

fit::ResolveResult resolved(const Mesh& m, const fit::ResolveOptions& options = {}) {
    auto r = fit::resolve(m, Pick(), options, silent());
    EXPECT_TRUE(r);
    EXPECT_EQ(mesh::validate(r.value().mesh), "");
    return std::move(r.value());
}

Mesh joined(Mesh m) {
    mesh::joinEqualVertices(m);
    return m;
}

// Two boxes on each other: the faces between them are two triangles, twice.
Mesh stackedBoxes() {
    return joined(together(unitBox(), box(Point(0, 0, 1), Point(1, 1, 2))));
}

TEST(Resolve, AWallBetweenTwoRoomsGoes) {
    // One copy of the wall: faces 2 and 3 of the lower box.
    Mesh m = stackedBoxes();
    std::vector<std::uint8_t> keep(m.triangles.size(), 1);
    int dropped = 0;
    for (mesh::TriangleId t = 0; t < keep.size(); ++t)
        if (std::abs(mesh::centroid(m, t).z() - 1) < 1e-9 && dropped < 2) keep[t] = dropped++ < 0;
    m = mesh::keepTriangles(m, keep);
    EXPECT_EQ(surveyed(m).counts.nonmanifoldEdges, 4U);
    const auto r = resolved(m);
    ASSERT_EQ(r.removed.size(), 1U);
    EXPECT_EQ(r.removed[0].kind, RemovedSheet::Wall);
    EXPECT_DOUBLE_EQ(r.removed[0].area, 1);
    const auto s = surveyed(r.mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_DOUBLE_EQ(s.mass.volume, 2);
}

TEST(Resolve, ADoubleSheetBetweenTwoRoomsGoes) {
    const auto r = resolved(stackedBoxes());
    ASSERT_EQ(r.removed.size(), 1U);
    EXPECT_EQ(r.removed[0].kind, RemovedSheet::Double);
    EXPECT_TRUE(surveyed(r.mesh).solid);
    EXPECT_DOUBLE_EQ(surveyed(r.mesh).mass.volume, 2);
}

TEST(Resolve, OfDoublesOnAClosedSurfaceOneStays) {
    for (const bool opposite : {false, true}) {
        Mesh m = sphere();
        m.triangles.push_back(m.triangles[40]);
        if (opposite) std::swap(m.triangles.back()[0], m.triangles.back()[1]);
        const auto r = resolved(m);
        EXPECT_EQ(r.surplus, 1U);
        EXPECT_TRUE(surveyed(r.mesh).watertight) << opposite;
    }
}

// Whichever of two faces comes first, the one that stays faces outwards.
TEST(Resolve, OfFacesWrittenOnceEachWayTheOutwardOneStays) {
    const Mesh part = unitBox();
    for (const bool all : {false, true})
        for (const bool wrongFirst : {false, true}) {
            Mesh twice = part;
            twice.triangles.clear();
            for (mesh::TriangleId t = 0; t < part.triangles.size(); ++t) {
                const mesh::Triangle& v = part.triangles[t];
                const mesh::Triangle back{v[0], v[2], v[1]};
                if (wrongFirst && (all || t < 4)) twice.triangles.push_back(back);
                twice.triangles.push_back(v);
                if (!wrongFirst && (all || t < 4)) twice.triangles.push_back(back);
            }
            const auto r = fit::resolve(twice, mesh::Pick(), {}, silent());
            ASSERT_TRUE(r);
            const check::Survey s = surveyed(r->mesh);
            EXPECT_TRUE(s.solid) << all << wrongFirst;
            EXPECT_DOUBLE_EQ(s.mass.volume, 1) << all << wrongFirst;
        }
}

TEST(Resolve, FinsGoUpToASizeAndLargerOnesAreListed) {
    Mesh m = sphere();
    const mesh::Triangle t = m.triangles[60];
    m.positions.push_back(1.1 * mesh::centroid(m, 60));
    m.triangles.push_back({t[0], t[1], static_cast<mesh::VertexId>(m.positions.size() - 1)});
    const auto r = resolved(m);
    ASSERT_EQ(r.removed.size(), 1U);
    EXPECT_EQ(r.removed[0].kind, RemovedSheet::Fin);
    EXPECT_TRUE(surveyed(r.mesh).solid);
    const auto kept = resolved(m, {.largestFin = 0});
    EXPECT_TRUE(kept.removed.empty());
    ASSERT_EQ(kept.leftFins.size(), 1U);
    EXPECT_EQ(kept.edgesLeft, 1U);
}

TEST(Resolve, BodiesAtAnEdgeArePartedOrJoinedAsAsked) {
    const Mesh m = joined(together(unitBox(), box(Point(1, 1, 0), Point(2, 2, 1))));
    ASSERT_EQ(surveyed(m).counts.nonmanifoldEdges, 1U);
    const auto parted = surveyed(resolved(m).mesh);
    EXPECT_TRUE(parted.solid);
    EXPECT_EQ(parted.counts.shells, 2U);
    const auto one = surveyed(resolved(m, {.touching = fit::Touching::Join}).mesh);
    EXPECT_TRUE(one.solid);
    EXPECT_EQ(one.counts.shells, 1U);
    EXPECT_NEAR(one.mass.volume, 2, 1e-5);
}

TEST(Resolve, ABowTieIsSplit) {
    const Mesh m = joined(together(unitBox(), box(Point(1, 1, 1), Point(2, 2, 2))));
    ASSERT_EQ(surveyed(m).counts.nonmanifoldVertices, 1U);
    const auto r = resolved(m);
    EXPECT_GT(r.parted, 0U);
    EXPECT_LT(r.farthestMoved, 1e-5);
    EXPECT_TRUE(surveyed(r.mesh).solid);
}

TEST(Resolve, CavitiesStay) {
    Mesh hollow = together(sphere(10), flipped(sphere(6)));
    hollow.triangles.push_back(hollow.triangles[3]);
    const auto r = resolved(hollow);
    EXPECT_EQ(surveyed(r.mesh).counts.shells, 2U);
    EXPECT_TRUE(surveyed(r.mesh).solid);
}

TEST(Resolve, NeverMakesMoreNonManifoldEdgesOnSoups) {
    for (std::uint64_t seed = 0; seed < 80; ++seed) {
        const Mesh m = gridSoup(seed, 40, 3);
        const auto r = resolved(m);
        EXPECT_LE(r.edgesLeft, surveyed(m).counts.nonmanifoldEdges) << seed;
    }
}

// ---- open patches

TEST(Orient, OpenPatchesAreTurnedToWhereTheyAreSeenFrom) {
    // A sphere in two halves, neither closed: one faces inwards.
    const Mesh whole = sphere(10, 40, 24);
    std::vector<std::uint8_t> upper(whole.triangles.size());
    std::vector<std::uint8_t> lower(whole.triangles.size());
    for (mesh::TriangleId t = 0; t < whole.triangles.size(); ++t) {
        const double z = mesh::centroid(whole, t).z();
        upper[t] = z > 1;
        lower[t] = z < -1;
    }
    const Mesh m = together(mesh::keepTriangles(whole, upper), flipped(mesh::keepTriangles(whole, lower)));
    const auto r = repair::orient(m, Pick(), silent());
    ASSERT_EQ(r->open.size(), 2U);
    for (const auto& e : r->open) {
        EXPECT_FALSE(e.byMajority);
        EXPECT_GT(std::abs(e.frontSeen - e.backSeen), 0.3);
    }
    for (mesh::TriangleId t = 0; t < r->mesh.triangles.size(); ++t)
        EXPECT_GT(mesh::areaVector(r->mesh, t).dot(mesh::centroid(r->mesh, t)), 0);
}

TEST(DropShells, EnclosedOnly) {
    Mesh m =
        together(together(sphere(10), box(Point(-1, -1, -1), Point(1, 1, 1))), box(Point(20, 0, 0), Point(21, 1, 1)));
    const auto r = repair::dropShells(
        m, Pick(), {.belowSizeShare = 0.5, .belowTriangleShare = 0.5, .enclosedOnly = true}, silent());
    ASSERT_EQ(r->dropped.size(), 1U);
    EXPECT_TRUE(r->dropped[0].enclosed);
    EXPECT_LT(r->dropped[0].position.norm(), 1e-9);
}

// ---- by hand

TEST(ByHand, MendTakesAMangledSpotAwayAndClosesIt) {
    Mesh m = sphere(10, 60, 40);
    m.positions[700] *= 0.2;  // a dent through nothing, sharp as a needle
    const mesh::Corners corners(m);
    std::vector<mesh::TriangleId> spot;
    for (mesh::HalfEdge h : corners.at(700)) spot.push_back(mesh::triangleOf(h));
    const auto r = repair::mend(m, Pick(spot), {}, silent());
    ASSERT_TRUE(r);
    EXPECT_EQ(r->removed, spot.size());
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_NEAR(measure::massOf(r->mesh).volume, measure::massOf(sphere(10, 60, 40)).volume, 1);
    const auto wider = repair::mend(m, Pick(spot), {.rings = 2, .way = holes::FillWay::Smooth}, silent());
    EXPECT_GT(wider->removed, 3 * spot.size());
    EXPECT_TRUE(surveyed(wider->mesh).solid);
    for (const Point& p : wider->mesh.positions) EXPECT_NEAR(p.norm(), 10, 0.1);
}

TEST(ByHand, RemoveTakesThePickAndItsRings) {
    const Mesh m = sphere();
    EXPECT_EQ(repair::removePick(m, Pick({5}), 0, silent())->triangles.size(), m.triangles.size() - 1);
    const auto ring = repair::removePick(m, Pick({5}), 1, silent());
    EXPECT_EQ(m.triangles.size() - ring->triangles.size(), mesh::grown(m, Pick({5}), 1).triangles().size());
    EXPECT_EQ(mesh::shrunk(m, mesh::grown(m, Pick({60}), 2), 2).triangles(), std::vector<mesh::TriangleId>{60});
}

TEST(ByHand, FlipTurnsThePickAlone) {
    const Mesh m = unitBox();
    const Mesh one = repair::flipPick(m, Pick({4}));
    EXPECT_EQ(surveyed(one).counts.misorientedEdges, 3U);
    EXPECT_DOUBLE_EQ(measure::massOf(repair::flipPick(m, Pick())).volume, -1);
}

TEST(ByHand, AVertexMovesUnlessItsNeighboursFoldOrCross) {
    const Mesh m = unitBox();
    const auto moved = repair::moveVertex(m, Point(1.1, 1.1, 1.1), Point(1.5, 1.4, 1.6), silent());
    ASSERT_TRUE(moved);
    EXPECT_TRUE(surveyed(*moved).solid);
    const auto folded = repair::moveVertex(m, Point(1, 1, 1), Point(-2, -2, -2), silent());
    ASSERT_FALSE(folded);
    EXPECT_NE(folded.error().message.find("nothing was changed"), std::string::npos);
    const Mesh two = together(m, box(Point(2, 0, 0), Point(3, 1, 1)));
    EXPECT_NE(repair::moveVertex(two, Point(1, 1, 1), Point(2.5, 1.2, 1.2), silent()).error().message.find("cross"),
              std::string::npos);
}

TEST(ByHand, EdgesCollapseAndSwapWhereThatKeepsTheSurface) {
    const Mesh m = sphere(10, 24, 12);
    const mesh::Triangle t = m.triangles[100];
    const Point middle = 0.5 * (m.positions[t[0]] + m.positions[t[1]]);
    const auto collapsed = repair::collapseEdge(m, middle, silent());
    ASSERT_TRUE(collapsed);
    EXPECT_EQ(collapsed->triangles.size(), m.triangles.size() - 2);
    EXPECT_TRUE(surveyed(*collapsed).solid);
    // The diagonal of a square of the grid.
    const auto swapped = repair::swapEdge(m, 0.5 * (m.positions[t[1]] + m.positions[t[2]]), silent());
    if (swapped) {
        EXPECT_EQ(swapped->triangles.size(), m.triangles.size());
        EXPECT_TRUE(surveyed(*swapped).watertight);
    }
    // A tetrahedron has no edge to lose, and every other diagonal already.
    Mesh four;
    four.positions = {Point(0, 0, 0), Point(1, 0, 0), Point(0, 1, 0), Point(0, 0, 1)};
    four.triangles = {{0, 2, 1}, {0, 1, 3}, {1, 2, 3}, {0, 3, 2}};
    EXPECT_FALSE(repair::collapseEdge(four, Point(0.5, 0, 0), silent()));
    EXPECT_NE(repair::swapEdge(four, Point(0.5, 0, 0), silent()).error().message.find("already"), std::string::npos);
}

// ---- handles

Mesh torusAt(const Point& centre, double ring, double tube, std::size_t around, std::size_t across) {
    Mesh m;
    for (std::size_t i = 0; i < around; ++i)
        for (std::size_t j = 0; j < across; ++j) {
            const double a = 2 * M_PI * static_cast<double>(i) / static_cast<double>(around);
            const double b = 2 * M_PI * static_cast<double>(j) / static_cast<double>(across);
            const double r = ring + tube * std::cos(b);
            m.positions.push_back(centre + Point(r * std::cos(a), tube * std::sin(b), r * std::sin(a)));
        }
    const auto at = [&](std::size_t i, std::size_t j) {
        return static_cast<mesh::VertexId>((i % around) * across + j % across);
    };
    for (std::size_t i = 0; i < around; ++i)
        for (std::size_t j = 0; j < across; ++j) {
            m.triangles.push_back({at(i, j), at(i + 1, j + 1), at(i + 1, j)});
            m.triangles.push_back({at(i, j), at(i, j + 1), at(i + 1, j + 1)});
        }
    return m;
}

std::ptrdiff_t eulerOf(const Mesh& m) {
    return static_cast<std::ptrdiff_t>(m.positions.size()) - static_cast<std::ptrdiff_t>(mesh::Edges(m).count()) +
           static_cast<std::ptrdiff_t>(m.triangles.size());
}

TEST(Handles, ASmallOneOnALargeBodyIsClosedAndALargeOneStays) {
    const Mesh ring = torusAt(Point(0, 0, 10), 1.5, 0.35, 40, 14);
    ASSERT_GT(measure::massOf(ring).volume, 0);
    const auto fused = fit::fuse(together(sphere(10, 60, 40), ring), Pick(), {}, silent());
    ASSERT_TRUE(fused);
    ASSERT_EQ(eulerOf(fused->mesh), 0);
    const auto r = repair::closeHandles(fused->mesh, Pick(), 8, silent());
    ASSERT_TRUE(r);
    ASSERT_EQ(r->handles.size(), 1U);
    EXPECT_TRUE(r->handles[0].closed);
    // Around the tube: two pi times its radius.
    EXPECT_NEAR(r->handles[0].loop, 2 * M_PI * 0.35, 0.5);
    EXPECT_EQ(eulerOf(r->mesh), 2);
    EXPECT_TRUE(surveyed(r->mesh).solid);
    EXPECT_GT(measure::keptOf(fused->mesh, r->mesh).share, 0.9);
    // With a shorter length nothing is found, and a ring that is the part itself is none.
    EXPECT_TRUE(repair::closeHandles(fused->mesh, Pick(), 1, silent())->handles.empty());
    const Mesh whole = torusAt(Point(0, 0, 0), 10, 3, 60, 24);
    const auto left = repair::closeHandles(whole, Pick(), 15, silent());
    EXPECT_TRUE(left->handles.empty());
    EXPECT_EQ(left->mesh.triangles, whole.triangles);
}

// ---- wrap

TEST(Wrap, SharpEdgesStayAndTheSkinIsNear) {
    const Mesh m = box(Point(0, 0, 0), Point(10, 7, 5));
    const auto r = shape::wrap(m, {.cell = 0.37}, silent());
    ASSERT_TRUE(r);
    const auto s = surveyed(r->mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_EQ(s.counts.shells, 1U);
    EXPECT_NEAR(s.mass.volume, 350, 0.01);
    for (const Point& p : r->mesh.positions) EXPECT_TRUE((p.array() >= -1e-5).all() && p.x() <= 10.00001);
}

TEST(Wrap, WhateverComesItIsSolid) {
    for (const auto& [name, m] : uglyMeshes()) {
        SCOPED_TRACE(name);
        const double side = mesh::boxOf(m).extent().maxCoeff();
        if (!(side > 0) || side > 1e100) continue;
        const auto r = shape::wrap(m, {.cell = side / 20}, silent());
        ASSERT_TRUE(r);
        if (!r->mesh.triangles.empty()) {
            EXPECT_TRUE(surveyed(r->mesh).solid);
        }
    }
    for (std::uint64_t seed = 0; seed < 20; ++seed) {
        const Mesh m = together(gridSoup(seed, 30, 6), sphere(3));
        const auto r = shape::wrap(m, {.cell = 0.3}, silent());
        ASSERT_TRUE(r);
        EXPECT_TRUE(surveyed(r->mesh).solid) << seed;
    }
}

TEST(Wrap, CavitiesAreKeptAndHolesClosed) {
    const Mesh hollow = without(together(sphere(10, 40, 24), flipped(sphere(6, 40, 24))), {100, 101});
    const auto r = shape::wrap(hollow, {.cell = 0.5}, silent());
    const auto s = surveyed(r->mesh);
    EXPECT_TRUE(s.solid);
    EXPECT_EQ(s.counts.shells, 2U);
    EXPECT_NEAR(s.mass.volume, measure::massOf(sphere(10, 40, 24)).volume - measure::massOf(sphere(6, 40, 24)).volume,
                40);
}

TEST(Wrap, SealingClosesWhatABallCannotEnter) {
    // A thick-walled pot with a narrow mouth: a box with a cavity and a shaft to the outside.
    Mesh pot = box(Point(0, 0, 0), Point(20, 20, 20));
    Mesh room = together(flipped(box(Point(3, 3, 3), Point(17, 17, 17))), Mesh());
    steps::Arguments used;
    const Mesh hollow = together(pot, room);
    // The shaft: wrap sees it as empty because its walls face inwards as the room's do.
    const Mesh shaft = flipped(box(Point(9, 9, 16), Point(11, 11, 21)));
    const auto openPot = shape::wrap(together(hollow, shaft), {.cell = 0.5}, silent());
    const auto sealed = shape::wrap(together(hollow, shaft), {.cell = 0.5, .sealing = 6}, silent());
    EXPECT_TRUE(surveyed(openPot->mesh).solid);
    EXPECT_TRUE(surveyed(sealed->mesh).solid);
    EXPECT_GT(measure::massOf(sealed->mesh).volume, measure::massOf(openPot->mesh).volume + 1000);
}

TEST(Wrap, TheCellIsChecked) {
    EXPECT_NE(shape::wrap(unitBox(), {.cell = 0}, silent()).error().message.find("cell must be above"),
              std::string::npos);
    EXPECT_NEAR(shape::trianglesForCell(unitBox(), shape::cellForTriangles(unitBox(), 5000)), 5000, 1);
}

}  // namespace
}  // namespace zither::tests
