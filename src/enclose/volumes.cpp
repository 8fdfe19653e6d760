// From the decision to a surface that a file holds: sheets thickened or put beside, the skin settled, what rounding
// leaves dropped, places that came out worse put back.
#include "enclose/volumes.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

#include "arrange/cut_surface.h"
#include "arrange/skin.h"
#include "check/shell_list.h"
#include "enclose/decision.h"
#include "enclose/patched.h"
#include "enclose/thicken.h"
#include "fit/fit.h"
#include "measure/shell_mass.h"
#include "measure/stray.h"
#include "mesh/edges.h"
#include "mesh/vertex_join.h"
#include "repair/orient.h"
#include "space/triangle_tree.h"

namespace zither::enclose {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

// Every edge has as many triangles that run along it one way as the other: only then the skin around the surface is
// told exactly.
bool isClosed(const Mesh& m) {
    const mesh::Edges edges(m);
    for (mesh::EdgeId e = 0; e < edges.count(); ++e)
        if (arrange::balanceAt(m, edges, e) != 0) return false;
    return true;
}

mesh::Outcome<Volumes> fromSurface(const check::Surveyed& s, const VolumesOptions& options, mesh::Progress& progress);

// So many triangles lie near each other that cutting them would take more memory than there is: by some of them, spread
// over all.
bool meetsTooMuch(const Mesh& m) {
    constexpr double mostPairs = 3e7;
    constexpr std::size_t samples = 500;
    if (static_cast<double>(m.triangles.size()) * static_cast<double>(m.triangles.size()) < mostPairs) return false;
    const space::TriangleTree tree(m);
    std::size_t met = 0;
    for (std::size_t i = 0; i < samples; ++i)
        tree.overlapping(mesh::boxOf(m, static_cast<TriangleId>(i * m.triangles.size() / samples)),
                         [&](TriangleId) { ++met; });
    return 0.5 * static_cast<double>(met) / samples * static_cast<double>(m.triangles.size()) > mostPairs;
}

// A body must be thicker than coordinates can tell, and far thinner than the part.
mesh::Outcome<void> checkThickness(const Mesh& m, const VolumesOptions& options) {
    const mesh::Box box = mesh::boxOf(m);
    const double farthest = box.farthest();
    const double least = mesh::unitInLastPlace(options.precision, farthest);
    if (options.thickness >= least && 2 * options.thickness <= box.diagonal()) return {};
    return mesh::badInput(
        fmt::format("a thickness of {:.3g} is {}; sheets of this part can be between {:.3g} and {:.3g} thick",
                    options.thickness,
                    options.thickness < least ? "less than coordinates can hold" : "more than half the part", least,
                    box.diagonal() / 2),
        mesh::errorcode::badParameter, "thickness");
}

// Makes the result of what was decided.
class Finishing {
public:
    // Keeps references.
    Finishing(const Mesh& input, const VolumesOptions& options, Decision decision)
        : input_(input), options_(options), in_(std::move(decision).surfaces(result_)) {}

    // Of surfaces that nobody had to decide on. Triangles are numbered as in the input.
    Finishing(const Mesh& input, const VolumesOptions& options, Surfaces surfaces)
        : input_(input), options_(options), in_(std::move(surfaces)) {}

