// The whole job by mouse and keys in the real window.
#include <gtest/gtest.h>
#include <QAbstractButton>
#include <QApplication>
#include <QComboBox>
#include <QDoubleSpinBox>
#include <QFile>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMimeData>

#include <fstream>

#include "check/catalogue.h"
#include "desktop/parts_panel.h"
#include "desktop/strings_panel.h"
#include "desktop/theme.h"
#include "desktop/track_panel.h"
#include "desktop/viewport.h"
#include "io/surface_file.h"
#include "project/delivery.h"
#include "steps/all_steps.h"
#include "steps/recipe.h"
#include "tests/core/surfaces.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

using check::DefectClass;

TEST(Window, EmptyAtFirstThenOpensFiles) {
    WindowDriver d;
    EXPECT_FALSE(d.button("Repair")->isEnabled());
    EXPECT_FALSE(d.button("Export …")->isEnabled());
    d.dialogs().toOpen = {rig("hub"), rig("spinner")};
    d.key(Qt::Key_O, Qt::ControlModifier);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().all().size() == 2; }));
    ASSERT_TRUE(d.settle());
    EXPECT_TRUE(d.button("Repair")->isEnabled());
    EXPECT_EQ(row(d, "boundary_edges").value,
              d.workshop().parts().current()->name == "hub" ? QString("3\u202F424") : QString("0"));
    EXPECT_EQ(d.workshop().opening().recentFiles().size(), 2);
}

TEST(Window, DropsFilesOntoIt) {
    WindowDriver d;
    QMimeData data;
    data.setUrls({QUrl::fromLocalFile(rig("fairing"))});
    QDragEnterEvent enter(QPoint(400, 300), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&d.window(), &enter);
    EXPECT_TRUE(enter.isAccepted());
    QDropEvent drop(QPointF(400, 300), Qt::CopyAction, &data, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&d.window(), &drop);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().all().size() == 1; }));
    EXPECT_EQ(d.workshop().parts().current()->name, "fairing");
}

// Open, see, repair by one button, bring the count down with a preview, export, and see the written file pass.
TEST(Window, TheWholeJobByMouseAndKeys) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    EXPECT_EQ(labelText(d, "soundness"), "Not watertight");
    EXPECT_EQ(labelText(d, "tune"), "8 of 10 in tune");

    ASSERT_TRUE(d.clickButton("Repair"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().current()->track.stops().size() == 3; }));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(labelText(d, "soundness"), "Solid");
    EXPECT_EQ(labelText(d, "tune"), "12 of 12 in tune");

    ASSERT_TRUE(d.openStep("decimate"));
    auto* percent = d.find<QDoubleSpinBox>("decimate.percent");
    ASSERT_NE(percent, nullptr);
    percent->setFocus();
    percent->selectAll();
    QTest::keyClicks(percent, "40");
    QTest::keyClick(percent, Qt::Key_Return);
    ASSERT_TRUE(d.waitFor(
        [&] { return d.workshop().trial().current() && d.workshop().trial().current()->used.at("percent") == 40; }));
    const std::size_t before = d.workshop().looks().kept()->mesh().triangles.size();
    EXPECT_NEAR(static_cast<double>(d.workshop().looks().shown()->mesh().triangles.size()),
                0.4 * static_cast<double>(before), 3);
    EXPECT_EQ(d.workshop().looks().kept()->mesh().triangles.size(), before);
    ASSERT_TRUE(d.clickWhenReady("Keep"));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().parts().current()->track.stops().size(), 4U);

    ASSERT_TRUE(exportTo(d, d.folder() + "/hub-mended.stl"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().handingOver().delivered().has_value(); }));
    EXPECT_EQ(labelText(d, "delivered"), "Written and in tune");
    EXPECT_TRUE(d.workshop().handingOver().delivered()->survey->solid);
    mesh::SilentProgress silent;
    const auto file = io::readSurface(std::filesystem::path(d.dialogs().toExport.toStdString()), silent);
    ASSERT_TRUE(file);
    EXPECT_EQ(file->mesh.triangles.size(), d.workshop().looks().kept()->mesh().triangles.size());
    ASSERT_TRUE(d.clickButton("Done"));
    EXPECT_FALSE(d.workshop().handingOver().delivered());
}

