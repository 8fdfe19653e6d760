// The workbench: room for the part, the desk in the order of the work, everything found by its words and by keys,
// before and after, the loupe, picks drawn on the view, measuring.
#include <gtest/gtest.h>

#include <QAbstractButton>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QTextBrowser>
#include <cmath>

#include "check/catalogue.h"
#include "desktop/command_finder.h"
#include "desktop/desk_panel.h"
#include "desktop/help_window.h"
#include "desktop/loupe_view.h"
#include "desktop/parts_panel.h"
#include "desktop/sizes.h"
#include "desktop/start_page.h"
#include "desktop/track_panel.h"
#include "desktop/trade_off_curve.h"
#include "desktop/viewport.h"
#include "session/reading/help_topics.h"
#include "session/reading/next_steps.h"
#include "session/reading/word_search.h"
#include "steps/all_steps.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

using mesh::Point;
using Panel = session::Preferences::Panel;

// ---- room for the part

TEST(Room, ThePartHasMoreThanHalfOfTheWindow) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    QTest::qWait(50);
    const QSize view = d.window().viewport().parentWidget()->size();
    const double share = static_cast<double>(view.width()) * view.height() /
                         (static_cast<double>(d.window().width()) * d.window().height());
    EXPECT_GT(share, 0.58);
    // Parts lie over the edge of the view.
    auto* parts = d.window().findChild<desktop::PartsPanel*>();
    EXPECT_TRUE(d.window().viewport().geometry().intersects(parts->geometry()));
}

TEST(Room, WhatIsInTuneLiesCloseTogether) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("blade")}));
    const QRectF rings = strings(d).rowRect(rowOf(d, "boundary_edges"));
    const QRectF calm = strings(d).rowRect(rowOf(d, "nonmanifold_edges"));
    EXPECT_GT(rings.height(), 2 * calm.height());
    EXPECT_GT(calm.top(), rings.bottom());
    // Pointed at it is named; clicked it is chosen, and has its full height.
    d.move(&strings(d), QPointF(400, calm.center().y()), Qt::NoButton);
    d.click(&strings(d), QPointF(60, calm.center().y()));
    EXPECT_EQ(d.workshop().choice().chosenClass(), check::nonmanifoldEdges);
    EXPECT_GT(strings(d).rowRect(rowOf(d, "nonmanifold_edges")).height(), 2 * calm.height());
}

TEST(Room, PanelsFoldAwayByKeyAndStaySo) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    auto* desk = d.window().findChild<desktop::DeskPanel*>();
    auto* parts = d.window().findChild<desktop::PartsPanel*>();
    QTest::qWait(50);
    const int width = d.window().viewport().width();
    const int strip = strings(d).height();
    d.key(Qt::Key_D);
    EXPECT_FALSE(desk->isVisible());
    QTest::qWait(50);
    EXPECT_GT(d.window().viewport().width(), width);
    d.key(Qt::Key_T);
    EXPECT_LT(strings(d).height(), strip);
    d.click(parts, parts->titleRect().center());
    EXPECT_FALSE(d.workshop().preferences().isShown(Panel::Parts));
    EXPECT_LT(parts->height(), 40);
    d.key(Qt::Key_P);
    EXPECT_TRUE(d.workshop().preferences().isShown(Panel::Parts));
    // The view alone, and everything as it was.
    d.key(Qt::Key_W);
    EXPECT_FALSE(d.window().findChild<desktop::TrackPanel*>()->isVisible());
    EXPECT_TRUE(strings(d).isVisible());
    d.key(Qt::Key_W);
    EXPECT_TRUE(d.window().findChild<desktop::TrackPanel*>()->isVisible());
    EXPECT_FALSE(desk->isVisible());
    d.key(Qt::Key_D);
    EXPECT_TRUE(desk->isVisible());
}

TEST(Room, WhatIsSaidCoversNothing) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    d.workshop().notice().failed(mesh::Error{.message = QString("a long message ").repeated(20).toStdString()});
    QTest::qWait(50);
    auto* notice = d.find<QLabel>("notice");
    const QRect there(notice->mapTo(&d.window(), QPoint(0, 0)), notice->size());
    auto* view = &d.window().viewport();
    EXPECT_FALSE(there.intersects(QRect(view->mapTo(&d.window(), QPoint(0, 0)), view->size())));
    // Also where the desk is folded away it is seen.
    d.key(Qt::Key_D);
    QTest::qWait(50);
    EXPECT_TRUE(notice->isVisible());
}

