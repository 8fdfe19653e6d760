// Which rims are holes and which suits each; first choices in parallel, then one after the other into the surface.
#include "holes/fill.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <optional>
#include <set>

#include "holes/holes_tolerances.h"
#include "holes/patch_trials.h"
#include "holes/patches.h"
#include "holes/rims.h"
#include "mesh/edges.h"
#include "mesh/parallel.h"
#include "mesh/precision.h"

namespace zither::holes {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Pick;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// Rims of fewer edges are closed taut: there is nothing to bend.
constexpr std::size_t leastSmoothEdges = 7;
// Above this the sparse system of a smooth patch takes seconds.
constexpr std::size_t mostSmoothEdges = 400;
// Rounds of forbidding triangles that cross.
constexpr int mostTries = 16;

// One hole: its outer rim, and rims of islands in it.
struct Hole {
    std::vector<std::size_t> rims;
    RimShape shape;
    FillWay way = FillWay::Taut;
    std::string_view why = {};
    bool meetsFaces = false;  // nobody asked for a way, and its faces may meet in an edge or a corner: tried first
};

// The rim from the hole's side: new triangles run along it against the surface's own.
Loop loopOf(const Mesh& m, const Rim& rim) {
    Loop loop;
    for (const HalfEdge h : Rim(rim.rbegin(), rim.rend())) {
        loop.vertices.push_back(toVertex(m, h));
        const Point n = mesh::areaVector(m, mesh::triangleOf(h));
        loop.rimNormals.push_back(n.norm() > 0 ? Point(n.normalized()) : Point(Point::Zero()));
    }
    return loop;
}

void chooseWay(const Rim& rim, FillWay asked, Hole& hole) {
    const ChosenWay chosen = asked != FillWay::Chosen ? ChosenWay{asked, "asked for"}
                             : hole.rims.size() > 1
                                 ? ChosenWay{FillWay::Flat, "rims in one plane, one inside the other"}
                                 : chosenWay(hole.shape, rim.size());
    hole.way = chosen.way;
    hole.why = chosen.why;
}

class Filling {
public:
    Filling(const check::Surveyed& s, const Pick& pick, const FillOptions& options)
        : surface_(s),
          mesh_(s.mesh()),
          edges_(s.edges()),
          corners_(s.corners()),
          chosen_(pick.mask(mesh_)),
          options_(options) {}

    mesh::Outcome<FillResult> run(mesh::Progress& progress) {
        rims_ = rimsOf(mesh_, edges_, result_.notClosed);
        selectHoles();
        if (!progress.report(0.05)) return mesh::cancelled();
        if (!holes_.empty()) trials_.emplace(surface_, options_.precision);
        if (!progress.report(0.15)) return mesh::cancelled();
        // The first choice of every hole at once; then one after the other into the surface.
        std::vector<Patch> first(holes_.size());
        std::vector<std::uint8_t> stopped(holes_.size(), 0);
        std::size_t total = 0;
        for (const Hole& hole : holes_) total += rims_[hole.rims.front()].size();
        std::atomic<std::size_t> done = 0;
        mesh::parallelFor(holes_.size(), 1, [&](std::size_t i) {
            const double from = 0.15 + 0.5 * static_cast<double>(done) / static_cast<double>(total);
            mesh::PartOfProgress part(progress, from, from);
            auto patch = makeFirst(holes_[i], part);
            if (patch)
                first[i] = std::move(*patch);
            else
                stopped[i] = 1;
            done += rims_[holes_[i].rims.front()].size();
        });
        if (std::find(stopped.begin(), stopped.end(), 1) != stopped.end()) return mesh::cancelled();
        for (std::size_t i = 0; i < holes_.size(); ++i) {
            const double from = 0.65 + 0.35 * static_cast<double>(i) / static_cast<double>(holes_.size());
            mesh::PartOfProgress part(progress, from, from);
            if (!close(holes_[i], std::move(first[i]), part)) return mesh::cancelled();
        }
        const auto larger = [](const auto& a, const auto& b) { return a.size > b.size; };
        std::stable_sort(result_.left.begin(), result_.left.end(), larger);
        std::stable_sort(result_.filled.begin(), result_.filled.end(), larger);
        if (!progress.report(1)) return mesh::cancelled();
        result_.mesh = trials_ ? trials_->take() : mesh_;
        return std::move(result_);
    }

private:
    // ---- which holes

