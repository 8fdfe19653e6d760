// Hours of work in one session, without a window: parts come and go, steps are tried, kept, undone and done again, and
// the session takes no more memory at the end than it did.
#include <gtest/gtest.h>
#include <QSettings>
#include <QTemporaryDir>
#include <QTest>

#include <algorithm>
#include <chrono>
#include <cstdlib>
#include <iostream>
#include <random>

#include "mesh/memory.h"
#include "session/workshop.h"
#include "steps/all_steps.h"
#include "tests/window/window_helpers.h"

namespace zither::tests {
namespace {

bool wait(session::Workshop& workshop) {
    for (int i = 0; i < 6000 && workshop.jobs().busy(); ++i) QTest::qWait(10);
    return !workshop.jobs().busy();
}

void doSomething(session::Workshop& w, std::mt19937& random) {
    const auto among = [&](std::size_t count) {
        return std::uniform_int_distribution<std::size_t>(0, count - 1)(random);
    };
    static const char* const steps[] = {"orient", "clean",          "fill",           "stitch", "decimate percent=80",
                                        "settle", "drop-shells",    "smooth scale=3", "fuse",   "scale factor=1.01",
                                        "trim",   "refine length=4"};
    switch (among(8)) {
        case 0:
        case 1:
        case 2:
            w.trial().start(*steps::parseStepCall(steps[among(std::size(steps))]));
            (void)wait(w);
            return among(3) > 0 ? w.trial().keep() : w.trial().drop();
        case 3:
            return w.undo();
        case 4:
            return w.redo();
        case 5:
            if (const auto* part = w.parts().current())
                w.goTo(static_cast<project::StopId>(among(part->track.stops().size())));
            return;
        case 6: {
            const auto& briefs = steps::builtInBriefs();
            return w.judging().setBrief(briefs[among(briefs.size())]);
        }
        default:
            if (w.looks().kept()) w.picking().pickShellOf(mesh::TriangleId(0));
            return w.sectioning().begin();
    }
}

// ZITHER_SOAK: seconds; ten in every run.
TEST(Soak, MemoryStaysWhereItWas) {
    const char* wanted = std::getenv("ZITHER_SOAK");
    const double seconds = wanted ? std::atof(wanted) : 10;
    mesh::returnFreedMemory();
    const QTemporaryDir folder;
    QSettings settings(folder.filePath("settings.ini"), QSettings::IniFormat);
    std::mt19937 random(20);
    std::vector<double> megabytes;
    std::size_t done = 0;
    {
        session::Workshop w(settings, folder.filePath("unsaved"));
        const auto begun = std::chrono::steady_clock::now();
        const auto spent = [&] {
            return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count();
        };
        const QString parts[] = {rig("spinner"), rig("strainer")};
        for (std::size_t round = 0; spent() < seconds || round < 3; ++round) {
            w.opening().open({parts[round % 2]});
            ASSERT_TRUE(wait(w));
            for (int i = 0; i < 12; ++i, ++done) {
                doSomething(w, random);
                ASSERT_TRUE(wait(w));
                // What cannot be done is said, and is no fault.
                w.notice().dismiss();
            }
            while (!w.parts().all().empty()) w.parts().close(0);
            ASSERT_TRUE(wait(w));
            megabytes.push_back(static_cast<double>(mesh::usedMemory()) / 1e6);
        }
    }
    const auto largest = [&](std::size_t from, std::size_t to) {
        return *std::max_element(megabytes.begin() + static_cast<std::ptrdiff_t>(from),
                                 megabytes.begin() + static_cast<std::ptrdiff_t>(to));
    };
    const std::size_t third = megabytes.size() / 3;
    const double middle = largest(third, 2 * third);
    const double end = largest(2 * third, megabytes.size());
    if (wanted) std::cout << done << " actions, " << middle << " MB in the middle third, " << end << " MB at the end\n";
    // A short run has not yet met the largest of what it does.
    EXPECT_LT(end, 1.1 * middle + (wanted ? 0 : 100));
}

}  // namespace
}  // namespace zither::tests