// ---- opening

TEST(Opening, APartIsSeenBeforeItIsJudged) {
    WindowDriver d;
    d.workshop().opening().open({rig("blade")});
    bool seenFirst = false;
    ASSERT_TRUE(d.waitFor([&] {
        const session::Looks& looks = d.workshop().looks();
        if (!looks.kept() && looks.display()) seenFirst = true;
        return looks.kept() != nullptr;
    }));
    EXPECT_TRUE(seenFirst);
    EXPECT_FALSE(d.workshop().looks().listening());
}

TEST(Opening, WhatWasNotJudgedCanBe) {
    WindowDriver d;
    d.workshop().opening().open({rig("blade")});
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().looks().listening(); }));
    d.workshop().cancelAll();
    ASSERT_TRUE(d.waitFor([&] { return !d.workshop().jobs().busy(); }));
    if (!d.workshop().looks().kept()) {
        ASSERT_TRUE(d.clickWhenReady("Judge this part"));
        ASSERT_TRUE(d.settle());
    }
    EXPECT_EQ(labelText(d, "soundness"), "Not watertight");
}

TEST(StartPage, OffersTheRigAndWhatWasOpenLately) {
    WindowDriver d;
    auto* page = d.window().findChild<desktop::StartPage*>();
    EXPECT_TRUE(page->isVisible());
    ASSERT_TRUE(d.open({rig("hub")}));
    EXPECT_FALSE(page->isVisible());
    d.key(Qt::Key_W, Qt::ControlModifier);
    EXPECT_TRUE(page->isVisible());
    auto* recent = page->findChild<QAbstractButton*>("recent");
    ASSERT_NE(recent, nullptr);
    recent->click();
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().parts().current()->name, "hub");
}

// ---- the desk in the order of the work

TEST(Next, EachHasItsReasonFromThisPart) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    const auto next = session::nextSteps(*d.workshop().looks().kept(), *d.workshop().judging().verdict(), {});
    ASSERT_FALSE(next.empty());
    EXPECT_LE(next.size(), 3U);
    for (const session::NextStep& n : next) {
        EXPECT_FALSE(n.reason.isEmpty());
        EXPECT_FALSE(n.step->byHand);
        auto* card = d.find<QAbstractButton>("next-" + session::text(n.step->name));
        ASSERT_NE(card, nullptr);
        EXPECT_EQ(card->accessibleDescription(), n.reason);
    }
    // The cracks of the hub are narrow: their count is in the reason.
    EXPECT_EQ(next.front().step, &steps::stitchStep());
    EXPECT_TRUE(next.front().reason.contains("narrower than")) << next.front().reason.toStdString();
    auto* first = d.find<QAbstractButton>("next-stitch");
    d.click(first, first->rect().center());
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    EXPECT_EQ(d.workshop().trial().current()->call.step, &steps::stitchStep());
}

TEST(Next, ASoundPartNeedsNothing) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "box.stl", box(Point(0, 0, 0), Point(40, 30, 20))));
    EXPECT_TRUE(session::nextSteps(*d.workshop().looks().kept(), *d.workshop().judging().verdict(), {}).empty());
}

TEST(AllSteps, StandInFamiliesThatOpen) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    EXPECT_EQ(d.find<QAbstractButton>("open-decimate"), nullptr);
    auto* family = d.find<QAbstractButton>("family-triangles");
    ASSERT_NE(family, nullptr);
    family->click();
    ASSERT_NE(d.find<QAbstractButton>("open-decimate"), nullptr);
    ASSERT_NE(d.find<QAbstractButton>("family-measure"), nullptr);
    for (const steps::Step& step : steps::catalogue()) {
        ASSERT_NE(step.family, nullptr) << step.name;
        EXPECT_FALSE(step.words.empty()) << step.name;
    }
}