    mesh::Outcome<Volumes> run(mesh::Progress& progress) {
        const bool thickens = options_.sheets == VolumesOptions::Sheets::Thicken && !in_.rest.mesh.triangles.empty();
        // Beside a skin with openings that stay it takes guesses to tell what is inside.
        const bool closed = thickens && isClosed(in_.skin.mesh);
        if (closed)
            if (auto done = thicken(progress); !done) return mesh::errorOf(done);
        if (auto done = fitSkin(progress); !done) return mesh::errorOf(done);
        dropFilms();
        if (auto done = mendMisplaced(progress); !done) return mesh::errorOf(done);
        if (in_.rest.mesh.triangles.empty() || closed) return std::move(result_);
        if (!thickens) {
            result_.ofSheet.resize(result_.mesh.triangles.size(), 0);
            putBeside(in_.rest);
            result_.ofSheet.resize(result_.mesh.triangles.size(), 1);
            return std::move(result_);
        }
        const auto bodies = bodiesOfSheets(progress);
        if (!bodies) return mesh::errorOf(bodies);
        putBeside(*bodies);
        return together(progress);
    }

private:
    // Sheets made bodies, turned to face one way first: bodies of neighbours that do not would come apart between them.
    // Sources are triangles of the input.
    mesh::Outcome<mesh::Traced> bodiesOfSheets(mesh::Progress& progress) {
        if (auto fits = checkThickness(input_, options_); !fits) return mesh::errorOf(fits);
        mesh::PartOfProgress still(progress, 0, 0);
        auto oriented = repair::orient(check::Surveyed(in_.rest.mesh), mesh::Pick(), still);
        if (!oriented) return mesh::errorOf(oriented);
        result_.turned += oriented->flipped;
        mesh::Traced bodies = thickened(oriented->mesh, options_.thickness, options_.precision);
        bodies.trace(in_.rest.sourceOf);
        result_.told.bodies = bodies.mesh;
        return bodies;
    }

    // Sheets become bodies, and one with the skin: what is inside any of them is full.
    mesh::Outcome<void> thicken(mesh::Progress& progress) {
        auto bodies = bodiesOfSheets(progress);
        if (!bodies) return mesh::errorOf(bodies);
        std::vector<std::uint8_t> made = in_.skinMade;
        std::vector<std::uint8_t> whole = in_.skinWhole;
        const std::size_t skinVertices = in_.skin.mesh.positions.size();
        made.resize(skinVertices + in_.rest.mesh.positions.size(), 0);
        made.resize(skinVertices + bodies->mesh.positions.size(), 1);
        whole.resize(in_.skin.mesh.triangles.size() + bodies->mesh.triangles.size(), 0);
        mesh::Traced both = std::move(in_.skin);
        both.append(*bodies);
        if (meetsTooMuch(both.mesh))
            return mesh::badInput(
                fmt::format("a thickness of {:.3g} makes nearly every body meet every other: take a smaller one",
                            options_.thickness),
                mesh::errorcode::badParameter, "thickness");
        const std::vector<mesh::VertexId> first = mesh::joinInPlace(both.mesh);
        for (mesh::VertexId v = 0; v < first.size(); ++v) made[first[v]] = made[first[v]] && made[v];
        auto united = arrange::skinOf(check::Surveyed(both.mesh), {}, progress);
        if (!united) return mesh::errorOf(united);
        in_.skinWhole.clear();
        in_.skinMade.clear();
        for (TriangleId t = 0; t < united->sourceOf.size(); ++t)
            in_.skinWhole.push_back(t < united->whole && whole[united->sourceOf[t]]);
        both.becomes(std::move(*united));
        in_.skin = std::move(both);
        for (const mesh::VertexId v : united->givenVertex) in_.skinMade.push_back(v == mesh::noIndex || made[v]);
        return {};
    }

    mesh::Outcome<void> fitSkin(mesh::Progress& progress) {
        auto fitted = fit::makeFit(in_.skin.mesh,
                                   {.precision = options_.precision,
                                    .made = in_.skinMade,
                                    .untouched = in_.skinWhole,
                                    .mostCovered = options_.mostCovered},
                                   progress);
        if (!fitted) return mesh::errorOf(fitted);
        result_.collapsed = fitted->collapsed;
        result_.swapped = fitted->swapped;
        result_.farthestMoved = fitted->farthestMoved;
        result_.patched = std::move(fitted->patched);
        result_.largestPatch = fitted->largestPatch;
        result_.smallAngles = fitted->smallAngles;
        result_.plates = fitted->plates;
        result_.plateHeight = fitted->plateHeight;
        result_.coverable = fitted->coverable;
        result_.unsound = std::move(fitted->unsound);
        fitted->trace(in_.skin.sourceOf);
        result_.mesh = std::move(fitted->mesh);
        result_.sourceOf = std::move(fitted->sourceOf);
        return {};
    }

