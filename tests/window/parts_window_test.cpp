// The list of parts: what is within what, ghosts, several chosen, names and order; bodies that are left out; two stops
// side by side; by real clicks and keys.
#include <gtest/gtest.h>
#include <QAbstractButton>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QTableWidget>

#include <cmath>
#include <numbers>

#include "desktop/parts_panel.h"
#include "desktop/viewport.h"
#include "session/reading/sight.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

using session::ShellOrder;
using session::Veil;

// A hollow box with a box in its cavity, and one beside that is open.
Mesh nested() {
    Mesh m = together(box(Point(0, 0, 0), Point(10, 10, 10)), flipped(box(Point(2, 2, 2), Point(8, 8, 8))));
    m = together(m, box(Point(4, 4, 4), Point(6, 6, 6)));
    m = together(m, without(box(Point(20, 0, 0), Point(24, 4, 4)), {0}));
    m.regions.clear();
    m.regionNames.clear();
    return m;
}

desktop::PartsPanel& parts(WindowDriver& d) {
    return *d.window().findChild<desktop::PartsPanel*>();
}

const check::Shell& shell(WindowDriver& d, std::size_t i) {
    return d.workshop().looks().kept()->survey->shells[i];
}

// The shell that has this box.
std::size_t shellFrom(WindowDriver& d, const Point& low) {
    const auto& shells = d.workshop().looks().kept()->survey->shells;
    for (std::size_t i = 0; i < shells.size(); ++i)
        if (shells[i].box.min == low) return i;
    ADD_FAILURE() << "no such shell";
    return 0;
}

// One that matters is the part itself: it is none of the small ones.
TEST(PartList, SmallShellsAreCountedWithoutThePart) {
    WindowDriver d;
    Mesh m = box(Point(0, 0, 0), Point(100, 100, 100));
    for (int i = 0; i < 3; ++i) m = together(m, box(Point(120 + 3 * i, 0, 0), Point(121 + 3 * i, 1, 1)));
    ASSERT_TRUE(openMesh(d, "specks.stl", m));
    const auto list = session::shellsOf(d.workshop(), ShellOrder::Within, 10);
    EXPECT_TRUE(list.lines.empty());
    EXPECT_EQ(list.rest, 3U);
    // Ordered otherwise all are listed, or counted.
    const auto deep = session::shellsOf(d.workshop(), ShellOrder::Depth, 2);
    EXPECT_EQ(deep.lines.size(), 2U);
    EXPECT_EQ(deep.rest, 2U);
}

TEST(PartList, ShowsWhatIsWithinWhatAndOrdersByDamageAndDepth) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "nested.stl", nested()));
    const std::size_t outer = shellFrom(d, Point(0, 0, 0));
    const std::size_t cavity = shellFrom(d, Point(2, 2, 2));
    const std::size_t inner = shellFrom(d, Point(4, 4, 4));
    const std::size_t open = shellFrom(d, Point(20, 0, 0));
    const auto listed = [&](ShellOrder order) { return session::shellsOf(d.workshop(), order, 10).lines; };
    const auto tree = listed(ShellOrder::Within);
    ASSERT_EQ(tree.size(), 4U);
    EXPECT_EQ(tree[0].shell, outer);
    EXPECT_EQ(tree[1].shell, cavity);
    EXPECT_EQ(tree[1].indent, 1);
    EXPECT_EQ(tree[2].shell, inner);
    EXPECT_EQ(tree[2].indent, 2);
    EXPECT_EQ(tree[3].shell, open);
    EXPECT_EQ(tree[3].indent, 0);
    const auto damaged = listed(ShellOrder::Damage);
    ASSERT_EQ(damaged.size(), 1U);
    EXPECT_EQ(damaged[0].shell, open);
    EXPECT_TRUE(damaged[0].detail.contains("bad place"));
    EXPECT_EQ(listed(ShellOrder::Depth).front().shell, inner);
    // A click orders them another way.
    d.click(&parts(d), parts(d).orderRect().center());
    EXPECT_TRUE(parts(d).shellRect(outer).isEmpty());
    EXPECT_FALSE(parts(d).shellRect(open).isEmpty());
}