TEST(Words, TermsOfTheTradeFindTheirSteps) {
    const std::pair<const char*, const char*> terms[] = {{"decimate", "decimate"},
                                                         {"reduce", "decimate"},
                                                         {"simplify", "decimate"},
                                                         {"weld", "stitch"},
                                                         {"union", "fuse"},
                                                         {"merge vertices", "stitch"},
                                                         {"watertight", "fill"},
                                                         {"hole", "fill"},
                                                         {"normals", "orient"},
                                                         {"shrink-wrap", "wrap"},
                                                         {"voxel", "wrap"},
                                                         {"offset", "offset"},
                                                         {"hollow", "hollow"},
                                                         {"difference", "subtract"},
                                                         {"fillet", "soften"},
                                                         {"resize", "scale"},
                                                         {"sliver", "refine-slivers"},
                                                         {"subdivide", "refine"},
                                                         {"rotate", "place"},
                                                         {"delete", "remove"}};
    for (const auto& [typed, step] : terms) {
        const auto found = session::findSteps(typed);
        const bool there =
            std::any_of(found.begin(), found.begin() + std::min<std::ptrdiff_t>(3, std::ssize(found)),
                        [&, name = std::string_view(step)](const auto& f) { return f.step->name == name; });
        EXPECT_TRUE(there) << typed << " -> " << step;
    }
    EXPECT_TRUE(session::findSteps("zzzz").empty());
    EXPECT_EQ(session::findSteps("").size(), steps::catalogue().size());
}

TEST(Words, TypedAtTheDeskAndInTheFinder) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("nacelle")}));
    auto* input = d.find<QLineEdit>("find-step");
    ASSERT_NE(input, nullptr);
    input->setFocus();
    QTest::keyClicks(input, "simplify");
    QTest::keyClick(input, Qt::Key_Return);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    EXPECT_EQ(d.workshop().trial().current()->call.step, &steps::decimateStep());
    d.workshop().trial().drop();
    d.key(Qt::Key_K, Qt::ControlModifier);
    auto* finder = d.find<QLineEdit>("find-command");
    QTest::keyClicks(finder, "boolean difference");
    QTest::keyClick(finder, Qt::Key_Escape);
    d.key(Qt::Key_K, Qt::ControlModifier);
    QTest::keyClicks(finder, "magnifier");
    QTest::keyClick(finder, Qt::Key_Return);
    EXPECT_TRUE(d.workshop().loupe().on());
}

TEST(Words, EveryCommandIsFoundByItsName) {
    WindowDriver d;
    for (const QAction* command : d.window().commands()) {
        const QString name = QString(command->text()).remove('&');
        EXPECT_TRUE(session::matchWords(name, name, command->property("words").toStringList())) << name.toStdString();
    }
}

// ---- undo, help, keys

TEST(Edit, UndoAndRedoSayWhatTheyDo) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "box.stl", box(Point(0, 0, 0), Point(40, 30, 20))));
    const auto action = [&](const QString& begins) -> QAction* {
        for (QAction* a : d.window().commands())
            if (a->text().startsWith(begins)) return a;
        return nullptr;
    };
    EXPECT_FALSE(action("Undo")->isEnabled());
    ASSERT_TRUE(d.openStep("mirror"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    EXPECT_EQ(action("Undo")->text(), "Undo preview");
    d.key(Qt::Key_Return, Qt::ControlModifier);
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(action("Undo")->text(), "Undo mirror");
    d.key(Qt::Key_Z, Qt::ControlModifier);
    ASSERT_TRUE(d.settle());
    EXPECT_FALSE(action("Undo")->isEnabled());
    EXPECT_EQ(action("Redo")->text(), "Redo mirror");
    // Fifty times there and back, as fast as keys go.
    for (int i = 0; i < 50; ++i) {
        d.key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
        d.key(Qt::Key_Z, Qt::ControlModifier);
    }
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().parts().current()->track.current(), 0U);
}

TEST(Help, HasAPageForEachCheckAndStep) {
    const auto topics = session::helpTopics({});
    const auto has = [&](const QString& key) {
        return std::any_of(topics.begin(), topics.end(),
                           [&](const auto& t) { return t.key == key && !t.html.isEmpty(); });
    };
    for (const steps::Step& step : steps::catalogue()) EXPECT_TRUE(has(session::helpKeyOf(step))) << step.name;
    for (const check::DefectClass defect : check::catalogue())
        EXPECT_TRUE(has(session::helpKeyOf(defect))) << std::string_view(defect->key);
}

TEST(Help, ComesForWhatIsOnTheDeskAndIsSearched) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("nacelle")}));
    ASSERT_TRUE(d.openStep("decimate"));
    d.key(Qt::Key_F1);
    auto* help = d.window().findChild<desktop::HelpWindow*>();
    ASSERT_TRUE(help->isVisible());
    auto* page = help->findChild<QTextBrowser*>("help-page");
    EXPECT_TRUE(page->toPlainText().contains("Bring the count down"));
    QTest::keyClicks(help->findChild<QLineEdit*>("find-help"), "normals");
    EXPECT_GT(help->findChild<QListWidget*>("help-list")->count(), 0);
    d.key(Qt::Key_F1, Qt::ShiftModifier);
    EXPECT_TRUE(page->toPlainText().contains("Ctrl+K"));
    help->hide();
}

