// Handles in the view, dragged with a real mouse.
#include <gtest/gtest.h>
#include <QAbstractButton>
#include <QAction>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLineEdit>

#include <cmath>

#include "desktop/viewport.h"
#include "io/surface_file.h"
#include "session/reading/number_text.h"
#include "tests/core/surfaces.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

using steps::Handle;

bool openStep(WindowDriver& d, const QString& step) {
    if (!d.openStep(step)) return false;
    return d.waitFor([&] { return d.workshop().trial().current().has_value(); }) && d.settle();
}

const std::vector<Handle>& handles(WindowDriver& d) {
    return d.window().viewport().dragHandles().handles();
}

// Drags a grip by so many pixels, and stops before it is let go.
void hold(WindowDriver& d, const QPointF& from, const QPointF& to, Qt::KeyboardModifiers modifiers = {}) {
    desktop::Viewport* view = &d.window().viewport();
    d.press(view, from, Qt::LeftButton);
    for (int i = 1; i <= 5; ++i) d.move(view, from + (to - from) * i / 5, Qt::LeftButton, modifiers);
}

// On the screen, where the handle would point if it had this direction.
QPointF tipTowards(WindowDriver& d, const Handle& handle, const Point& direction) {
    Handle turned = handle;
    turned.direction = direction;
    return d.window().viewport().handles().tip(turned);
}

TEST(Handles, ThePlaneOfATrimIsDraggedTurnedAndSnaps) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "ball.stl", sphere(30, 40, 20)));
    ASSERT_TRUE(openStep(d, "trim"));
    ASSERT_EQ(handles(d).size(), 1U);
    desktop::Viewport* view = &d.window().viewport();
    const Handle before = handles(d)[0];
    const QPointF foot = view->handles().foot(before);
    // Ten units up; what would go is a ghost of the whole part while it is held.
    const QPointF up = view->camera().toScreen(before.at + 10 * before.direction);
    hold(d, foot, up);
    ASSERT_NE(view->dragHandles().heldPlane(), nullptr);
    EXPECT_NEAR(view->dragHandles().heldPlane()->at.z(), before.at.z() + 10, 0.3);
    d.release(view, up, Qt::LeftButton);
    EXPECT_EQ(view->dragHandles().heldPlane(), nullptr);
    ASSERT_TRUE(d.waitFor([&] { return d.find<QDoubleSpinBox>("trim.at") != nullptr; }));
    EXPECT_NEAR(d.find<QDoubleSpinBox>("trim.at")->value(), before.at.z() + 10, 0.3);
    const double at = d.find<QDoubleSpinBox>("trim.at")->value();
    ASSERT_TRUE(d.waitFor([&] {
        const auto& tried = d.workshop().trial().current();
        return tried && std::abs(tried->look.survey->mass.size.min.z() - at) < 1e-5;
    }));
    // What it costs is said beside it: nothing lies farther from before than what was cut off.
    ASSERT_TRUE(d.waitFor([&] { return labelText(d, "preview-deviation").startsWith("nowhere farther than"); }));
    EXPECT_GT(*d.workshop().trial().current()->deviation, 5);
    EXPECT_LT(*d.workshop().trial().current()->deviation, 45);
    // Towards x it snaps to x, from a few degrees beside it.
    ASSERT_TRUE(d.settle());
    const Handle upward = handles(d)[0];
    const QPointF beside = tipTowards(d, upward, Point(1, 0.04, 0.05).normalized());
    hold(d, view->handles().tip(upward), beside);
    d.release(view, beside, Qt::LeftButton);
    EXPECT_EQ(handles(d)[0].direction, Point::UnitX());
    // Shift lets it go freely.
    const Handle snapped = handles(d)[0];
    const Point wanted = Point(0.9, -0.2, 0.1).normalized();
    const QPointF free = tipTowards(d, snapped, wanted);
    hold(d, view->handles().tip(snapped), free, Qt::ShiftModifier);
    d.release(view, free, Qt::LeftButton);
    EXPECT_GT(handles(d)[0].direction.dot(wanted), 0.9999);
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(d.clickWhenReady("Keep"));
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
    EXPECT_TRUE(handles(d).empty());
}

