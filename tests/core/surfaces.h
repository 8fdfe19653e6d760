// Small surfaces and helpers that many tests use.
#pragma once

#include <gtest/gtest.h>
#include <tbb/global_control.h>

#include <filesystem>
#include <fstream>
#include <string>

#include "check/catalogue.h"
#include "check/surveyed.h"
#include "demo/shapes.h"
#include "measure/deviation.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "space/cell_grid.h"
#include "space/triangle_tree.h"

namespace zither::tests {

using mesh::Mesh;
using mesh::Point;

inline mesh::SilentProgress& silent() {
    static mesh::SilentProgress progress;
    return progress;
}

// Says stop at the given call.
class CancelAtTick final : public mesh::Progress {
public:
    explicit CancelAtTick(int tick) : left_(tick) {}
    [[nodiscard]] bool report(double) override { return --left_ > 0; }

private:
    std::atomic<int> left_;
};

// Each triangle with vertices of its own.
inline Mesh loose(const std::vector<std::array<Point, 3>>& triangles) {
    Mesh m;
    for (const auto& t : triangles) {
        const auto first = static_cast<mesh::VertexId>(m.positions.size());
        m.positions.insert(m.positions.end(), t.begin(), t.end());
        m.triangles.push_back({first, first + 1, first + 2});
    }
    return m;
}

// In 32 bits.
inline Mesh fromSoup(const rig::Soup& soup) {
    Mesh m = loose(soup.triangles);
    for (Point& p : m.positions) p = rig::rounded(p);
    mesh::joinEqualVertices(m);
    return m;
}

inline rig::Soup soupOf(const Mesh& m) {
    rig::Soup soup;
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) soup.add(m.corner(t, 0), m.corner(t, 1), m.corner(t, 2));
    return soup;
}

// A closed box, outwards, 12 triangles.
inline Mesh box(const Point& low, const Point& high) {
    Mesh m;
    for (int i = 0; i < 8; ++i)
        m.positions.emplace_back(i & 1 ? high.x() : low.x(), i & 2 ? high.y() : low.y(), i & 4 ? high.z() : low.z());
    m.triangles = {{0, 2, 1}, {1, 2, 3}, {4, 5, 6}, {5, 7, 6}, {0, 1, 4}, {1, 5, 4},
                   {2, 6, 3}, {3, 6, 7}, {0, 4, 2}, {2, 4, 6}, {1, 3, 5}, {3, 7, 5}};
    return m;
}
inline Mesh unitBox() {
    return box(Point(0, 0, 0), Point(1, 1, 1));
}
inline Mesh sphere(double radius = 10, std::size_t around = 24, std::size_t along = 12) {
    return fromSoup(rig::sphere(Point(0, 0, 0), radius, around, along));
}

// Two halves of a ball with chords of their own along the equator: stitching them moves a band of each by more than may
// be lost.
inline Mesh halvesOfABall() {
    Mesh halves;
    for (const bool upper : {true, false}) {
        const Mesh ball = sphere(9, upper ? 20 : 27, 5);
        std::vector<std::uint8_t> keep(ball.triangles.size());
        for (mesh::TriangleId t = 0; t < keep.size(); ++t) keep[t] = (mesh::centroid(ball, t).z() > 0) == upper;
        mesh::append(halves, mesh::keepTriangles(ball, keep));
    }
    return halves;
}

inline Mesh flipped(Mesh m) {
    for (auto& t : m.triangles) std::swap(t[1], t[2]);
    return m;
}
inline Mesh without(const Mesh& m, std::initializer_list<mesh::TriangleId> gone) {
    std::vector<std::uint8_t> keep(m.triangles.size(), 1);
    for (mesh::TriangleId t : gone) keep[t] = 0;
    return mesh::keepTriangles(m, keep);
}
inline Mesh together(Mesh a, const Mesh& b) {
    mesh::append(a, b);
    mesh::joinEqualVertices(a);
    return a;
}

// Random triangles with corners on a small integer grid: full of exact coincidences.
inline Mesh gridSoup(std::uint64_t seed, std::size_t triangles, int side) {
    rig::Random random(seed);
    rig::Soup soup;
    const auto corner = [&] {
        const auto c = [&] { return static_cast<double>(random.below(static_cast<std::size_t>(side))); };
        const double x = c();
        const double y = c();
        return Point(x, y, c());
    };
    for (std::size_t i = 0; i < triangles; ++i) {
        const Point a = corner();
        const Point b = corner();
        soup.add(a, b, corner());
    }
    return fromSoup(soup);
}

inline check::Survey surveyed(const Mesh& m) {
    auto survey = check::Surveyed(m).survey({}, silent());
    EXPECT_TRUE(survey.has_value());
    return **survey;
}

// A copy of the mesh of which nothing is known yet.
inline check::SurveyedPtr shared(const Mesh& m) {
    return std::make_shared<const check::Surveyed>(std::make_shared<const Mesh>(m));
}

inline mesh::Outcome<measure::Comparison> compare(const Mesh& a, const Mesh& b, mesh::Progress& progress) {
    return measure::compare({space::TriangleTree(a), mesh::Edges(a)}, {space::TriangleTree(b), mesh::Edges(b)},
                            progress);
}

// Farthest that either lies from the other, at most.
inline double farthest(const Mesh& a, const Mesh& b) {
    const auto compared = compare(a, b, silent());
    EXPECT_TRUE(compared);
    return std::max(compared->aToB.max, compared->bToA.max);
}