// ---- before and after

TEST(BeforeAndAfter, SpaceShowsTheImportAndALineParts) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "box.stl", box(Point(0, 0, 0), Point(40, 30, 20))));
    ASSERT_TRUE(d.openStep("trim"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    d.key(Qt::Key_Return, Qt::ControlModifier);
    ASSERT_TRUE(d.settle());
    QTest::keyPress(&d.window(), Qt::Key_Space);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().beforeAfter().display() != nullptr; }));
    EXPECT_EQ(d.workshop().beforeAfter().display()->part->shared(),
              d.workshop().parts().current()->track.stop(0).part->shared());
    QTest::keyRelease(&d.window(), Qt::Key_Space);
    EXPECT_EQ(d.workshop().beforeAfter().display(), nullptr);
    d.key(Qt::Key_C);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().beforeAfter().display() != nullptr; }));
    auto& view = d.window().viewport();
    const double y = 40;
    d.drag(&view, QPointF(view.width() * 0.5, y), QPointF(view.width() * 0.25, y), Qt::LeftButton);
    EXPECT_NEAR(d.workshop().beforeAfter().divider(), 0.25, 0.01);
    d.key(Qt::Key_C);
    EXPECT_FALSE(d.workshop().beforeAfter().other());
    // A stop of the track is held against it with Shift.
    auto* track = d.window().findChild<desktop::TrackPanel*>();
    QTest::mouseClick(track, Qt::LeftButton, Qt::ShiftModifier, track->stopAt(0).toPoint());
    EXPECT_EQ(d.workshop().beforeAfter().other(), project::StopId(0));
}

// ---- the loupe

TEST(Loupe, ShowsTheChosenPlaceAndItsGap) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    const auto camera = d.window().viewport().camera();
    d.key(Qt::Key_L);
    ASSERT_TRUE(d.workshop().loupe().place());
    EXPECT_TRUE(d.window().findChild<desktop::LoupeView*>()->isVisible());
    QTest::qWait(500);
    // The view keeps its overview, also from place to place.
    d.key(Qt::Key_N);
    QTest::qWait(500);
    EXPECT_EQ(d.window().viewport().camera().worldPerPixel(), camera.worldPerPixel());
    // Some place of the open edges is a crack: two pieces and how far they are apart.
    bool crack = false;
    for (int i = 0; i < 12 && !crack; ++i) {
        crack = d.workshop().loupe().pieces() > 1 && d.workshop().loupe().gap();
        if (!crack) d.key(Qt::Key_N);
    }
    ASSERT_TRUE(crack);
    EXPECT_EQ(d.workshop().loupe().sight(200).moved, nullptr);
    d.key(Qt::Key_Period);
    const auto moved = d.workshop().loupe().sight(200).moved;
    ASSERT_NE(moved, nullptr);
    EXPECT_EQ(moved->sources.size(), moved->mesh.triangles.size());
    d.key(Qt::Key_Comma);
    EXPECT_EQ(d.workshop().loupe().spread(), 0);
    d.key(Qt::Key_L);
    EXPECT_FALSE(d.window().findChild<desktop::LoupeView*>()->isVisible());
}

// ---- picks

TEST(PickByDrag, ARectangleALineAroundAndUndo) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "ball.stl", sphere(30, 40, 20)));
    auto& view = d.window().viewport();
    QTest::qWait(400);
    const QPointF c(view.width() / 2.0, view.height() / 2.0);
    d.drag(&view, c - QPointF(60, 60), c + QPointF(60, 60), Qt::LeftButton);
    const std::size_t seen = d.workshop().picking().pick().triangles().size();
    EXPECT_GT(seen, 20U);
    // Only what is seen: no more than half of a ball.
    const std::size_t all = d.workshop().looks().kept()->mesh().triangles.size();
    EXPECT_LT(seen, all / 2);
    for (const mesh::TriangleId t : d.workshop().picking().pick().triangles()) {
        EXPECT_LT(mesh::areaVector(d.workshop().looks().kept()->mesh(), t).dot(view.camera().direction()), 1e-9);
    }
    ASSERT_TRUE(runCommand(d, "Drawing around picks what is hidden, too"));
    d.drag(&view, c - QPointF(60, 60), c + QPointF(60, 60), Qt::LeftButton);
    EXPECT_GT(d.workshop().picking().pick().triangles().size(), 3 * seen / 2);
    d.key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d.workshop().picking().pick().triangles().size(), seen);
    ASSERT_TRUE(runCommand(d, "Pick all that is not picked"));
    EXPECT_EQ(d.workshop().picking().pick().triangles().size(), all - seen);
}