    void selectHoles() {
        const double partSize = mesh::boxOf(mesh_).diagonal();
        std::vector<RimShape> shapes;
        std::vector<std::uint8_t> wanted(rims_.size(), 0);
        for (std::size_t i = 0; i < rims_.size(); ++i) {
            const Rim& rim = rims_[i];
            shapes.push_back(shapeOf(mesh_, rim));
            if (!std::any_of(rim.begin(), rim.end(), [&](HalfEdge h) { return chosen_[mesh::triangleOf(h)] != 0; }))
                continue;
            std::string why;
            if (shapes[i].size > options_.maxSize)
                why = "larger than asked for";
            else if (!options_.closeMeant)
                why = whyMeant(rim.size(), shapes[i], partSize);
            if (why.empty())
                wanted[i] = 1;
            else
                result_.left.push_back({shapes[i].centre, shapes[i].size, rim.size(), why});
        }
        const std::vector<std::size_t> outer = options_.way == FillWay::Chosen || options_.way == FillWay::Flat
                                                   ? islands(shapes, wanted)
                                                   : std::vector<std::size_t>();
        std::vector<std::size_t> holeOf(rims_.size(), 0);
        for (std::size_t i = 0; i < rims_.size(); ++i) {
            if (!wanted[i] || (!outer.empty() && outer[i] != i)) continue;
            holeOf[i] = holes_.size();
            holes_.push_back({{i}, shapes[i]});
        }
        for (std::size_t i = 0; i < outer.size(); ++i)
            if (wanted[i] && outer[i] != i) holes_[holeOf[outer[i]]].rims.push_back(i);
        for (Hole& hole : holes_) {
            const Rim& rim = rims_[hole.rims.front()];
            chooseWay(rim, options_.way, hole);
            hole.meetsFaces =
                options_.way == FillWay::Chosen && hole.rims.size() == 1 && meetsFaces(loopOf(mesh_, rim));
        }
    }

    // Of each rim the one whose island it is: the smallest in the same plane, facing the other way, around it; itself
    // where there is none.
    [[nodiscard]] std::vector<std::size_t> islands(const std::vector<RimShape>& shapes,
                                                   const std::vector<std::uint8_t>& wanted) const {
        std::vector<std::size_t> outer(rims_.size());
        std::vector<std::size_t> flat;
        for (std::size_t i = 0; i < rims_.size(); ++i) {
            outer[i] = i;
            if (wanted[i] && shapes[i].flat() && shapes[i].area.norm() > 0) flat.push_back(i);
        }
        std::stable_sort(flat.begin(), flat.end(),
                         [&](std::size_t a, std::size_t b) { return shapes[a].size < shapes[b].size; });
        for (std::size_t a = 0; a < flat.size(); ++a)
            for (std::size_t b = a + 1; b < flat.size(); ++b) {
                const RimShape& inner = shapes[flat[a]];
                const RimShape& around = shapes[flat[b]];
                const Point n = around.area.normalized();
                if ((inner.centre - around.centre).norm() > 0.5 * around.size) continue;
                if (n.dot(inner.area.normalized()) > -0.999) continue;
                if (std::abs(n.dot(inner.centre - around.centre)) > 0.01 * inner.size + around.offPlane) continue;
                if (!encloses(rims_[flat[b]], n, mesh_.positions[fromVertex(mesh_, rims_[flat[a]].front())])) continue;
                outer[flat[a]] = flat[b];
                break;
            }
        // What is an island cannot have islands.
        for (std::size_t i = 0; i < outer.size(); ++i)
            if (outer[outer[i]] != outer[i]) outer[i] = i;
        return outer;
    }

    // Winding of the rim about the point, seen along n.
    [[nodiscard]] bool encloses(const Rim& rim, const Point& n, const Point& p) const {
        double turn = 0;
        for (HalfEdge h : rim) {
            const Point a = mesh_.positions[fromVertex(mesh_, h)] - p;
            const Point b = mesh_.positions[toVertex(mesh_, h)] - p;
            turn += std::atan2(n.dot(a.cross(b)), a.dot(b) - n.dot(a) * n.dot(b));
        }
        return std::abs(turn) > 3;
    }

    // ---- patches

