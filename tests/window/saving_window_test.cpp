// The work on disk: saved and opened again, kept without being asked, brought back after a session that did not end.
#include <gtest/gtest.h>
#include <QAbstractButton>
#include <QDir>
#include <QProcess>

#include "desktop/viewport.h"
#include "project/surface_bytes.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

QStringList filesIn(const QString& folder) {
    return QDir(folder).entryList({"*.zither"}, QDir::Files);
}

TEST(Saving, AProjectIsSavedAndOpenedAsItWas) {
    QTemporaryDir folder;
    const QString file = folder.filePath("rig.zither");
    std::string mended;
    session::Camera::Place looked;
    {
        WindowDriver d;
        ASSERT_TRUE(d.open({rig("spinner"), rig("strainer")}));
        ASSERT_TRUE(d.settle());
        ASSERT_TRUE(d.clickButton("Repair"));
        ASSERT_TRUE(d.settle(60000));
        d.key(Qt::Key_M);
        desktop::Viewport* view = &d.window().viewport();
        d.click(view, QPointF(view->width() / 2.0, view->height() / 2.0));
        ASSERT_EQ(d.workshop().measuring().all().size(), 1U);
        d.key(Qt::Key_M);
        d.drag(view, QPointF(300, 200), QPointF(360, 230), Qt::RightButton);
        looked = view->camera().place();
        // Each part is looked at from where it was; the pick belongs to the one in front.
        d.workshop().parts().choose(1);
        ASSERT_TRUE(d.settle());
        EXPECT_NE(view->camera().place().centre, looked.centre);
        d.workshop().parts().choose(0);
        ASSERT_TRUE(d.settle());
        EXPECT_EQ(view->camera().place().axes, looked.axes);
        d.workshop().picking().pickShellOf(mesh::TriangleId(0));
        d.workshop().picking().grow();
        d.dialogs().project = file;
        d.key(Qt::Key_S, Qt::ControlModifier);
        ASSERT_TRUE(d.waitFor([&] { return d.workshop().saving().file() == file; }));
        EXPECT_FALSE(d.workshop().saving().hasUnsaved());
        EXPECT_TRUE(d.window().windowTitle().contains("rig.zither"));
        // A step more is not in the file, until it is saved again: then nobody is asked where.
        mended = project::bytesOf(d.workshop().looks().kept()->mesh());
        ASSERT_TRUE(keepStep(d, "scale"));
        EXPECT_TRUE(d.workshop().saving().hasUnsaved());
        EXPECT_TRUE(d.window().windowTitle().contains("•"));
        d.key(Qt::Key_Z, Qt::ControlModifier);
        ASSERT_TRUE(d.settle());
        d.workshop().picking().pickShellOf(mesh::TriangleId(0));
        d.workshop().picking().grow();
        d.dialogs().project.clear();
        d.key(Qt::Key_S, Qt::ControlModifier);
        ASSERT_TRUE(d.waitFor([&] { return !d.workshop().saving().hasUnsaved(); }));
        // So is a recipe that was edited.
        d.workshop().recipes().takeFromTrack();
        ASSERT_TRUE(d.workshop().recipes().setOnlyIf(0, "boundary_edges"));
        EXPECT_TRUE(d.workshop().saving().hasUnsaved());
        d.key(Qt::Key_S, Qt::ControlModifier);
        ASSERT_TRUE(d.waitFor([&] { return !d.workshop().saving().hasUnsaved(); }));
    }
    WindowDriver d;
    d.dialogs().toOpen = {file};
    d.key(Qt::Key_O, Qt::ControlModifier);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().all().size() == 2; }));
    // It is seen before it has been judged.
    EXPECT_NE(d.workshop().looks().display(), nullptr);
    ASSERT_TRUE(d.settle());
    const session::Part& spinner = *d.workshop().parts().current();
    EXPECT_EQ(spinner.name, "spinner");
    EXPECT_EQ(project::bytesOf(d.workshop().looks().kept()->mesh()), mended);
    EXPECT_GT(spinner.track.stops().size(), 2U);
    EXPECT_EQ(d.workshop().measuring().all().size(), 1U);
    EXPECT_FALSE(d.workshop().saving().hasUnsaved());
    const session::Camera::Place place = d.window().viewport().camera().place();
    EXPECT_LT((place.centre - looked.centre).norm(), 1e-9 * looked.height);
    EXPECT_LT((place.axes - looked.axes).norm(), 1e-9);
    EXPECT_NEAR(place.height, looked.height, 1e-9 * looked.height);
    EXPECT_EQ(d.workshop().picking().text(), "shell:0+1");
    ASSERT_EQ(d.workshop().recipes().calls().size(), spinner.track.recipeTo(spinner.track.current()).size());
    EXPECT_EQ(d.workshop().recipes().calls().front().onlyIf, "boundary_edges");
    EXPECT_EQ(d.workshop().recipes().name(), "spinner");
    d.workshop().picking().forget();
    // The undone step is still on the track, and work goes on.
    d.key(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(spinner.track.stop(spinner.track.current()).label, "scale");
    ASSERT_NE(d.workshop().looks().kept()->loss, nullptr);
    // A second window is told that it is open.
    WindowDriver second;
    second.workshop().opening().open({file});
    ASSERT_TRUE(second.waitFor([&] { return second.workshop().notice().isError(); }));
    EXPECT_TRUE(labelText(second, "notice").contains("open elsewhere"));
}