    // Shells thinner than what cells are told apart by: rounding leaves them where it parts what touches. Those stay of
    // which nothing else is left.
    void dropFilms() {
        const Mesh& m = result_.mesh;
        const mesh::Groups shells = mesh::shellsOf(m, mesh::Edges(m));
        if (shells.count < 2) return;
        const std::vector<measure::ShellMass> masses = measure::massOfShells(m, shells);
        const double thin = thinnessOf(input_);
        const auto isThin = [&](TriangleId t) {
            const std::uint32_t s = shells.of[t];
            return s != mesh::noEdge && 2 * std::abs(masses[s].volume) <= thin * masses[s].area;
        };
        std::vector<TriangleId> thick;
        for (TriangleId t = 0; t < m.triangles.size(); ++t)
            if (!isThin(t)) thick.push_back(t);
        if (thick.size() == m.triangles.size()) return;
        const space::TriangleTree others(m, thick);
        const double tolerance = measure::lossTolerance(input_);
        std::vector<std::uint8_t> alone(shells.count, 0);
        for (TriangleId t = 0; t < m.triangles.size(); ++t)
            if (isThin(t)) alone[shells.of[t]] |= measure::strayArea(m, t, others, tolerance, false) > 0;
        std::vector<std::uint8_t> keep(m.triangles.size(), 1);
        for (TriangleId t = 0; t < m.triangles.size(); ++t) keep[t] = !isThin(t) || alone[shells.of[t]];
        result_.keep(keep);
    }

    // Shells that rounding has left within what is full, and those inside out in what is empty: what nobody sees of
    // them goes, and the others are turned.
    mesh::Outcome<void> mendMisplaced(mesh::Progress& progress) {
        if (!result_.unsound.empty()) return {};
        const check::Surveyed s(result_.mesh);
        if (s.shells().count < 2) return {};
        mesh::PartOfProgress still(progress, 1, 1);
        auto list = check::shellList(s, {}, still);
        if (!list) return mesh::errorOf(list);
        const double unseen = measure::lossTolerance(input_);
        std::vector<std::uint8_t> keep(result_.mesh.triangles.size(), 1);
        for (TriangleId t = 0; t < keep.size(); ++t) {
            const std::uint32_t number = s.shells().of[t];
            if (number == mesh::noEdge || !(*list)[number].isMisplaced()) continue;
            const check::Shell& shell = (*list)[number];
            keep[t] = shell.volumeSign < 0 && shell.box.diagonal() > unseen;
            if (!keep[t]) continue;
            std::swap(result_.mesh.triangles[t][1], result_.mesh.triangles[t][2]);
            ++result_.turned;
        }
        result_.keep(keep);
        return {};
    }

    void putBeside(const mesh::Traced& rest) {
        result_.append(rest);
        mesh::joinEqualVertices(result_.mesh);
    }

    // Bodies and what were sheets, decided once more as one.
    mesh::Outcome<Volumes> together(mesh::Progress& progress) {
        VolumesOptions options = options_;
        // What bounds nothing now lies where bodies fold into themselves.
        options.sheets = VolumesOptions::Sheets::Drop;
        const check::Surveyed both(result_.mesh);
        auto joined = fromSurface(both, options, progress);
        if (!joined) return joined;
        result_.becomes(std::move(*joined));
        result_.collapsed += joined->collapsed;
        result_.swapped += joined->swapped;
        result_.farthestMoved += joined->farthestMoved;
        result_.patched.insert(result_.patched.end(), joined->patched.begin(), joined->patched.end());
        result_.largestPatch = std::max(result_.largestPatch, joined->largestPatch);
        result_.smallAngles = joined->smallAngles;
        result_.plates += joined->plates;
        result_.plateHeight = std::max(result_.plateHeight, joined->plateHeight);
        result_.coverable = joined->coverable;
        result_.unsound = std::move(joined->unsound);
        return std::move(result_);
    }