TEST(Strings, ClickFliesToThePlaceAndKeysStepOn) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("blade")}));
    const auto before = d.window().viewport().camera();
    clickMark(d, "boundary_edges", 0);
    ASSERT_TRUE(d.workshop().choice().chosenFinding());
    EXPECT_EQ(d.workshop().choice().chosenClass(), check::openEdges);
    // The place comes to the middle of the view, larger than before.
    const QPointF middle(d.window().viewport().width() / 2.0, d.window().viewport().height() / 2.0);
    EXPECT_TRUE(d.waitFor([&] {
        return (d.window().viewport().placeOnScreen(*d.workshop().choice().chosenFinding()) - middle)
                   .manhattanLength() < 1;
    }));
    EXPECT_LT(d.window().viewport().camera().worldPerPixel(), before.worldPerPixel());

    const auto places = d.workshop().choice().places(check::openEdges);
    const auto first = *d.workshop().choice().chosenFinding();
    const auto index = static_cast<std::size_t>(std::find(places.begin(), places.end(), first) - places.begin());
    d.key(Qt::Key_N);
    EXPECT_EQ(*d.workshop().choice().chosenFinding(), places[(index + 1) % places.size()]);
    d.key(Qt::Key_B);
    EXPECT_EQ(*d.workshop().choice().chosenFinding(), first);
    // The desk's list has the place chosen too.
    auto* list = d.find<QListWidget>("places");
    ASSERT_NE(list, nullptr);
    EXPECT_EQ(list->currentItem()->data(Qt::UserRole).toULongLong(), first);
}

TEST(Strings, DragTakesASlabAndEscapeGivesItBack) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("blade")}));
    const std::size_t all = d.workshop().choice().places(check::openEdges).size();
    const std::size_t r = rowOf(d, "boundary_edges");
    d.click(&strings(d), QPointF(80, strings(d).rowRect(r).center().y()));
    EXPECT_EQ(d.workshop().choice().chosenClass(), check::openEdges);
    const double y = strings(d).rowRect(r).center().y();
    d.drag(&strings(d), QPointF(strings(d).xOf(0.25), y), QPointF(strings(d).xOf(0.5), y), Qt::LeftButton);
    ASSERT_TRUE(d.workshop().choice().slab());
    const auto& box = d.workshop().looks().kept()->survey->mass.size;
    EXPECT_NEAR(d.workshop().choice().slab()->low, box.min.z() + 0.25 * box.extent().z(), 0.01 * box.extent().z());
    const auto inSlab = d.workshop().choice().places(check::openEdges);
    EXPECT_LT(inSlab.size(), all);
    EXPECT_GT(inSlab.size(), 0U);
    for (std::size_t f : inSlab) {
        const double z = d.workshop().looks().kept()->survey->findings.list[f].position.z();
        EXPECT_GE(z, d.workshop().choice().slab()->low);
        EXPECT_LE(z, d.workshop().choice().slab()->high);
    }
    EXPECT_EQ(d.find<QListWidget>("places")->count(), static_cast<int>(inSlab.size()));
    d.key(Qt::Key_Escape);
    EXPECT_FALSE(d.workshop().choice().slab());
    d.key(Qt::Key_X, Qt::AltModifier);
    EXPECT_EQ(d.workshop().choice().axis(), 0);
    d.key(Qt::Key_A, Qt::AltModifier);
    EXPECT_EQ(d.workshop().choice().axis(), 2);
}

TEST(Strings, MarksOfAPreviewGoAndCome) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("blade")}));
    d.workshop().choice().chooseClass(check::openEdges);
    auto* preview = d.find<QAbstractButton>("preview-fill");
    ASSERT_NE(preview, nullptr);
    auto* size = d.find<QDoubleSpinBox>("fill.size");
    size->setValue(3);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    std::size_t going = 0;
    std::size_t staying = 0;
    for (const session::Mark& m : row(d, "boundary_edges").marks)
        (m.state == session::MarkState::Goes ? going : staying) += 1;
    EXPECT_GT(going, 0U);
    EXPECT_GT(staying, 0U);
    EXPECT_EQ(going + staying, d.workshop().choice().places(check::openEdges).size());
    // Dropping it leaves everything as it was.
    const std::uint64_t edges = openEdges(d);
    ASSERT_TRUE(d.clickWhenReady("Drop preview"));
    EXPECT_FALSE(d.workshop().trial().current());
    EXPECT_EQ(openEdges(d), edges);
    EXPECT_EQ(d.workshop().parts().current()->track.stops().size(), 1U);
}

