// Fault loops: whatever fails, nothing crashes, nothing leaks, and files are as they were. And how much memory a
// hostile file can take.
#include "tests/fault/faults.h"

#include <gtest/gtest.h>
#include <tuple>

#include <functional>
#include <random>

#include "io/surface_file.h"
#include "mesh/memory.h"
#include "project/delivery.h"
#include "steps/call.h"
#include "steps/recipe.h"
#include "tests/core/coarse_calls.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

namespace fs = std::filesystem;

// Calls work() with the n-th allocation failing, for n = 1, 2, 3 ... (in growing steps, so that thousands of
// allocations take seconds), until it gets through. Nothing of what was taken may be left; and where the failure was
// passed over (a stable sort does with less memory), the result must be the same.
void throughEveryAllocation(const std::function<std::size_t()>& work) {
    const std::size_t right = work();  // and what is made once and kept
    for (std::size_t n = 1;; n += 1 + n / 24) {
        const std::size_t before = bytesInUse();
        failAllocation(n);
        try {
            EXPECT_EQ(work(), right) << "allocation " << n;
        } catch (const std::bad_alloc&) {
            EXPECT_TRUE(allocationFailed());
        }
        const bool failed = allocationFailed();
        failAllocation(0);
        // Task schedulers keep a little of what they took.
        EXPECT_LT(bytesInUse(), before + 65536) << "allocation " << n;
        if (!failed) return;
    }
}

Mesh damaged() {
    return without(together(sphere(1, 12, 8), box(Point(0.2, 0.2, 0.2), Point(2, 2, 2))), {5, 6, 40});
}

TEST(FaultLoop, ReadingSurvivesEveryFailedAllocation) {
    const TemporaryFolder folder;
    for (const io::Format& format : io::formats()) {
        if (format.extension.empty()) continue;
        SCOPED_TRACE(format.name);
        const auto file = folder / ("part" + std::string(format.extension));
        ASSERT_TRUE(io::writeSurface(damaged(), file, {format}, silent()));
        throughEveryAllocation([&] { return io::readSurface(file, silent())->mesh.triangles.size(); });
    }
}

TEST(FaultLoop, EveryStepSurvivesEveryFailedAllocation) {
    const TemporaryFolder folder;
    const auto other = folder / "other.stl";
    ASSERT_TRUE(io::writeSurface(box(Point(-1, -1, 0), Point(0.5, 0.5, 0.5)), other, {io::stlBinary}, silent()));
    const auto part = shared(damaged());
    for (const steps::Step& step : steps::catalogue()) {
        SCOPED_TRACE(step.name);
        steps::StepCall call{&step};
        for (const steps::Parameter& p : step.parameters)
            if (p.kind == steps::ParameterKind::File)
                call.given.emplace(p.name, steps::Value(other.string()));
            else if ((p.kind == steps::ParameterKind::Place || p.kind == steps::ParameterKind::Places) && !p.optional)
                call.given.emplace(p.name, steps::Value("0.1,0.2,0.3"));
        if (step.needsPick) call.pick = "triangles:0-1";
        makeCoarse(call, part->mesh());
        // Nothing ends at its arguments: what fails for want of memory is the work.
        const auto plain = steps::runStep(call, part, mesh::Pick(), silent());
        EXPECT_TRUE(plain || plain.error().code != mesh::errorcode::badParameter) << plain.error().message;
        throughEveryAllocation([&] {
            const auto fresh = shared(part->mesh());
            const auto done = steps::runStep(call, fresh, mesh::Pick(), silent());
            return done ? done->part->mesh().triangles.size() : 0;
        });
    }
}

TEST(FaultLoop, ExportLeavesTheOldFileWhateverFails) {
    const TemporaryFolder folder;
    const auto file = folder / "part.stl";
    const Mesh m = sphere(1, 10, 6);
    const auto& brief = steps::builtInBriefs().front();
    for (std::size_t n = 1; n < 1000; ++n) {
        writeText(file, "precious");
        failFileCall(n);
        const auto written = project::writeAndProve(m, {file}, brief, silent());
        const bool failed = fileCallFailed();
        failFileCall(0);
        EXPECT_EQ(filesIn(folder.path()), 1U) << "file call " << n;
        if (!failed) {
            EXPECT_TRUE(written);
            return;
        }
        // What fails after the file stands in its place (its folder's own flush) cannot take it back.
        if (written) continue;
        EXPECT_EQ(written.error().kind, mesh::ErrorKind::Environment) << n;
        EXPECT_NE(written.error().message.find("part.stl"), std::string::npos) << written.error().message;
        EXPECT_EQ(*io::readBytes(file), "precious") << "file call " << n;
    }
    FAIL() << "never got through";
}

TEST(FaultLoop, ExportLeavesTheOldFileWithoutMemory) {
    const TemporaryFolder folder;
    const auto file = folder / "part.stl";
    const Mesh m = sphere(1, 10, 6);
    throughEveryAllocation([&] {
        writeText(file, "precious");
        try {
            return project::writeAndProve(m, {file}, steps::builtInBriefs().front(), silent())
                ->part->mesh()
                .triangles.size();
        } catch (const std::bad_alloc&) {
            EXPECT_EQ(filesIn(folder.path()), 1U);
            EXPECT_EQ(*io::readBytes(file), "precious");
            throw;
        }
    });
}

