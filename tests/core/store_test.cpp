// Projects as files: every bit comes back; what is torn, foreign or locked is told.
#include "project/store.h"

#include <sqlite3.h>

#include <unistd.h>

#include <chrono>
#include <cstdlib>
#include <fstream>
#include <thread>

#include "cli/children.h"
#include "project/delivery.h"
#include "project/surface_bytes.h"
#include "steps/all_steps.h"
#include "steps/automatic_repair.h"
#include "steps/call.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

namespace fs = std::filesystem;
using project::Project;
using project::Store;
using project::StoredPart;
using project::Track;

bool sameBits(const Mesh& a, const Mesh& b) {
    return project::bytesOf(a) == project::bytesOf(b);
}

// ---- surfaces as bytes

TEST(SurfaceBytes, EveryBitComesBackNarrowAndWide) {
    Mesh narrow = sphere(3, 24, 12);
    for (Point& p : narrow.positions) p = p.cast<float>().cast<double>();
    Mesh wide = sphere(3, 24, 12);
    for (Point& p : wide.positions) p *= 1.1;
    Mesh mixed = narrow;
    mixed.positions[3].x() = -0.0;
    mixed.positions[7].y() = 0.1;
    Mesh named = box(Point(0, 0, 0), Point(1, 2, 3));
    named.regions.assign(named.triangles.size(), 1);
    named.regionNames = {"inlet", "Wände ✓"};
    for (const Mesh& m : {narrow, wide, mixed, named, Mesh()}) {
        const auto back = project::surfaceFrom(project::bytesOf(m));
        ASSERT_TRUE(back) << back.error().message;
        EXPECT_TRUE(sameBits(*back, m));
        EXPECT_EQ(back->regionNames, m.regionNames);
        EXPECT_EQ(back->triangles, m.triangles);
        for (std::size_t v = 0; v < m.positions.size(); ++v)
            EXPECT_EQ(std::memcmp(back->positions[v].data(), m.positions[v].data(), 24), 0);
    }
    EXPECT_LT(project::bytesOf(narrow).size(), project::bytesOf(wide).size());
}

TEST(SurfaceBytes, NoDamageGetsThroughAndNoneCrashes) {
    const std::string whole = project::bytesOf(sphere(1, 12, 6));
    for (std::size_t size = 0; size < whole.size(); size += 7)
        EXPECT_FALSE(project::surfaceFrom(whole.substr(0, size)));
    rig::Random random(4);
    for (int i = 0; i < 2000; ++i) {
        std::string bytes = whole;
        for (int k = 0; k < 3; ++k)
            bytes[random.below(i % 2 == 0 ? 48 : bytes.size())] = static_cast<char>(random.below(256));
        // Whatever comes out is a mesh whose triangles have their vertices.
        if (const auto m = project::surfaceFrom(bytes)) {
            for (const mesh::Triangle& t : m->triangles)
                for (const mesh::VertexId v : t) ASSERT_LT(v, m->positions.size());
        }
    }
}

TEST(SurfaceBytes, WhatIsInCommonIsOnlyPointedAt) {
    Mesh m = sphere(3, 200, 100);
    const std::string base = project::bytesOf(m);
    m.positions[77] *= 1.01;
    const std::string other = project::bytesOf(m);
    const auto alone = project::packed(other);
    const auto against = project::packed(other, base);
    ASSERT_TRUE(alone && against);
    EXPECT_LT(against->size(), alone->size() / 20);
    EXPECT_EQ(*project::unpacked(*alone, other.size()), other);
    EXPECT_EQ(*project::unpacked(*against, other.size(), base), other);
    EXPECT_FALSE(project::unpacked(*against, other.size()));
    EXPECT_FALSE(project::unpacked(*alone, other.size() + 1));
    EXPECT_FALSE(project::unpacked(alone->substr(0, alone->size() / 2), other.size()));
}

// ---- projects