    // The way that was chosen; the faces around carried on, where they meet.
    mesh::Outcome<Patch> makeFirst(Hole& hole, mesh::Progress& progress) const {
        const Forbidden without{[this](VertexId a, VertexId b) { return mesh::linked(mesh_, corners_, a, b); }};
        if (hole.meetsFaces) {
            auto sharp = make(hole, FillWay::Sharp, without, progress);
            if (!sharp) return sharp;
            if (!sharp->triangles.empty()) {
                hole.way = FillWay::Sharp;
                hole.why = "faces around it meet in an edge or a corner";
                return sharp;
            }
        }
        return make(hole, hole.way, without, progress);
    }

    [[nodiscard]] mesh::Outcome<Patch> make(const Hole& hole, FillWay way, const Forbidden& without,
                                            mesh::Progress& progress) const {
        const Loop loop = loopOf(mesh_, rims_[hole.rims.front()]);
        if (way == FillWay::Flat) {
            std::vector<Loop> loops{loop};
            for (std::size_t i = 1; i < hole.rims.size(); ++i) loops.push_back(loopOf(mesh_, rims_[hole.rims[i]]));
            return flatPatch(mesh_.positions, loops, hole.shape.area);
        }
        if (way == FillWay::Ruled) return ruledPatch(mesh_.positions, loop);
        if (way == FillWay::Sharp) {
            Patch sharp = sharpPatch(mesh_.positions, loop);
            if (!sharp.triangles.empty()) return sharp;
            return creasedPatch({mesh_, corners_}, loop, progress);
        }
        auto patch = tautPatch(mesh_.positions, loop, without, progress);
        if (!patch || way == FillWay::Taut || patch->triangles.empty()) return patch;
        return smoothPatch({mesh_, corners_}, loop, *patch, progress);
    }

    // False where cancelled.
    bool close(const Hole& hole, Patch patch, mesh::Progress& progress) {
        struct Best {
            Patch patch;
            FillWay way = FillWay::Taut;
            std::size_t crossing = std::numeric_limits<std::size_t>::max();
        } best;
        // True where the patch is as good as it can be.
        const auto consider = [&](Patch&& candidate, FillWay way, std::set<mesh::Triangle>* crossing) {
            const PatchTrials::Trial trial = trials_->test(candidate, rimsOfHole(hole), way == FillWay::Flat);
            if (crossing) *crossing = trial.crossing;
            if (!trial.possible || trial.crossing.size() >= best.crossing) return false;
            best = {std::move(candidate), way, trial.crossing.size()};
            return best.crossing == 0;
        };
        const bool isMade = !patch.triangles.empty();
        bool done = consider(std::move(patch), hole.way, nullptr);
        Forbidden without{[this](VertexId a, VertexId b) { return trials_->isEdge(a, b); }};
        const auto tryWay = [&](FillWay way) {
            if (done) return true;
            auto made = make(hole, way, without, progress);
            if (!made) return false;
            done = consider(std::move(*made), way, nullptr);
            return true;
        };
        // Only flat patches have room for islands.
        if (hole.rims.size() > 1 && best.crossing > 0) return closeApart(hole, progress);
        for (int attempt = 0; attempt < mostTries && !done; ++attempt) {
            auto made = make(hole, FillWay::Taut, without, progress);
            if (!made) return false;
            if (made->triangles.empty()) break;
            std::set<mesh::Triangle> crossing;
            done = consider(std::move(*made), FillWay::Taut, &crossing);
            if (crossing.empty()) break;
            without.triangles.insert(crossing.begin(), crossing.end());
        }
        for (const FillWay way : {FillWay::Flat, FillWay::Ruled, FillWay::Smooth})
            if ((options_.bends || way != FillWay::Smooth) && !tryWay(way)) return false;
        if (!done) consider(fanPatch(mesh_.positions, loopOf(mesh_, rims_[hole.rims.front()])), FillWay::Taut, nullptr);
        if (best.crossing == std::numeric_limits<std::size_t>::max()) {
            const Rim& rim = rims_[hole.rims.front()];
            result_.left.push_back({hole.shape.centre, hole.shape.size, rim.size(), "no patch fits its rim"});
            return true;
        }
        place(hole, best.patch, best.way, best.crossing > 0);
        if (best.way != hole.way && !isMade && hole.way == FillWay::Sharp)
            result_.filled.back().why = "the faces around do not meet in a ridge or a corner";
        return true;
    }

    // Rims that were thought to be islands, each for itself.
    bool closeApart(const Hole& hole, mesh::Progress& progress) {
        for (std::size_t r : hole.rims) {
            Hole single{{r}, shapeOf(mesh_, rims_[r])};
            chooseWay(rims_[r], options_.way, single);
            auto patch =
                make(single, single.way, {[this](VertexId a, VertexId b) { return trials_->isEdge(a, b); }}, progress);
            if (!patch || !close(single, std::move(*patch), progress)) return false;
        }
        return true;
    }