    const Mesh& input_;
    const VolumesOptions& options_;
    Volumes result_;
    Surfaces in_;
};

mesh::Outcome<Volumes> fromSurface(const check::Surveyed& s, const VolumesOptions& options, mesh::Progress& progress) {
    mesh::PartOfProgress deciding(progress, 0, 0.8);
    auto decision = Decision::of(s, options, deciding);
    if (!decision) return mesh::errorOf(decision);
    mesh::PartOfProgress settling(progress, 0.8, 1);
    return Finishing(s.mesh(), options, std::move(*decision)).run(settling);
}

// The triangles with flag 1.
mesh::Traced partOf(const Mesh& m, const std::vector<std::uint8_t>& flags) {
    mesh::Traced part = mesh::Traced::all(m);
    part.keep(flags);
    return part;
}

// Sheets stay as they came, with everything that crosses them: they are set aside, full is told from empty without
// them, and they are put back.
mesh::Outcome<Volumes> besideSheets(const check::Surveyed& s, const VolumesOptions& options, mesh::Progress& progress) {
    const Mesh& input = s.mesh();
    std::vector<std::uint8_t> stays(input.triangles.size(), 1);
    mesh::Traced part;
    constexpr int rounds = 3;
    Volumes result;
    for (int round = 0; round < rounds; ++round) {
        part = partOf(input, stays);
        const check::Surveyed rest(std::move(part.mesh));
        mesh::PartOfProgress deciding(progress, 0.2 * round, 0.2 * (round + 1));
        auto decision = Decision::of(rest, options, deciding);
        if (!decision) return mesh::errorOf(decision);
        const std::vector<std::uint8_t> sheet = decision->sheetTriangles();
        if (round + 1 < rounds && std::find(sheet.begin(), sheet.end(), 1) != sheet.end()) {
            for (TriangleId t = 0; t < sheet.size(); ++t)
                if (sheet[t]) stays[part.sourceOf[t]] = 0;
            continue;
        }
        mesh::PartOfProgress settling(progress, 0.2 * (round + 1), 1);
        auto made = Finishing(rest.mesh(), options, std::move(*decision)).run(settling);
        if (!made) return made;
        result = std::move(*made);
        break;
    }
    result.trace(part.sourceOf);
    for (std::uint8_t& flag : stays) flag ^= 1;
    const mesh::Traced aside = partOf(input, stays);
    if (aside.mesh.triangles.empty()) return result;
    result.ofSheet.resize(result.mesh.triangles.size(), 0);
    result.append(aside);
    mesh::joinEqualVertices(result.mesh);
    result.ofSheet.resize(result.mesh.triangles.size(), 1);
    return result;
}

mesh::Outcome<Volumes> decided(const check::Surveyed& s, const VolumesOptions& options, mesh::Progress& progress) {
    return options.sheets == VolumesOptions::Sheets::Keep ? besideSheets(s, options, progress)
                                                          : fromSurface(s, options, progress);
}

// The mesh with the corners of triangles that meet others on a grid; how far they moved.
double putOnGrid(Mesh& m, const std::vector<check::TrianglePair>& pairs, double grid) {
    std::vector<std::uint8_t> meets(m.positions.size(), 0);
    for (const check::TrianglePair& pair : pairs)
        for (const TriangleId t : {pair.first, pair.second})
            for (const mesh::VertexId v : m.triangles[t]) meets[v] = 1;
    double farthest = 0;
    for (mesh::VertexId v = 0; v < meets.size(); ++v) {
        if (!meets[v]) continue;
        const Point before = m.positions[v];
        m.positions[v] = fit::placedOn(grid, mesh::Precision::Double, before);
        farthest = std::max(farthest, (m.positions[v] - before).norm());
    }
    mesh::joinInPlace(m);
    return farthest;
}

// So many triangles in trouble are covered at once; more of them only where nothing else helps.
std::size_t fewOf(const Mesh& m) {
    constexpr std::size_t few = 100;
    return std::max(few, m.triangles.size() / 100);
}

// Places that no rounding to 32 bits settles; nothing is rounded where it need not be.
mesh::Outcome<std::size_t> unsoundInFile(const Volumes& v, mesh::Progress& progress) {
    if (!v.unsound.empty()) return v.unsound.size();
    const auto fitted = fit::makeFit(v.mesh, {.mostCovered = fewOf(v.mesh)}, progress);
    if (!fitted) return mesh::errorOf(fitted);
    return fitted->unsound.size();
}

// Puts places back where too much would be lost or, unless all is sound, a count is worse than it was; with what was
// told of them. Whether any was.
mesh::Outcome<bool> putBackWorse(const check::Surveyed& s, Volumes& v, bool sound, mesh::Progress& progress) {
    const repair::Places places(s.mesh(), v.mesh);
    const check::Surveyed now(v.mesh);
    mesh::PartOfProgress looking(progress, 0, 0.3);
    auto losing = repair::placesThatLose(s, now, places, v.told, looking);
    if (!losing) return mesh::errorOf(losing);
    if (sound && losing->empty()) return false;
    mesh::PartOfProgress judging(progress, 0.3, 1);
    auto worse = repair::placesToPutBack(s, now, places, {.losing = std::move(*losing)}, judging);
    if (!worse) return mesh::errorOf(worse);
    if (worse->flags.empty()) return false;
    repair::Places::Back back = places.putBack(worse->flags);
    std::vector<TriangleId> sources;
    for (const TriangleId t : back.fromAfter) sources.push_back(v.sourceOf[t]);
    sources.insert(sources.end(), back.fromBefore.begin(), back.fromBefore.end());
    const auto isBack = [&](const std::vector<Point>& points) {
        std::vector<std::uint8_t> flags;
        for (const mesh::VertexId at : mesh::equalIn(s.mesh().positions, points)) {
            const std::uint32_t place = at == mesh::noIndex ? mesh::noIndex : places.ofVertexBefore()[at];
            flags.push_back(place != mesh::noIndex && worse->flags[place]);
        }
        return flags;
    };
    for (auto* list : {&v.closed, &v.shreds, &v.overhangs, &v.walls}) {
        std::vector<Point> corners;
        for (const VolumesPiece& piece : *list) corners.push_back(piece.corner);
        const std::vector<std::uint8_t> gone = isBack(corners);
        std::size_t kept = 0;
        for (std::size_t i = 0; i < list->size(); ++i)
            if (!gone[i]) (*list)[kept++] = (*list)[i];
        list->resize(kept);
    }
    for (Mesh* told : {&v.told.closing, &v.told.mayGo}) {
        const std::vector<std::uint8_t> gone = isBack(told->positions);
        std::vector<std::uint8_t> keep(told->triangles.size(), 1);
        for (TriangleId t = 0; t < keep.size(); ++t)
            for (const mesh::VertexId corner : told->triangles[t]) keep[t] &= !gone[corner];
        *told = mesh::keepTriangles(*told, keep);
    }
    if (!v.ofSheet.empty()) {
        std::vector<std::uint8_t> ofSheet;
        for (const TriangleId t : back.fromAfter) ofSheet.push_back(v.ofSheet[t]);
        ofSheet.resize(back.mesh.triangles.size(), 0);
        v.ofSheet = std::move(ofSheet);
    }
    v.mesh = std::move(back.mesh);
    v.sourceOf = std::move(sources);
    v.asTheyCame.insert(v.asTheyCame.end(), worse->left.begin(), worse->left.end());
    return true;
}

// Sheets that stay, as they stand in the result.
void listSheets(Volumes& v) {
    v.sheets.clear();
    if (v.ofSheet.empty()) return;
    const mesh::Traced part = partOf(v.mesh, v.ofSheet);
    const Mesh& sheets = part.mesh;
    const mesh::Groups shells = mesh::shellsOf(sheets, mesh::Edges(sheets));
    v.sheets.resize(shells.count);
    std::vector<mesh::Box> boxes(shells.count);
    for (TriangleId t = 0; t < sheets.triangles.size(); ++t) {
        if (shells.of[t] == mesh::noEdge) continue;
        VolumesPiece& piece = v.sheets[shells.of[t]];
        piece.area += 0.5 * mesh::areaVector(sheets, t).norm();
        ++piece.triangles;
        piece.members.push_back(part.sourceOf[t]);
        boxes[shells.of[t]].add(mesh::boxOf(sheets, t));
    }
    for (std::uint32_t i = 0; i < shells.count; ++i) {
        v.sheets[i].position = boxes[i].centre();
        v.sheets[i].size = boxes[i].diagonal();
    }
    std::stable_sort(v.sheets.begin(), v.sheets.end(),
                     [](const VolumesPiece& a, const VolumesPiece& b) { return a.area > b.area; });
}

// On coarser and coarser grids where the surface leaves more than a file holds.
class OnGrids {
public:
    OnGrids(const check::Surveyed& s, const VolumesOptions& options)
        : s_(s),
          given_(options),
          options_(options),
          wide_(options.precision == mesh::Precision::Double),
          unit_(mesh::unitInLastPlace(mesh::Precision::Single, mesh::boxOf(s.mesh()).farthest())) {
        options_.mostCovered = std::min(options.mostCovered, fewOf(s.mesh()));
    }