TEST(Handles, APartIsMovedTurnedAndStoodUp) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "box.stl", box(Point(0, 0, 0), Point(40, 30, 20))));
    ASSERT_TRUE(d.openStep("place"));
    ASSERT_TRUE(d.settle());
    ASSERT_EQ(handles(d).size(), 5U);
    desktop::Viewport* view = &d.window().viewport();
    const Handle x = handles(d)[0];
    const QPointF tip = view->handles().tip(x);
    const QPointF to = tip + view->camera().toScreen(x.at + 12 * x.direction) - view->camera().toScreen(x.at);
    hold(d, tip, to);
    d.release(view, to, Qt::LeftButton);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    ASSERT_TRUE(d.settle());
    EXPECT_NEAR(d.workshop().trial().current()->look.survey->mass.size.min.x(), 12, 0.5);
    EXPECT_TRUE(d.find<QLineEdit>("place.move")->text().endsWith(",0,0"));
    // What faced along x is to be up.
    const Handle up = handles(d)[3];
    const QPointF sideways = tipTowards(d, up, Point::UnitX());
    hold(d, view->handles().tip(up), sideways);
    d.release(view, sideways, Qt::LeftButton);
    ASSERT_TRUE(d.waitFor([&] {
        const auto& tried = d.workshop().trial().current();
        return tried && std::abs(tried->look.survey->mass.size.extent().z() - 40) < 1e-3;
    }));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.find<QLineEdit>("place.up")->text(), "1,0,0");
}

TEST(Handles, ADrainIsDraggedToAnotherPlace) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "ball.stl", sphere(30, 40, 20)));
    ASSERT_TRUE(d.openStep("hollow"));
    ASSERT_TRUE(d.waitFor([&] { return d.find<QDoubleSpinBox>("hollow.drains") != nullptr; }));
    // What 0 stands for is said in words.
    EXPECT_EQ(d.find<QDoubleSpinBox>("hollow.cell")->text(), "two fifths of the wall");
    d.find<QDoubleSpinBox>("hollow.drains")->setValue(1);
    ASSERT_TRUE(d.waitFor([&] { return handles(d).size() == 2; }));
    ASSERT_TRUE(d.settle());
    desktop::Viewport* view = &d.window().viewport();
    const Handle drain = handles(d)[1];
    EXPECT_EQ(drain.kind, Handle::Spot);
    EXPECT_LT(drain.at.z(), -29);
    const QPointF middle(view->width() / 2.0, view->height() / 2.0);
    hold(d, view->handles().foot(drain), middle);
    d.release(view, middle, Qt::LeftButton);
    ASSERT_TRUE(d.waitFor([&] {
        const auto& tried = d.workshop().trial().current();
        return tried && tried->used.find("at")->second.text() != "" && tried->record.number("drains").value() == 1;
    }));
    ASSERT_TRUE(d.settle());
    EXPECT_GT(handles(d)[1].at.z(), 0);
    EXPECT_NEAR(handles(d)[1].at.norm(), 30, 0.5);
    EXPECT_TRUE(d.workshop().trial().current()->look.survey->solid);
}

TEST(Handles, TheBuildDirectionIsTurnedWhereItMatters) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(
        d, "table.stl", together(box(Point(0, 0, 10.5), Point(40, 40, 15)), box(Point(15, 15, 0), Point(25, 25, 10)))));
    EXPECT_TRUE(handles(d).empty());
    ASSERT_TRUE(d.clickButton("slope"));
    ASSERT_TRUE(d.settle());
    ASSERT_EQ(handles(d).size(), 1U);
    EXPECT_EQ(row(d, "overhang_area").value, session::spaced(1600));
    desktop::Viewport* view = &d.window().viewport();
    const Handle up = handles(d)[0];
    const QPointF sideways = tipTowards(d, up, Point::UnitX());
    hold(d, view->handles().tip(up), sideways);
    d.release(view, sideways, Qt::LeftButton);
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(handles(d)[0].direction, Point::UnitX());
    EXPECT_EQ(row(d, "overhang_area").value, "100");
    // By its key, and from a picked face.
    ASSERT_TRUE(runCommand(d, "Built upward along Z"));
    EXPECT_EQ(row(d, "overhang_area").value, session::spaced(1600));
}

TEST(Handles, AFieldTakesWhatThePickSays) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "box.stl", box(Point(0, 0, 0), Point(40, 30, 20))));
    desktop::Viewport* view = &d.window().viewport();
    d.click(view, view->camera().toScreen(Point(25, 10, 20)));
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(d.workshop().picking().normal());
    EXPECT_EQ(*d.workshop().picking().normal(), Point(Point::UnitZ()));
    ASSERT_TRUE(d.openStep("trim"));
    ASSERT_TRUE(d.settle());
    // A pick does not fill what may be left out: it only offers to.
    EXPECT_TRUE(d.find<QLineEdit>("trim.normal")->text().isEmpty());
    auto* take = d.find<QAbstractButton>("take-trim.normal");
    ASSERT_NE(take, nullptr);
    take->click();
    ASSERT_TRUE(d.waitFor([&] { return d.find<QLineEdit>("trim.normal")->text() == "0,0,1"; }));
    EXPECT_TRUE(d.workshop().picking().pick().everything());
    // The place is still known, and goes into another field.
    take = d.find<QAbstractButton>("take-trim.through");
    ASSERT_NE(take, nullptr);
    take->click();
    // A ray meets the face within rounding.
    ASSERT_TRUE(d.waitFor([&] {
        const QString place = d.find<QLineEdit>("trim.through")->text();
        return std::abs(place.section(',', 2).toDouble() - 20) < 1e-9;
    }));
    ASSERT_TRUE(d.settle());
}