// Struts through each other become one skin: chosen on their string, previewed and kept by clicks, proved by the
// export.
TEST(Fuse, TheDuctFrameByClicks) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("duct-frame")}));
    EXPECT_EQ(labelText(d, "soundness"), "Watertight, not solid");
    d.workshop().choice().chooseClass(check::selfIntersections);
    auto* preview = d.find<QAbstractButton>("preview-fuse");
    ASSERT_NE(preview, nullptr);
    d.click(preview, preview->rect().center());
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    EXPECT_EQ(d.workshop().looks().kept()->survey->counts.shells, 216U);
    EXPECT_EQ(d.workshop().looks().shown()->survey->counts.shells, 1U);
    ASSERT_TRUE(d.clickWhenReady("Keep"));
    ASSERT_TRUE(d.settle());
    d.key(Qt::Key_Escape);
    EXPECT_EQ(labelText(d, "soundness"), "Solid");
    ASSERT_TRUE(exportTo(d, d.folder() + "/frame.stl"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().handingOver().delivered().has_value(); }));
    EXPECT_TRUE(d.workshop().handingOver().delivered()->survey->solid);
    EXPECT_EQ(d.workshop().handingOver().delivered()->survey->counts.shells, 1U);
}

TEST(Fuse, ShellsThatWouldGoAreListed) {
    WindowDriver d;
    const QString file = d.folder() + "/nested.stl";
    ASSERT_TRUE(io::writeSurface(together(box(mesh::Point(0, 0, 0), mesh::Point(10, 10, 10)),
                                          together(box(mesh::Point(1, 1, 1), mesh::Point(2, 3, 2)),
                                                   box(mesh::Point(5, 5, 5), mesh::Point(12, 8, 8)))),
                                 file.toStdString(), {io::stlBinary}, silent()));
    ASSERT_TRUE(d.open({file}));
    d.workshop().choice().chooseClass(check::selfIntersections);
    auto* preview = d.find<QAbstractButton>("preview-fuse");
    ASSERT_NE(preview, nullptr);
    d.click(preview, preview->rect().center());
    ASSERT_TRUE(d.waitFor([&] { return d.find<QListWidget>("within") != nullptr; }));
    ASSERT_EQ(d.find<QListWidget>("within")->count(), 1);
    EXPECT_TRUE(d.find<QListWidget>("within")->item(0)->text().contains("12 triangles"));
}

TEST(Fuse, SubtractAnotherFileFromTheDesk) {
    WindowDriver d;
    const QString whole = d.folder() + "/whole.stl";
    const QString other = d.folder() + "/other.stl";
    for (const auto& [file, high] : {std::pair{whole, 4.0}, {other, 2.0}})
        ASSERT_TRUE(io::writeSurface(box(mesh::Point::Zero(), mesh::Point::Constant(high)), file.toStdString(),
                                     {io::stlBinary}, silent()));
    ASSERT_TRUE(d.open({whole, other}));
    d.workshop().parts().choose(d.workshop().parts().all()[0]->name == "whole" ? 0 : 1);
    ASSERT_TRUE(d.settle());
    for (QAction* action : d.window().actions())
        if (action->text() == "Subtract another surface") action->trigger();
    auto* with = d.find<QComboBox>("subtract.with");
    ASSERT_NE(with, nullptr);
    // The other part is on the list.
    with->setFocus();
    QTest::keyClick(with, Qt::Key_Down);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    EXPECT_NEAR(d.workshop().looks().shown()->survey->mass.volume, 64 - 8, 1e-6);
    EXPECT_TRUE(d.workshop().looks().shown()->survey->solid);
}

TEST(Section, CutByKeyMovedByItsHandle) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    d.key(Qt::Key_X, Qt::AltModifier);
    d.key(Qt::Key_S);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().sectioning().active()->figures() != nullptr; }));
    const double before = d.workshop().sectioning().active()->plane.at;
    EXPECT_GT(d.workshop().sectioning().active()->figures()->area, 0);
    d.window().findChild<desktop::Viewport*>()->lookFrom(session::Camera::View::Front);
    QTest::qWait(500);
    auto* view = d.window().findChild<desktop::Viewport*>();
    const QPointF handle = view->sectionHandle();
    d.drag(view, handle, handle + QPointF(40, 0), Qt::LeftButton);
    EXPECT_GT(std::abs(d.workshop().sectioning().active()->plane.at - before), 0);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().sectioning().active()->figures() != nullptr; }));
    const double dragged = d.workshop().sectioning().active()->plane.at;
    d.key(Qt::Key_PageUp);
    EXPECT_GT(d.workshop().sectioning().active()->plane.at, dragged);
    d.key(Qt::Key_S);
    EXPECT_EQ(d.workshop().sectioning().active(), nullptr);
}