    mesh::Outcome<Volumes> run(mesh::Progress& progress) {
        mesh::PartOfProgress first(progress, 0, 0.5);
        if (auto done = tryOn(0, options_, first); !done) return mesh::errorOf(done);
        mesh::PartOfProgress snapping(progress, 0.5, 0.8);
        // What fills a fifth of the surface is no matter of some places; and where openings stay, rungs and plates do
        // not help either, so that one grid is like another.
        const bool staysOpen = !best_.unsound.empty() && best_.coverable == 0;
        if (left_ > 0 && !staysOpen && 5 * left_ <= best_.mesh.triangles.size() && !progress.isLate())
            if (auto done = tryCoarser(snapping); !done) return mesh::errorOf(done);
        mesh::PartOfProgress covering(progress, 0.8, 1);
        if (left_ > 0 && best_.coverable > 0 && best_.coverable <= given_.mostCovered && !progress.isLate())
            if (auto done = tryOn(grid_, given_, covering); !done) return mesh::errorOf(done);
        return std::move(best_);
    }

private:
    mesh::Outcome<void> tryCoarser(mesh::Progress& progress) {
        constexpr int rungs = 3;
        for (int rung = 0; left_ > 0 && rung < rungs; ++rung) {
            mesh::PartOfProgress part(progress, static_cast<double>(rung) / rungs, (rung + 1.0) / rungs);
            const std::size_t before = left_;
            if (auto done = tryOn(std::ldexp(unit_, 3 * rung), options_, part); !done) return done;
            if (left_ >= before || progress.isLate()) break;
        }
        return {};
    }