TEST(FaultLoop, ReadingAFileThatFailsMidwaySaysSo) {
    const TemporaryFolder folder;
    const auto file = folder / "part.obj";
    ASSERT_TRUE(io::writeSurface(sphere(), file, {io::obj}, silent()));
    for (std::size_t n = 1; n < 100; ++n) {
        failFileCall(n);
        const auto read = io::readSurface(file, silent());
        const bool failed = fileCallFailed();
        failFileCall(0);
        if (!failed) {
            EXPECT_TRUE(read);
            return;
        }
        ASSERT_FALSE(read);
        EXPECT_NE(read.error().message.find("could not read"), std::string::npos);
    }
    FAIL() << "never got through";
}

// ---- memory of hostile files, and work

// Reads the bytes and holds memory against what is promised; whether they make a surface does not matter.
void readsWithin(const std::string& what, const std::string& bytes) {
    SCOPED_TRACE(what);
    resetPeak();
    const std::size_t before = bytesInUse();
    static_cast<void>(io::readSurface(bytes, "hostile", silent()));
    // The caller holds the bytes already: one of the twenty.
    EXPECT_LT(peakBytes() - before, 19 * bytes.size() + (64U << 20));
}

std::string repeated(const std::string& piece, std::size_t bytes) {
    std::string text;
    while (text.size() + piece.size() < bytes) text += piece;
    return text;
}

constexpr std::size_t big = 12U << 20;

TEST(HostileFiles, MemoryStaysBelowTwentyTimesTheFile) {
    std::string stl(84, ' ');
    std::fill(stl.end() - 4, stl.end(), '\xFF');
    readsWithin("binary STL that claims four thousand million triangles", stl + std::string(500, '\0'));
    readsWithin("ASCII STL of one facet", "solid a\nfacet outer loop " + repeated("vertex 0 1 0 ", big) + "endfacet");
    readsWithin("ASCII STL of names", repeated("solid a\n", big) + "facet");
    readsWithin("OBJ of vertices", repeated("v 0 1 2\n", big) + "f 1 2 3\n");
    readsWithin("OBJ of one face", "v 0 0 0\nv 1 0 0\nv 0 1 0\nf " + repeated("1 2 3 ", big) + "\n");
    readsWithin("OBJ of groups", "v 0 0 0\nv 1 0 0\nv 0 1 0\n" + repeated("g a\n", big) + "f 1 2 3\n");
    const std::string ply = "ply\nformat binary_little_endian 1.0\n";
    readsWithin("PLY that claims vertices", ply +
                                                "element vertex 18446744073709551615\nproperty float x\nproperty float "
                                                "y\nproperty float z\nend_header\n" +
                                                std::string(1000, '\1'));
    readsWithin("PLY of small vertices",
                ply + "element vertex 4000000\nproperty char x\nproperty char y\nproperty char z\nend_header\n" +
                    std::string(big, '\1'));
    readsWithin("PLY of one list",
                ply +
                    "element vertex 3\nproperty char x\nproperty char y\nproperty char z\nelement face "
                    "9\nproperty list uint uchar vertex_indices\nend_header\n" +
                    std::string("\0\0\0\1\0\0\0\1\0", 9) + std::string("\xFF\xFF\xFF\x7F", 4) +
                    repeated(std::string("\0\1\2", 3), big));
    readsWithin("PLY of elements without properties",
                ply +
                    "element nothing 18446744073709551615\nelement vertex 0\nproperty float x\nproperty float "
                    "y\nproperty float z\nend_header\n");
    readsWithin("OFF that claims faces", "OFF\n3 4000000000 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n");
    readsWithin("OFF of one face", "OFF\n3 1 0\n0 0 0\n1 0 0\n0 1 0\n4000000 " + repeated("0 1 2 ", big));
}

TEST(HostileFiles, LargePolygonsTakeNoTime) {
    // A comb whose teeth hide each other, a star, and random corners: a megabyte each.
    std::string vertices;
    std::string face = "f";
    for (int i = 0; i < 15000; ++i) {
        vertices += "v " + std::to_string(i / 2) + " " + std::to_string(i % 2 ? 0 : 9999) + " 0\n";
        face += " " + std::to_string(i + 1);
    }
    readsWithin("comb", vertices + face + "\n");
    vertices.clear();
    std::mt19937 random(3);
    for (int i = 0; i < 15000; ++i)
        vertices += "v " + std::to_string(random() % 1000) + " " + std::to_string(random() % 1000) + " 0\n";
    readsWithin("random corners", vertices + face + "\n");
    std::string spiral;
    for (int i = 0; i < 15000; ++i) {
        const double angle = 0.05 * i;
        spiral += "v " + std::to_string(i * std::cos(angle)) + " " + std::to_string(i * std::sin(angle)) + " 0\n";
    }
    readsWithin("spiral", spiral + face + "\n");
}

TEST(Memory, IsAskedBeforeItIsTaken) {
    EXPECT_TRUE(mesh::enoughMemory("nothing", 1));
    const auto error = mesh::enoughMemory("everything", 1ULL << 60);
    ASSERT_FALSE(error);
    EXPECT_NE(error.error().message.find("everything wants about 1152921504.6 GB of memory, and "), std::string::npos)
        << error.error().message;
    const auto refused =
        steps::runStep(*steps::parseStepCall("wrap cell=0.000001"), shared(unitBox()), mesh::Pick(), silent());
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().message.find("step 'wrap' wants about"), std::string::npos) << refused.error().message;
}

}  // namespace
}  // namespace zither::tests