TEST(PartList, ShellsBecomeGhostsAndGoAndClicksGoThroughThem) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "nested.stl", nested()));
    desktop::Viewport* view = &d.window().viewport();
    const std::size_t outer = shellFrom(d, Point(0, 0, 0));
    const std::size_t cavity = shellFrom(d, Point(2, 2, 2));
    const std::size_t inner = shellFrom(d, Point(4, 4, 4));
    const auto shown = [&](std::size_t s) { return d.workshop().veil().of(shell(d, s)); };
    // The leaf beside its name: a ghost, gone, there again.
    d.click(&parts(d), parts(d).eyeRect(outer).center());
    EXPECT_EQ(shown(outer), Veil::Shown::Ghost);
    d.click(&parts(d), parts(d).eyeRect(outer).center());
    EXPECT_EQ(shown(outer), Veil::Shown::Not);
    d.click(&parts(d), parts(d).eyeRect(outer).center());
    EXPECT_EQ(shown(outer), Veil::Shown::Full);
    // What is a ghost is clicked through.
    const QPointF middle = view->camera().toScreen(Point(5, 5, 5));
    d.click(view, middle);
    EXPECT_EQ(session::linkedShell(d.workshop()), outer);
    d.click(&parts(d), parts(d).eyeRect(outer).center());
    d.click(&parts(d), parts(d).eyeRect(cavity).center());
    d.click(view, middle);
    EXPECT_EQ(session::linkedShell(d.workshop()), inner);
    // Only this one, by key; and all again.
    d.key(Qt::Key_G);
    EXPECT_EQ(shown(shellFrom(d, Point(20, 0, 0))), Veil::Shown::Ghost);
    EXPECT_EQ(shown(inner), Veil::Shown::Full);
    d.key(Qt::Key_G, Qt::ShiftModifier);
    EXPECT_EQ(shown(inner), Veil::Shown::Not);
    d.key(Qt::Key_G, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_FALSE(d.workshop().veil().any());
    EXPECT_EQ(d.workshop().veil().flags(), nullptr);
}

// What a step leaves alone stays as it is shown; marks and lines of what is not there are not, either.
TEST(PartList, WhatIsHiddenStaysSoAndTakesItsMarksWithIt) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "nested.stl", nested()));
    const std::size_t open = shellFrom(d, Point(20, 0, 0));
    const auto linePoints = [&] {
        const auto flags = d.workshop().veil().flags();
        std::size_t points = 0;
        for (const auto& lines : flags ? flags->lines : d.workshop().looks().kept()->display->lines)
            if (lines.defect == check::DefectClass(check::openEdges)) points += lines.points.size();
        return points;
    };
    EXPECT_GT(linePoints(), 0U);
    d.workshop().veil().set(shell(d, open), Veil::Shown::Not);
    EXPECT_EQ(linePoints(), 0U);
    d.workshop().veil().set(shell(d, shellFrom(d, Point(0, 0, 0))), Veil::Shown::Ghost);
    ASSERT_TRUE(keepStep(d, "fill"));
    EXPECT_EQ(d.workshop().parts().current()->track.stops().size(), 2U);
    EXPECT_EQ(d.workshop().veil().of(shell(d, shellFrom(d, Point(0, 0, 0)))), Veil::Shown::Ghost);
}

TEST(PartList, BodiesThatAreNotMeantAreLeftOut) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "nested.stl", nested()));
    auto* list = d.find<QListWidget>("questions-bodies");
    ASSERT_NE(list, nullptr);
    EXPECT_EQ(list->count(), 2);  // what lies within the first is a part of it
    d.workshop().veil().only(shell(d, shellFrom(d, Point(20, 0, 0))), Veil::Shown::Ghost);
    ASSERT_TRUE(d.clickButton("Leave out the ghosts"));
    ASSERT_TRUE(d.clickWhenReady("Keep"));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().looks().kept()->survey->shells.size(), 1U);
    EXPECT_EQ(d.workshop().looks().kept()->survey->mass.size.min, Point(20, 0, 0));
    // Once something was done it is asked no more.
    EXPECT_EQ(d.find<QListWidget>("questions-bodies"), nullptr);
}