TEST(PickByRegion, FlatAndSmoothRegions) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "box.stl", box(Point(0, 0, 0), Point(40, 30, 20))));
    auto& view = d.window().viewport();
    QTest::qWait(400);
    d.click(&view, view.camera().toScreen(Point(20, 15, 20)) + QPointF(3, 1));
    ASSERT_EQ(d.workshop().picking().pick().triangles().size(), 1U);
    ASSERT_TRUE(runCommand(d, "Pick on as far as it is flat"));
    EXPECT_EQ(d.workshop().picking().pick().triangles().size(), 2U);
    ASSERT_TRUE(runCommand(d, "Pick on up to creases"));
    EXPECT_EQ(d.workshop().picking().pick().triangles().size(), 2U);
    ASSERT_TRUE(runCommand(d, "Pick the shell"));
    EXPECT_EQ(d.workshop().picking().pick().triangles().size(), 12U);
}

// ---- measuring

TEST(Measuring, PointsDistancesAndAnglesStayOnThePart) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "box.stl", box(Point(0, 0, 0), Point(40, 30, 20))));
    auto& view = d.window().viewport();
    QTest::qWait(400);
    d.key(Qt::Key_M);
    ASSERT_TRUE(d.workshop().measuring().on());
    // Corners of the upper face; a click a few pixels beside them snaps.
    const std::array<Point, 3> corners = {Point(0, 30, 20), Point(0, 0, 20), Point(40, 0, 20)};
    const QPointF middle = view.camera().toScreen(Point(20, 15, 20));
    for (std::size_t i = 0; i < corners.size(); ++i) {
        const QPointF at = view.camera().toScreen(corners[i]);
        const QPointF way = middle - at;
        d.click(&view, at + 5 * way / std::hypot(way.x(), way.y()));
        ASSERT_EQ(d.workshop().measuring().all().size(), 1U);
        ASSERT_EQ(d.workshop().measuring().all()[0].points.size(), i + 1);
        EXPECT_EQ(d.workshop().measuring().all()[0].points[i], corners[i]);
        if (i == 1) {
            EXPECT_TRUE(d.workshop().measuring().text().startsWith("30 mm"));
        }
    }
    EXPECT_NEAR(*d.workshop().measuring().all()[0].wall, 20, 1e-3);
    EXPECT_TRUE(d.workshop().measuring().text().startsWith("90°  radius 25 mm"))
        << d.workshop().measuring().text().toStdString();
    EXPECT_TRUE(d.workshop().picking().pick().everything());
    d.key(Qt::Key_Backspace);
    EXPECT_EQ(d.workshop().measuring().all()[0].points.size(), 2U);
    ASSERT_TRUE(runCommand(d, "Take all measurements away"));
    EXPECT_TRUE(d.workshop().measuring().all().empty());
}

// ---- the curve of decimation

TEST(TradeOff, TheCurveIsDraggedAndThePreviewFollows) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("nacelle")}));
    ASSERT_TRUE(d.openStep("decimate"));
    ASSERT_TRUE(d.settle());
    auto* curve = d.find<desktop::TradeOffCurve>("decimate.curve");
    ASSERT_NE(curve, nullptr);
    ASSERT_TRUE(d.waitFor([&] { return curve->xOf(50) > 0; }));
    d.click(curve, QPointF(curve->xOf(8), 40));
    ASSERT_TRUE(d.waitFor([&] {
        const auto& tried = d.workshop().trial().current();
        return tried && std::abs(tried->used.at("percent").number() - 8) < 1.5;
    }));
}

// ---- marks and sizes

TEST(Marks, GatherWhereTheyWouldOverlapAndComeApartWhereOneLooksCloser) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("blade")}));
    d.workshop().choice().chooseClass(check::openEdges);
    auto& view = d.window().viewport();
    QTest::qWait(400);
    (void)view.grab();
    // Some glyph stands for several places.
    const auto places = d.workshop().choice().places(check::openEdges);
    std::optional<QPointF> gathered;
    for (const std::size_t place : places)
        if (view.marks().countAt(view.placeOnScreen(place)) > 1) gathered = view.placeOnScreen(place);
    ASSERT_TRUE(gathered);
    const double before = view.camera().worldPerPixel();
    d.click(&view, *gathered);
    EXPECT_FALSE(d.workshop().choice().chosenFinding());
    EXPECT_TRUE(d.waitFor([&] { return view.camera().worldPerPixel() < before / 2; }));
}

