// What a part is like, and steps that change it on purpose, by real clicks.
#include <gtest/gtest.h>
#include <QAbstractButton>
#include <QDoubleSpinBox>

#include "desktop/viewport.h"
#include "io/surface_file.h"
#include "tests/core/surfaces.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

bool openMesh(WindowDriver& d, const char* name, const Mesh& m) {
    const QString file = d.folder() + "/" + name;
    return io::writeSurface(m, file.toStdString(), {io::stlBinary}, silent()).has_value() && d.open({file});
}

// Half a millimetre thick.
Mesh thinPlate() {
    return box(mesh::Point(0, 0, 0), mesh::Point(40, 40, 0.5));
}

TEST(Measures, AThinWallRingsIsFoundAndSeenThroughItsLens) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "plate.stl", thinPlate()));
    EXPECT_FALSE(row(d, "thin_places").met);
    EXPECT_EQ(row(d, "thin_places").title, "walls below 0.8");
    EXPECT_EQ(row(d, "thin_places").value, "2");
    EXPECT_EQ(row(d, "thin_places").marks.size(), 2U);
    EXPECT_TRUE(row(d, "overhang_area").noted);
    d.click(&strings(d), QPointF(60, strings(d).rowRect(rowOf(d, "thin_places")).center().y()));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().choice().chosenClass(), check::DefectClass(check::thinWalls));
    ASSERT_TRUE(d.clickButton("wall"));
    ASSERT_TRUE(d.settle());
    const session::Coat& wall = d.workshop().coating().coat();
    EXPECT_EQ(wall.legend.high, 4);
    EXPECT_TRUE(wall.legend.note.contains("0.8"));
    // Two sides of four triangles are thin, the rim of eight is not: dark is thin.
    ASSERT_EQ(wall.colours.size(), 12U);
    EXPECT_EQ(std::count(wall.colours.begin(), wall.colours.end(), wall.colours[0]), 4);
    ASSERT_TRUE(d.clickButton("slope"));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().coating().coat().legend.high, 90);
}

TEST(Measures, AnOpenPartHasNoWallAndSaysSo) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "open.stl", without(box(mesh::Point(0, 0, 0), mesh::Point(9, 9, 9)), {0})));
    EXPECT_EQ(row(d, "thin_places").value, "–");
    EXPECT_TRUE(row(d, "thin_places").met);
    ASSERT_TRUE(d.clickButton("wall"));
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(d.workshop().coating().coat().colours.empty());
    EXPECT_TRUE(d.workshop().coating().coat().legend.note.contains("closed"));
}

// Strings without marks are lower than those with; a click finds each of them.
TEST(Measures, CalmStringsLeaveThePartItsRoom) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "plate.stl", thinPlate()));
    const double rings = strings(d).rowRect(rowOf(d, "thin_places")).height();
    const double calm = strings(d).rowRect(rowOf(d, "boundary_edges")).height();
    EXPECT_LT(calm, rings);
    for (const char* id : {"boundary_edges", "self_intersecting_pairs", "thin_places", "voids"}) {
        d.click(&strings(d), QPointF(60, strings(d).rowRect(rowOf(d, id)).center().y()));
        ASSERT_TRUE(d.settle());
        ASSERT_TRUE(d.workshop().choice().chosenClass()) << id;
        EXPECT_EQ(std::string_view((*d.workshop().choice().chosenClass())->limited.id), id);
    }
}

TEST(Shaping, ACleanBaseIsCutFromTheDesk) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "ball.stl", sphere(30, 40, 20)));
    const double before = d.workshop().looks().kept()->survey->mass.volume;
    auto* open = d.find<QAbstractButton>("open-trim");
    ASSERT_NE(open, nullptr);
    open->click();
    ASSERT_TRUE(d.waitFor([&] { return d.find<QDoubleSpinBox>("trim.at") != nullptr; }));
    d.find<QDoubleSpinBox>("trim.at")->setValue(-20);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value() && d.button("Keep") != nullptr; }));
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
    const check::Survey& survey = *d.workshop().looks().kept()->survey;
    EXPECT_TRUE(survey.solid);
    EXPECT_NEAR(survey.mass.size.min.z(), -20, 1e-5);
    EXPECT_LT(survey.mass.volume, before);
    // What went was asked for, and does not count as lost.
    EXPECT_TRUE(row(d, "lost").met);
}

}  // namespace
}  // namespace zither::tests