TEST(PartList, RegionsThatAreNotMeantAreLeftOut) {
    mesh::Mesh box = tests::box(Point(0, 0, 0), Point(4, 4, 4));
    box.regionNames = {"wall", "inlet"};
    box.regions.assign(box.triangles.size(), 0);
    for (mesh::TriangleId t = 0; t < box.triangles.size(); ++t)
        if (mesh::centroid(box, t).z() == 4) box.regions[t] = 1;
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "regions.obj", box));
    auto* list = d.find<QListWidget>("questions-regions");
    ASSERT_NE(list, nullptr);
    ASSERT_EQ(list->count(), 2);
    EXPECT_EQ(list->item(1)->text(), "inlet: 2 triangles, 5.66 across");
    EXPECT_EQ(d.find<QListWidget>("questions-bodies"), nullptr);
    list->setCurrentRow(1);
    ASSERT_TRUE(d.clickButton("Leave it out"));
    ASSERT_TRUE(d.clickWhenReady("Keep"));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().looks().kept()->mesh().triangles.size(), 10U);
    EXPECT_EQ(d.find<QListWidget>("questions-regions"), nullptr);
}

TEST(PartList, PartsAreNamedOrderedAndChosenTogether) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("spinner"), rig("strainer"), rig("hub")}));
    ASSERT_TRUE(d.settle());
    auto& session = d.workshop().parts();
    const auto names = [&] {
        QStringList all;
        for (const auto& part : session.all()) all << part->name;
        return all;
    };
    EXPECT_EQ(names(), QStringList({"hub", "spinner", "strainer"}));
    // Named by a double click.
    QTest::mouseDClick(&parts(d), Qt::LeftButton, {}, parts(d).partRect(0).center().toPoint());
    auto* typed = d.find<QLineEdit>("part-name");
    ASSERT_NE(typed, nullptr);
    QTest::keyClicks(typed, "hub of the second rig");
    QTest::keyClick(typed, Qt::Key_Return);
    EXPECT_EQ(names().front(), "hub of the second rig");
    // Dragged to the end of the list; the part in front stays there.
    const std::uint64_t front = session.current()->id;
    const QPointF from = parts(d).partRect(0).center();
    const QPointF to = parts(d).partRect(2).center() + QPointF(0, 12);
    d.drag(&parts(d), from, to, Qt::LeftButton);
    EXPECT_EQ(names(), QStringList({"spinner", "strainer", "hub of the second rig"}));
    EXPECT_EQ(session.current()->id, front);
    // Two are chosen: a repair mends both, one after the other.
    d.click(&parts(d), parts(d).partRect(0).center());
    ASSERT_TRUE(d.settle());
    QTest::mouseClick(&parts(d), Qt::LeftButton, Qt::ControlModifier, parts(d).partRect(1).center().toPoint());
    EXPECT_EQ(session.chosenIds().size(), 2U);
    ASSERT_TRUE(d.clickButton("Repair"));
    ASSERT_TRUE(d.waitFor(
        [&] { return session.all()[0]->track.stops().size() > 1 && session.all()[1]->track.stops().size() > 1; },
        60000));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(session.all()[2]->track.stops().size(), 1U);
    EXPECT_EQ(session.currentIndex(), 0U);
}