class Stores : public ::testing::Test {
protected:
    // Two parts: a track with a branch, a moved part and what a repair left; one that nothing was done to.
    static Project sample() {
        const auto import = std::make_shared<const check::Surveyed>(
            together(without(sphere(3, 40, 20), {5, 6, 7}), without(box(Point(10, 0, 0), Point(12, 2, 2)), {0, 1})));
        Track track(import);
        const auto repaired = steps::repairAutomatically(import, {}, silent());
        EXPECT_TRUE(repaired);
        for (const steps::DoneStep& s : repaired.value().steps) track.add(project::stopOf(s));
        const project::StopId mended = track.current();
        const auto run = [&](const char* text) {
            const auto call = steps::parseStepCall(text);
            const auto done = project::runSteps(track.part(), {*call}, {}, silent());
            EXPECT_TRUE(done);
            for (const steps::DoneStep& s : done.value()) track.add(project::stopOf(s));
        };
        run("scale factor=1.5");
        track.goTo(mended);
        run("mirror");
        track.goTo(1);
        Project p;
        p.parts.push_back(
            {"ball", "/tmp/ball.stl", "stl-binary", "mm", true, {"a remark"}, {"colours"}, std::move(track), {}});
        if (!repaired->left.empty()) p.parts.back().left[mended] = repaired->left;
        p.parts.push_back(
            {"box", "", "", "in", false, {}, {}, Track(std::make_shared<const check::Surveyed>(unitBox())), {}});
        p.front = 1;
        p.window = R"({"camera":[1,2.5,"x"],"brief":"print"})";
        return p;
    }
    static void expectSame(const Project& a, const Project& b) {
        ASSERT_EQ(a.parts.size(), b.parts.size());
        EXPECT_EQ(a.front, b.front);
        EXPECT_EQ(a.window, b.window);
        for (std::size_t i = 0; i < a.parts.size(); ++i) {
            const StoredPart& p = a.parts[i];
            const StoredPart& q = b.parts[i];
            EXPECT_EQ(p.name, q.name);
            EXPECT_EQ(p.file, q.file);
            EXPECT_EQ(p.unit, q.unit);
            EXPECT_EQ(p.unitAssumed, q.unitAssumed);
            EXPECT_EQ(p.remarks, q.remarks);
            EXPECT_EQ(p.notKept, q.notKept);
            EXPECT_EQ(p.track.current(), q.track.current());
            ASSERT_EQ(p.track.stops().size(), q.track.stops().size());
            for (project::StopId s = 0; s < p.track.stops().size(); ++s) {
                const project::Stop& x = p.track.stop(s);
                const project::Stop& y = q.track.stop(s);
                EXPECT_EQ(x.parent, y.parent);
                EXPECT_EQ(x.children, y.children);
                EXPECT_EQ(x.label, y.label);
                EXPECT_EQ(x.why, y.why);
                EXPECT_EQ(x.seconds, y.seconds);
                EXPECT_EQ(x.used, y.used);
                ASSERT_EQ(x.call.has_value(), y.call.has_value());
                if (x.call) {
                    EXPECT_EQ(x.call->step, y.call->step);
                    EXPECT_EQ(x.call->given, y.call->given);
                    EXPECT_EQ(x.call->pick, y.call->pick);
                }
                EXPECT_TRUE(sameBits(x.part->mesh(), y.part->mesh()));
                EXPECT_EQ(x.record.sentences, y.record.sentences);
                EXPECT_EQ(x.record.headline, y.record.headline);
                ASSERT_EQ(x.record.numbers.size(), y.record.numbers.size());
                for (std::size_t k = 0; k < x.record.numbers.size(); ++k) {
                    EXPECT_EQ(x.record.numbers[k].key, y.record.numbers[k].key);
                    EXPECT_EQ(x.record.numbers[k].value, y.record.numbers[k].value);
                }
                expectSame(x.record.listed, y.record.listed);
                ASSERT_EQ(x.record.told != nullptr, y.record.told != nullptr);
                if (x.record.told) {
                    EXPECT_TRUE(sameBits(x.record.told->closing, y.record.told->closing));
                }
                ASSERT_EQ(x.record.motion.has_value(), y.record.motion.has_value());
                if (x.record.motion) {
                    EXPECT_EQ(x.record.motion->linear, y.record.motion->linear);
                }
            }
            ASSERT_EQ(p.left.size(), q.left.size());
            for (const auto& [stop, all] : p.left) expectSame(all, q.left.at(stop));
        }
    }
    static void expectSame(const std::vector<steps::Listed>& a, const std::vector<steps::Listed>& b) {
        ASSERT_EQ(a.size(), b.size());
        for (std::size_t i = 0; i < a.size(); ++i) {
            EXPECT_EQ(a[i].kind, b[i].kind);
            EXPECT_EQ(a[i].position, b[i].position);
            EXPECT_EQ(a[i].size, b[i].size);
            EXPECT_EQ(a[i].text, b[i].text);
            ASSERT_EQ(a[i].piece != nullptr, b[i].piece != nullptr);
            if (a[i].piece) {
                EXPECT_TRUE(sameBits(*a[i].piece, *b[i].piece));
            }
        }
    }
    static void sql(const fs::path& file, const char* text) {
        sqlite3* db = nullptr;
        ASSERT_EQ(sqlite3_open(file.c_str(), &db), SQLITE_OK);
        ASSERT_EQ(sqlite3_exec(db, text, nullptr, nullptr, nullptr), SQLITE_OK) << sqlite3_errmsg(db);
        sqlite3_close(db);
    }
    [[nodiscard]] fs::path file() const { return folder / "work.zither"; }
    TemporaryFolder folder;
};

