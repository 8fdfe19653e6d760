// What waits for a person after a repair: listed in groups, shown, answered one by one or all alike, by real clicks.
#include <gtest/gtest.h>
#include <QAbstractButton>
#include <QListWidget>
#include <atomic>
#include <chrono>
#include <thread>

#include "desktop/viewport.h"
#include "io/surface_file.h"
#include "tests/core/surfaces.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

Mesh plate(double x, double z, double y = 0) {
    Mesh m;
    m.positions = {Point(x, y, z), Point(x + 3, y, z), Point(x + 3, y + 3, z + 0.5), Point(x, y + 3, z + 0.5)};
    m.triangles = {{0, 1, 2}, {0, 2, 3}};
    return m;
}

// A box without a side, two boxes through each other, and three plates of which one stands in a box.
Mesh pending() {
    Mesh m = without(box(Point(0, 0, 0), Point(8, 8, 8)), {0, 1});
    for (const Mesh& more : {box(Point(20, 0, 0), Point(24, 4, 4)), box(Point(22, 2, 2), Point(27, 7, 7)),
                             plate(12, 10), plate(12, 14), plate(20.5, 1, 0.5)})
        m = together(m, more);
    m.regions.clear();
    m.regionNames.clear();
    return m;
}

QString written(WindowDriver& d, const Mesh& m) {
    const std::string path = d.folder().toStdString() + "/pending.stl";
    EXPECT_TRUE(io::writeSurface(m, path, {*io::formatForWriting(path)}, silent()));
    return QString::fromStdString(path);
}

int rowsOf(WindowDriver& d, const char* list) {
    auto* l = d.find<QListWidget>(list);
    return l ? l->count() : 0;
}

// Clicks an answer, waits for its preview, keeps it.
void answer(WindowDriver& d, const char* name) {
    ASSERT_TRUE(d.clickButton(name)) << name;
    ASSERT_TRUE(d.waitFor([&] { return d.button("Keep") != nullptr; })) << name;
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
    // The pick that it worked on is gone with the surface.
    EXPECT_TRUE(d.workshop().picking().pick().everything());
}

TEST(Questions, AreAskedAfterARepairAndAnsweredOneByOne) {
    WindowDriver d;
    ASSERT_TRUE(d.open({written(d, pending())}));
    EXPECT_EQ(rowsOf(d, "questions-openings"), 0);
    ASSERT_TRUE(d.clickButton("Repair"));
    ASSERT_TRUE(d.settle(60000));
    const auto counts = [&] { return d.workshop().looks().kept()->survey->counts; };
    EXPECT_EQ(rowsOf(d, "questions-openings"), 1);
    ASSERT_EQ(rowsOf(d, "questions-sheets"), 2);  // the third lies hidden within a box
    // A click on one shows its place.
    auto* list = d.find<QListWidget>("questions-sheets");
    mesh::Point shown = mesh::Point::Zero();
    QObject::connect(&d.workshop().choice(), &session::Choice::placeShown, list,
                     [&](const mesh::Point& at, double) { shown = at; });
    d.click(list->viewport(), list->visualItemRect(list->item(1)).center());
    EXPECT_NEAR(shown.x(), 13.5, 0.1);
    EXPECT_EQ(list->currentRow(), 1);
    answer(d, "Thicken it");
    EXPECT_EQ(rowsOf(d, "questions-sheets"), 1);
    EXPECT_EQ(rowsOf(d, "questions-openings"), 1);
    answer(d, "Remove it");
    EXPECT_EQ(rowsOf(d, "questions-sheets"), 0);
    answer(d, "Close it");
    EXPECT_EQ(rowsOf(d, "questions-openings"), 0);
    EXPECT_EQ(counts().boundaryEdges, 0U);
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
    // Undone, they are asked again.
    d.workshop().undo();
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(rowsOf(d, "questions-openings"), 1);
}

