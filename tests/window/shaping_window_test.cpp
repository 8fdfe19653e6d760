// What a part is like, and steps that change it on purpose, by real clicks.
#include <gtest/gtest.h>
#include <QAbstractButton>
#include <QAction>
#include <QComboBox>
#include <QDoubleSpinBox>

#include "check/catalogue.h"
#include "desktop/viewport.h"
#include "io/surface_file.h"
#include "session/lens/colours.h"
#include "session/reading/next_steps.h"
#include "session/reading/number_text.h"
#include "tests/core/surfaces.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

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
    ASSERT_TRUE(d.openStep("trim"));
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
    ASSERT_TRUE(d.openStep(step));
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
    d.workshop().parts().undo();
    ASSERT_TRUE(d.settle());
    // Where no turn helps, none is offered.
    tryAndKeep(d, "scale", "size", 900);
    const auto next = session::nextSteps(*d.workshop().looks().kept(),
                                         d.workshop().judging().verdictOf(*d.workshop().looks().kept()), {});
    const auto offers = [&](std::string_view name) {
        return std::any_of(next.begin(), next.end(), [&](const session::NextStep& n) { return n.step->name == name; });
    };
    EXPECT_TRUE(offers("scale"));
    EXPECT_FALSE(offers("place"));
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

void repairFirst(WindowDriver& d, const char* part) {
    ASSERT_TRUE(d.open({rig(part)}));
    ASSERT_TRUE(d.clickButton("Repair"));
    ASSERT_TRUE(d.settle(120000));
    ASSERT_TRUE(d.workshop().looks().kept()->survey->solid);
}

TEST(Shaping, TheHubGetsEvenTrianglesForASolver) {
    WindowDriver d;
    repairFirst(d, "hub");
    d.workshop().judging().setBrief(*steps::loadBrief("volume-mesh"));
    ASSERT_TRUE(d.settle());
    tryAndKeep(d, "remesh", "length", 6);
    const session::Look& look = *d.workshop().looks().kept();
    EXPECT_TRUE(look.survey->solid);
    EXPECT_TRUE(row(d, "smallest_angle").met);
    EXPECT_TRUE(row(d, "lost").met);
    // Creases stay where they were: its size is the same.
    const mesh::Point size = look.survey->mass.size.extent();
    const mesh::Point was = d.workshop().parts().current()->track.stop(0).part->known()->mass.size.extent();
    EXPECT_LT((size - was).norm(), 0.01);
}

TEST(Shaping, TheStrainerIsScaledToAHeight) {
    WindowDriver d;
    repairFirst(d, "strainer");
    tryAndKeep(d, "scale", "size", 150);
    const session::Look& look = *d.workshop().looks().kept();
    EXPECT_NEAR(look.survey->mass.size.extent().z(), 150, 1e-3);
    EXPECT_TRUE(look.survey->solid);
    EXPECT_TRUE(row(d, "lost").met);
}

TEST(Shaping, TheBladeIsTurnedToLeastOverhangInTheBuildVolume) {
    WindowDriver d;
    repairFirst(d, "blade");
    ASSERT_TRUE(d.openStep("place"));
    ASSERT_TRUE(d.waitFor([&] { return d.find<QComboBox>("place.lie") != nullptr; }));
    auto* lie = d.find<QComboBox>("place.lie");
    lie->setFocus();
    QTest::keyClick(lie, Qt::Key_End);
    ASSERT_EQ(lie->currentText(), "least-overhang");
    ASSERT_TRUE(d.waitFor([&] {
        const auto& tried = d.workshop().trial().current();
        return tried && tried->used.at("lie").text() == "least-overhang" && d.button("Keep");
    }));
    const double before = check::overhangs.limited.value(*d.workshop().looks().kept()->survey);
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
    const check::Survey& survey = *d.workshop().looks().kept()->survey;
    EXPECT_LE(check::overhangs.limited.value(survey), before);
    EXPECT_TRUE(row(d, "outside_build").met);
    EXPECT_TRUE(survey.solid);
}

TEST(Shaping, AThinPlaceIsFoundAndMadeThicker) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "plate.stl", thinPlate()));
    EXPECT_FALSE(row(d, "thin_places").met);
    // The step stands with the string that rings, and proposes what the brief asks for.
    d.click(&strings(d), QPointF(60, strings(d).rowRect(rowOf(d, "thin_places")).center().y()));
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(d.waitFor([&] { return d.find<QDoubleSpinBox>("thicken.thickness") != nullptr; }));
    EXPECT_DOUBLE_EQ(d.find<QDoubleSpinBox>("thicken.thickness")->value(), 0.8);
    d.find<QAbstractButton>("preview-thicken")->click();
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value() && d.button("Keep") != nullptr; }));
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(row(d, "thin_places").met);
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
    EXPECT_TRUE(row(d, "lost").met);
}

