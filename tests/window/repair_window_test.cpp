// Repairs in the real window: by one click, by class at the desk with preview, and by hand on a pick.
#include <gtest/gtest.h>
#include <QAbstractButton>
#include <QDoubleSpinBox>
#include <QListWidget>

#include "desktop/gap_histogram.h"
#include "desktop/viewport.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

// ---- one repair of each class at the desk, with preview and real clicks

// Tries the step of the card on the desk, and keeps it.
void tryAndKeep(WindowDriver& d, const char* step) {
    QAbstractButton* preview = nullptr;
    for (auto* b : d.window().findChildren<QAbstractButton*>(QString("preview-") + step))
        if (b->isVisible()) preview = b;
    ASSERT_TRUE(preview) << step;
    d.click(preview, QPointF(preview->width() / 2.0, preview->height() / 2.0));
    ASSERT_TRUE(d.waitFor([&] { return d.button("Keep") != nullptr; })) << step;
    ASSERT_TRUE(d.clickButton("Keep")) << step;
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().parts().current()->track.stop(d.workshop().parts().current()->track.current()).label, step);
}

// The same from the string of a requirement.
void mendAtTheDesk(WindowDriver& d, const QString& requirement, const char* step) {
    d.click(&strings(d), QPointF(60, strings(d).rowRect(rowOf(d, requirement)).center().y()));
    ASSERT_TRUE(d.settle());
    tryAndKeep(d, step);
}

TEST(ByClass, OpenEdgesOfTheHubAreStitchedAndTheGapsAreShown) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    d.click(&strings(d), QPointF(60, strings(d).rowRect(rowOf(d, "boundary_edges")).center().y()));
    ASSERT_TRUE(d.settle());
    auto* gaps = d.find<desktop::GapHistogram>("stitch.distance.gaps");
    auto* distance = d.find<QDoubleSpinBox>("stitch.distance");
    ASSERT_TRUE(gaps && distance);
    const double proposed = distance->value();
    EXPECT_GT(proposed, 0);
    EXPECT_GT(gaps->xOf(proposed), 0);
    // A click on the histogram sets the distance, and tries it.
    d.click(gaps, QPointF(gaps->width() * 0.97, 20));
    EXPECT_NE(distance->value(), proposed);
    distance->setValue(proposed);
    tryAndKeep(d, "stitch");
    EXPECT_EQ(openEdges(d), 0U);
    mendAtTheDesk(d, "misoriented_edges", "orient");
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
}

TEST(ByClass, TheStrainerIsUntiedAndItsSliversRefined) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("strainer")}));
    mendAtTheDesk(d, "nonmanifold_edges", "resolve");
    EXPECT_EQ(d.workshop().looks().kept()->survey->counts.nonmanifoldEdges, 0U);
    mendAtTheDesk(d, "degenerate_triangles", "refine-slivers");
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
}

TEST(ByClass, HolesOfTheBladeAreFilledAndItsSpecksDropped) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("blade")}));
    ASSERT_TRUE(d.openStep("drop-shells"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    ASSERT_TRUE(d.waitFor([&] { return d.button("Keep") != nullptr; }));
    EXPECT_GT(d.find<QListWidget>("going")->count(), 30);
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
    mendAtTheDesk(d, "boundary_edges", "fill");
    EXPECT_EQ(openEdges(d), 0U);
    mendAtTheDesk(d, "self_intersecting_pairs", "fuse");
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
}

TEST(ByClass, EveryPartIsRepairedByOneClick) {
    for (const char* part : {"blade", "duct-frame", "hub", "nacelle", "spinner", "strainer", "fairing"}) {
        SCOPED_TRACE(part);
        WindowDriver d;
        ASSERT_TRUE(d.open({rig(part)}));
        ASSERT_TRUE(d.clickButton("Repair"));
        ASSERT_TRUE(d.settle(60000));
        const auto& track = d.workshop().parts().current()->track;
        for (const project::StopId id : track.pathTo(track.current())) {
            EXPECT_EQ(track.stop(id).why.empty(), id == 0);
        }
        if (QString(part) != "fairing") {
            EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
            continue;
        }
        // Its open side is meant to be open: it waits for a yes.
        EXPECT_EQ(openEdges(d), 384U);
        ASSERT_TRUE(d.clickButton("Close it"));
        ASSERT_TRUE(d.clickWhenReady("Keep"));
        ASSERT_TRUE(d.settle());
        EXPECT_EQ(openEdges(d), 0U);
    }
}

TEST(ByHand, PickedByClickGrownAndMended) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("nacelle")}));
    auto& view = *d.window().findChild<desktop::Viewport*>();
    d.click(&view, QPointF(view.width() / 2.0, view.height() / 2.0));
    ASSERT_EQ(d.workshop().picking().pick().triangles().size(), 1U);
    EXPECT_EQ(labelText(d, "picked"), "1 triangle picked");
    ASSERT_TRUE(d.clickButton("Grow"));
    const std::size_t grown = d.workshop().picking().pick().triangles().size();
    EXPECT_GT(grown, 8U);
    ASSERT_TRUE(d.clickButton("Shrink"));
    EXPECT_EQ(d.workshop().picking().pick().triangles().size(), 1U);
    ASSERT_TRUE(d.openStep("mend"));
    ASSERT_TRUE(d.clickWhenReady("Keep"));
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
    const auto& track = d.workshop().parts().current()->track;
    EXPECT_EQ(track.stop(track.current()).label, "mend");
    EXPECT_TRUE(track.stop(track.current()).call->pick.starts_with("triangles:"));
    EXPECT_TRUE(d.workshop().picking().pick().everything());
    // Flipped by hand, and back by undo; a click beside the part picks nothing.
    d.click(&view, QPointF(view.width() / 2.0, view.height() / 2.0));
    ASSERT_TRUE(d.openStep("flip"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    EXPECT_EQ(d.workshop().trial().current()->look.survey->counts.misorientedEdges, 3U);
    ASSERT_TRUE(d.clickWhenReady("Drop preview"));
    d.click(&view, QPointF(8, 60));
    EXPECT_TRUE(d.workshop().picking().pick().everything());
}

TEST(ByHand, AnEdgeIsCollapsedWhereTheClickWas) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("nacelle")}));
    const std::size_t before = d.workshop().looks().kept()->mesh().triangles.size();
    auto& view = *d.window().findChild<desktop::Viewport*>();
    d.click(&view, QPointF(view.width() / 2.0 + 31, view.height() / 2.0 - 17));
    ASSERT_TRUE(d.openStep("collapse-edge"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    EXPECT_EQ(d.workshop().trial().current()->look.part->mesh().triangles.size(), before - 2);
}

TEST(ByHand, WrapSaysWhatToExpectBeforeItRuns) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("strainer")}));
    ASSERT_TRUE(d.openStep("wrap"));
    EXPECT_TRUE(labelText(d, "foreseen").startsWith("About "));
    const QString first = labelText(d, "foreseen");
    d.find<QDoubleSpinBox>("wrap.triangles")->setValue(20000);
    EXPECT_NE(labelText(d, "foreseen"), first);
    ASSERT_TRUE(d.waitFor([&] {
        return d.workshop().trial().current() && d.workshop().trial().current()->used.at("triangles") == 20000 &&
               d.button("Keep");
    }));
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
    const double triangles = static_cast<double>(d.workshop().looks().kept()->mesh().triangles.size());
    EXPECT_NEAR(triangles, 20000, 8000);
}

}  // namespace
}  // namespace zither::tests