    // What meets is put on the grid, that of 32-bit coordinates or a coarser one: surfaces that lie within rounding of
    // each other leave more than any file can hold. 0: all stays where it is. Takes what came of it if it is better.
    mesh::Outcome<void> tryOn(double grid, const VolumesOptions& options, mesh::Progress& progress) {
        mesh::PartOfProgress deciding(progress, 0, 0.8);
        mesh::Outcome<Volumes> result;
        if (grid > 0) {
            mesh::PartOfProgress still(progress, 0, 0);
            const auto survey = s_.survey(s_.knownOptions(), still);
            if (!survey) return mesh::errorOf(survey);
            Mesh snapped = s_.mesh();
            const double moved = putOnGrid(snapped, (*survey)->crossingPairs, grid);
            result = decided(check::Surveyed(snapped), options, deciding);
            if (result) result->farthestMoved += moved;
        } else {
            result = decided(s_, options, deciding);
        }
        if (!result) return mesh::errorOf(result);
        mesh::PartOfProgress proving(progress, 0.8, 1);
        mesh::Outcome<std::size_t> left = result->unsound.size();
        if (wide_) left = unsoundInFile(*result, proving);
        if (!left) return mesh::errorOf(left);
        if (*left >= left_) return {};
        left_ = *left;
        grid_ = grid;
        best_ = std::move(*result);
        return {};
    }