TEST_F(Stores, EverythingComesBack) {
    const Project p = sample();
    {
        auto store = Store::create(file());
        ASSERT_TRUE(store) << store.error().message;
        const auto saved = store->save(p, silent());
        ASSERT_TRUE(saved) << saved.error().message;
    }
    auto store = Store::open(file());
    ASSERT_TRUE(store) << store.error().message;
    const auto back = store->load(silent());
    ASSERT_TRUE(back) << back.error().message;
    EXPECT_TRUE(back->damage.empty()) << back->damage.front();
    expectSame(p, *back);
    // Closed it is one file.
    store = tl::unexpected(mesh::Error{});
    EXPECT_EQ(std::distance(fs::directory_iterator(folder.path()), {}), 1);
}

TEST_F(Stores, SavingWritesOnlyWhatChangedAndForgetsWhatIsGone) {
    Project p = sample();
    auto store = Store::create(file());
    ASSERT_TRUE(store->save(p, silent()));
    EXPECT_GT(store->written(), 0U);
    ASSERT_TRUE(store->save(p, silent()));
    EXPECT_EQ(store->written(), 0U);
    // One step more: what differs from the import.
    const auto call = steps::parseStepCall("scale factor=2");
    const auto scaled = project::runSteps(p.parts[1].track.part(), {*call}, {}, silent());
    for (const steps::DoneStep& s : *scaled) p.parts[1].track.add(project::stopOf(s));
    ASSERT_TRUE(store->save(p, silent()));
    EXPECT_GT(store->written(), 0U);
    EXPECT_LT(store->written(), 2000U);
    p.parts.erase(p.parts.begin());
    p.front = 0;
    ASSERT_TRUE(store->save(p, silent()));
    const auto back = store->load(silent());
    ASSERT_TRUE(back);
    expectSame(p, *back);
    store = tl::unexpected(mesh::Error{});
    sqlite3* db = nullptr;
    ASSERT_EQ(sqlite3_open(file().c_str(), &db), SQLITE_OK);
    sqlite3_stmt* count = nullptr;
    sqlite3_prepare_v2(db, "SELECT COUNT(*) FROM surfaces", -1, &count, nullptr);
    sqlite3_step(count);
    EXPECT_EQ(sqlite3_column_int(count, 0), 2);
    sqlite3_finalize(count);
    sqlite3_close(db);
}

