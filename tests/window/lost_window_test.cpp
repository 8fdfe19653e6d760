// What a step would lose and add, in the real window: at the desk, on its string, on the part, and of the written file.
#include <gtest/gtest.h>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QLabel>
#include <QListWidget>
#include <filesystem>

#include "desktop/viewport.h"
#include "io/surface_file.h"
#include "session/reading/loss_signs.h"
#include "steps/call.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

mesh::Mesh boxAt(const mesh::Point& low, double size) {
    mesh::Mesh m;
    for (int i = 0; i < 8; ++i) m.positions.push_back(low + size * mesh::Point(i & 1, (i >> 1) & 1, (i >> 2) & 1));
    m.triangles = {{0, 2, 3}, {0, 3, 1}, {4, 5, 7}, {4, 7, 6}, {0, 1, 5}, {0, 5, 4},
                   {2, 6, 7}, {2, 7, 3}, {0, 4, 6}, {0, 6, 2}, {1, 3, 7}, {1, 7, 5}};
    return m;
}

QString twoBoxes(WindowDriver& d, double small = 1) {
    mesh::Mesh m = boxAt({0, 0, 0}, 4);
    mesh::append(m, boxAt({7, 1, 1}, small));
    const QString file = d.folder() + "/two.stl";
    mesh::SilentProgress silent;
    const std::filesystem::path path = file.toStdString();
    EXPECT_TRUE(io::writeSurface(m, path, {*io::formatForWriting(path)}, silent));
    return file;
}

// The small box is dropped: set by hand, tried by a click.
void tryToDropTheSmallBox(WindowDriver& d, double size = 30) {
    ASSERT_TRUE(d.openStep("drop-shells"));
    ASSERT_TRUE(d.waitFor([&] { return d.find<QDoubleSpinBox>("drop-shells.size") != nullptr; }));
    d.find<QDoubleSpinBox>("drop-shells.size")->setValue(size);
    d.find<QDoubleSpinBox>("drop-shells.triangles")->setValue(60);
    auto* preview = d.find<QWidget>("preview-drop-shells");
    ASSERT_TRUE(preview);
    d.click(preview, QPointF(preview->width() / 2.0, preview->height() / 2.0));
    ASSERT_TRUE(d.waitFor([&] { return d.button("Keep") != nullptr && d.find<QLabel>("loss") != nullptr; }));
}

// Pixels of the view that are nearly of that ink.
int inked(WindowDriver& d, const QColor& ink) {
    const QImage shot = d.window().viewport().grab().toImage();
    int count = 0;
    for (int y = 0; y < shot.height(); ++y)
        for (int x = 0; x < shot.width(); ++x) {
            const QColor c = shot.pixelColor(x, y);
            count +=
                std::abs(c.red() - ink.red()) + std::abs(c.green() - ink.green()) + std::abs(c.blue() - ink.blue()) <
                24;
        }
    return count;
}

TEST(LostInTheWindow, ADroppedBodyIsSaidListedDrawnAndFails) {
    WindowDriver d;
    ASSERT_TRUE(d.open({twoBoxes(d)}));
    // Of the import nothing can be lost, and nothing is judged.
    EXPECT_EQ(row(d, "lost").value, "–");
    EXPECT_TRUE(row(d, "lost").met);
    EXPECT_TRUE(row(d, "lost").marks.empty());
    tryToDropTheSmallBox(d);
    ASSERT_TRUE(d.find<QLabel>("loss"));
    EXPECT_TRUE(d.find<QLabel>("loss")->text().startsWith("lost 5.88")) << d.find<QLabel>("loss")->text().toStdString();
    ASSERT_TRUE(d.find<QListWidget>("lost-pieces"));
    EXPECT_EQ(d.find<QListWidget>("lost-pieces")->count(), 1);
    // Drawn over the preview, and on the string, before anything is kept.
    EXPECT_GT(inked(d, session::sign::lost.ink), 20);
    ASSERT_FALSE(row(d, "lost").marks.empty());
    EXPECT_EQ(row(d, "lost").marks.front().state, session::MarkState::Goes);
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
    EXPECT_FALSE(row(d, "lost").met);
    EXPECT_EQ(row(d, "lost").limit, "limit 0.2 %");
    EXPECT_TRUE(row(d, "lost").value.startsWith("5.88")) << row(d, "lost").value.toStdString();
    // A click on the mark brings the place near.
    const double before = d.window().viewport().camera().worldPerPixel();
    clickMark(d, "lost", 0);
    ASSERT_TRUE(d.waitFor([&] { return d.window().viewport().camera().worldPerPixel() < before; }));
    // Going back to the import nothing is lost any more.
    d.workshop().parts().undo();
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(row(d, "lost").value, "–");
}

TEST(LostInTheWindow, TheWrittenFileIsJudgedByWhatTheImportLost) {
    WindowDriver d;
    ASSERT_TRUE(d.open({twoBoxes(d)}));
    tryToDropTheSmallBox(d);
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(exportTo(d, d.folder() + "/one.stl"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().handingOver().delivered().has_value(); }));
    EXPECT_EQ(labelText(d, "delivered"), "Written, not yet in tune");
    EXPECT_TRUE(d.workshop().handingOver().delivered()->survey->solid);
    ASSERT_TRUE(d.workshop().handingOver().delivered()->loss);
    EXPECT_EQ(d.workshop().handingOver().delivered()->loss->pieces.size(), 1U);
    // A twentieth is no matter for the first line.
    EXPECT_EQ(d.find<QLabel>("delivered.lost"), nullptr);
}

TEST(LostInTheWindow, MuchThatIsLostIsSaidFirst) {
    WindowDriver d;
    ASSERT_TRUE(d.open({twoBoxes(d, 2)}));
    tryToDropTheSmallBox(d, 60);
    ASSERT_TRUE(d.clickButton("Keep"));
    ASSERT_TRUE(d.settle());
    ASSERT_TRUE(exportTo(d, d.folder() + "/one.stl"));
    ASSERT_TRUE(d.waitFor([&] { return d.find<QLabel>("delivered.lost") != nullptr; }));
    EXPECT_EQ(labelText(d, "delivered.lost"), "20 % of what could be seen is gone.");
}

// A step that converts takes the unit along: the head of the window shows it, and only what the import is in can be
// said there.
TEST(UnitsInTheWindow, FollowTheStopInFront) {
    WindowDriver d;
    ASSERT_TRUE(d.open({twoBoxes(d)}));
    auto* unit = d.find<QComboBox>("unit");
    ASSERT_NE(unit, nullptr);
    d.workshop().parts().setUnit("in");
    EXPECT_TRUE(unit->isEnabled());
    d.workshop().trial().start(*steps::parseStepCall("scale from=in to=mm"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    d.workshop().trial().keep();
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().parts().current()->unit().name, "mm");
    EXPECT_EQ(unit->currentText(), "mm");
    EXPECT_FALSE(unit->isEnabled());
    EXPECT_EQ(d.workshop().looks().kept()->survey->mass.size.extent().x(), 8 * 25.4);
    d.workshop().parts().undo();
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(unit->currentText(), "in");
    EXPECT_TRUE(unit->isEnabled());
}

}  // namespace
}  // namespace zither::tests
