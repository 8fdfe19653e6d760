// What holds the window up: faults of jobs, many files at once, briefs chosen while work runs, recipes, small screens.
#include <gtest/gtest.h>
#include <QApplication>
#include <QComboBox>
#include <fstream>
#include <new>

#include "check/catalogue.h"
#include "demo/shapes.h"
#include "desktop/desk_panel.h"
#include "desktop/track_panel.h"
#include "io/surface_file.h"
#include "session/lens/lens.h"
#include "session/reading/strings.h"
#include "steps/all_steps.h"
#include "steps/recipe.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

mesh::Mesh ball(double radius, bool open = false) {
    rig::Soup soup = rig::sphere(mesh::Point(0, 0, 0), radius, 24, 12);
    mesh::Mesh m;
    for (const auto& t : soup.triangles) {
        const auto v = static_cast<mesh::VertexId>(m.positions.size());
        for (const mesh::Point& p : t) m.positions.push_back(p);
        m.triangles.push_back({v, v + 1, v + 2});
    }
    mesh::joinEqualVertices(m);
    if (open) m.triangles.resize(m.triangles.size() - 3);
    return m;
}

// ---- faults of jobs

TEST(JobFaults, AnExceptionEndsTheJobAndNotTheProgram) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    d.workshop().repair();
    ASSERT_TRUE(d.settle());
    const std::size_t stops = d.workshop().parts().current()->track.stops().size();
    const auto run = [&](const std::function<void()>& fault) {
        mesh::Error got;
        d.workshop().jobs().start<int>(
            "Wrapping hub", session::Jobs::Lane::Work,
            [fault](mesh::Progress&) -> mesh::Outcome<int> {
                fault();
                return 1;
            },
            [&](mesh::Outcome<int> outcome) { got = outcome.error(); });
        EXPECT_TRUE(d.settle());
        return got;
    };
    const mesh::Error memory = run([] { throw std::bad_alloc(); });
    EXPECT_EQ(memory.kind, mesh::ErrorKind::Environment);
    EXPECT_EQ(memory.message.substr(0, 43), "Wrapping hub: there was not enough memory; ");
    EXPECT_NE(memory.message.find("free. Everything is as it was"), std::string::npos) << memory.message;
    const mesh::Error bug = run([] { throw std::logic_error("a hole in the tree"); });
    EXPECT_EQ(bug.message,
              "Wrapping hub: a fault in the program ended it (a hole in the tree). Everything is as it was");
    EXPECT_EQ(run([] { throw 7; }).message, "Wrapping hub: a fault in the program ended it. Everything is as it was");
    EXPECT_EQ(d.workshop().parts().current()->track.stops().size(), stops);
}

TEST(JobFaults, WhatWouldTakeTooMuchMemoryIsRefusedAtTheDesk) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("spinner")}));
    d.workshop().trial().start({&steps::wrapStep(), {{"cell", steps::Value(1e-6)}}});
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().notice().isError(); }));
    EXPECT_NE(labelText(d, "notice").indexOf("step 'wrap' wants about"), -1);
    EXPECT_FALSE(d.workshop().trial().current());
}

// ---- many files

TEST(Opening, FiftyFilesKeepTwoThreadsBusyAndTheFirstComesToTheFront) {
    WindowDriver d;
    QStringList files;
    for (int i = 0; i < 50; ++i)
        files << write(d, QString("part-%1.stl").arg((i * 7) % 50, 2, 10, QChar('0')), ball(1 + i));
    std::size_t most = 0;
    QObject::connect(&d.workshop().jobs(), &session::Jobs::changed,
                     [&] { most = std::max(most, d.workshop().jobs().count()); });
    d.workshop().opening().open(files);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().all().size() == 50; }, 60000));
    ASSERT_TRUE(d.settle());
    EXPECT_LE(most, 2U);
    EXPECT_EQ(d.workshop().parts().current()->name, QFileInfo(files.front()).completeBaseName());
    // In order of their names, whichever was read first.
    for (std::size_t i = 1; i < 50; ++i)
        EXPECT_LT(d.workshop().parts().all()[i - 1]->name, d.workshop().parts().all()[i]->name);
}