TEST_F(Stores, IsLockedWhileItIsOpenAndTellsForeignAndNewerFiles) {
    {
        auto store = Store::create(file());
        ASSERT_TRUE(store->save(sample(), silent()));
        const auto second = Store::open(file());
        ASSERT_FALSE(second);
        EXPECT_NE(second.error().message.find("open elsewhere"), std::string::npos) << second.error().message;
    }
    EXPECT_FALSE(Store::open(folder / "nothing.zither"));
    std::ofstream(folder / "text.zither") << std::string(5000, 'x');
    EXPECT_NE(Store::open(folder / "text.zither").error().message.find("no project"), std::string::npos);
    sqlite3* db = nullptr;
    sqlite3_open((folder / "other.zither").c_str(), &db);
    sqlite3_exec(db, "CREATE TABLE x (y)", nullptr, nullptr, nullptr);
    sqlite3_close(db);
    EXPECT_NE(Store::open(folder / "other.zither").error().message.find("no project"), std::string::npos);
    sql(file(), "PRAGMA user_version = 9");
    EXPECT_NE(Store::open(file()).error().message.find("newer"), std::string::npos);
}

TEST_F(Stores, AFileThatWasReplacedIsNotWrittenInto) {
    auto store = Store::create(file());
    ASSERT_TRUE(store->save(sample(), silent()));
    fs::rename(file(), folder / "moved.zither");
    const auto saved = store->save(sample(), silent());
    ASSERT_FALSE(saved);
    EXPECT_NE(saved.error().message.find("another name"), std::string::npos) << saved.error().message;
}

TEST_F(Stores, WhatIsDamagedIsToldAndTheRestIsThere) {
    const Project p = sample();
    {
        auto store = Store::create(file());
        ASSERT_TRUE(store->save(p, silent()));
    }
    // A byte of one surface that others are not packed against: that stop is gone, all others are there.
    fs::copy_file(file(), folder / "bit.zither");
    sql(folder / "bit.zither",
        "UPDATE surfaces SET data = CAST(substr(data, 1, 40) || x'FF00FF' || substr(data, 44) AS BLOB) "
        "WHERE id = (SELECT surface FROM stops WHERE part = 0 ORDER BY stop DESC LIMIT 1)");
    auto store = Store::open(folder / "bit.zither");
    ASSERT_TRUE(store);
    auto back = store->load(silent());
    ASSERT_TRUE(back);
    EXPECT_EQ(back->damage.size(), 1U);
    ASSERT_EQ(back->parts.size(), 2U);
    EXPECT_EQ(back->parts[0].track.stops().size() + 1, p.parts[0].track.stops().size());
    // What a stop says is nonsense: the same.
    fs::copy_file(file(), folder / "words.zither");
    sql(folder / "words.zither", "UPDATE stops SET about = '{\"label\": 7}' WHERE part = 0 AND stop = 1");
    store = Store::open(folder / "words.zither");
    back = store->load(silent());
    ASSERT_TRUE(back);
    EXPECT_FALSE(back->damage.empty());
    EXPECT_EQ(back->parts.size(), 2U);
    // Torn at any place: it opens with what is left, or says why not; nothing crashes.
    std::ifstream in(file(), std::ios::binary);
    const std::string whole((std::istreambuf_iterator<char>(in)), {});
    for (std::size_t i = 1; i < 24; ++i) {
        const fs::path torn = folder / ("torn" + std::to_string(i) + ".zither");
        std::ofstream(torn, std::ios::binary) << whole.substr(0, whole.size() * i / 24);
        auto opened = Store::open(torn);
        if (!opened) {
            EXPECT_FALSE(opened.error().message.empty());
            continue;
        }
        const auto some = opened->load(silent());
        if (some && some->parts.size() < 2) {
            EXPECT_FALSE(some->damage.empty()) << i;
        }
    }
}

