// The session without its widgets: camera, strings as text, jobs, coats.
#include <gtest/gtest.h>
#include <QFileInfo>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>

#include <cmath>

#include "check/catalogue.h"
#include "session/lens/colours.h"
#include "session/reading/desk_model.h"
#include "session/reading/palette.h"
#include "session/reading/strings.h"
#include "session/state/camera.h"
#include "session/workshop.h"

namespace zither::tests {
namespace {

using check::DefectClass;
using mesh::Point;
using session::Camera;

mesh::Mesh brick() {
    mesh::Mesh m;
    for (int i = 0; i < 8; ++i) m.positions.emplace_back(i & 1 ? 30.0 : 0.0, i & 2 ? 20.0 : 0.0, i & 4 ? 10.0 : 0.0);
    m.triangles = {{0, 2, 1}, {1, 2, 3}, {4, 5, 6}, {5, 7, 6}, {0, 1, 4}, {1, 5, 4},
                   {2, 6, 3}, {3, 6, 7}, {0, 4, 2}, {2, 4, 6}, {1, 3, 5}, {3, 7, 5}};
    return m;
}

Camera looking(Camera::View view) {
    Camera c;
    c.setViewport(QSizeF(800, 600));
    c.setScene(mesh::boxOf(brick()));
    c.lookFrom(view);
    c.fit(brick());
    return c;
}

TEST(Camera, FitShowsEveryCornerFromEverySide) {
    for (Camera::View view : {Camera::View::Front, Camera::View::Back, Camera::View::Left, Camera::View::Right,
                              Camera::View::Top, Camera::View::Bottom, Camera::View::Iso}) {
        const Camera c = looking(view);
        double widest = 0;
        for (const Point& p : brick().positions) {
            const QPointF at = c.toScreen(p);
            EXPECT_GT(at.x(), 0);
            EXPECT_LT(at.x(), 800);
            EXPECT_GT(at.y(), 0);
            EXPECT_LT(at.y(), 600);
            widest = std::max({widest, std::abs(at.x() - 400) / 400, std::abs(at.y() - 300) / 300});
        }
        EXPECT_GT(widest, 0.7);
    }
}

TEST(Camera, StandardViewsLookAlongTheAxes) {
    EXPECT_LT((looking(Camera::View::Front).direction() - Point(0, 1, 0)).norm(), 1e-12);
    EXPECT_LT((looking(Camera::View::Left).direction() - Point(1, 0, 0)).norm(), 1e-12);
    EXPECT_LT((looking(Camera::View::Top).direction() - Point(0, 0, -1)).norm(), 1e-12);
    // Up is up from the front, and +X is on the right.
    const Camera front = looking(Camera::View::Front);
    EXPECT_LT(front.toScreen(Point(0, 0, 10)).y(), front.toScreen(Point(0, 0, 0)).y());
    EXPECT_GT(front.toScreen(Point(30, 0, 0)).x(), front.toScreen(Point(0, 0, 0)).x());
}

TEST(Camera, OrbitKeepsThePivotOnTheScreen) {
    Camera c = looking(Camera::View::Iso);
    const Point pivot(30, 20, 10);
    const QPointF before = c.toScreen(pivot);
    for (int i = 0; i < 50; ++i) c.orbit(QPointF(13, -7), pivot);
    EXPECT_LT((c.toScreen(pivot) - before).manhattanLength(), 1e-6);
}

TEST(Camera, RaysGoThroughWhatTheyWereShotAt) {
    Camera c = looking(Camera::View::Iso);
    for (const Point& p : brick().positions) {
        const Point origin = c.rayOrigin(c.toScreen(p));
        EXPECT_LT((p - origin).cross(c.direction()).norm(), 1e-9);
        EXPECT_GT((p - origin).dot(c.direction()), 0);
    }
}

TEST(Camera, ZoomStaysWithinReason) {
    Camera c = looking(Camera::View::Iso);
    for (int i = 0; i < 1000; ++i) c.zoom(2, QPointF(10, 10));
    EXPECT_GT(c.worldPerPixel(), 0);
    EXPECT_TRUE(std::isfinite(c.worldPerPixel()));
    for (int i = 0; i < 1000; ++i) c.zoom(0.5, QPointF(10, 10));
    EXPECT_LT(c.worldPerPixel(), 1000);
}

TEST(Camera, FlightsEndWhereTheyShould) {
    const Camera a = looking(Camera::View::Front);
    Camera b = looking(Camera::View::Top);
    b.flyTo(Point(30, 20, 10), 1, Point(0, 0, 1));
    const Camera end = Camera::between(a, b, 1);
    EXPECT_LT((end.direction() - b.direction()).norm(), 1e-9);
    EXPECT_LT((end.centre() - Point(30, 20, 10)).norm(), 1e-9);
    EXPECT_NEAR(end.worldPerPixel(), b.worldPerPixel(), 1e-9);
    EXPECT_LT((Camera::between(a, b, 0).direction() - a.direction()).norm(), 1e-9);
    // A place seen from behind is turned to the viewer.
    Camera c = looking(Camera::View::Bottom);
    c.flyTo(Point(0, 0, 10), 1, Point(0, 0, 1));
    EXPECT_LT(c.direction().z(), 0);
}

TEST(Camera, ViewProjectionAgreesWithToScreen) {
    const Camera c = looking(Camera::View::Iso);
    for (const Point& p : brick().positions) {
        const QVector3D clip = c.viewProjection().map(
            QVector3D(static_cast<float>(p.x()), static_cast<float>(p.y()), static_cast<float>(p.z())));
        const QPointF at = c.toScreen(p);
        EXPECT_NEAR(clip.x(), at.x() / 400 - 1, 1e-4);
        EXPECT_NEAR(clip.y(), 1 - at.y() / 300, 1e-4);
        EXPECT_LT(std::abs(clip.z()), 1.0001F);
    }
}

class WorkshopTest : public ::testing::Test {
protected:
    QTemporaryDir folder;
    QSettings settings{folder.filePath("s.ini"), QSettings::IniFormat};
    session::Workshop workshop{settings};