TEST(Opening, WhereTheFirstCannotBeReadTheNextComesToTheFront) {
    WindowDriver d;
    const QString good = write(d, "good.stl", ball(2));
    const QString later = write(d, "a-later.stl", ball(3));
    d.workshop().opening().open({d.folder() + "/missing.stl", good, later});
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().all().size() == 2; }));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().parts().current()->name, "good");
}

TEST(Opening, CancelDropsWhatWaits) {
    WindowDriver d;
    QStringList files;
    for (int i = 0; i < 60; ++i) files << write(d, QString("part-%1.stl").arg(i), ball(1 + i));
    d.workshop().opening().open(files);
    EXPECT_EQ(d.workshop().opening().waiting(), 58U);
    ASSERT_TRUE(d.clickWhenReady("Cancel"));
    ASSERT_TRUE(d.waitFor([&] { return !d.workshop().jobs().busy(); }));
    EXPECT_EQ(d.workshop().opening().waiting(), 0U);
    // Some may have been read before the button was pressed.
    EXPECT_LT(d.workshop().parts().all().size(), 60U);
}

// ---- surveyed once

TEST(SurveyedOnce, WhatTheWindowShowsWasSurveyedByWhatMadeIt) {
    WindowDriver d;
    const std::uint64_t before = check::Surveyed::surveysMade();
    ASSERT_TRUE(d.open({rig("hub")}));
    EXPECT_EQ(check::Surveyed::surveysMade(), before + 1);
    d.workshop().repair();
    ASSERT_TRUE(d.settle());
    const std::uint64_t repaired = check::Surveyed::surveysMade();
    const auto& track = d.workshop().parts().current()->track;
    ASSERT_GT(track.stops().size(), 2U);
    // Back and forth, other lenses, another brief: every stop is known already.
    for (project::StopId stop = 0; stop < track.stops().size(); ++stop) {
        d.workshop().goTo(stop);
        ASSERT_TRUE(d.settle());
    }
    d.workshop().judging().setBrief(steps::builtInBriefs()[1]);
    ASSERT_TRUE(d.settle());
    d.workshop().coating().setLens(session::deviationLens);
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(check::Surveyed::surveysMade(), repaired);
}

// ---- briefs

TEST(Briefs, TheOneChosenWhileAFileIsReadJudgesIt) {
    WindowDriver d;
    d.workshop().opening().open({rig("blade")});
    d.workshop().judging().setBrief(steps::builtInBriefs()[1]);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().current() != nullptr; }));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().looks().kept()->survey->options, steps::builtInBriefs()[1].surveyOptions());
    EXPECT_EQ(d.workshop().judging().verdict()->judged.size(), steps::builtInBriefs()[1].requirements.size());
    EXPECT_FALSE(row(d, "smallest_angle").marks.empty());
}

TEST(Briefs, TheOneChosenWhileAFileIsWrittenJudgesIt) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("nacelle")}));
    d.workshop().handingOver().exportTo(d.folder() + "/out.stl");
    d.workshop().judging().setBrief(steps::builtInBriefs()[1]);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().handingOver().delivered().has_value(); }));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().handingOver().delivered()->briefTitle, "Volume mesh");
    EXPECT_EQ(d.workshop().handingOver().delivered()->verdict.judged.size(),
              steps::builtInBriefs()[1].requirements.size());
}

// ---- export

TEST(Export, CancelledAtAnyTimeTheOldFileIsThere) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("nacelle")}));
    const QString file = d.folder() + "/old.stl";
    for (int wait = 0; wait < 60; wait += 6) {
        std::ofstream(file.toStdString()) << "precious";
        d.workshop().handingOver().dismiss();
        d.workshop().handingOver().exportTo(file);
        QTest::qWait(wait);
        d.workshop().cancelAll();
        ASSERT_TRUE(d.waitFor([&] { return !d.workshop().jobs().busy(); }));
        std::ifstream in(file.toStdString());
        const std::string now{std::istreambuf_iterator<char>(in), {}};
        if (!d.workshop().handingOver().delivered()) {
            EXPECT_EQ(now, "precious") << wait;
        }
    }
    EXPECT_EQ(QDir(d.folder()).entryList({".*"}, QDir::Files | QDir::Hidden).size(), 0);
}

