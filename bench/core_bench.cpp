// Reading, judging, decimating, comparing at the sizes that the issues name. Ratios are to `md5sum` of the same file,
// measured in the same run (counter "md5"). Surfaces are made on demand in the temporary folder.
#include <benchmark/benchmark.h>

#include <chrono>
#include <cmath>
#include <cstdlib>
#include <filesystem>
#include <fstream>
#include <map>
#include <numbers>

#include "check/catalogue.h"
#include "check/shell_list.h"
#include "check/surveyed.h"
#include "check/tight_shells.h"
#include "demo/rig.h"
#include "draw/paint.h"
#include "fit/fuse.h"
#include "holes/fill.h"
#include "io/surface_file.h"
#include "measure/deviation.h"
#include "measure/loss.h"
#include "measure/mass.h"
#include "project/delivery.h"
#include "shape/decimate.h"
#include "shape/remesh.h"
#include "shape/wrap.h"
#include "space/ray_scene.h"
#include "steps/automatic_repair.h"

namespace {

using namespace zither;
using Clock = std::chrono::steady_clock;

mesh::SilentProgress progress;

std::string fileOf(const char* kind, std::size_t triangles) {
    const auto file = std::filesystem::temp_directory_path() /
                      ("zither-bench-" + std::string(kind) + "-" + std::to_string(triangles) + ".stl");
    if (!std::filesystem::exists(file)) rig::writeStl(*rig::largeSurface(kind, triangles), file.string());
    return file.string();
}

double md5Seconds(const std::string& file) {
    static std::map<std::string, double> known;
    if (const auto it = known.find(file); it != known.end()) return it->second;
    double best = 1e9;
    for (int i = 0; i < 4; ++i) {  // the first warms the cache
        const auto start = Clock::now();
        if (std::system(("md5sum " + file + " > /dev/null").c_str()) != 0) return 0;
        const double seconds = std::chrono::duration<double>(Clock::now() - start).count();
        if (i > 0) best = std::min(best, seconds);
    }
    return known[file] = best;
}

// Runs body under the benchmark and reports how many md5sums of the file it takes.
template <class Body>
void measured(benchmark::State& state, const std::string& file, const Body& body) {
    const double md5 = md5Seconds(file);
    double total = 0;
    for (auto _ : state) {
        const auto start = Clock::now();
        body();
        total += std::chrono::duration<double>(Clock::now() - start).count();
    }
    state.counters["md5"] = total / static_cast<double>(state.iterations()) / md5;
}

io::Surface readFile(const std::string& file) {
    return std::move(*io::readSurface(std::filesystem::path(file), progress));
}

void readCasing(benchmark::State& state) {
    const std::string file = fileOf("casing", static_cast<std::size_t>(state.range(0)));
    measured(state, file, [&] { benchmark::DoNotOptimize(readFile(file)); });
}
BENCHMARK(readCasing)->Arg(2'000'000)->Unit(benchmark::kMillisecond);

void surveyOf(benchmark::State& state, const char* kind) {
    const std::string file = fileOf(kind, static_cast<std::size_t>(state.range(0)));
    const io::Surface s = readFile(file);
    measured(state, file,
             [&] { benchmark::DoNotOptimize(check::Surveyed(s.mesh).survey({.sliverAngleDeg = 0}, progress)); });
}
void surveyCasing(benchmark::State& state) {
    surveyOf(state, "casing");
}
void surveyLattice(benchmark::State& state) {
    surveyOf(state, "lattice");
}
BENCHMARK(surveyCasing)->Arg(2'000'000)->Unit(benchmark::kMillisecond);
BENCHMARK(surveyLattice)->Arg(2'000'000)->Unit(benchmark::kMillisecond);

// The survey without self-intersections: the topological counts alone.
void topologyCasing(benchmark::State& state) {
    const std::string file = fileOf("casing", static_cast<std::size_t>(state.range(0)));
    const io::Surface s = readFile(file);
    measured(state, file, [&] {
        const check::Surveyed around(s.mesh);
        check::Survey survey;
        for (const check::DefectClass defect : check::catalogue())
            if (!defect->afterOthers && !defect->byOptions)
                benchmark::DoNotOptimize(defect->run(around, {}, survey, progress));
        benchmark::DoNotOptimize(check::shellList(around, {}, progress));
    });
}
BENCHMARK(topologyCasing)->Arg(2'000'000)->Unit(benchmark::kMillisecond);

void checkWhole(benchmark::State& state, const char* kind) {
    const std::string file = fileOf(kind, 2'000'000);
    measured(state, file, [&] {
        const io::Surface s = readFile(file);
        benchmark::DoNotOptimize(check::Surveyed(s.mesh).survey({.sliverAngleDeg = 0}, progress));
    });
}
BENCHMARK_CAPTURE(checkWhole, casing, "casing")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(checkWhole, lattice, "lattice")->Unit(benchmark::kMillisecond)->UseRealTime();

// Read, fused, settled, written, read back and checked; the counters say what came out.
void fuseToFile(benchmark::State& state, const char* kind) {
    const std::string file = fileOf(kind, static_cast<std::size_t>(state.range(0)));
    const std::string out = file + ".fused.stl";
    measured(state, file, [&] {
        const io::Surface s = readFile(file);
        const auto start = Clock::now();
        const auto fused = fit::fuse(s.mesh, mesh::Pick(), {}, progress);
        state.counters["fuse_s"] = std::chrono::duration<double>(Clock::now() - start).count();
        if (!io::writeSurface(fused->mesh, out, {io::stlBinary}, progress)) state.SkipWithError("not written");
        const io::Surface written = readFile(out);
        const auto back = *check::Surveyed(written.mesh).survey({.sliverAngleDeg = 0}, progress);
        state.counters["solid"] = back->solid;
        state.counters["shells"] = static_cast<double>(back->counts.shells);
        state.counters["kept"] = static_cast<double>(fused->kept) / static_cast<double>(s.mesh.triangles.size());
    });
    std::filesystem::remove(out);
}
BENCHMARK_CAPTURE(fuseToFile, lattice, "lattice")
    ->Arg(10'000)
    ->Arg(50'000)
    ->Arg(200'000)
    ->Arg(800'000)
    ->Arg(2'000'000)
    ->Iterations(1)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(fuseToFile, bossed_casing, "bossed-casing")
    ->Arg(100'000)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();

void decimateCasing(benchmark::State& state) {
    const io::Surface s = readFile(fileOf("casing", 1'200'000));
    double removed = 0;
    for (auto _ : state)
        removed += static_cast<double>(shape::decimate(s.mesh, {}, {.targetTriangles = 300'000}, progress)->removed);
    state.counters["removed/s"] = benchmark::Counter(removed, benchmark::Counter::kIsRate);
}
BENCHMARK(decimateCasing)->Unit(benchmark::kMillisecond)->UseRealTime();

// To even triangles, about as many as come in.
void remeshCasing(benchmark::State& state) {
    const io::Surface s = readFile(fileOf("casing", static_cast<std::size_t>(state.range(0))));
    const check::Surveyed part(s.mesh);
    const auto survey = *part.survey({}, progress);
    constexpr double even = 4 / 1.7320508075688772;  // squared edge over area
    shape::RemeshOptions options;
    options.target.longest = std::sqrt(even * survey->mass.area / static_cast<double>(s.mesh.triangles.size()));
    options.target.shortest = options.target.longest;
    options.target.deviation = 0.1 * options.target.longest;
    double made = 0;
    for (auto _ : state) {
        const auto result = shape::remesh(part, {}, options, progress);
        made += static_cast<double>(result->mesh().triangles.size());
        state.counters["below_30"] = result->shareBelow30;
        state.counters["held"] = static_cast<double>(result->heldTriangles);
    }
    state.counters["made/s"] = benchmark::Counter(made, benchmark::Counter::kIsRate);
}
BENCHMARK(remeshCasing)->Arg(100'000)->Arg(1'000'000)->Iterations(1)->Unit(benchmark::kMillisecond)->UseRealTime();

void compareDecimated(benchmark::State& state) {
    const io::Surface s = readFile(fileOf("casing", 1'200'000));
    const auto lighter = shape::decimate(s.mesh, {}, {.targetTriangles = 300'000}, progress);
    for (auto _ : state)
        benchmark::DoNotOptimize(measure::compare({space::TriangleTree(s.mesh), mesh::Edges(s.mesh)},
                                                  {space::TriangleTree(lighter->mesh), mesh::Edges(lighter->mesh)},
                                                  progress));
}
BENCHMARK(compareDecimated)->Unit(benchmark::kMillisecond)->UseRealTime();

// Lost and added of a surface in itself: what is seen is looked for, then all is found again.
void lossOf(benchmark::State& state, const char* kind) {
    const io::Surface s = readFile(fileOf(kind, static_cast<std::size_t>(state.range(0))));
    const check::Surveyed part(s.mesh);
    benchmark::DoNotOptimize(part.survey({}, progress));
    const std::vector<std::int8_t> tight = check::tightShells(part);
    const measure::LossImport surface{{part.tree(), part.shells()}, part.rays(), tight};
    for (auto _ : state) benchmark::DoNotOptimize(measure::lossBetween(surface, surface, {.facing = true}, progress));
}
BENCHMARK_CAPTURE(lossOf, casing, "casing")->Arg(2'000'000)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(lossOf, lattice, "lattice")->Arg(2'000'000)->Unit(benchmark::kMillisecond)->UseRealTime();

// A frame of 824 x 403 pixels, the part filling its height, from another side each time.
void drawTurning(benchmark::State& state, const char* kind) {
    const io::Surface s = readFile(fileOf(kind, static_cast<std::size_t>(state.range(0))));
    const space::RayScene rays(s.mesh);
    draw::Subject subject;
    subject.surface = &s.mesh;
    subject.rays = &rays;
    subject.box = mesh::boxOf(s.mesh);
    double angle = 0.3;
    for (auto _ : state) {
        angle += 0.05;
        const Eigen::Matrix3d turn =
            (Eigen::AngleAxisd(-1.1, mesh::Point::UnitX()) * Eigen::AngleAxisd(angle, mesh::Point::UnitZ()))
                .toRotationMatrix();
        draw::Eye eye;
        eye.right = turn.row(0).transpose();
        eye.up = turn.row(1).transpose();
        eye.width = 824;
        eye.height = 403;
        eye.pixel = 0.8 * subject.box.diagonal() / eye.height;
        eye.corner = subject.box.centre() - 0.5 * eye.pixel * (eye.width * eye.right - eye.height * eye.up);
        benchmark::DoNotOptimize(draw::paint(subject, eye));
    }
}
BENCHMARK_CAPTURE(drawTurning, casing, "casing")
    ->Arg(2'000'000)
    ->Unit(benchmark::kMillisecond)
    ->MeasureProcessCPUTime();
BENCHMARK_CAPTURE(drawTurning, lattice, "lattice")
    ->Arg(10'000)
    ->Arg(2'000'000)
    ->Unit(benchmark::kMillisecond)
    ->MeasureProcessCPUTime();

// The scene that rays are asked of, for long and for a glimpse.
void buildRayScene(benchmark::State& state, space::RayScene::Spares spares) {
    const io::Surface s = readFile(fileOf("lattice", static_cast<std::size_t>(state.range(0))));
    for (auto _ : state) benchmark::DoNotOptimize(std::make_unique<space::RayScene>(s.mesh, spares));
}
BENCHMARK_CAPTURE(buildRayScene, asking, space::RayScene::Spares::Asking)
    ->Arg(2'000'000)
    ->Unit(benchmark::kMillisecond)
    ->MeasureProcessCPUTime()
    ->UseRealTime();
BENCHMARK_CAPTURE(buildRayScene, building, space::RayScene::Spares::Building)
    ->Arg(2'000'000)
    ->Unit(benchmark::kMillisecond)
    ->MeasureProcessCPUTime()
    ->UseRealTime();

// The automatic repair from file to file, judged there; the counters say what came out.
void repairToFile(benchmark::State& state, const char* kind) {
    const std::string file = fileOf(kind, static_cast<std::size_t>(state.range(0)));
    const std::string out = file + ".mended.stl";
    for (auto _ : state) {
        const auto& brief = steps::builtInBriefs().front();
        const auto input = project::readAndJudge(file, brief, progress);
        const auto repaired = steps::repairAutomatically(input->part, {.brief = brief}, progress);
        const auto output = project::writeAndProve(*repaired->steps.back().part, {out}, brief, progress);
        state.counters["solid"] = output->survey->solid;
        state.counters["kept"] = measure::keptOf(input->part->mesh(), output->part->mesh()).share;
    }
    std::filesystem::remove(out);
}
BENCHMARK_CAPTURE(repairToFile, cad_export, "patched-casing")
    ->Arg(100'000)
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(repairToFile, scan, "scanned-casing")->Arg(1'200'000)->Unit(benchmark::kMillisecond)->UseRealTime();

// The upper rim of a tube, with so many edges: in a plane, or waving.
void fillRim(benchmark::State& state, double wave) {
    const auto count = static_cast<std::uint32_t>(state.range(0));
    mesh::Mesh m;
    std::vector<mesh::TriangleId> upper;
    for (std::uint32_t i = 0; i < count; ++i) {
        const double a = 2 * std::numbers::pi * i / count;
        const double r = 10 + (wave > 0 ? 0 : 3 * std::sin(7 * a));
        m.positions.emplace_back(r * std::cos(a), r * std::sin(a), -10);
        m.positions.emplace_back(r * std::cos(a), r * std::sin(a), wave * std::sin(5 * a));
    }
    for (std::uint32_t i = 0; i < count; ++i) {
        const std::uint32_t here = 2 * i;
        const std::uint32_t next = 2 * ((i + 1) % count);
        m.triangles.push_back({here, next, next + 1});
        upper.push_back(static_cast<mesh::TriangleId>(m.triangles.size()));
        m.triangles.push_back({here, next + 1, here + 1});
    }
    for (auto _ : state) {
        const auto filled = holes::fill(m, mesh::Pick(upper), {}, progress);
        state.counters["crosses"] = filled->filled.at(0).crosses;
        state.counters["triangles"] = static_cast<double>(filled->added);
    }
}
BENCHMARK_CAPTURE(fillRim, flat, 0.0)->Arg(50'000)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(fillRim, waving, 2.0)->Arg(50'000)->Unit(benchmark::kMillisecond)->UseRealTime();

void wrapCasing(benchmark::State& state) {
    const io::Surface s = readFile(fileOf("casing", 100'000));
    const double side = mesh::boxOf(s.mesh).extent().maxCoeff();
    for (auto _ : state) {
        const auto skin = shape::wrap(s.mesh, {.cell = side / static_cast<double>(state.range(0))}, progress);
        state.counters["solid"] = skin->solid;
        state.counters["triangles"] = static_cast<double>(skin->mesh.triangles.size());
    }
}
BENCHMARK(wrapCasing)->Arg(64)->Arg(128)->Arg(256)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