    void place(const Hole& hole, const Patch& patch, FillWay way, bool crosses) {
        trials_->place(patch, rimsOfHole(hole));
        result_.added += patch.triangles.size();
        std::size_t edges = 0;
        for (std::size_t r : hole.rims) edges += rims_[r].size();
        result_.filled.push_back({hole.shape.centre, hole.shape.size, edges, patch.triangles.size(), way,
                                  way == hole.way ? hole.why : "another way would cross the surface or itself",
                                  crosses});
    }

    [[nodiscard]] std::vector<const Rim*> rimsOfHole(const Hole& hole) const {
        std::vector<const Rim*> rims;
        for (std::size_t r : hole.rims) rims.push_back(&rims_[r]);
        return rims;
    }

    const check::Surveyed& surface_;
    const Mesh& mesh_;
    const mesh::Edges& edges_;
    const mesh::Corners& corners_;
    std::vector<std::uint8_t> chosen_;
    FillOptions options_;
    std::vector<Rim> rims_;
    std::vector<Hole> holes_;
    std::optional<PatchTrials> trials_;
    FillResult result_;
};

}  // namespace

ChosenWay chosenWay(const RimShape& s, std::size_t edges) {
    if (edges < leastSmoothEdges) return {FillWay::Taut, "a few edges"};
    if (s.flat() && s.continuation > tolerance::rimGoesOn)
        return {FillWay::Flat, "the surface around lies in one plane"};
    if (s.flat() && s.continuation < tolerance::rimUpright)
        return {FillWay::Flat, "a flat rim on which the surface stands"};
    if (s.steadiness > tolerance::rimSteady && edges <= mostSmoothEdges)
        return {FillWay::Smooth, "a curved surface stops at the rim"};
    if (s.flat()) return {FillWay::Flat, "a flat rim"};
    return {FillWay::Taut, "the surface around is too rough to be carried on"};
}

std::optional<FillWay> fillWayNamed(std::string_view name) {
    for (const FillWay way :
         {FillWay::Chosen, FillWay::Flat, FillWay::Taut, FillWay::Smooth, FillWay::Ruled, FillWay::Sharp})
        if (nameOf(way) == name) return way;
    return std::nullopt;
}

std::string_view nameOf(FillWay way) {
    constexpr std::string_view names[] = {"chosen", "flat", "taut", "smooth", "ruled", "sharp"};
    return names[static_cast<std::size_t>(way)];
}

mesh::Outcome<FillResult> fill(const check::Surveyed& s, const mesh::Pick& pick, const FillOptions& options,
                               mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    return Filling(s, pick, options).run(progress);
}

mesh::Outcome<FillResult> cutOut(const Mesh& m, const std::vector<std::uint8_t>& gone, const FillOptions& how,
                                 mesh::Progress& progress) {
    // The rims that come into being are those beside what goes.
    std::vector<std::uint8_t> beside(m.positions.size(), 0);
    std::vector<std::uint8_t> keep(gone.size());
    for (TriangleId t = 0; t < gone.size(); ++t) {
        keep[t] = gone[t] == 0;
        if (gone[t])
            for (VertexId v : m.triangles[t]) beside[v] = 1;
    }
    std::vector<TriangleId> rim;
    TriangleId next = 0;
    for (TriangleId t = 0; t < gone.size(); ++t) {
        if (!keep[t]) continue;
        if (std::count_if(m.triangles[t].begin(), m.triangles[t].end(), [&](VertexId v) { return beside[v] != 0; }) >=
            2)
            rim.push_back(next);
        ++next;
    }
    Mesh rest = mesh::keepTriangles(m, keep);
    if (!rim.empty())
        return fill(rest, Pick(std::move(rim)), {.way = how.way, .precision = mesh::precisionOf(m), .bends = how.bends},
                    progress);
    FillResult untouched;
    untouched.mesh = std::move(rest);
    return untouched;
}

std::size_t faultsOf(const FillResult& r) {
    const auto crossing =
        std::count_if(r.filled.begin(), r.filled.end(), [](const FilledHole& h) { return h.crosses; });
    return static_cast<std::size_t>(crossing) + r.left.size() + r.notClosed;
}

}  // namespace zither::holes