TEST(Shaping, TheFairingBecomesAPrintableBody) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("fairing")}));
    EXPECT_FALSE(d.workshop().looks().kept()->survey->watertight);
    tryAndKeep(d, "thicken", "thickness", 2);
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
    // What is torn ends in edges that are thinner still.
    EXPECT_FALSE(row(d, "thin_places").met);
    tryAndKeep(d, "thicken", "thickness", 0.8);
    EXPECT_TRUE(row(d, "thin_places").met);
    EXPECT_TRUE(row(d, "lost").met);
}

TEST(Shaping, TheNacelleIsHollowedWithTwoDrains) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("nacelle")}));
    EXPECT_EQ(check::voids.limited.value(*d.workshop().looks().kept()->survey), 1);
    tryAndKeep(d, "hollow", "drains", 2);
    const session::Look& look = *d.workshop().looks().kept();
    EXPECT_TRUE(look.survey->solid);
    EXPECT_EQ(check::voids.limited.value(*look.survey), 0);
    EXPECT_EQ(d.workshop().parts().current()->track.stops().back().record.number("drains").value(), 2);
    EXPECT_TRUE(row(d, "lost").met);
}

TEST(Shaping, ABaseThatDecimationMadeUnevenIsFlat) {
    WindowDriver d;
    // A ball on a foot that waves by a tenth.
    Mesh m = sphere(30, 60, 30);
    rig::Random random(3);
    for (Point& p : m.positions)
        if (p.z() < -26) p.z() = static_cast<float>(-26 + random.between(-0.1, 0.1));
    mesh::roundAndJoin(m, mesh::Precision::Single);
    ASSERT_TRUE(openMesh(d, "foot.stl", m));
    tryAndKeep(d, "flatten", "within", 0.5);
    const session::Look& look = *d.workshop().looks().kept();
    const double low = look.survey->mass.size.min.z();
    std::size_t atTheBottom = 0;
    for (const Point& p : look.mesh().positions) {
        if (p.z() == low) ++atTheBottom;
        EXPECT_TRUE(p.z() == low || p.z() > low + 0.05);
    }
    EXPECT_GT(atTheBottom, 60U);
}

TEST(Shaping, ASeamIsSmoothed) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "ball.stl", sphere(30, 40, 20)));
    tryAndKeep(d, "smooth", "scale", 30);
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
    EXPECT_GT(d.workshop().parts().current()->track.stops().back().record.number("vertices_moved").value(), 0);
}

TEST(Shaping, TheSeamOfAFuseIsPickedAndSoftened) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "cross.stl",
                         together(box(Point(-20, -5, -5), Point(20, 5, 5)), box(Point(-4, -4, -20), Point(4, 4, 20)))));
    ASSERT_TRUE(runCommand(d, "Pick what came with the last step"));
    EXPECT_TRUE(d.workshop().picking().pick().everything());
    ASSERT_TRUE(runCommand(d, "Fuse into one skin"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value() && d.button("Keep") != nullptr; }));
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(runCommand(d, "Pick what came with the last step"));
    const mesh::Pick pick = d.workshop().picking().pick();
    ASSERT_FALSE(pick.everything());
    EXPECT_LT(pick.triangles().size(), d.workshop().looks().kept()->mesh().triangles.size());
    const double before = d.workshop().looks().kept()->survey->mass.volume;
    ASSERT_TRUE(runCommand(d, "Soften ridges"));
    ASSERT_TRUE(d.waitFor([&] { return d.find<QDoubleSpinBox>("soften.radius") != nullptr; }));
    d.find<QDoubleSpinBox>("soften.radius")->setValue(1);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value() && d.button("Keep") != nullptr; }));
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
    EXPECT_NE(d.workshop().looks().kept()->survey->mass.volume, before);
    EXPECT_NEAR(d.workshop().looks().kept()->survey->mass.size.max.z(), 20, 1e-6);
}

TEST(Numbers, OfThePartAndOfThePickStandInAWindowOfTheirOwn) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "box.stl", box(mesh::Point(0, 0, 0), mesh::Point(10, 20, 30))));
    d.key(Qt::Key_I, Qt::ControlModifier);
    ASSERT_TRUE(d.waitFor([&] { return labelText(d, "numbers.volume").startsWith(session::spaced(6000)); }));
    EXPECT_EQ(labelText(d, "numbers.title"), "box");
    EXPECT_EQ(labelText(d, "numbers.centre of mass"), "5, 10, 15");
    d.find<QDoubleSpinBox>("numbers.density")->setValue(7.8);
    ASSERT_TRUE(d.waitFor([&] { return labelText(d, "numbers.mass") == "46.8 g"; }))
        << labelText(d, "numbers.mass").toStdString();
    d.workshop().picking().set(mesh::Pick({0, 1}));
    ASSERT_TRUE(d.waitFor([&] { return labelText(d, "numbers.title").startsWith("2 triangles"); }));
    EXPECT_TRUE(labelText(d, "numbers.volume").startsWith("none"));
}