TEST(Section, LiesAlongAFaceThroughPointsAndAtTypedNumbers) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    session::Sectioning& cuts = d.workshop().sectioning();
    auto* view = d.window().findChild<desktop::Viewport*>();
    const auto figured = [&] { return d.waitFor([&] { return cuts.active() && cuts.active()->figures(); }); };
    const QPointF middle(view->width() / 2.0, view->height() / 2.0);
    // Along the face that was clicked.
    d.click(view, middle + QPointF(60, 10));
    ASSERT_TRUE(d.workshop().picking().normal());
    const Point normal = *d.workshop().picking().normal();
    d.key(Qt::Key_S, Qt::ShiftModifier);
    ASSERT_TRUE(figured());
    EXPECT_EQ(cuts.active()->plane.across, normal);
    EXPECT_EQ(d.find<QComboBox>("section.lies")->currentText(), "along the picked face");
    // At a typed number; a slab; the other side of it.
    auto* at = d.find<QDoubleSpinBox>("section.at");
    at->setFocus();
    at->selectAll();
    const double wanted = cuts.extent().low + 0.4 * (cuts.extent().high - cuts.extent().low);
    QTest::keyClicks(at, QString::number(wanted, 'f', 2));
    QTest::keyClick(at, Qt::Key_Return);
    ASSERT_TRUE(figured());
    EXPECT_NEAR(cuts.active()->plane.at, wanted, 0.006);
    EXPECT_FALSE(d.find<QLabel>("section.figures")->text().isEmpty());
    d.find<QDoubleSpinBox>("section.thickness")->setValue(3);
    ASSERT_TRUE(d.waitFor([&] { return cuts.active()->now.sections[1] != nullptr; }));
    const session::SeenCut slab = cuts.seen().front();
    EXPECT_NEAR(slab.left.along.high - slab.left.along.low, 3, 1e-9);
    d.click(d.find("section.over"), QPointF(5, 5));
    // They have the plane in common.
    const draw::Stretch turned = cuts.seen().front().left.along;
    EXPECT_TRUE(turned.low == slab.left.along.high || turned.high == slab.left.along.low);
    // Another one besides, taken away again.
    d.click(d.find("section.add"), QPointF(5, 5));
    ASSERT_TRUE(figured());
    EXPECT_EQ(cuts.cuts().size(), 2U);
    d.click(d.find("section.cut1"), QPointF(4, 5));
    EXPECT_EQ(cuts.activeIndex(), 0U);
    d.click(d.find("section.remove"), QPointF(5, 5));
    EXPECT_EQ(cuts.cuts().size(), 1U);
    // What it passes through becomes the pick.
    ASSERT_TRUE(figured());
    cuts.pickCut();
    EXPECT_EQ(d.workshop().picking().pick().triangles(),
              measure::trianglesAcross(d.workshop().looks().kept()->mesh(), cuts.active()->plane));
    // Through three measured points.
    cuts.clear();
    cuts.layThroughMeasured();
    EXPECT_TRUE(d.workshop().notice().text().startsWith("Measure three points first"));
    EXPECT_TRUE(cuts.cuts().empty());
    d.key(Qt::Key_M);
    for (const QPointF& by : {QPointF(60, 10), QPointF(90, -20), QPointF(-60, 30)}) d.click(view, middle + by);
    const auto& measured = d.workshop().measuring().all();
    ASSERT_EQ(measured.back().points.size(), 3U);
    cuts.layThroughMeasured();
    ASSERT_TRUE(figured());
    for (const Point& p : measured.back().points)
        EXPECT_NEAR(cuts.active()->plane.across.dot(p), cuts.active()->plane.at, 1e-9);
}

// Whatever paints while a step is being added: the track has not heard of it yet.
TEST(Track, IsPaintedBeforeItHasHeardOfAStop) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("spinner")}));
    session::Parts& parts = d.workshop().parts();
    const auto done = project::runSteps(parts.current()->track.part(), {{&steps::orientStep(), {}}}, {}, silent());
    ASSERT_TRUE(done);
    const session::Part* part = parts.addSteps(parts.current()->id, 0, *done);
    auto* track = d.window().findChild<desktop::TrackPanel*>();
    EXPECT_FALSE(track->grab().isNull());
    parts.showSteps(*part);
    ASSERT_TRUE(d.settle());
    EXPECT_FALSE(track->grab().isNull());
}

