// Every format: what is read, what is refused, what is written, and files damaged at random.
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <cstring>
#include <numeric>

#include <zip.h>

#include "demo/rig.h"
#include "io/atomic_file.h"
#include "io/surface_file.h"
#include "measure/mass.h"
#include "tests/core/surfaces.h"

namespace zither::tests {
namespace {

using io::Format;
using io::readSurface;
namespace fs = std::filesystem;

std::string binaryStl(std::uint32_t declared, const std::vector<std::array<float, 9>>& triangles,
                      std::string header = "made for a test") {
    header.resize(80, ' ');
    std::string bytes = header;
    bytes.append(reinterpret_cast<const char*>(&declared), 4);
    for (const auto& t : triangles) {
        bytes.append(12, '\0');
        bytes.append(reinterpret_cast<const char*>(t.data()), 36);
        bytes.append(2, '\0');
    }
    return bytes;
}
const std::array<float, 9> oneTriangle = {0, 0, 0, 1, 0, 0, 0, 1, 0};

io::Surface readGood(const std::string& bytes) {
    auto surface = readSurface(bytes, "test", silent());
    EXPECT_TRUE(surface.has_value()) << (surface ? "" : surface.error().message);
    if (!surface) return {};
    EXPECT_EQ(mesh::validate(surface->mesh), "");
    return std::move(*surface);
}

std::string errorOf(const std::string& bytes) {
    const auto surface = readSurface(bytes, "test", silent());
    EXPECT_FALSE(surface.has_value());
    return surface ? "" : surface.error().message;
}

// ---- STL, binary

TEST(StlBinary, ReadsTrianglesAndJoinsExactly) {
    const auto s = readGood(binaryStl(2, {oneTriangle, {1, 0, 0, 1, 1, 0, -0.0F, 1, 0}}));
    EXPECT_EQ(s.format, &io::stlBinary);
    EXPECT_EQ(s.mesh.positions.size(), 4U);
    EXPECT_EQ(s.mesh.triangles[1], (mesh::Triangle{1, 3, 2}));
    EXPECT_TRUE(s.remarks.empty());
}

TEST(StlBinary, HeaderThatBeginsWithSolid) {
    const auto s = readGood(binaryStl(1, {oneTriangle}, "solid but binary all the same"));
    EXPECT_EQ(s.format, &io::stlBinary);
    EXPECT_EQ(s.mesh.triangles.size(), 1U);
}

TEST(StlBinary, CountsThatLie) {
    const auto tooMany = readGood(binaryStl(4'000'000'000U, {oneTriangle, oneTriangle}));
    EXPECT_EQ(tooMany.mesh.triangles.size(), 2U);
    EXPECT_EQ(tooMany.remarks.front(),
              "The header declares 4000000000 triangles but the file ends at byte 184, after 2: those were read");
    const auto tooFew = readGood(binaryStl(1, {oneTriangle, oneTriangle}));
    EXPECT_EQ(tooFew.mesh.triangles.size(), 2U);
    EXPECT_EQ(tooFew.remarks.front(), "The header declares 1 triangles but the file holds 2: all were read");
}

TEST(Remarks, SayThatAPartIsTooFarFromTheOriginForItsFormat) {
    const TemporaryFolder folder;
    const auto remarksOf = [&](double away) {
        Mesh m = sphere(0.5);
        for (Point& p : m.positions) p += Point(away, 0, 0);
        const auto file = folder / "far.stl";
        EXPECT_TRUE(io::writeSurface(m, file, {io::stlBinary}, silent()));
        return io::readSurface(file, silent())->remarks;
    };
    EXPECT_TRUE(remarksOf(10).empty());
    ASSERT_EQ(remarksOf(1e6).size(), 1U);
    EXPECT_EQ(remarksOf(1e6).front().find("Far from the origin: coordinates of 32 bits, as STL has them, come in steps "
                                          "of 0.0625 here"),
              0U);
    EXPECT_NE(remarksOf(1e6).front().find("Shifted by (-1e+06, 0, 0)"), std::string::npos) << remarksOf(1e6).front();
}

TEST(Remarks, SayThatScatteredTrianglesWereNumberedAnewAndOnlyThen) {
    const TemporaryFolder folder;
    Mesh scattered = fromSoup(rig::casing(120'000));
    const std::size_t count = scattered.triangles.size();
    ASSERT_EQ(std::gcd(count, std::size_t{38'197}), 1U);
    const Mesh given = scattered;
    for (std::size_t t = 0; t < count; ++t) scattered.triangles[t] = given.triangles[38'197 * t % count];
    for (const Format* format : {&io::stlBinary, &io::plyBinaryLittle}) {
        const auto file = folder / ("part" + std::string(format->extension));
        ASSERT_TRUE(io::writeSurface(scattered, file, {*format}, silent()));
        const auto read = io::readSurface(file, silent());
        ASSERT_EQ(read->remarks.size(), 1U);
        EXPECT_EQ(read->remarks.front().find("Its triangles lie in no order"), 0U);
        EXPECT_EQ(read->mesh.triangles.size(), count);
        // Written, it lies in order and keeps its numbers.
        ASSERT_TRUE(io::writeSurface(read->mesh, file, {*format}, silent()));
        const auto again = io::readSurface(file, silent());
        EXPECT_TRUE(again->remarks.empty());
        EXPECT_TRUE(mesh::isSameSurface(again->mesh, read->mesh));
        EXPECT_NEAR(measure::massOf(again->mesh).volume, measure::massOf(given).volume,
                    1e-9 * measure::massOf(given).volume);
    }
}

TEST(StlBinary, CutOffMidway) {
    std::string bytes = binaryStl(3, {oneTriangle, oneTriangle, oneTriangle});
    bytes.resize(bytes.size() - 20);
    EXPECT_EQ(readGood(bytes).mesh.triangles.size(), 2U);
}

TEST(StlBinary, ZeroTriangles) {
    EXPECT_EQ(errorOf(binaryStl(0, {})),
              "test: binary STL with no triangle: its header declares 0, and the data ends at byte 84");
}

TEST(StlBinary, NotFiniteCornersAreLeftOutAndCounted) {
    const float nan = std::numeric_limits<float>::quiet_NaN();
    const float inf = std::numeric_limits<float>::infinity();
    const auto s = readGood(binaryStl(3, {{nan, 0, 0, 1, 0, 0, 0, 1, 0}, oneTriangle, {0, 0, inf, 1, 0, 0, 0, 1, 0}}));
    EXPECT_EQ(s.mesh.triangles.size(), 1U);
    EXPECT_EQ(s.unusableTriangles, 2U);
    EXPECT_EQ(s.remarks.front(), "2 triangles were left out: a corner is not a finite number or does not exist");
    EXPECT_EQ(errorOf(binaryStl(1, {{nan, 0, 0, 1, 0, 0, 0, 1, 0}})),
              "test: none of its 1 triangles has three finite corners");
}

// ---- STL, ASCII

const char* const asciiStl =
    "solid lid\n facet normal 0 0 1\n  outer loop\n   vertex 0 0 0\n   vertex 1 0 0\n   vertex 0 1 0\n  endloop\n "
    "endfacet\nendsolid lid\n";

TEST(StlAscii, SeveralSolidsAreRegions) {
    std::string text = asciiStl;
    text +=
        "solid base plate\n facet normal 0 0 1\n  outer loop\n   vertex 0 0 1\n   vertex 1 0 1\n   vertex 0 1 1\n  "
        "endloop\n endfacet\nendsolid\n";
    const auto s = readGood(text);
    EXPECT_EQ(s.format, &io::stlAscii);
    EXPECT_EQ(s.mesh.regionNames, (std::vector<std::string>{"lid", "base plate"}));
    EXPECT_EQ(s.mesh.regions, (std::vector<std::uint32_t>{0, 1}));
}

TEST(StlAscii, UpperCaseAndCarriageReturns) {
    std::string text;
    for (const char* c = asciiStl; *c; ++c)
        text += *c == '\n' ? std::string("\r\n") : std::string(1, static_cast<char>(std::toupper(*c)));
    EXPECT_EQ(readGood(text).mesh.triangles.size(), 1U);
}

TEST(StlAscii, DecimalsAreRoundedTo32Bits) {
    std::string text = asciiStl;
    text.replace(text.find("1 0 0\n   vertex 0 1"), 5, "0.1 0 0");
    const auto s = readGood(text);
    EXPECT_EQ(s.mesh.positions[1].x(), static_cast<double>(0.1F));
}

TEST(StlAscii, UnreadableFacetsAreLeftOutWithTheirLine) {
    std::string text = std::string(asciiStl) +
                       "solid more\n facet normal 0 0 1\n  outer loop\n   vertex 0 zero 0\n   vertex 1 0 0\n   vertex "
                       "0 1 0\n  endloop\n endfacet\nendsolid\n";
    const auto s = readGood(text);
    EXPECT_EQ(s.mesh.triangles.size(), 1U);
    EXPECT_EQ(s.unusableTriangles, 1U);
    EXPECT_NE(s.remarks[1].find("line 11"), std::string::npos) << s.remarks[1];
}

TEST(StlAscii, EmptySolidAndCutOff) {
    EXPECT_NE(errorOf("solid nothing\nendsolid nothing\n").find("ASCII STL with no facet"), std::string::npos);
    std::string text = std::string(asciiStl) + asciiStl;
    text.resize(text.size() - 70);
    EXPECT_EQ(readGood(text).mesh.triangles.size(), 1U);
}

TEST(StlAscii, ManyFacetsInParallelEqualTheWriter) {
    Mesh m = sphere(10, 160, 120);
    m.regionNames = {"north", "south"};
    m.regions.resize(m.triangles.size());
    for (std::size_t t = 0; t < m.regions.size(); ++t) m.regions[t] = t > m.regions.size() / 2;
    TemporaryFolder folder;
    const auto file = folder / "big.stl";
    ASSERT_TRUE(io::writeSurface(m, file, {io::stlAscii}, silent()));
    ASSERT_GT(fs::file_size(file), 3U << 20);  // several stretches
    const auto s = readSurface(file, silent());
    ASSERT_TRUE(s);
    EXPECT_EQ(s->mesh.triangles.size(), m.triangles.size());
    EXPECT_EQ(s->mesh.regions, m.regions);
    EXPECT_EQ(measure::keptOf(m, s->mesh).share, 1);
    const auto again = withOneThread([&] { return readSurface(file, silent()); });
    EXPECT_EQ(again->mesh.triangles, s->mesh.triangles);
}

// ---- OBJ

TEST(Obj, PolygonsNegativeIndicesAndGroups) {
    const auto s = readGood(
        "# a comment\nv 0 0 0\nv 1 0 0\nv 1 1 0\nv 0 1 0\ng plate\nf 1/1/1 2//2 3 4\nv 0 0 1\nv 1 0 1\nv 0 1 1\ng "
        "lid\nf -3 -2 -1\n");
    EXPECT_EQ(s.format, &io::obj);
    ASSERT_EQ(s.mesh.triangles.size(), 3U);
    EXPECT_EQ(s.mesh.regionNames, (std::vector<std::string>{"plate", "lid"}));
    EXPECT_EQ(s.mesh.regions, (std::vector<std::uint32_t>{0, 0, 1}));
    EXPECT_EQ(s.mesh.corner(2, 0), Point(0, 0, 1));
}

TEST(Obj, ConcavePolygonIsNotFoldedOverItself) {
    const auto s = readGood("v 0 0 0\nv 4 0 0\nv 4 4 0\nv 2 1 0\nv 0 4 0\nf 1 2 3 4 5\n");
    ASSERT_EQ(s.mesh.triangles.size(), 3U);
    for (mesh::TriangleId t = 0; t < 3; ++t) EXPECT_GT(mesh::areaVector(s.mesh, t).z(), 0);
}

TEST(Obj, KeepsAll64Bits) {
    const auto s = readGood("v 0.1 0 0\nv 1.0000000000000002 0 0\nv 0 1e-300 5\nf 1 2 3\n");
    EXPECT_EQ(s.mesh.positions[0].x(), 0.1);
    EXPECT_EQ(s.mesh.positions[1].x(), 1.0000000000000002);
}

TEST(Obj, IndicesOutOfRangeAreCounted) {
    const auto s = readGood("v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\nf 1 2 99\nf 1 2 -8\nf 0 1 2\n");
    EXPECT_EQ(s.mesh.triangles.size(), 1U);
    EXPECT_EQ(s.unusableTriangles, 3U);
    EXPECT_EQ(errorOf("v 0 0 0\nf 1 2 3\n"), "test: OBJ text with 1 vertices but no usable face");
}

TEST(Obj, JoinsEqualVerticesAndContinuedLines) {
    const auto s = readGood("v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 0\nv 0 0 1\nf 1 2 \\\n3\nf 4 3 5\n");
    EXPECT_EQ(s.mesh.triangles.size(), 2U);
    EXPECT_EQ(s.mesh.positions.size(), 4U);
}

TEST(Obj, BadNumberNamesTheLine) {
    const auto s = readGood("v 0 0 0\nv 1 x 0\nv 0 1 0\nv 1 1 0\nf 1 3 4\nf 1 2 3\n");
    EXPECT_EQ(s.mesh.triangles.size(), 1U);
    EXPECT_NE(s.remarks[1].find("the first is line 2"), std::string::npos);
}

// ---- PLY

std::string plyHeader(const std::string& format, int vertices, int faces, const std::string& type = "float") {
    return "ply\nformat " + format + " 1.0\nelement vertex " + std::to_string(vertices) + "\nproperty " + type +
           " x\nproperty " + type + " y\nproperty " + type + " z\nproperty uchar quality\nelement face " +
           std::to_string(faces) + "\nproperty list uchar int vertex_indices\nend_header\n";
}

TEST(Ply, Ascii) {
    const auto s = readGood(plyHeader("ascii", 4, 1, "double") + "0 0 0 9\n0.1 0 0 9\n1 1 0 9\n0 1 0 9\n4 0 1 2 3\n");
    EXPECT_EQ(s.format, &io::plyAscii);
    EXPECT_EQ(s.mesh.triangles.size(), 2U);
    EXPECT_EQ(s.mesh.positions[1].x(), 0.1);
}

template <class T>
void appendBytes(std::string& out, T value, bool big) {
    char raw[sizeof(T)];
    std::memcpy(raw, &value, sizeof(T));
    if (big) std::reverse(raw, raw + sizeof(T));
    out.append(raw, sizeof(T));
}

TEST(Ply, BothBinaryByteOrders) {
    for (const bool big : {false, true}) {
        const std::string header = plyHeader(big ? "binary_big_endian" : "binary_little_endian", 3, 1);
        std::string bytes = header;
        for (const auto& vertex : {std::array{0.0F, 0.0F, 0.0F}, {1.5F, 0.0F, 0.0F}, {0.0F, 1.0F, 0.0F}}) {
            for (float c : vertex) appendBytes(bytes, c, big);
            bytes += '\7';  // the quality, which is passed over
        }
        bytes += '\3';
        for (int i : {0, 1, 2}) appendBytes(bytes, i, big);
        const auto s = readGood(bytes);
        EXPECT_EQ(s.format, big ? &io::plyBinaryBig : &io::plyBinaryLittle);
        ASSERT_EQ(s.mesh.triangles.size(), 1U);
        EXPECT_EQ(s.mesh.corner(0, 1), Point(1.5, 0, 0));
        bytes.resize(bytes.size() - 3);
        EXPECT_NE(errorOf(bytes).find("no usable face; the data ends"), std::string::npos);
    }
}

TEST(Ply, CountsThatLieAndIndicesOutOfRange) {
    const auto s = readGood(plyHeader("ascii", 3, 4000000) + "0 0 0 1\n1 0 0 1\n0 1 0 1\n3 0 1 2\n3 0 1 7\n");
    EXPECT_EQ(s.mesh.triangles.size(), 1U);
    EXPECT_EQ(s.unusableTriangles, 1U);
    EXPECT_NE(s.remarks[1].find("within element 'face' of 4000000"), std::string::npos);
}

TEST(Ply, BadHeaders) {
    EXPECT_EQ(errorOf("ply\nformat tablet 1.0\n"), "test: PLY header, line 2: unknown format 'tablet'");
    EXPECT_EQ(errorOf("ply\nformat ascii 1.0\nelement vertex many\n"), "test: PLY header, line 3: 'many' is no count");
    EXPECT_EQ(errorOf("ply\nformat ascii 1.0\n"), "test: PLY header, line 3: the file ends before end_header");
}

// ---- hostile input of any kind

TEST(Reading, EmptyFile) {
    EXPECT_EQ(errorOf(""), "test: the file is empty (0 bytes)");
}

TEST(Reading, RandomBytesAreRefusedOrReadButNeverCrash) {
    rig::Random random(31);
    for (int round = 0; round < 300; ++round) {
        std::string bytes(random.below(4000), '\0');
        for (char& c : bytes) c = static_cast<char>(random.below(256));
        const auto s = readSurface(bytes, "test", silent());
        ASSERT_FALSE(s.has_value());
        EXPECT_FALSE(s.error().message.empty());
    }
}

TEST(Reading, DamagedFilesNeverCrashAndAlwaysValidate) {
    rig::Random random(32);
    const std::vector<std::string> originals = {asciiStl, "v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n",
                                                plyHeader("ascii", 3, 1) + "0 0 0 1\n1 0 0 1\n0 1 0 1\n3 0 1 2\n",
                                                binaryStl(2, {oneTriangle, oneTriangle})};
    for (int round = 0; round < 4000; ++round) {
        std::string bytes = originals[random.below(originals.size())];
        for (std::size_t hits = 1 + random.below(4); hits > 0; --hits) {
            const std::size_t at = random.below(bytes.size());
            if (random.below(3) == 0)
                bytes.resize(at + 1);
            else
                bytes[at] = static_cast<char>(random.below(3) ? random.below(128) : random.below(256));
        }
        if (const auto s = readSurface(bytes, "test", silent())) {
            ASSERT_EQ(mesh::validate(s->mesh), "");
            ASSERT_FALSE(s->mesh.triangles.empty());
        }
    }
}

TEST(Reading, FolderMissingAndForbidden) {
    TemporaryFolder folder;
    EXPECT_NE(readSurface(folder.path(), silent()).error().message.find("this is a folder, not a file"),
              std::string::npos);
    EXPECT_NE(readSurface(folder / "none.stl", silent()).error().message.find("could not open: No such file"),
              std::string::npos);
    const auto file = folder / "secret.stl";
    writeText(file, asciiStl);
    fs::permissions(file, fs::perms::none);
    fs::permissions(folder.path(), fs::perms::all);
    // Root may read everything, so another user tries.
    const pid_t child = fork();
    if (child == 0) {
        if (geteuid() == 0 && setuid(65534) != 0) _exit(3);
        const auto s = readSurface(file, silent());
        _exit(!s && s.error().message.find("Permission denied") != std::string::npos ? 0 : 1);
    }
    int status = 0;
    waitpid(child, &status, 0);
    EXPECT_EQ(WEXITSTATUS(status), 0);
}

TEST(Reading, CancelledAtAnyTickGivesCancelled) {
    const std::string bytes = binaryStl(1, {oneTriangle});
    for (int tick = 1; tick < 50; ++tick) {
        CancelAtTick progress(tick);
        const auto s = readSurface(bytes, "test", progress);
        if (s) return;
        EXPECT_TRUE(s.error().cancelled());
    }
    FAIL() << "never got through";
}

// ---- writing

TEST(Writing, EveryFormatReadsBackAsWritten) {
    TemporaryFolder folder;
    const Mesh m = fromSoup(rig::sphere(Point(0.1, 0.2, 0.3), 7.7, 20, 11));
    for (const Format& format : io::formats()) {
        if (format.extension.empty() && &format != &io::stlAscii) continue;
        const auto file = folder / std::string(format.name);
        ASSERT_TRUE(io::writeSurface(m, file, {format}, silent()));
        const auto s = readSurface(file, silent());
        ASSERT_TRUE(s) << format.name;
        EXPECT_EQ(s->format, &format);
        EXPECT_EQ(measure::keptOf(m, s->mesh).share, 1) << format.name;
        EXPECT_EQ(s->mesh.positions.size(), m.positions.size());
    }
}

TEST(Writing, DoublesSurviveWhereTheFormatHoldsThem) {
    TemporaryFolder folder;
    Mesh m = unitBox();
    for (Point& p : m.positions) p = p * 0.1 + Point::Constant(1e-9);
    for (const Format* kind : {&io::obj, &io::plyBinaryLittle}) {
        const Format& format = *kind;
        const auto file = folder / "doubles";
        ASSERT_TRUE(io::writeSurface(m, file, {format}, silent()));
        EXPECT_EQ(measure::keptOf(m, readSurface(file, silent())->mesh).share, 1);
    }
}

TEST(Writing, FormatByExtension) {
    EXPECT_EQ(io::formatForWriting("a/b.STL"), &io::stlBinary);
    EXPECT_EQ(io::formatForWriting("b.obj"), &io::obj);
    EXPECT_EQ(io::formatForWriting("b.ply"), &io::plyBinaryLittle);
    EXPECT_FALSE(io::formatForWriting("b.txt"));
    EXPECT_FALSE(io::formatForWriting("b"));
}

TEST(Writing, CoordinatesBeyondFloatAreRefused) {
    TemporaryFolder folder;
    Mesh m = unitBox();
    m.positions[7] *= 1e39;
    const auto written = io::writeSurface(m, folder / "far.stl", {io::stlBinary}, silent());
    ASSERT_FALSE(written);
    EXPECT_NE(written.error().message.find("write OBJ or PLY instead"), std::string::npos);
    EXPECT_FALSE(fs::exists(folder / "far.stl"));
}

TEST(Writing, AFullDiskLeavesTheOldFile) {
    TemporaryFolder folder;
    const auto file = folder / "part.stl";
    writeText(file, "precious");
    const pid_t child = fork();
    if (child == 0) {
        std::signal(SIGXFSZ, SIG_IGN);
        const rlimit limit{1000, 1000};
        setrlimit(RLIMIT_FSIZE, &limit);
        const auto written = io::writeSurface(sphere(), file, {io::stlBinary}, silent());
        _exit(!written && written.error().message.find("could not write") != std::string::npos ? 0 : 1);
    }
    int status = 0;
    waitpid(child, &status, 0);
    EXPECT_EQ(WEXITSTATUS(status), 0);
    EXPECT_EQ(*io::readBytes(file), "precious");
    EXPECT_EQ(filesIn(folder.path()), 1U);
}

TEST(Writing, UnwritablePlacesAndFolders) {
    TemporaryFolder folder;
    EXPECT_NE(io::writeSurface(unitBox(), "/proc/zither.stl", {io::stlBinary}, silent())
                  .error()
                  .message.find("could not write in this folder"),
              std::string::npos);
    EXPECT_NE(io::writeSurface(unitBox(), folder / "no/where.stl", {io::stlBinary}, silent())
                  .error()
                  .message.find("could not write in this folder"),
              std::string::npos);
    EXPECT_NE(
        io::writeSurface(unitBox(), folder.path(), {io::stlBinary}, silent()).error().message.find("this is a folder"),
        std::string::npos);
}

TEST(Writing, CancelledLeavesNothingBehind) {
    TemporaryFolder folder;
    const auto file = folder / "part.stl";
    writeText(file, "precious");
    CancelAtTick progress(1);
    const auto written = io::writeSurface(sphere(), file, {io::stlBinary}, progress);
    ASSERT_FALSE(written);
    EXPECT_TRUE(written.error().cancelled());
    EXPECT_EQ(*io::readBytes(file), "precious");
    EXPECT_EQ(filesIn(folder.path()), 1U);
}

TEST(Writing, KeepsTheModeOfAFileThatItReplaces) {
    TemporaryFolder folder;
    const auto file = folder / "part.stl";
    writeText(file, "old");
    fs::permissions(file, fs::perms::owner_read | fs::perms::owner_write);
    ASSERT_TRUE(io::writeBytes(file, "new"));
    EXPECT_EQ(fs::status(file).permissions(), fs::perms::owner_read | fs::perms::owner_write);
}

// ---- OFF and 3MF

TEST(Off, ReadsVariantsAndSaysWhatIsWrong) {
    const auto read = [](const std::string& text) { return io::readSurface(text, "a.off", silent()); };
    const auto plain = read("OFF\n# a square\n4 1 0\n0 0 0\n1 0 0\n1 1 0\n0 1 0\n4 0 1 2 3 255 0 0\n");
    ASSERT_TRUE(plain) << plain.error().message;
    EXPECT_EQ(plain->format, &io::off);
    EXPECT_EQ(plain->mesh.triangles.size(), 2U);
    const auto coloured = read("COFF 3 1 3\n0 0 0 1 0 0 1\n1 0 0 1 0 0 1\n0 1 0 1 0 0 1\n3 0 1 2\n");
    ASSERT_TRUE(coloured) << coloured.error().message;
    EXPECT_EQ(coloured->mesh.positions.size(), 3U);
    EXPECT_EQ(read("OFF\n3 2 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n3 0 1 7\n")->unusableTriangles, 1U);
    EXPECT_EQ(read("OFF\n3 9 0\n0 0 0\n1 0 0\n0 1 0\n3 0 1 2\n")->remarks.back(), "the file ends 8 faces early");
    EXPECT_NE(read("OFF\n5 1 0\n0 0 0\n").error().message.find("ends after 1 of 5 vertices"), std::string::npos);
    EXPECT_NE(read("OFF BINARY\n1234").error().message.find("binary OFF"), std::string::npos);
    EXPECT_NE(read("4OFF\n1 1 0\n0 0 0 0\n").error().message.find("three dimensions"), std::string::npos);
}

TEST(ThreeMf, ObjectsNamesAndUnitsGoBothWays) {
    TemporaryFolder folder;
    Mesh m = together(unitBox(), box(Point(3, 0, 0), Point(4, 1.25, 1)));
    m.regions.assign(24, 0);
    std::fill(m.regions.begin() + 12, m.regions.end(), 1U);
    m.regionNames = {"hub & <cap>", "nacelle"};
    const auto file = folder / "two.3mf";
    ASSERT_TRUE(io::writeSurface(m, file, {io::threeMf, "in"}, silent()));
    const auto back = io::readSurface(file, silent());
    ASSERT_TRUE(back) << back.error().message;
    EXPECT_EQ(back->unit, "in");
    EXPECT_EQ(back->mesh.regionNames, m.regionNames);
    EXPECT_EQ(back->mesh.regions, m.regions);
    EXPECT_EQ(measure::keptOf(m, back->mesh).share, 1);
    const std::string bytes = *io::readBytes(file);
    ASSERT_TRUE(io::writeSurface(m, file, {io::threeMf, "in"}, silent()));
    EXPECT_EQ(*io::readBytes(file), bytes);
    // Regions of one body stay together, whatever is beside it.
    m.regionNames = {"wall", "lid", "nacelle"};
    for (std::size_t t = 0; t < m.regions.size(); ++t) m.regions[t] = t >= 12 ? 2 : t < 2 ? 1 : 0;
    ASSERT_TRUE(io::writeSurface(m, file, {io::threeMf, "mm"}, silent()));
    const auto bodies = io::readSurface(file, silent());
    ASSERT_TRUE(bodies);
    EXPECT_EQ(bodies->mesh.regionNames, (std::vector<std::string>{"wall, lid", "nacelle"}));
    EXPECT_EQ(std::count(bodies->mesh.regions.begin(), bodies->mesh.regions.end(), 1U), 12);
}

// A package as other programs write it: a component that is turned and moved, in another model file, in inches.
std::string handMadePackage(const std::filesystem::path& file, bool circular) {
    const std::string tetrahedron =
        "<mesh><vertices><vertex x='0' y='0' z='0'/><vertex x='1' y='0' z='0'/><vertex x='0' y='1' z='0'/><vertex "
        "x='0' "
        "y='0' z='1'/></vertices><triangles><triangle v1='0' v2='2' v3='1'/><triangle v1='0' v2='1' v3='3'/><triangle "
        "v1='1' v2='2' v3='3'/><triangle v1='0' v2='3' v3='2'/></triangles></mesh>";
    const std::string other =
        "<?xml version='1.0'?><model unit='millimeter'><resources><object id='7' name='spinner'>" + tetrahedron +
        "</object></resources><build/></model>";
    const std::string root =
        "<?xml version='1.0'?><model unit='inch'><resources><object id='1' name='hub'>" + tetrahedron +
        "</object><object id='2'><components><component objectid='1' transform='0 1 0 -1 0 0 0 0 1 10 20 30'/>"
        "<component p:path='/3D/other.model' objectid='7'/>" +
        (circular ? std::string("<component objectid='2'/>") : std::string()) +
        "</components></object></resources><build><item objectid='2' transform='1 0 0 0 1 0 0 0 1 0 0 5'/><item "
        "objectid='1'/></build></model>";
    const std::string relations =
        "<Relationships><Relationship Target='/3D/root.model' Id='r' "
        "Type='http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel'/></Relationships>";
    zip_t* zip = zip_open(file.c_str(), ZIP_CREATE | ZIP_TRUNCATE, nullptr);
    for (const auto& [name, content] :
         {std::pair{"3D/other.model", &other}, {"3D/root.model", &root}, {"_rels/.rels", &relations}})
        zip_file_add(zip, name, zip_source_buffer(zip, content->data(), content->size(), 0), ZIP_FL_ENC_UTF_8);
    EXPECT_EQ(zip_close(zip), 0);
    return *io::readBytes(file);
}

TEST(ThreeMf, ComponentsAreTurnedMovedAndFoundInOtherFiles) {
    TemporaryFolder folder;
    const auto read = io::readSurface(handMadePackage(folder / "a.3mf", false), "a.3mf", silent());
    ASSERT_TRUE(read) << read.error().message;
    EXPECT_EQ(read->unit, "in");
    EXPECT_EQ(read->mesh.triangles.size(), 12U);
    EXPECT_EQ(read->mesh.regionNames, (std::vector<std::string>{"hub", "spinner", "hub"}));
    const auto s = surveyed(read->mesh);
    EXPECT_EQ(s.counts.shells, 3U);
    EXPECT_TRUE(s.watertight);
    EXPECT_NEAR(s.mass.volume, 0.5, 1e-12);
    // x goes to y and y to minus x, then (10, 20, 30), then 5 up.
    EXPECT_EQ(s.mass.size.max, Point(10, 21, 36));
}

TEST(ThreeMf, ObjectsThatHoldThemselvesComeToAnEnd) {
    TemporaryFolder folder;
    const auto read = io::readSurface(handMadePackage(folder / "a.3mf", true), "a.3mf", silent());
    ASSERT_TRUE(read);
    EXPECT_FALSE(read->remarks.empty());
}

TEST(ThreeMf, RegionsOfOneSurfaceStayOneObject) {
    TemporaryFolder folder;
    Mesh m = unitBox();
    m.regions = {0, 0, 0, 0, 0, 0, 1, 1, 1, 1, 1, 1};
    m.regionNames = {"a", "b"};
    ASSERT_TRUE(io::writeSurface(m, folder / "one.3mf", {io::threeMf}, silent()));
    const auto back = io::readSurface(folder / "one.3mf", silent());
    ASSERT_TRUE(back);
    EXPECT_TRUE(back->mesh.regions.empty());
    EXPECT_TRUE(surveyed(back->mesh).solid);
}

TEST(ThreeMf, DamagedPackagesGiveAMessage) {
    TemporaryFolder folder;
    ASSERT_TRUE(io::writeSurface(sphere(), folder / "s.3mf", {io::threeMf}, silent()));
    const std::string bytes = *io::readBytes(folder / "s.3mf");
    for (const std::size_t length : {std::size_t{4}, bytes.size() / 3, bytes.size() - 1}) {
        const auto cut = io::readSurface(bytes.substr(0, length), "s.3mf", silent());
        ASSERT_FALSE(cut) << length;
        EXPECT_NE(cut.error().message.find("s.3mf"), std::string::npos);
    }
}

// ---- what is there already

TEST(AtomicFiles, ALinkStaysAndWhatItLeadsToIsWritten) {
    const TemporaryFolder folder;
    const auto real = folder / "real.txt";
    const auto link = folder / "link.txt";
    ASSERT_TRUE(io::writeBytes(real, "old"));
    std::filesystem::create_symlink("real.txt", link);
    ASSERT_TRUE(io::writeBytes(link, "new"));
    EXPECT_TRUE(std::filesystem::is_symlink(link));
    EXPECT_EQ(*io::readBytes(real), "new");
    // One that leads to nothing yet is written there.
    std::filesystem::create_symlink("later.txt", folder / "ahead.txt");
    ASSERT_TRUE(io::writeBytes(folder / "ahead.txt", "there"));
    EXPECT_EQ(*io::readBytes(folder / "later.txt"), "there");
    std::filesystem::create_symlink("round.txt", folder / "round.txt");
    const auto round = io::writeBytes(folder / "round.txt", "x");
    ASSERT_FALSE(round);
    EXPECT_NE(round.error().message.find("this link leads round in a circle"), std::string::npos);
}

TEST(AtomicFiles, AFileWithoutWritePermissionIsNotReplaced) {
    const TemporaryFolder folder;
    const auto file = folder / "mine.txt";
    ASSERT_TRUE(io::writeBytes(file, "old"));
    std::filesystem::permissions(file, std::filesystem::perms::owner_read);
    const auto written = io::writeBytes(file, "new");
    ASSERT_FALSE(written);
    EXPECT_NE(written.error().message.find("mine.txt: this file is write-protected, and was left as it was"),
              std::string::npos);
    EXPECT_EQ(*io::readBytes(file), "old");
    EXPECT_EQ(filesIn(folder.path()), 1U);
}

TEST(Obj, ObjectsComeBackAsObjectsAndGroupsAsGroups) {
    const auto back = [](const std::string& text) {
        const TemporaryFolder folder;
        const auto surface = io::readSurface(text, "o.obj", silent());
        EXPECT_TRUE(surface);
        EXPECT_TRUE(io::writeSurface(surface.value().mesh, folder / "o.obj", {io::obj}, silent()));
        std::string kept;
        std::istringstream lines(*io::readBytes(folder / "o.obj"));
        for (std::string line; std::getline(lines, line);)
            if (line.starts_with("o ") || line.starts_with("g ")) kept += line + "\n";
        return kept;
    };
    const std::string corners = "v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\n";
    EXPECT_EQ(back(corners + "o one\nf 1 3 2\no two\nf 1 2 4\n"), "o one\no two\n");
    EXPECT_EQ(back(corners + "g one\nf 1 3 2\ng two\nf 1 2 4\n"), "g one\ng two\n");
    EXPECT_EQ(back(corners + "o whole\nf 1 3 2\nf 1 2 4\n"), "o whole\n");
    EXPECT_EQ(back(corners + "o whole\ng one\nf 1 3 2\ng two\nf 1 2 4\n"), "g one\ng two\n");
    EXPECT_EQ(back(corners + "f 1 3 2\n"), "");
}

TEST(Stl, PiecesWithoutNamesAreNoNamesThatAreLost) {
    const std::string facet =
        "facet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\n";
    const auto surface =
        io::readSurface("solid\n" + facet + "endsolid\nsolid\n" + facet + "endsolid\n", "two.stl", silent());
    ASSERT_TRUE(surface);
    for (const std::string& lost : io::lossesOf(surface->mesh, {io::stlBinary}))
        EXPECT_EQ(lost.find("names of"), std::string::npos) << lost;
}

}  // namespace
}  // namespace zither::tests