TEST(PartMaking, APartIsTakenApartJoinedAndCopiedFromTheMenu) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(
        d, "two.stl",
        together(box(mesh::Point(0, 0, 0), mesh::Point(9, 9, 9)), box(mesh::Point(20, 0, 0), mesh::Point(24, 4, 4)))));
    ASSERT_TRUE(runCommand(d, "Take apart by bodies"));
    ASSERT_EQ(d.workshop().parts().all().size(), 3U);
    EXPECT_EQ(d.workshop().parts().current()->name, "two 1");
    EXPECT_NEAR(d.workshop().looks().kept()->survey->mass.volume, 729, 1e-6);
    EXPECT_TRUE(row(d, "lost").met);
    ASSERT_TRUE(runCommand(d, "Copy this part"));
    EXPECT_EQ(d.workshop().parts().current()->name, "two 1 copy");
    ASSERT_TRUE(runCommand(d, "Join all parts into one"));
    EXPECT_EQ(d.workshop().parts().all().size(), 5U);
    EXPECT_EQ(d.workshop().parts().current()->name, "joined");
    EXPECT_EQ(d.workshop().looks().kept()->mesh().triangles.size(), 4U * 12 + 12);
    // Without a pick there is nothing to make a part of, and it is said.
    ASSERT_TRUE(runCommand(d, "Make a part of what is picked"));
    EXPECT_EQ(d.workshop().parts().all().size(), 5U);
}

// The legend says which colour stands for which value, and can be read over the part.
TEST(Lenses, TheLegendShowsTheColoursOfItsValues) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "box.stl", box(mesh::Point(0, 0, 0), mesh::Point(40, 40, 20))));
    auto* view = d.window().findChild<desktop::Viewport*>();
    const auto coloursOf = [&](const char* lens) {
        EXPECT_TRUE(d.clickButton(lens));
        EXPECT_TRUE(d.settle());
        EXPECT_TRUE(d.waitFor([&] { return !view->histogram().isEmpty(); }));
        QTest::qWait(100);
        const QRectF bars = view->histogram();
        const QImage shot = view->grab().toImage();
        const double pixels = shot.devicePixelRatio();
        const auto at = [&](double share) {
            const QPointF p(bars.left() + 2 + share * (bars.width() - 4), bars.bottom() + 4);
            return shot.pixelColor((pixels * p).toPoint());
        };
        return std::array{at(0), at(0.5), at(1)};
    };
    const auto& stops = session::rampStops();
    const auto near = [](const QColor& a, const QColor& b) {
        return std::abs(a.red() - b.red()) + std::abs(a.green() - b.green()) + std::abs(a.blue() - b.blue()) < 30;
    };
    // Little is light, unless little is what is bad.
    const auto bad = coloursOf("wall");
    EXPECT_TRUE(near(bad[0], stops[4])) << bad[0].name().toStdString();
    EXPECT_TRUE(near(bad[1], stops[2])) << bad[1].name().toStdString();
    EXPECT_TRUE(near(bad[2], stops[0])) << bad[2].name().toStdString();
}

// Dragging over the histogram of a lens picks what has such values; steps then work on that.
TEST(Lenses, AStretchOfTheHistogramBecomesThePick) {
    WindowDriver d;
    Mesh m = box(mesh::Point(0, 0, 0), mesh::Point(40, 40, 20));
    ASSERT_TRUE(openMesh(d, "box.stl", m));
    ASSERT_TRUE(d.clickButton("slope"));
    ASSERT_TRUE(d.settle());
    auto* view = d.window().findChild<desktop::Viewport*>();
    ASSERT_TRUE(d.waitFor([&] { return !view->histogram().isEmpty(); }));
    const QRectF bars = view->histogram();
    // What faces straight down has a slope of 0 and stands at the left; the rest at the right.
    d.drag(view, QPointF(bars.left() - 3, bars.center().y()), QPointF(bars.left() + 20, bars.center().y()),
           Qt::LeftButton);
    EXPECT_EQ(d.workshop().picking().pick().triangles().size(), 2U);
    d.drag(view, QPointF(bars.right() - 20, bars.center().y()), QPointF(bars.right() + 3, bars.center().y()),
           Qt::LeftButton);
    EXPECT_EQ(d.workshop().picking().pick().triangles().size(), 10U);
    for (const mesh::TriangleId t : d.workshop().picking().pick().triangles())
        EXPECT_GT(mesh::areaVector(d.workshop().looks().kept()->mesh(), t).z(), -1);
}

}  // namespace
}  // namespace zither::tests