TEST(Export, SaysWhatTheFileWillNotHold) {
    WindowDriver d;
    const QString file = d.folder() + "/coloured.obj";
    std::ofstream(file.toStdString())
        << "v 0 0 0 1 0 0\nv 1 0 0 1 0 0\nv 0 1 0 1 0 0\nv 0 0 1 1 0 0\ng a\nf 1 3 2\nf 1 2 "
           "4\ng b\nf 2 3 4\nf 1 4 3\n";
    ASSERT_TRUE(d.open({file}));
    // Said once: the notice goes by itself.
    EXPECT_NE(d.workshop().parts().current()->remarks.front().find("The file also holds vertex colours"),
              std::string::npos);
    ASSERT_TRUE(exportTo(d, d.folder() + "/plain.stl"));
    EXPECT_EQ(labelText(d, "notice"), "plain.stl will not hold the names of its 2 regions, vertex colours.");
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().handingOver().delivered().has_value(); }));
    EXPECT_EQ(d.workshop().handingOver().delivered()->losses.size(), 2U);
}

// ---- recipes

TEST(Recipe, SavedFromTheDeskRunsFromTheMenuOnTheSamePartAndOnAnother) {
    WindowDriver d;
    const QString first = write(d, "first.stl", ball(3, true));
    const QString second = write(d, "second.stl", ball(5, true));
    ASSERT_TRUE(d.open({first, second}));
    d.workshop().parts().choose(0);
    d.workshop().choice().chooseClass(check::openEdges);
    d.workshop().picking().pickPlaces();
    d.workshop().choice().chooseClass(std::nullopt);
    d.workshop().trial().start({&steps::fillStep(), {}});
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    ASSERT_TRUE(d.settle());
    d.key(Qt::Key_Return, Qt::ControlModifier);
    ASSERT_TRUE(d.settle());
    const mesh::Mesh mended = d.workshop().looks().kept()->mesh();
    d.dialogs().recipe = d.folder() + "/r.json";
    d.key(Qt::Key_R, Qt::ControlModifier | Qt::ShiftModifier);
    const auto calls = steps::loadRecipe(d.dialogs().recipe.toStdString());
    ASSERT_TRUE(calls);
    // The pick is remembered as what it was chosen by, and proposals stay proposals.
    EXPECT_EQ(calls->steps.front().pick, "boundary_edges");
    EXPECT_TRUE(calls->steps.front().given.empty());
    d.workshop().goTo(0);
    ASSERT_TRUE(d.settle());
    d.key(Qt::Key_R, Qt::ControlModifier | Qt::AltModifier);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().current()->track.stops().size() == 3; }));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(d.workshop().looks().kept()->mesh().triangles, mended.triangles);
    EXPECT_EQ(d.workshop().looks().kept()->mesh().positions, mended.positions);
    d.workshop().parts().choose(1);
    ASSERT_TRUE(d.settle());
    d.key(Qt::Key_R, Qt::ControlModifier | Qt::AltModifier);
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().parts().current()->track.stops().size() == 2; }));
    ASSERT_TRUE(d.settle());
    EXPECT_EQ(openEdges(d), 0U);
}

TEST(Recipe, HandPicksWarn) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("spinner")}));
    d.workshop().picking().pickTriangle(5, mesh::Point(0, 0, 0), false);
    EXPECT_TRUE(d.workshop().picking().byHand());
    d.workshop().picking().grow();
    d.workshop().trial().start({&steps::flipStep(), {}});
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
    d.workshop().trial().keep();
    d.workshop().recipes().saveTrackTo(d.folder() + "/r.json");
    EXPECT_NE(d.workshop().notice().text().indexOf("1 of them work on triangles that were picked by hand"), -1);
    // A shell, grown, says so.
    ASSERT_TRUE(d.settle());
    d.workshop().picking().pickShellOf(5);
    EXPECT_EQ(d.workshop().picking().text(), "shell:0");
    d.workshop().picking().grow();
    EXPECT_EQ(d.workshop().picking().text(), "shell:0+1");
    d.workshop().picking().shrink();
    EXPECT_TRUE(d.workshop().picking().byHand());
}