TEST_F(Stores, ACancelledSaveLeavesTheFileAsItWas) {
    const Project p = sample();
    auto store = Store::create(file());
    ASSERT_TRUE(store->save(p, silent()));
    Project other = p;
    other.parts.pop_back();
    class Stop final : public mesh::Progress {
        bool report(double) override { return false; }
    } stop;
    const auto saved = store->save(other, stop);
    ASSERT_FALSE(saved);
    EXPECT_TRUE(saved.error().cancelled());
    expectSame(p, *store->load(silent()));
}

// ---- killed at any moment

Project growing(std::size_t stops) {
    Project p;
    Track track(std::make_shared<const check::Surveyed>(sphere(3, 60, 30)));
    for (std::size_t i = 1; i < stops; ++i) {
        Mesh m = track.part()->mesh();
        m.positions[i % m.positions.size()] *= 1.01;
        project::Stop stop;
        stop.label = "stop " + std::to_string(i);
        stop.part = std::make_shared<const check::Surveyed>(std::move(m));
        track.add(std::move(stop));
    }
    p.parts.push_back({"ball", "", "", "mm", true, {}, {}, std::move(track), {}});
    p.front = 0;
    return p;
}

// Not a test: what the next one starts, and kills. It says each stop that is on disk.
TEST(StoreChild, DISABLED_SavesUntilItIsKilled) {
    const char* file = std::getenv("ZITHER_STORE_FILE");
    ASSERT_NE(file, nullptr);
    auto store = Store::create(file);
    ASSERT_TRUE(store) << store.error().message;
    for (std::size_t stops = 1; stops < 10000; ++stops) {
        ASSERT_TRUE(store->save(growing(stops), silent()));
        std::ofstream(std::string(file) + ".said", std::ios::app) << stops << std::endl;
    }
}

// `kill -9` at random moments: what was said to be on disk is there, whole; 500 times in a long run.
TEST_F(Stores, AKillLosesNothingThatWasSaved) {
    rig::Random random(static_cast<std::uint64_t>(getpid()));
    const int times = std::getenv("ZITHER_LONG") ? 500 : 10;
    for (int i = 0; i < times; ++i) {
        const fs::path work = folder / ("killed" + std::to_string(i) + ".zither");
        ASSERT_EQ(setenv("ZITHER_STORE_FILE", work.c_str(), 1), 0);
        auto child = cli::Child::start({"/proc/self/exe", "--gtest_also_run_disabled_tests",
                                        "--gtest_filter=StoreChild.DISABLED_SavesUntilItIsKilled"},
                                       0);
        ASSERT_TRUE(child);
        const double wait = random.between(0.05, 0.8);
        while (child->seconds() < wait) std::this_thread::sleep_for(std::chrono::milliseconds(2));
        child->kill();
        while (!child->ended()) std::this_thread::sleep_for(std::chrono::milliseconds(1));
        std::size_t said = 0;
        std::ifstream in(work.string() + ".said");
        for (std::size_t n = 0; in >> n;) said = n;
        auto store = Store::open(work);
        if (said == 0 && !store) continue;  // it had not begun
        ASSERT_TRUE(store) << store.error().message;
        const auto back = store->load(silent());
        ASSERT_TRUE(back) << back.error().message;
        EXPECT_TRUE(back->damage.empty());
        if (said == 0) continue;
        ASSERT_EQ(back->parts.size(), 1U);
        const std::size_t there = back->parts[0].track.stops().size();
        EXPECT_GE(there, said);
        EXPECT_LE(there, said + 1);
        expectSame(growing(there), *back);
    }
}

}  // namespace
}  // namespace zither::tests