// Every bit of a mesh, for comparing results.
struct Bits {
    std::vector<mesh::Triangle> triangles;
    std::vector<Point> positions;
    std::vector<std::uint32_t> regions;
    explicit Bits(const Mesh& m) : triangles(m.triangles), positions(m.positions), regions(m.regions) {}
    friend bool operator==(const Bits& a, const Bits& b) {
        return a.triangles == b.triangles && a.positions == b.positions && a.regions == b.regions;
    }
};

// Every number and place of a survey.
struct SurveyBits {
    check::Counts counts;
    std::vector<check::TrianglePair> pairs;
    std::vector<std::array<double, 4>> places;
    std::vector<mesh::TriangleId> triangles;
    double volume = 0;
    explicit SurveyBits(const check::Survey& s)
        : counts(s.counts), pairs(s.crossingPairs), triangles(s.findings.triangles), volume(s.mass.volume) {
        for (const check::Finding& f : s.findings.list)
            places.push_back({f.position.x(), f.position.y(), f.position.z(), f.size});
    }
    friend bool operator==(const SurveyBits&, const SurveyBits&) = default;
};

// Everything that must hold however broken a mesh is: an assortment for fault loops.
inline std::vector<std::pair<std::string, Mesh>> uglyMeshes() {
    Mesh empty;
    Mesh collapsed;
    collapsed.positions = {Point(0, 0, 0), Point(1, 0, 0)};
    collapsed.triangles = {{0, 1, 1}};
    Mesh line;
    line.positions = {Point(0, 0, 0), Point(1, 1, 1), Point(2, 2, 2)};
    line.triangles = {{0, 1, 2}};
    Mesh one;
    one.positions = {Point(0, 0, 0), Point(1, 0, 0), Point(0, 1, 0)};
    one.triangles = {{0, 1, 2}};
    Mesh twice = one;
    twice.triangles = {{0, 1, 2}, {0, 2, 1}, {0, 1, 2}};
    Mesh flat;
    for (int y = 0; y < 5; ++y)
        for (int x = 0; x < 5; ++x) flat.positions.emplace_back(x, y, 0);
    for (mesh::VertexId y = 0; y < 4; ++y)
        for (mesh::VertexId x = 0; x < 4; ++x) {
            const mesh::VertexId v = 5 * y + x;
            flat.triangles.push_back({v, v + 1, v + 6});
            flat.triangles.push_back({v, v + 6, v + 5});
        }
    Mesh far = unitBox();
    for (Point& p : far.positions) p += Point::Constant(1e7);
    Mesh huge = unitBox();
    for (Point& p : huge.positions) p *= 1e37;
    Mesh tiny = unitBox();
    for (Point& p : tiny.positions) p *= 1e-40;
    Mesh unused = unitBox();
    unused.positions.emplace_back(5, 5, 5);
    return {{"empty", empty},
            {"collapsed", collapsed},
            {"line", line},
            {"one", one},
            {"twice", twice},
            {"flat", flat},
            {"far", far},
            {"huge", huge},
            {"tiny", tiny},
            {"unused", unused},
            {"box", unitBox()},
            {"inside out", flipped(unitBox())},
            {"open box", without(unitBox(), {3})},
            {"soup", gridSoup(5, 60, 4)},
            {"dense soup", gridSoup(6, 120, 3)},
            {"bow tie", together(box(Point(0, 0, 0), Point(1, 1, 1)), box(Point(1, 1, 1), Point(2, 2, 2)))},
            {"edge to edge", together(box(Point(0, 0, 0), Point(1, 1, 1)), box(Point(1, 1, 0), Point(2, 2, 1)))}};
}

class TemporaryFolder {
public:
    TemporaryFolder() {
        std::string name = (std::filesystem::temp_directory_path() / "zither-test-XXXXXX").string();
        path_ = mkdtemp(name.data());
    }
    ~TemporaryFolder() {
        std::error_code ignored;
        std::filesystem::remove_all(path_, ignored);
    }
    TemporaryFolder(const TemporaryFolder&) = delete;
    TemporaryFolder& operator=(const TemporaryFolder&) = delete;
    [[nodiscard]] std::filesystem::path operator/(const std::string& name) const { return path_ / name; }
    [[nodiscard]] const std::filesystem::path& path() const { return path_; }

private:
    std::filesystem::path path_;
};

inline std::size_t filesIn(const std::filesystem::path& folder) {
    return static_cast<std::size_t>(
        std::distance(std::filesystem::directory_iterator(folder), std::filesystem::directory_iterator()));
}

inline void writeText(const std::filesystem::path& file, const std::string& text) {
    std::ofstream(file, std::ios::binary) << text;
}

// Long modes run where this is set in the environment.
inline bool longMode() {
    return std::getenv("ZITHER_LONG") != nullptr;
}

// Sanitizers make all some twenty times slower; they need each path once, not each seed.
#if defined(__SANITIZE_ADDRESS__) || defined(__SANITIZE_THREAD__)
inline constexpr bool sanitized = true;
#else
inline constexpr bool sanitized = false;
#endif

// How many seeds a test of generated parts runs over.
inline std::uint64_t seedsOf(std::uint64_t usual, std::uint64_t many) {
    return longMode() ? many : sanitized ? std::max<std::uint64_t>(usual / 8, 2) : usual;
}

// The value of `body` with one thread; compare with the value without this.
template <class Body>
auto withOneThread(const Body& body) {
    const tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
    return body();
}

}  // namespace zither::tests