    const check::Surveyed& s_;
    const VolumesOptions& given_;
    VolumesOptions options_;
    bool wide_;
    double unit_;
    Volumes best_;
    double grid_ = 0;                                             // that best_ was made on
    std::size_t left_ = std::numeric_limits<std::size_t>::max();  // places of best_ that a file does not hold
};

// Pieces of surface that end somewhere, each up to where more than two triangles meet.
std::vector<std::uint8_t> openPatches(const check::Surveyed& s) {
    const Mesh& m = s.mesh();
    const mesh::Groups patches = mesh::patchesOf(m, s.edges());
    std::vector<std::uint8_t> open(patches.count, 0);
    for (mesh::EdgeId e = 0; e < s.edges().count(); ++e)
        if (s.edges().degree(e) == 1) open[patches.of[mesh::triangleOf(s.edges().around(e)[0])]] = 1;
    std::vector<std::uint8_t> flags(m.triangles.size(), 0);
    for (TriangleId t = 0; t < flags.size(); ++t) flags[t] = patches.of[t] != mesh::noEdge && open[patches.of[t]];
    return flags;
}

// Of triangles with the same corners, as of a sheet that is written twice, the first stays.
void keepOnce(const Mesh& m, std::vector<std::uint8_t>& flags) {
    std::set<mesh::Triangle> known;
    for (TriangleId t = 0; t < flags.size(); ++t)
        if (flags[t]) flags[t] = known.insert(mesh::sortedCorners(m.triangles[t])).second;
}

// Shells of the rest that are closed, face the right way, and may meet a body of the sheets: they become one with it.
mesh::Outcome<std::vector<std::uint8_t>> closedShellsNear(const Mesh& rest, const Mesh& sheets, double reach,
                                                          mesh::Progress& progress) {
    const check::Surveyed s(rest);
    const auto list = check::shellList(s, {}, progress);
    if (!list) return mesh::errorOf(list);
    const mesh::Groups& shells = s.shells();
    std::vector<std::uint8_t> near(shells.count, 0);
    for (TriangleId t = 0; t < sheets.triangles.size(); ++t)
        s.tree().overlapping(mesh::boxOf(sheets, t).widened(reach), [&](TriangleId other) {
            if (shells.of[other] != mesh::noEdge) near[shells.of[other]] = 1;
        });
    for (mesh::EdgeId e = 0; e < s.edges().count(); ++e)
        if (arrange::balanceAt(rest, s.edges(), e) != 0) near[shells.of[mesh::triangleOf(s.edges().around(e)[0])]] = 0;
    for (std::uint32_t i = 0; i < shells.count; ++i) near[i] = near[i] && !(*list)[i].inward;
    std::vector<std::uint8_t> flags(rest.triangles.size(), 0);
    for (TriangleId t = 0; t < flags.size(); ++t) flags[t] = shells.of[t] != mesh::noEdge && near[shells.of[t]];
    return flags;
}

}  // namespace