TEST(Questions, BodiesWithinBodiesAreMaterialUntilAClickSaysOtherwise) {
    WindowDriver d;
    const Mesh nested = together(box(Point(0, 0, 0), Point(10, 10, 10)), box(Point(2, 2, 2), Point(8, 8, 8)));
    ASSERT_TRUE(d.open({written(d, nested)}));
    const auto repaired = [&](const char* answer) {
        if (!d.clickButton(answer) || !d.settle(60000)) return 0.0;
        return d.workshop().looks().kept()->survey->mass.volume;
    };
    EXPECT_NEAR(repaired("Repair"), 1000, 1e-3);
    ASSERT_EQ(rowsOf(d, "questions-within"), 1);
    EXPECT_NEAR(repaired("They are voids"), 784, 1e-3);
    EXPECT_TRUE(d.workshop().looks().kept()->survey->solid);
    // Both results stand on the track; the first is one undo and a click away.
    EXPECT_EQ(d.workshop().parts().current()->track.stops().size(), 3U);
    d.workshop().undo();
    ASSERT_TRUE(d.settle());
    EXPECT_NEAR(repaired("Repair"), 1000, 1e-3);
    EXPECT_NEAR(repaired("They stay as bodies"), 1216, 1e-3);
    EXPECT_EQ(d.workshop().looks().kept()->survey->counts.buriedShells, 1U);
}

// What the repair could have done itself is not what comes next.
TEST(Questions, AfterARepairTheDeskCallsForNoStepOfIt) {
    WindowDriver d;
    ASSERT_TRUE(d.open({written(d, pending())}));
    const auto called = [&] {
        std::size_t count = 0;
        for (auto* button : d.window().findChildren<QAbstractButton*>())
            count += button->isVisible() && button->objectName().startsWith("next-");
        return count;
    };
    EXPECT_GT(called(), 0U);
    ASSERT_TRUE(d.clickButton("Repair"));
    ASSERT_TRUE(d.settle(60000));
    ASSERT_GT(openEdges(d), 0U);
    EXPECT_EQ(called(), 0U);
    // Nor when one question is answered.
    answer(d, "Remove it");
    EXPECT_EQ(called(), 0U);
}

TEST(Questions, ARepairWithoutAStepSaysWhyOnTheDesk) {
    WindowDriver d;
    ASSERT_TRUE(d.open({written(d, halvesOfABall())}));
    EXPECT_EQ(rowsOf(d, "questions-left"), 0);
    ASSERT_TRUE(d.clickButton("Repair"));
    ASSERT_TRUE(d.settle(60000));
    EXPECT_EQ(d.workshop().parts().current()->track.stops().size(), 1U);
    ASSERT_GT(rowsOf(d, "questions-left"), 0);
    EXPECT_TRUE(d.find<QListWidget>("questions-left")->item(0)->text().startsWith("Not taken: stitch distance="));
}

TEST(Questions, TheDeskSaysWhatTheRepairTried) {
    WindowDriver d;
    ASSERT_TRUE(d.open({written(d, pending())}));
    EXPECT_EQ(rowsOf(d, "questions-tried"), 0);
    ASSERT_TRUE(d.clickButton("Repair"));
    ASSERT_TRUE(d.settle(60000));
    ASSERT_GT(rowsOf(d, "questions-tried"), 0);
    auto* list = d.find<QListWidget>("questions-tried");
    int taken = 0;
    for (int i = 0; i < list->count(); ++i) {
        EXPECT_TRUE(list->item(i)->text().endsWith(" s)"));
        taken += list->item(i)->text().contains(": taken; ");
    }
    EXPECT_EQ(taken, 1);
    // It belongs to where the repair led, not to what came in.
    d.workshop().undo();
    ASSERT_TRUE(d.settle());
    while (d.workshop().parts().current()->track.current() != 0) {
        d.workshop().undo();
        ASSERT_TRUE(d.settle());
    }
    EXPECT_EQ(rowsOf(d, "questions-tried"), 0);
}