TEST(PartList, TheLastStepIsDoneOnOthersThatAreChosen) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("spinner"), rig("hub")}));
    ASSERT_TRUE(d.settle());
    auto& session = d.workshop().parts();
    ASSERT_TRUE(keepStep(d, "scale"));
    // None is chosen besides: that is said.
    ASSERT_TRUE(runCommand(d, "Do the last step on the other chosen parts"));
    EXPECT_TRUE(labelText(d, "notice").contains("Choose other parts"));
    d.key(Qt::Key_A, Qt::ControlModifier | Qt::ShiftModifier);
    ASSERT_TRUE(runCommand(d, "Do the last step on the other chosen parts"));
    const std::size_t other = 1 - *session.currentIndex();
    ASSERT_TRUE(d.waitFor([&] { return session.all()[other]->track.stops().size() == 2; }));
    EXPECT_EQ(session.all()[other]->track.stop(1).call->step->name, "scale");
}

// ---- before and after

TEST(SideBySide, BothHalvesAreLookedAtFromOnePlaceAndClicksMeanTheRightOne) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "open.stl", without(box(Point(0, 0, 0), Point(10, 10, 10)), {0, 1})));
    d.workshop().trial().start({steps::findStep("fill"), {}});
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    d.workshop().trial().keep();
    ASSERT_TRUE(d.settle());
    ASSERT_EQ(openEdges(d), 0U);
    desktop::Viewport* view = &d.window().viewport();
    const double whole = view->camera().viewport().width();
    d.key(Qt::Key_C, Qt::ShiftModifier);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().beforeAfter().display() != nullptr; }));
    ASSERT_TRUE(d.waitFor([&] { return view->camera().viewport().width() < 0.6 * whole; }));
    view->fit();
    QTest::qWait(500);
    // The middle of the right half is the part; the same place of the left half only turns it.
    const double half = view->width() / 2.0;
    d.click(view, QPointF(0.5 * half, view->height() / 2.0));
    EXPECT_TRUE(d.workshop().picking().pick().everything());
    d.click(view, QPointF(1.5 * half, view->height() / 2.0));
    EXPECT_EQ(d.workshop().picking().pick().triangles().size(), 1U);
    const Point before = view->camera().direction();
    d.drag(view, QPointF(0.5 * half, 200), QPointF(0.5 * half + 40, 220), Qt::RightButton);
    // By as much as a drag of that length turns, and no more.
    const double turned =
        std::acos(std::clamp(view->camera().direction().dot(before), -1.0, 1.0)) * 180 / std::numbers::pi;
    EXPECT_GT(turned, 3);
    EXPECT_LT(turned, 30);
    // What was open is marked on its string as it was.
    const auto& marks = row(d, "boundary_edges").marks;
    ASSERT_FALSE(marks.empty());
    EXPECT_EQ(marks.front().state, session::MarkState::Was);
    // A section has both outlines.
    d.key(Qt::Key_S);
    ASSERT_TRUE(d.waitFor([&] {
        const auto cuts = d.workshop().sectioning().seen();
        return !cuts.empty() && cuts[0].ends[0] && cuts[0].others[0];
    }));
    EXPECT_GT(d.workshop().sectioning().seen()[0].others[0]->openEnds, 0U);
    d.key(Qt::Key_C, Qt::ShiftModifier);
    EXPECT_EQ(view->camera().viewport().width(), whole);
}

TEST(StepsTable, TellsHowFarEachStopLiesFromTheImport) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "ball.stl", sphere(10, 40, 20)));
    ASSERT_TRUE(keepStep(d, "decimate"));
    d.key(Qt::Key_J, Qt::ControlModifier);
    auto* window = d.find("steps-table");
    ASSERT_NE(window, nullptr);
    auto* table = window->findChild<QTableWidget*>();
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().stopFigures().of(1).has_value(); }));
    const auto figures = *d.workshop().stopFigures().of(1);
    EXPECT_GT(figures.deviation, 0);
    EXPECT_LT(figures.deviation, 2);
    EXPECT_EQ(table->rowCount(), 2);
    EXPECT_EQ(table->horizontalHeaderItem(6)->text(), "deviation");
    EXPECT_EQ(table->item(1, 6)->text(), session::Numbers().shortNumber(figures.deviation));
    EXPECT_TRUE(table->item(0, 6)->text().isEmpty());
    window->close();
}

}  // namespace
}  // namespace zither::tests