mesh::Outcome<Volumes> fullOrEmpty(const check::Surveyed& s, const VolumesOptions& options, mesh::Progress& progress) {
    if (!mesh::fitsPrecision(s.mesh(), options.precision)) {
        Mesh narrow = s.mesh();
        const double moved = mesh::roundAndJoin(narrow, options.precision);
        auto result = fullOrEmpty(check::Surveyed(std::move(narrow)), options, progress);
        if (result) result->farthestMoved += moved;
        return result;
    }
    mesh::PartOfProgress deciding(progress, 0, options.putBackWorse ? 0.8 : 1);
    auto result = OnGrids(s, options).run(deciding);
    if (!result) return result;
    // What is closed and settled is sound.
    const bool sound =
        result->sheets.empty() && result->ofSheet.empty() && result->open.empty() && result->unsound.empty();
    if (options.putBackWorse) {
        // Through what is put back more can be seen than before.
        constexpr int mostTurns = 3;
        for (int turn = 0; turn < mostTurns; ++turn) {
            mesh::PartOfProgress judging(progress, 0.8 + 0.2 * turn / mostTurns, 0.8 + 0.2 * (turn + 1) / mostTurns);
            const auto done = putBackWorse(s, *result, sound && turn == 0, judging);
            if (!done) return mesh::errorOf(done);
            if (!*done) break;
        }
    }
    if (options.sheets == VolumesOptions::Sheets::Keep) listSheets(*result);
    return result;
}

mesh::Outcome<ThickSheets> thickenSheets(const check::Surveyed& s, const mesh::Pick& pick, double thickness,
                                         mesh::Precision precision, mesh::Progress& progress) {
    const Mesh& m = s.mesh();
    std::vector<std::uint8_t> picked = pick.everything() ? openPatches(s) : pick.mask(m);
    ThickSheets result;
    std::size_t within = 0;  // edges in which the pick ends though the surface goes on
    for (mesh::EdgeId e = 0; e < s.edges().count(); ++e) {
        const auto around = s.edges().around(e);
        within += around.size() == 2 && picked[mesh::triangleOf(around[0])] != picked[mesh::triangleOf(around[1])];
    }
    if (within > 0)
        return mesh::badInput("The pick ends within a surface, at " + std::to_string(within) +
                              " edges: pick whole sheets (a double click takes all that hangs together)");
    Surfaces surfaces;
    std::vector<std::uint8_t> once = picked;
    keepOnce(m, once);
    surfaces.rest = partOf(m, once);
    if (isClosed(surfaces.rest.mesh)) {
        result.mesh = m;
        return result;
    }
    for (std::uint8_t& flag : picked) flag ^= 1;
    const mesh::Traced others = partOf(m, picked);
    mesh::PartOfProgress nesting(progress, 0, 0.2);
    auto near = closedShellsNear(others.mesh, surfaces.rest.mesh, 2 * thickness, nesting);
    if (!near) return mesh::errorOf(near);
    std::vector<std::uint8_t> skin = std::move(*near);
    surfaces.skin = partOf(others.mesh, skin);
    surfaces.skin.trace(others.sourceOf);
    surfaces.skinMade.assign(surfaces.skin.mesh.positions.size(), 0);
    surfaces.skinWhole.assign(surfaces.skin.mesh.triangles.size(), 1);
    for (std::uint8_t& flag : skin) flag ^= 1;
    const Mesh beside = mesh::keepTriangles(others.mesh, skin);
    result.sheets = mesh::shellsOf(surfaces.rest.mesh, mesh::Edges(surfaces.rest.mesh)).count;
    result.triangles = surfaces.rest.mesh.triangles.size();
    result.besideOpen = !isClosed(beside);
    VolumesOptions options;
    options.sheets = VolumesOptions::Sheets::Thicken;
    options.thickness = thickness;
    options.precision = precision;
    mesh::PartOfProgress finishing(progress, 0.2, 1);
    auto made = Finishing(m, options, std::move(surfaces)).run(finishing);
    if (!made) return mesh::errorOf(made);
    result.mesh = std::move(made->mesh);
    result.bodies = std::move(made->told.bodies);
    result.farthestMoved = made->farthestMoved;
    result.unsound = std::move(made->unsound);
    if (!beside.triangles.empty()) {
        mesh::appendPart(result.mesh, beside);
        mesh::joinEqualVertices(result.mesh);
    }
    return result;
}

}  // namespace zither::enclose