TEST(Track, UndoRedoAndBranchesByKeyAndClick) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("spinner")}));
    ASSERT_TRUE(d.clickButton("Repair"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().current()->track.stops().size() == 2; }));
    ASSERT_TRUE(d.settle());
    d.key(Qt::Key_Z, Qt::ControlModifier);
    EXPECT_EQ(d.workshop().parts().current()->track.current(), 0U);
    ASSERT_TRUE(d.settle());
    EXPECT_GT(d.workshop().looks().kept()->survey->counts.misorientedEdges, 0U);
    d.key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    EXPECT_EQ(d.workshop().parts().current()->track.current(), 1U);
    auto* track = d.window().findChild<desktop::TrackPanel*>();
    d.click(track, track->stopAt(0));
    EXPECT_EQ(d.workshop().parts().current()->track.current(), 0U);
    ASSERT_TRUE(d.settle());
    // From there another way: a second branch, and the first stays.
    ASSERT_TRUE(d.openStep("decimate"));
    ASSERT_TRUE(d.waitFor([&] { return d.button("Keep") != nullptr; }));
    d.key(Qt::Key_Return, Qt::ControlModifier);
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().parts().current()->track.stop(0).children.size(), 2U);
    EXPECT_NE(track->stopAt(1).y(), track->stopAt(2).y());
    d.click(track, track->stopAt(1));
    EXPECT_EQ(d.workshop().parts().current()->track.current(), 1U);
}

TEST(Brief, ChosenFromTheHeader) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("fairing")}));
    EXPECT_EQ(labelText(d, "tune"), "9 of 10 in tune");
    auto* brief = d.find<QComboBox>("brief");
    brief->setFocus();
    QTest::keyClick(brief, Qt::Key_Down);
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().judging().chosen().id, "volume-mesh");
    QTest::keyClick(brief, Qt::Key_Down);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().judging().chosen().id == "reference-surface"; }));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(labelText(d, "tune"), "6 of 6 in tune");
    EXPECT_TRUE(row(d, "boundary_edges").noted);
}

TEST(View, TurnsPansAndZoomsAboutThePointer) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    auto& view = d.window().viewport();
    QTest::qWait(100);
    const auto start = view.camera();
    const QPointF middle(view.width() / 2.0, view.height() / 2.0);
    d.drag(&view, middle, middle + QPointF(60, 20), Qt::RightButton);
    EXPECT_GT((view.camera().direction() - start.direction()).norm(), 0.1);
    const auto turned = view.camera();
    d.drag(&view, middle, middle + QPointF(50, 0), Qt::MiddleButton);
    EXPECT_LT((view.camera().direction() - turned.direction()).norm(), 1e-9);
    EXPECT_NEAR(view.camera().toScreen(turned.centre()).x() - turned.toScreen(turned.centre()).x(), 50, 1);
    // The point under the pointer stays there while the wheel turns.
    const QPointF pointer(200, 150);
    const mesh::Point under = view.camera().rayOrigin(pointer);
    QWheelEvent wheel(pointer, view.mapToGlobal(pointer), {}, QPoint(0, 240), Qt::NoButton, Qt::NoModifier,
                      Qt::NoScrollPhase, false);
    QApplication::sendEvent(&view, &wheel);
    EXPECT_LT((view.camera().toScreen(under) - pointer).manhattanLength(), 0.01);
    EXPECT_LT(view.camera().worldPerPixel(), turned.worldPerPixel());
    d.key(Qt::Key_5, Qt::AltModifier);
    EXPECT_TRUE(d.waitFor([&] { return view.camera().direction().z() < -1 + 1e-6; }));
}

TEST(View, ClickOnAGlyphChoosesItsPlace) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("spinner")}));
    auto& view = d.window().viewport();
    QTest::qWait(300);
    const auto places = d.workshop().choice().places(check::inwardShells);
    ASSERT_EQ(places.size(), 1U);
    d.click(&view, view.placeOnScreen(places[0]));
    EXPECT_EQ(d.workshop().choice().chosenFinding(), places[0]);
}

