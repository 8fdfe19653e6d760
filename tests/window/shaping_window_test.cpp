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

// Tries a step at the desk with one value set, and keeps it.
void tryAndKeep(WindowDriver& d, const QString& step, const QString& value, double number) {
    auto* open = d.find<QAbstractButton>("open-" + step);
    ASSERT_NE(open, nullptr);
    open->click();
    const QString name = step + "." + value;
    ASSERT_TRUE(d.waitFor([&] { return d.find<QDoubleSpinBox>(name) != nullptr; }));
    d.find<QDoubleSpinBox>(name)->setValue(number);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value() && d.button("Keep") != nullptr; }));
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
}

// What only became larger is not changed, lost or far from the import; and it is still what is looked at.
TEST(Shaping, APartIsScaledToAHeightAndNothingSeemsChanged) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "ball.stl", sphere(30, 40, 20)));
    tryAndKeep(d, "scale", "size", 240);
    const session::Look& look = *d.workshop().looks().kept();
    EXPECT_NEAR(look.survey->mass.size.extent().z(), 240, 1e-4);
    ASSERT_TRUE(look.loss);
    EXPECT_EQ(look.loss->lost, 0);
    EXPECT_EQ(look.loss->added, 0);
    EXPECT_TRUE(look.changes.empty());
    EXPECT_TRUE(row(d, "outside_build").met);
    ASSERT_TRUE(d.clickButton("deviation"));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().coating().coat().legend.high, 0);
    ASSERT_TRUE(d.clickButton("change"));
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(d.workshop().coating().coat().legend.note.contains("100.0 %"));
    // Larger than the build volume it rings, and shows by how much.
    tryAndKeep(d, "scale", "size", 400);
    EXPECT_FALSE(row(d, "outside_build").met);
    EXPECT_FALSE(row(d, "outside_build").marks.empty());
    // One step back it fits again.
    d.workshop().parts().undo();
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(row(d, "outside_build").met);
}

TEST(Shaping, AUnitThatIsSaidIsJudgedBy) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "plate.stl", thinPlate()));
    EXPECT_FALSE(row(d, "thin_places").met);
    d.workshop().parts().setUnit("in");
    ASSERT_TRUE(d.settle());
    // Half an inch is thick; forty of them do not fit.
    EXPECT_TRUE(row(d, "thin_places").met);
    EXPECT_FALSE(row(d, "outside_build").met);
}

TEST(Shaping, EvenTrianglesAreTriedAndKept) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "box.stl", box(mesh::Point(0, 0, 0), mesh::Point(40, 30, 20))));
    tryAndKeep(d, "remesh", "length", 4);
    const session::Look& look = *d.workshop().looks().kept();
    EXPECT_TRUE(look.survey->solid);
    EXPECT_GT(look.survey->counts.triangles, 500U);
    EXPECT_GT(look.survey->smallestAngleDeg, 30);
    EXPECT_EQ(look.loss->lost, 0);
}

}  // namespace
}  // namespace zither::tests