TEST(Questions, TheBestSoFarIsTakenByOneClick) {
    WindowDriver d;
    ASSERT_TRUE(d.open({written(d, unitBox())}));
    auto* take = d.find<QAbstractButton>("take-best");
    ASSERT_TRUE(take);
    std::atomic<bool> offers = false;
    std::atomic<bool> wasLate = false;
    bool ended = false;
    d.workshop().jobs().start<int>(
        "Repairing", session::Jobs::Lane::Work,
        [&](mesh::Progress& progress) -> mesh::Outcome<int> {
            while (progress.report(0.5) && !progress.isLate()) {
                if (offers) progress.offer("1 requirement left");
                std::this_thread::sleep_for(std::chrono::milliseconds(5));
            }
            wasLate = progress.isLate();
            return 1;
        },
        [&](mesh::Outcome<int> outcome) { ended = outcome.has_value(); });
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().jobs().busy(); }));
    EXPECT_FALSE(take->isVisible()) << "there is nothing to take yet";
    offers = true;
    ASSERT_TRUE(d.waitFor([&] { return take->isVisible(); }));
    EXPECT_TRUE(take->toolTip().contains("1 requirement left"));
    ASSERT_TRUE(d.clickButton("Take the best so far"));
    ASSERT_TRUE(d.waitFor([&] { return ended; }));
    EXPECT_TRUE(wasLate) << "it was not cancelled";
    EXPECT_FALSE(take->isVisible());
}

TEST(Questions, TheSameAnswerForAllAlike) {
    WindowDriver d;
    ASSERT_TRUE(d.open({written(d, pending())}));
    ASSERT_TRUE(d.clickButton("Repair"));
    ASSERT_TRUE(d.settle(60000));
    ASSERT_EQ(rowsOf(d, "questions-sheets"), 2);
    answer(d, "Thicken all 2");
    EXPECT_EQ(rowsOf(d, "questions-sheets"), 0);
    EXPECT_EQ(d.workshop().looks().kept()->survey->counts.shells, 4U);
}

TEST(Questions, AChangedPlaceIsPutBackAlone) {
    WindowDriver d;
    Mesh m = box(Point(0, 0, 0), Point(4, 4, 4));
    for (const Mesh& more : {box(Point(2, 2, 2), Point(6, 6, 6)), box(Point(20, 0, 0), Point(24, 4, 4)),
                             box(Point(22, 2, 2), Point(26, 7, 7))})
        m = together(m, more);
    m.regions.clear();
    m.regionNames.clear();
    ASSERT_TRUE(d.open({written(d, m)}));
    EXPECT_EQ(rowsOf(d, "questions-changed-places"), 0);
    ASSERT_TRUE(d.clickButton("Repair"));
    ASSERT_TRUE(d.settle(60000));
    const auto survey = [&] { return d.workshop().looks().kept()->survey; };
    EXPECT_TRUE(survey()->solid);
    ASSERT_EQ(rowsOf(d, "questions-changed-places"), 2);
    // What went and what came is named, and nothing that there is none of.
    const auto* places = d.find<QListWidget>("questions-changed-places");
    for (int i = 0; i < places->count(); ++i) EXPECT_FALSE(places->item(i)->text().startsWith("0 ")) << i;
    answer(d, "Put it back");
    EXPECT_EQ(rowsOf(d, "questions-changed-places"), 1);
    EXPECT_FALSE(survey()->solid);
    // One pair of boxes crosses again, the other is one body.
    EXPECT_EQ(survey()->counts.shells, 3U);
    answer(d, "Put it back");
    EXPECT_EQ(rowsOf(d, "questions-changed-places"), 0);
    EXPECT_EQ(survey()->counts.shells, 4U);
    EXPECT_EQ(survey()->counts.triangles, 48U);
}

}  // namespace
}  // namespace zither::tests