    void open(const QString& part) {
        workshop.opening().open({QString(ZITHER_RIG) + "/" + part + ".stl"});
        settle();
    }
    void settle() {
        ASSERT_TRUE(QTest::qWaitFor([&] { return !workshop.jobs().busy() && workshop.looks().kept(); }, 60000));
    }
    std::string rowsAsText() {
        std::string text;
        for (const session::StringRow& r : session::stringRows(workshop))
            text += (r.noted ? "noted "
                     : r.met ? "ok "
                             : "fails ") +
                    r.id.toStdString() + " " + std::to_string(r.marks.size()) + "\n";
        return text;
    }
};

TEST_F(WorkshopTest, StringsAsText) {
    open("spinner");
    EXPECT_EQ(
        rowsAsText(),
        "ok boundary_edges 0\nok nonmanifold_edges 0\nok nonmanifold_vertices 0\nfails misoriented_edges 6\n"
        "ok self_intersecting_pairs 0\nok duplicate_triangles 0\nok degenerate_triangles 0\nfails inward_shells 1\n"
        "ok buried_shells 0\nnoted shells 2\nnoted thin_places 0\nnoted overhang_area 1\nnoted voids 0\nok "
        "outside_build 0\nnoted lost "
        "0\n");
}

TEST_F(WorkshopTest, StringsOfTheStrainerFollowItsDamage) {
    open("strainer");
    const std::string text = rowsAsText();
    EXPECT_NE(text.find("fails duplicate_triangles 15"), std::string::npos) << text;
    EXPECT_NE(text.find("fails degenerate_triangles 11"), std::string::npos) << text;
    EXPECT_NE(text.find("fails nonmanifold_vertices 4"), std::string::npos) << text;
}

TEST_F(WorkshopTest, AnotherBriefJudgesAnew) {
    open("fairing");
    EXPECT_FALSE(workshop.judging().verdict()->allMet());
    workshop.judging().setBrief(steps::builtInBriefs()[2]);
    settle();
    EXPECT_TRUE(workshop.judging().verdict()->allMet());
    EXPECT_EQ(settings.value("brief").toString(), "reference-surface");
    // The next start remembers it.
    session::Workshop next(settings);
    EXPECT_EQ(next.judging().chosen().id, "reference-surface");
}

TEST_F(WorkshopTest, FailingClassesAndPlacesInOrder) {
    open("blade");
    EXPECT_EQ(workshop.judging().failingClasses(),
              (std::vector<DefectClass>{check::openEdges, check::selfIntersections}));
    const auto places = workshop.choice().places(check::openEdges);
    const auto& list = workshop.looks().kept()->survey->findings.list;
    for (std::size_t i = 1; i < places.size(); ++i)
        EXPECT_LE(list[places[i - 1]].position.z(), list[places[i]].position.z());
    workshop.choice().step(-1);
    EXPECT_EQ(workshop.choice().chosenFinding(), places.back());
    workshop.choice().step(1);
    EXPECT_EQ(workshop.choice().chosenFinding(), places.front());
}

TEST_F(WorkshopTest, RepairBegunElsewhereBranchesFromWhereItBegan) {
    open("hub");
    workshop.repair();
    settle();
    ASSERT_EQ(workshop.parts().current()->track.stops().size(), 3U);
    workshop.goTo(1);
    settle();
    workshop.repair();
    workshop.goTo(2);  // while it runs
    settle();
    settle();
    EXPECT_EQ(workshop.parts().current()->track.stop(3).parent, 1U);
}

TEST_F(WorkshopTest, ClosingAPartWhileItIsRepairedIsSafe) {
    open("blade");
    workshop.repair();
    workshop.parts().close(0);
    EXPECT_TRUE(QTest::qWaitFor([&] { return !workshop.jobs().busy(); }, 60000));
    EXPECT_EQ(workshop.parts().current(), nullptr);
}

TEST_F(WorkshopTest, PreviewShowsWhatWouldBeAndKeepMakesItAStop) {
    open("hub");
    workshop.trial().start({steps::findStep("stitch"), {}});
    EXPECT_TRUE(workshop.trial().running());
    settle();
    ASSERT_TRUE(workshop.trial().current());
    EXPECT_EQ(workshop.looks().shown()->survey->counts.boundaryEdges, 0U);
    EXPECT_GT(workshop.looks().kept()->survey->counts.boundaryEdges, 0U);
    workshop.trial().keep();
    EXPECT_EQ(workshop.looks().kept()->survey->counts.boundaryEdges, 0U);
    EXPECT_EQ(workshop.parts().current()->track.stop(1).label, "stitch");
    EXPECT_EQ(workshop.parts().current()->track.recipeTo(1).front().given.size(), 0U);
}

// A pick holds numbers of triangles, which mean nothing on the surface that comes after.
TEST_F(WorkshopTest, ThePickIsForgottenBeforeAnybodyHearsOfAnotherSurface) {
    open("hub");
    int heard = 0;
    QObject::connect(&workshop.parts(), &session::Parts::changed, &workshop, [&] {
        ++heard;
        EXPECT_TRUE(workshop.picking().pick().everything());
        EXPECT_FALSE(workshop.choice().chosenFinding());
    });
    const auto last = [&] {
        return static_cast<mesh::TriangleId>(workshop.looks().kept()->mesh().triangles.size() - 1);
    };
    workshop.picking().pickTriangle(last(), Point::Zero(), false);
    workshop.trial().start({steps::findStep("clean"), {}});
    settle();
    ASSERT_TRUE(workshop.trial().current());
    workshop.trial().keep();
    settle();
    EXPECT_EQ(heard, 1);
    workshop.picking().pickTriangle(last(), Point::Zero(), false);
    workshop.undo();  // of the pick
    workshop.picking().pickTriangle(last(), Point::Zero(), false);
    workshop.parts().undo();
    settle();
    EXPECT_EQ(heard, 2);
    workshop.picking().pickTriangle(last(), Point::Zero(), false);
    workshop.parts().close(0);
    EXPECT_EQ(heard, 3);
}

// A repair is about the whole part: the desk is there again, with what it did and what it leaves.
TEST_F(WorkshopTest, ARepairLeadsBackToTheWholePart) {
    open("hub");
    workshop.choice().chooseClass(check::openEdges);
    ASSERT_TRUE(workshop.choice().chosenClass());
    workshop.repair();
    EXPECT_FALSE(workshop.choice().chosenClass());
    settle();
    EXPECT_FALSE(workshop.choice().chosenClass());
    EXPECT_GT(workshop.parts().current()->track.stops().size(), 1U);
}

// What an export would be, before it is made: never two parts in one file by accident, and nothing outside its folder.
TEST_F(WorkshopTest, AnExportIsPlannedAndSaysWhatIsWrongWithIt) {
    open("spinner");
    open("strainer");
    auto& plan = workshop.exporting();
    plan.setFolder(folder.path());
    plan.setWhich(session::Exporting::Which::All);
    const auto names = [&] {
        QStringList all;
        for (const auto& file : plan.files()) all << QFileInfo(file.path).fileName();
        return all.join(' ');
    };
    EXPECT_EQ(names(), "spinner-mended.stl strainer-mended.stl");
    EXPECT_EQ(plan.problem(), QString());
    plan.setPattern("{step}");
    EXPECT_TRUE(plan.problem().startsWith("Two parts would be written to import.stl")) << plan.problem().toStdString();
    plan.setPattern("  ");
    EXPECT_EQ(plan.problem(), "Give the files a name.");
    // A name leads nowhere else.
    plan.setPattern("../{name}");
    for (const auto& file : plan.files()) EXPECT_EQ(QFileInfo(file.path).absolutePath(), folder.path());
    // One file holds both only where the format keeps their names, and only in one unit.
    plan.setPattern("both");
    plan.setTogether(true);
    EXPECT_FALSE(plan.together());
    plan.setFile(folder.filePath("both.3mf"));
    ASSERT_TRUE(plan.together());
    ASSERT_EQ(plan.files().size(), 1U);
    EXPECT_EQ(plan.files()[0].parts.size(), 2U);
    EXPECT_EQ(plan.problem(), QString());
    workshop.parts().setUnit("m");
    settle();
    EXPECT_TRUE(plan.problem().contains("One file has one unit")) << plan.problem().toStdString();
    plan.setTogether(false);
    EXPECT_TRUE(plan.problem().startsWith("Two parts would be written")) << plan.problem().toStdString();
    plan.setWhich(session::Exporting::Which::Front);
    EXPECT_EQ(plan.problem(), QString());
    // What lies there already will be replaced, which is said.
    QFile there(plan.files()[0].path);
    ASSERT_TRUE(there.open(QIODevice::WriteOnly));
    EXPECT_TRUE(plan.files()[0].isThere);
    EXPECT_TRUE(plan.remarks().join(' ').contains("both.3mf is there already"));
    plan.setFolder(folder.filePath("nowhere"));
    EXPECT_TRUE(plan.problem().startsWith("There is no folder"));
}

TEST_F(WorkshopTest, UndoDropsAPreviewFirst) {
    open("hub");
    workshop.trial().start({steps::findStep("clean"), {}});
    settle();
    ASSERT_TRUE(workshop.trial().current());
    workshop.undo();
    EXPECT_FALSE(workshop.trial().current());
    EXPECT_EQ(workshop.parts().current()->track.current(), 0U);
}

TEST_F(WorkshopTest, ChangeLensMarksNewTriangles) {
    open("fairing");
    workshop.trial().start({steps::findStep("fill"), {}});
    settle();
    workshop.trial().keep();
    workshop.coating().setLens(session::changeLens);
    settle();
    const auto& colours = workshop.coating().coat().colours;
    ASSERT_EQ(colours.size(), workshop.looks().kept()->mesh().triangles.size());
    const std::size_t before = workshop.parts().current()->track.imported()->mesh().triangles.size();
    for (std::size_t t = 0; t < colours.size(); ++t) ASSERT_EQ(colours[t] == colours[0], t < before) << t;
}

TEST_F(WorkshopTest, AddedLensShowsWhatIsNewAndOnlyThat) {
    open("blade");
    workshop.coating().setLens(session::addedLens);
    settle();
    const auto plain = session::packed(session::clay::face);
    EXPECT_TRUE(workshop.coating().coat().legend.note.startsWith("blue: new, 0 %"));
    workshop.trial().start({steps::findStep("fill"), {}});
    settle();
    workshop.trial().keep();
    settle();
    workshop.coating().setLens(session::addedLens);
    settle();
    const auto& colours = workshop.coating().coat().colours;
    const std::size_t before = workshop.parts().current()->track.imported()->mesh().triangles.size();
    ASSERT_GT(colours.size(), before);
    std::size_t added = 0;
    for (std::size_t t = 0; t < colours.size(); ++t) {
        if (t < before) {
            ASSERT_EQ(colours[t], plain) << t;
        }
        added += colours[t] != plain;
    }
    EXPECT_GT(added, 0U);
}

TEST_F(WorkshopTest, DeviationLensIsZeroAtFirst) {
    open("spinner");
    workshop.coating().setLens(session::deviationLens);
    settle();
    EXPECT_EQ(workshop.coating().coat().legend.high, 0);
}

TEST_F(WorkshopTest, AnUnknownPlaceIsIgnored) {
    open("spinner");
    workshop.choice().chooseFinding(1'000'000);
    EXPECT_FALSE(workshop.choice().chosenFinding());
    workshop.parts().choose(17);
    EXPECT_EQ(workshop.parts().currentIndex(), 0U);
    workshop.goTo(99);
    EXPECT_EQ(workshop.parts().current()->track.current(), 0U);
}

// ---- choice

TEST_F(WorkshopTest, StepsGoRoundThePlacesOfAClassAlongTheAxis) {
    open("strainer");
    session::Choice& choice = workshop.choice();
    choice.chooseClass(check::duplicates);
    const std::vector<std::size_t> places = choice.places(check::duplicates);
    ASSERT_GT(places.size(), 3U);
    const auto& list = workshop.looks().kept()->survey->findings.list;
    for (std::size_t i = 1; i < places.size(); ++i)
        EXPECT_LE(list[places[i - 1]].position[choice.axis()], list[places[i]].position[choice.axis()]);
    for (const std::size_t place : places) {
        choice.step(1);
        EXPECT_EQ(choice.chosenFinding(), place);
    }
    choice.step(1);
    EXPECT_EQ(choice.chosenFinding(), places.front()) << "round again";
    choice.step(-1);
    EXPECT_EQ(choice.chosenFinding(), places.back());
    // Another class has no place chosen; its last is the first that is met backwards.
    choice.chooseClass(check::degenerate);
    EXPECT_FALSE(choice.chosenFinding());
    choice.step(-1);
    EXPECT_EQ(choice.chosenFinding(), choice.places(check::degenerate).back());
}

TEST_F(WorkshopTest, ASlabLeavesOnlyThePlacesWithinIt) {
    open("strainer");
    session::Choice& choice = workshop.choice();
    const auto& list = workshop.looks().kept()->survey->findings.list;
    const std::vector<std::size_t> all = choice.places(check::duplicates);
    const double middle = list[all[all.size() / 2]].position[choice.axis()];
    choice.setSlab(session::Slab{-1e9, middle});
    const std::vector<std::size_t> lower = choice.places(check::duplicates);
    EXPECT_LT(lower.size(), all.size());
    for (const std::size_t place : lower) EXPECT_LE(list[place].position[choice.axis()], middle);
    // Along another axis the slab means nothing.
    choice.setAxis((choice.axis() + 1) % 3);
    EXPECT_FALSE(choice.slab());
    EXPECT_EQ(choice.places(check::duplicates).size(), all.size());
    choice.setAxis(std::nullopt);
    int longest = 0;
    workshop.looks().kept()->survey->mass.size.extent().maxCoeff(&longest);
    EXPECT_EQ(choice.axis(), longest);
}

// ---- picking

TEST_F(WorkshopTest, APickRemembersHowItWasChosen) {
    open("strainer");
    session::Picking& picking = workshop.picking();
    EXPECT_TRUE(picking.pick().everything());
    EXPECT_EQ(picking.text(), "");
    picking.pickTriangle(3, Point(1, 2, 3), false);
    EXPECT_TRUE(picking.byHand());
    EXPECT_EQ(picking.pick().triangles(), std::vector<mesh::TriangleId>{3});
    EXPECT_EQ(picking.place(), Point(1, 2, 3));
    picking.pickTriangle(9, Point(4, 5, 6), true);
    EXPECT_EQ(picking.pick().triangles().size(), 2U);
    EXPECT_NE(picking.text().find('9'), std::string::npos);
    // A drag comes over it again and again.
    picking.pickTriangle(9, Point(4, 5, 6), true);
    EXPECT_EQ(picking.pick().triangles().size(), 2U);
    picking.pickShellOf(3);
    EXPECT_FALSE(picking.byHand());
    EXPECT_EQ(picking.text().rfind("shell:", 0), 0U) << picking.text();
}

TEST_F(WorkshopTest, PlacesOfAClassAreNamedByItAndGrowByRings) {
    open("strainer");
    session::Picking& picking = workshop.picking();
    workshop.choice().chooseClass(check::duplicates);
    picking.pickPlaces();
    EXPECT_EQ(picking.text(), "duplicate_triangles");
    const std::size_t chosen = picking.pick().triangles().size();
    picking.grow();
    EXPECT_EQ(picking.text(), "duplicate_triangles+1");
    EXPECT_GT(picking.pick().triangles().size(), chosen);
    picking.grow();
    EXPECT_EQ(picking.text(), "duplicate_triangles+2");
    // Back again it is no more what was said: shrinking takes other triangles than growing brought.
    picking.shrink();
    EXPECT_TRUE(picking.byHand());
    // A text that a step understands means the same triangles.
    workshop.choice().chooseClass(check::duplicates);
    picking.pickPlaces();
    mesh::SilentProgress silent;
    const auto again = steps::pickFromText(picking.text(), *workshop.looks().kept()->part, silent);
    ASSERT_TRUE(again);
    EXPECT_EQ(again->triangles(), picking.pick().triangles());
    // With a place chosen it is that place alone.
    workshop.choice().step(1);
    picking.pickPlaces();
    EXPECT_LT(picking.pick().triangles().size(), chosen);
    EXPECT_TRUE(picking.byHand());
}

TEST_F(WorkshopTest, AnotherStopForgetsThePick) {
    open("strainer");
    workshop.picking().pickTriangle(3, Point(0, 0, 0), false);
    workshop.trial().start({steps::findStep("clean"), {}});
    settle();
    workshop.trial().keep();
    settle();
    EXPECT_TRUE(workshop.picking().pick().everything());
    EXPECT_FALSE(workshop.picking().place());
}

// ---- the desk's model

TEST_F(WorkshopTest, TheDeskTurnsToWhatIsChosen) {
    session::DeskModel desk(workshop);
    EXPECT_EQ(desk.page().kind, session::DeskPage::Empty);
    open("strainer");
    EXPECT_EQ(desk.page().kind, session::DeskPage::Overview);
    workshop.choice().chooseClass(check::duplicates);
    ASSERT_EQ(desk.page().kind, session::DeskPage::Class);
    EXPECT_EQ(desk.page().defect, DefectClass(check::duplicates));
    // Steps that help with it, and no other.
    const auto helps = session::DeskModel::stepsFor(check::duplicates);
    ASSERT_FALSE(helps.empty());
    EXPECT_TRUE(std::any_of(helps.begin(), helps.end(), [](const auto* s) { return s->name == "clean"; }));
    desk.showStep(*steps::findStep("fill"));
    ASSERT_EQ(desk.page().kind, session::DeskPage::Step);
    EXPECT_EQ(desk.page().step, steps::findStep("fill"));
    desk.backToWhole();
    EXPECT_EQ(desk.page().kind, session::DeskPage::Overview);
    settle();
}

TEST_F(WorkshopTest, TheDeskProposesAndKeepsOnlyWhatWasChanged) {
    session::DeskModel desk(workshop);
    open("strainer");
    const steps::Step& stitch = *steps::findStep("stitch");
    desk.showStep(stitch);
    settle();
    const steps::Arguments proposed = desk.valuesFor(stitch);
    ASSERT_TRUE(proposed.contains("distance"));
    desk.setValue(stitch, "distance", 0.25);
    EXPECT_EQ(desk.edited(), &stitch);
    EXPECT_EQ(desk.valuesFor(stitch).at("distance").number(), 0.25);
    desk.tryNow(stitch);
    settle();
    ASSERT_TRUE(workshop.trial().current());
    desk.drop();
    settle();
    EXPECT_FALSE(workshop.trial().current());
    EXPECT_EQ(workshop.parts().current()->track.current(), 0U);
}

TEST_F(WorkshopTest, TheDeskSaysWhatIsMissing) {
    session::DeskModel desk(workshop);
    open("strainer");
    const steps::Step& needsAPick = *steps::findStep("remove");
    EXPECT_FALSE(desk.missing(needsAPick).isEmpty());
    workshop.picking().pickTriangle(3, Point(0, 0, 0), false);
    EXPECT_TRUE(desk.missing(needsAPick).isEmpty()) << desk.missing(needsAPick).toStdString();
    workshop.picking().forget();
    EXPECT_FALSE(desk.missing(needsAPick).isEmpty());
    EXPECT_TRUE(desk.missing(*steps::findStep("clean")).isEmpty());
}

}  // namespace
}  // namespace zither::tests