TEST(View, DrawsThePartAndHatchesInsides) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("spinner")}));
    QTest::qWait(300);
    const QImage picture = d.window().viewport().grab().toImage();
    const QPointF weight = d.window().viewport().placeOnScreen(d.workshop().choice().places(check::inwardShells)[0]);
    const double scale = picture.width() / static_cast<double>(d.window().viewport().width());
    // On the inside-out ball both colours of the hatch are found; in a corner only paper.
    std::size_t ochre = 0;
    std::size_t pale = 0;
    for (int dx = -8; dx <= 8; ++dx) {
        const QColor c = picture.pixelColor((weight * scale).toPoint() + QPoint(dx, 0));
        ochre += c.red() > c.blue() + 60 && c.red() < 190;
        pale += c.red() > 200;
    }
    EXPECT_GT(ochre, 2U);
    EXPECT_GT(pale, 2U);
    EXPECT_EQ(picture.pixelColor(3, 3).rgb(), session::lightPaper().sheet.rgb());
}

TEST(Parts, ChosenByClickAndClosedByKey) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub"), rig("spinner")}));
    auto* parts = d.window().findChild<desktop::PartsPanel*>();
    d.click(parts, parts->partRect(1).center());
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().parts().current()->name, "spinner");
    d.key(Qt::Key_W, Qt::ControlModifier);
    EXPECT_EQ(d.workshop().parts().all().size(), 1U);
    EXPECT_EQ(d.workshop().parts().current()->name, "hub");
    d.key(Qt::Key_W, Qt::ControlModifier);
    EXPECT_EQ(d.workshop().parts().current(), nullptr);
    EXPECT_FALSE(d.button("Repair")->isEnabled());
}

TEST(Parts, UnitIsAssumedUntilItIsSaid) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    EXPECT_TRUE(d.workshop().parts().current()->unit().assumed);
    auto* unit = d.find<QComboBox>("unit");
    unit->setFocus();
    QTest::keyClick(unit, Qt::Key_Down);
    ASSERT_TRUE(d.waitFor([&] { return !d.workshop().parts().current()->unit().assumed; }));
    EXPECT_EQ(d.workshop().parts().current()->unit().name, "cm");
}

TEST(Finder, RunsACommandByAFewLetters) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    d.key(Qt::Key_K, Qt::ControlModifier);
    auto* input = d.find<QLineEdit>("find-command");
    ASSERT_TRUE(input->isVisible());
    QTest::keyClicks(input, "lens qual");
    QTest::keyClick(input, Qt::Key_Return);
    EXPECT_FALSE(input->isVisible());
    EXPECT_EQ(&d.workshop().coating().lens(), &session::qualityLens);
    ASSERT_TRUE(d.waitFor([&] { return !d.workshop().coating().coat().colours.empty(); }));
    EXPECT_EQ(d.workshop().coating().coat().legend.title, "Smallest angle");
    d.key(Qt::Key_K, Qt::ControlModifier);
    QTest::keyClick(input, Qt::Key_Escape);
    EXPECT_FALSE(input->isVisible());
}

TEST(Finder, EveryCommandHasAName) {
    WindowDriver d;
    std::set<QString> keys;
    for (QAction* command : d.window().commands()) {
        EXPECT_FALSE(command->text().isEmpty());
        if (!command->shortcut().isEmpty()) {
            EXPECT_TRUE(keys.insert(command->shortcut().toString()).second) << command->text().toStdString();
        }
    }
}

TEST(Lens, EachColoursThePartWithALegend) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("duct-frame")}));
    for (int key = Qt::Key_1; key <= Qt::Key_6; ++key) {
        d.key(static_cast<Qt::Key>(key));
        ASSERT_TRUE(d.settle());
        const bool plain = key == Qt::Key_1;
        EXPECT_EQ(d.workshop().coating().coat().legend.title.isEmpty(), plain) << key;
    }
}

TEST(Errors, AreShownAndNothingIsLost) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    const QString broken = d.folder() + "/broken.stl";
    std::ofstream(broken.toStdString()) << "this is no surface";
    d.workshop().opening().open({broken});
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().notice().isError(); }));
    EXPECT_NE(labelText(d, "notice").indexOf("not a surface file that can be read"), -1);
    EXPECT_EQ(d.workshop().parts().all().size(), 1U);
    ASSERT_TRUE(d.clickButton("Dismiss"));
    EXPECT_TRUE(d.workshop().notice().text().isEmpty());

    ASSERT_TRUE(exportTo(d, "/proc/hub.stl"));
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().notice().isError(); }));
    EXPECT_NE(labelText(d, "notice").indexOf("could not write in this folder"), -1);
    d.dialogs().brief = broken;
    auto* brief = d.find<QComboBox>("brief");
    QTest::keyClick(brief, Qt::Key_End);
    EXPECT_EQ(d.workshop().judging().chosen().id, "print");
}