TEST(Saving, EveryKeptStepIsOnDiskSoonAndIsOfferedAgain) {
    QTemporaryDir folder;
    const QString keepIn = folder.filePath("unsaved");
    std::string scaled;
    {
        WindowDriver d(keepIn);
        ASSERT_TRUE(d.open({rig("strainer")}));
        ASSERT_TRUE(d.waitFor([&] { return filesIn(keepIn).size() == 1; }, 3000));
        ASSERT_TRUE(keepStep(d, "scale"));
        scaled = project::bytesOf(d.workshop().looks().kept()->mesh());
        // A session that is going on is not left behind.
        WindowDriver other(keepIn);
        EXPECT_TRUE(other.workshop().saving().leftBehind().empty());
    }
    // It ended with a step that nobody saved.
    EXPECT_EQ(filesIn(keepIn).size(), 1);
    {
        WindowDriver d(keepIn);
        ASSERT_EQ(d.workshop().saving().leftBehind().size(), 1U);
        EXPECT_EQ(d.workshop().saving().leftBehind().front().parts, QStringList("strainer"));
        ASSERT_TRUE(d.clickButton("Bring it back"));
        ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().all().size() == 1; }));
        ASSERT_TRUE(d.settle());
        EXPECT_EQ(project::bytesOf(d.workshop().looks().kept()->mesh()), scaled);
        EXPECT_EQ(d.workshop().parts().current()->track.stops().size(), 2U);
        // It is kept anew before the old file goes.
        ASSERT_TRUE(d.waitFor([&] { return filesIn(keepIn).size() == 1; }));
        d.dialogs().project = folder.filePath("saved.zither");
        d.key(Qt::Key_S, Qt::ControlModifier);
        ASSERT_TRUE(d.waitFor([&] { return !d.workshop().saving().hasUnsaved(); }));
    }
    // What is saved needs nothing more.
    EXPECT_TRUE(filesIn(keepIn).isEmpty());
}

// A recipe that makes no sense takes nothing else with it, and is told.
TEST(Saving, ADamagedRecipeIsToldAndTheRestIsThere) {
    QTemporaryDir folder;
    const QString file = folder.filePath("p.zither");
    for (const char* recipe :
         {"3", "{}", R"({"name": 7, "steps": []})", R"({"name": "r", "steps": [{"name": "polish"}]})",
          R"({"name": "r", "steps": [{"name": "fill", "parameters": {"size": "big"}}]})"}) {
        SCOPED_TRACE(recipe);
        QFile::remove(file);
        {
            project::Project p;
            p.parts.push_back({"box", "", "stl", "mm", true, {}, {}, project::Track(shared(unitBox()))});
            p.window = QString(R"({"recipe": %1})").arg(recipe).toStdString();
            auto store = project::Store::create(file.toStdString());
            ASSERT_TRUE(store);
            ASSERT_TRUE(store->save(p, silent()));
        }
        WindowDriver d;
        d.workshop().saving().open(file);
        ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().all().size() == 1; }));
        ASSERT_TRUE(d.settle());
        EXPECT_TRUE(d.workshop().recipes().calls().empty());
        EXPECT_TRUE(d.workshop().notice().isError());
        EXPECT_TRUE(d.workshop().notice().text().startsWith("Not all could be read."));
    }
}

TEST(Saving, WhatIsThrownAwayIsGoneAndLookingChangesNothing) {
    QTemporaryDir folder;
    const QString keepIn = folder.filePath("unsaved");
    {
        WindowDriver d(keepIn);
        ASSERT_TRUE(d.open({rig("strainer")}));
        ASSERT_TRUE(keepStep(d, "mirror"));
    }
    {
        WindowDriver d(keepIn);
        ASSERT_NE(d.button("Throw it away"), nullptr);
        ASSERT_TRUE(d.clickButton("Throw it away"));
        EXPECT_TRUE(filesIn(keepIn).isEmpty());
        EXPECT_TRUE(d.waitFor([&] { return d.button("Bring it back") == nullptr; }));
        ASSERT_TRUE(runCommand(d, "Bring back unsaved work"));
        EXPECT_TRUE(labelText(d, "notice").contains("No work was left"));
        // Only looked at: nothing is left.
        ASSERT_TRUE(d.open({rig("strainer")}));
        ASSERT_TRUE(d.waitFor([&] { return filesIn(keepIn).size() == 1; }));
    }
    EXPECT_TRUE(filesIn(keepIn).isEmpty());
}

}  // namespace
}  // namespace zither::tests