TEST(Brush, AStrokeIsSeenWhileItIsDrawnAndKeptAsOneStep) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "ball.stl", sphere(30, 90, 60)));
    ASSERT_TRUE(runCommand(d, "Brush over it"));
    ASSERT_TRUE(d.waitFor([&] { return d.find<QComboBox>("brush.way") != nullptr; }));
    auto* way = d.find<QComboBox>("brush.way");
    way->setCurrentText("out");
    Q_EMIT way->activated(way->currentIndex());
    d.find<QDoubleSpinBox>("brush.width")->setValue(12);
    ASSERT_TRUE(d.settle());
    desktop::Viewport* view = &d.window().viewport();
    const QPointF middle(view->width() / 2.0, view->height() / 2.0);
    const session::Brushing& brush = view->brushing();
    const double before = d.workshop().looks().kept()->survey->mass.volume;
    d.press(view, middle, Qt::LeftButton);
    EXPECT_TRUE(brush.drawing());
    for (int i = 1; i <= 6; ++i) d.move(view, middle + QPointF(6 * i, 2 * i), Qt::LeftButton);
    ASSERT_NE(brush.moved(), nullptr);
    const std::size_t touched = brush.moved()->sources.size();
    EXPECT_GT(touched, 50U);
    // Only what the brush went over.
    EXPECT_LT(touched, d.workshop().looks().kept()->mesh().triangles.size() / 4);
    d.release(view, middle + QPointF(36, 12), Qt::LeftButton);
    EXPECT_FALSE(brush.drawing());
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().current()->track.stops().size() == 2; }));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(brush.moved(), nullptr);
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
    EXPECT_GT(d.workshop().looks().kept()->survey->mass.volume, before);
    // The brush is still at hand, as it was set; another stroke is another step, and each goes back by itself.
    EXPECT_EQ(d.find<QDoubleSpinBox>("brush.width")->value(), 12);
    d.drag(view, middle, middle + QPointF(-30, 0), Qt::LeftButton);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().current()->track.stops().size() == 3; }));
    ASSERT_TRUE(d.settle());
    d.workshop().undo();
    ASSERT_TRUE(d.settle());
    d.workshop().undo();
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().looks().kept()->survey->mass.volume, before);
}

TEST(Handles, AVertexIsDraggedWithItsNeighboursChecked) {
    WindowDriver d;
    ASSERT_TRUE(openMesh(d, "ball.stl", sphere(30, 16, 8)));
    desktop::Viewport* view = &d.window().viewport();
    const QPointF middle(view->width() / 2.0, view->height() / 2.0);
    d.click(view, middle);
    ASSERT_TRUE(openStep(d, "move-vertex"));
    ASSERT_EQ(handles(d).size(), 2U);
    EXPECT_EQ(handles(d)[0].kind, Handle::Spot);
    const Point vertex = handles(d)[0].at;
    const Mesh& before = d.workshop().looks().kept()->mesh();
    EXPECT_NE(std::find(before.positions.begin(), before.positions.end(), vertex), before.positions.end());
    // A few pixels aside: kept where it was let go.
    const QPointF from = view->handles().foot(handles(d)[1]);
    const QPointF to = from + QPointF(9, -7);
    hold(d, from, to);
    d.release(view, to, Qt::LeftButton);
    const Point wanted = handles(d)[1].at;
    EXPECT_LT((view->camera().toScreen(wanted) - to).manhattanLength(), 3);
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(d.waitFor([&] {
        const auto& tried = d.workshop().trial().current();
        if (!tried) return false;
        const auto& p = tried->look.mesh().positions;
        return std::any_of(p.begin(), p.end(), [&](const Point& at) { return (at - wanted).norm() < 1e-3; });
    }));
    // Far across the ball its triangles would turn over: refused in words, and nothing is changed.
    const QPointF there = view->handles().foot(handles(d)[1]);
    hold(d, there, there + QPointF(260, 180));
    d.release(view, there + QPointF(260, 180), Qt::LeftButton);
    ASSERT_TRUE(d.waitFor([&] { return labelText(d, "notice").contains("nothing was changed"); }));
    EXPECT_EQ(d.workshop().parts().current()->track.stops().size(), 1U);
}

}  // namespace
}  // namespace zither::tests