TEST(DeskModel, OffersWhatHelpsAndSaysWhatIsMissing) {
    WindowDriver d;
    ASSERT_TRUE(d.open({rig("hub")}));
    session::DeskModel& desk = d.window().findChild<desktop::DeskPanel*>()->desk();
    EXPECT_EQ(desk.page().kind, session::DeskPage::Overview);
    std::string names;
    for (const steps::Step* s : session::DeskModel::stepsFor(check::openEdges)) names += std::string(s->name) + " ";
    EXPECT_EQ(names, "stitch fill bridge enclose thicken wrap ");
    EXPECT_EQ(desk.missing(steps::mendStep()), "Pick triangles first: click on the part, Shift adds.");
    EXPECT_EQ(desk.missing(steps::subtractStep()), "Choose a surface first.");
    EXPECT_EQ(desk.missing(steps::cleanStep()), "");
    d.workshop().picking().pickTriangle(7, mesh::Point(1, 2, 3), false);
    EXPECT_EQ(desk.page().kind, session::DeskPage::Pick);
    EXPECT_NE(desk.foreseen(steps::wrapStep()).indexOf("Works on the whole part, not on the pick"), -1);
    EXPECT_EQ(desk.valuesFor(steps::moveVertexStep()).at("vertex").text(), "1,2,3");
    // A wrap with a pick there is no wrap of the pick: it takes the whole part.
    d.workshop().trial().start({&steps::wrapStep(), {{"triangles", steps::Value(2000.0)}}});
    ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }, 60000));
    EXPECT_TRUE(d.workshop().trial().current()->call.pick.empty());
}

// ---- small screens

TEST(SmallScreens, NothingIsCutAt1280By720) {
    WindowDriver d;
    EXPECT_LE(d.window().minimumSizeHint().height(), 720);
    EXPECT_LE(d.window().minimumSizeHint().width(), 1280);
    ASSERT_TRUE(d.open({rig("hub")}));
    d.workshop().judging().setBrief(steps::builtInBriefs()[1]);
    ASSERT_TRUE(d.settle());
    // Three branches: the track grows, and keeps its names within the window.
    for (int branch = 0; branch < 3; ++branch) {
        d.workshop().goTo(0);
        ASSERT_TRUE(d.settle());
        d.workshop().trial().start({&steps::orientStep(), {}});
        ASSERT_TRUE(d.waitFor([&] { return d.workshop().trial().current().has_value(); }));
        d.workshop().trial().keep();
        ASSERT_TRUE(d.settle());
    }
    d.window().resize(1280, 720);
    QTest::qWait(50);
    EXPECT_EQ(d.window().height(), 720);
    for (const char* name : {"header", "lenses", "viewport", "desk", "parts", "strings", "track"}) {
        auto* panel = d.find<QWidget>(name);
        ASSERT_NE(panel, nullptr) << name;
        const QRect place(panel->mapTo(&d.window(), QPoint(0, 0)), panel->size());
        EXPECT_TRUE(d.window().rect().contains(place)) << name;
    }
    EXPECT_GE(d.find<QWidget>("track")->height(), 62);
    EXPECT_GE(d.find<QWidget>("viewport")->height(), 150);
    // The third branch is scrolled to.
    auto& track = *d.window().findChild<desktop::TrackPanel*>();
    EXPECT_GT(track.stopAt(3).y(), track.height());
    QWheelEvent wheel(QPointF(100, 30), track.mapToGlobal(QPointF(100, 30)), {}, QPoint(0, -240), Qt::NoButton,
                      Qt::NoModifier, Qt::NoScrollPhase, false);
    QApplication::sendEvent(&track, &wheel);
    EXPECT_LT(track.stopAt(3).y(), track.height());
}

}  // namespace
}  // namespace zither::tests