TEST(Errors, AnUnchosenFileChangesNothing) {
    WindowDriver d;
    d.dialogs().toOpen.clear();
    d.key(Qt::Key_O, Qt::ControlModifier);
    d.key(Qt::Key_E, Qt::ControlModifier);
    d.key(Qt::Key_N);
    d.key(Qt::Key_Z, Qt::ControlModifier);
    d.key(Qt::Key_R, Qt::ControlModifier);
    d.key(Qt::Key_F);
    d.key(Qt::Key_W, Qt::ControlModifier);
    EXPECT_TRUE(d.workshop().parts().all().empty());
    EXPECT_TRUE(d.workshop().notice().text().isEmpty());
}

TEST(Jobs, CancelLeavesThePartAsItWas) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("blade")}));
    const auto before = d.workshop().parts().current()->track.part();
    d.workshop().repair();
    d.workshop().jobs().cancelAll();
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().parts().current()->track.part(), before);
    EXPECT_EQ(d.workshop().parts().current()->track.stops().size(), 1U);
    EXPECT_EQ(d.workshop().notice().text(), "Cancelled; everything is as it was.");
}

TEST(Jobs, TheWindowStaysAliveWhileWorkRuns) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("blade")}));
    d.workshop().trial().start({steps::findStep("decimate"), {{"percent", 10.0}, {"deviation", 0.05}}});
    int ticks = 0;
    QTimer timer;
    QObject::connect(&timer, &QTimer::timeout, [&] { ++ticks; });
    timer.start(10);
    ASSERT_TRUE(d.waitFor([&] { return !d.workshop().jobs().busy(); }, 60000));
    EXPECT_GT(ticks, 5);
}

TEST(Jobs, ANewerPreviewReplacesTheOlder) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("blade")}));
    for (double percent : {80.0, 60.0, 20.0})
        d.workshop().trial().start({steps::findStep("decimate"), {{"percent", percent}}});
    ASSERT_TRUE(d.waitFor([&] { return !d.workshop().jobs().busy(); }));
    ASSERT_TRUE(d.workshop().trial().current());
    EXPECT_EQ(d.workshop().trial().current()->used.at("percent"), 20);
}

TEST(Jobs, ClosingTheWindowWhileWorkRunsIsSafe) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("blade")}));
    d.workshop().repair();
    d.workshop().trial().start({steps::findStep("decimate"), {}});
}

TEST(Recipe, IsSavedFromTheTrack) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("spinner")}));
    d.key(Qt::Key_R, Qt::ControlModifier);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().current()->track.stops().size() == 2; }));
    d.dialogs().recipe = d.folder() + "/recipe.json";
    d.key(Qt::Key_R, Qt::ControlModifier | Qt::ShiftModifier);
    const auto calls = steps::loadRecipe(d.dialogs().recipe.toStdString());
    ASSERT_TRUE(calls) << calls.error().message;
    ASSERT_EQ(calls->steps.size(), 1U);
    EXPECT_EQ(calls->steps.front().step, steps::findStep("orient"));
    EXPECT_TRUE(calls->steps.front().given.empty());
    EXPECT_TRUE(calls->steps.front().pick.empty());
}

TEST(Strings, WordsAndNumbers) {
    EXPECT_EQ(session::spaced(1234567), QString("1\u202F234\u202F567"));
    EXPECT_EQ(session::spaced(999), "999");
    EXPECT_EQ(session::Numbers().shortNumber(0.012345), "0.0123");
    EXPECT_EQ(session::Numbers().shortNumber(-12), "−12");
    EXPECT_EQ(session::Numbers().shortNumber(std::numeric_limits<double>::infinity()), "∞");
}

}  // namespace
}  // namespace zither::tests

int main(int argc, char** argv) {
    QApplication application(argc, argv);
    zither::desktop::applyTheme(application, zither::session::lightPaper());
    ::testing::InitGoogleTest(&argc, argv);
    return RUN_ALL_TESTS();
}