TEST(Sizes, TheScaleBarIsOfARoundLength) {
    EXPECT_EQ(desktop::scaleBarOf(1, 120).length, 100);
    EXPECT_EQ(desktop::scaleBarOf(0.4, 120).length, 20);
    EXPECT_EQ(desktop::scaleBarOf(0, 120).length, 0);
}

TEST(View, APartIsFittedBesideWhatLiesOverTheView) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("fairing")}));
    QTest::qWait(400);
    d.key(Qt::Key_F);
    QTest::qWait(500);
    const auto* parts = d.window().findChild<desktop::PartsPanel*>();
    const auto& view = d.window().viewport();
    for (const Point& p : d.workshop().looks().kept()->mesh().positions)
        ASSERT_GT(view.camera().toScreen(p).x(), parts->geometry().right() - 4);
}

TEST(View, IsTurnedMovedAndZoomedByKeys) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "box.stl", box(Point(0, 0, 0), Point(40, 30, 20))));
    auto& view = d.window().viewport();
    QTest::qWait(400);
    const auto settled = [&](Qt::Key key, Qt::KeyboardModifiers modifiers = Qt::NoModifier) {
        const auto before = view.camera();
        view.setFocus();
        QTest::keyClick(&view, key, modifiers);
        // It flies there, however slow the machine is.
        auto last = before.place();
        EXPECT_TRUE(d.waitFor([&] {
            QTest::qWait(100);
            const auto was = std::exchange(last, view.camera().place());
            return last == was && last != before.place();
        }));
        return std::pair{before, view.camera()};
    };
    const auto [straight, turned] = settled(Qt::Key_Left);
    const double degrees = std::acos(straight.right().dot(turned.right())) * 180 / 3.14159265358979;
    EXPECT_NEAR(degrees, 15, 0.5);
    EXPECT_LT((straight.centre() - turned.centre()).norm(), 1e-9);
    const auto [near, far] = settled(Qt::Key_Minus, Qt::ControlModifier);
    EXPECT_NEAR(far.worldPerPixel() / near.worldPerPixel(), 1.25, 1e-6);
    const auto [here, there] = settled(Qt::Key_Right, Qt::ShiftModifier);
    EXPECT_NEAR((there.centre() - here.centre()).dot(here.right()), 0.1 * view.width() * here.worldPerPixel(), 1e-6);
    // Up is Y: from above one looks along it.
    d.key(Qt::Key_U);
    d.key(Qt::Key_5, Qt::AltModifier);
    EXPECT_TRUE(d.waitFor([&] { return view.camera().direction().y() < -1 + 1e-6; }));
    d.key(Qt::Key_1, Qt::AltModifier);
    EXPECT_TRUE(d.waitFor([&] { return view.camera().up().y() > 1 - 1e-6; }));
}

TEST(View, SeenThroughAndSavedAsAPicture) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "nested.stl",
                         together(box(Point(0, 0, 0), Point(40, 30, 20)), box(Point(18, 13, 8), Point(22, 17, 12)))));
    auto& view = d.window().viewport();
    const auto middle = [&] {
        const QImage now = view.picture(1);
        return now.pixelColor((view.camera().toScreen(Point(20, 15, 10))).toPoint());
    };
    QTest::qWait(400);
    const QColor solid = middle();
    d.key(Qt::Key_X);
    // What lies within is seen through its wall: more surfaces lie over each other there than beside it.
    EXPECT_NE(middle(), solid);
    const QImage through = view.picture(1);
    EXPECT_NE(through.pixelColor(view.camera().toScreen(Point(20, 15, 10)).toPoint()),
              through.pixelColor(view.camera().toScreen(Point(30, 15, 10)).toPoint()));
    d.dialogs().picture = d.folder() + "/view.png";
    d.key(Qt::Key_P, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(QImage(d.dialogs().picture).size(), view.size() * 2);
    d.dialogs().picture = "/proc/view.png";
    d.key(Qt::Key_P, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_TRUE(d.workshop().notice().isError());
}

}  // namespace
}  // namespace zither::tests
