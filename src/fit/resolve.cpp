// Cells around non-manifold edges decide what is wall, fin or skin; then what only touches is parted.
#include "fit/resolve.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <map>

#include "arrange/cut_surface.h"
#include "fit/fit_tolerances.h"
#include "fit/separate.h"
#include "mesh/disjoint_sets.h"
#include "mesh/edges.h"
#include "space/winding.h"

namespace zither::fit {
namespace {

using mesh::EdgeId;
using mesh::HalfEdge;
using mesh::Mesh;
using mesh::noEdge;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// Triangles on the same three vertices, in runs.
std::vector<std::vector<TriangleId>> coincident(const Mesh& m) {
    std::map<mesh::Triangle, std::vector<TriangleId>> byCorners;
    const mesh::Corners corners(m);
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        if (mesh::isCollapsed(m.triangles[t])) continue;
        const auto at = corners.at(m.triangles[t][0]);
        const bool twice = std::any_of(at.begin(), at.end(), [&](HalfEdge h) {
            const TriangleId other = mesh::triangleOf(h);
            return other != t && !mesh::isCollapsed(m.triangles[other]) &&
                   mesh::sameCorners(m.triangles[t], m.triangles[other]);
        });
        if (twice) byCorners[mesh::sortedCorners(m.triangles[t])].push_back(t);
    }
    std::vector<std::vector<TriangleId>> runs;
    runs.reserve(byCorners.size());
    for (auto& [key, run] : byCorners) runs.push_back(std::move(run));
    return runs;
}

class Resolving {
public:
    Resolving(const Mesh& m, const mesh::Pick& pick, const ResolveOptions& options)
        : options_(options),
          m_(m),
          chosen_(pick.mask(m)),
          undecided_(m.triangles.size(), 0),
          alive_(m.triangles.size(), 1) {}

    mesh::Outcome<ResolveResult> run(mesh::Progress& progress) {
        removeCoincident();
        compact();
        turnUndecided();
        if (!progress.report(0.3)) return mesh::cancelled();
        // What a wall hid may be a wall itself.
        for (int round = 0; round < 8 && removeSheets(); ++round)
            if (!progress.report(0.4)) return mesh::cancelled();
        if (!progress.report(0.6)) return mesh::cancelled();
        // Parting an edge gives its ends copies; a bow-tie that this leaves is parted in the next round.
        for (int round = 0; round < 4 && part(); ++round)
            if (!progress.report(0.8)) return mesh::cancelled();
        const mesh::Edges edges(m_);
        for (EdgeId e = 0; e < edges.count(); ++e) result_.edgesLeft += edges.degree(e) > 2;
        mesh::dropUnusedVertices(m_);
        result_.mesh = std::move(m_);
        const auto larger = [](const RemovedSheet& a, const RemovedSheet& b) { return a.area > b.area; };
        std::stable_sort(result_.removed.begin(), result_.removed.end(), larger);
        std::stable_sort(result_.leftFins.begin(), result_.leftFins.end(), larger);
        if (!progress.report(1)) return mesh::cancelled();
        return std::move(result_);
    }

private:
    void compact() {
        const auto keep = [&](std::vector<std::uint8_t>& flags) {
            std::size_t kept = 0;
            for (TriangleId t = 0; t < alive_.size(); ++t)
                if (alive_[t]) flags[kept++] = flags[t];
            flags.resize(kept);
        };
        keep(chosen_);
        if (!undecided_.empty()) keep(undecided_);
        m_ = mesh::keepTriangles(m_, alive_);
        alive_.assign(m_.triangles.size(), 1);
    }

    [[nodiscard]] RemovedSheet describe(RemovedSheet::Kind kind, const std::vector<TriangleId>& triangles) const {
        mesh::Box box;
        RemovedSheet sheet;
        sheet.kind = kind;
        sheet.triangles = triangles.size();
        for (TriangleId t : triangles) {
            box.add(mesh::boxOf(m_, t));
            sheet.area += 0.5 * mesh::areaVector(m_, t).norm();
        }
        sheet.position = box.centre();
        sheet.size = box.diagonal();
        return sheet;
    }

    // ---- triangles on the same three vertices

    // A connected sheet of such triangles encloses nothing where the rest of the surface is closed without it: then all
    // go. Where the rest has an open edge along its rim, one layer stays.
    void removeCoincident() {
        // A triangle on two vertices is no sheet, and in the way of telling what hangs together.
        for (TriangleId t = 0; t < m_.triangles.size(); ++t)
            if (chosen_[t] && mesh::isCollapsed(m_.triangles[t])) {
                alive_[t] = 0;
                ++result_.surplus;
            }
        const std::vector<std::vector<TriangleId>> runs = coincident(m_);
        if (runs.empty()) return;
        const mesh::Edges edges(m_);
        std::vector<std::uint32_t> runOf(m_.triangles.size(), noEdge);
        for (std::uint32_t r = 0; r < runs.size(); ++r)
            for (TriangleId t : runs[r]) runOf[t] = r;
        mesh::DisjointSets sheets(runs.size());
        for (std::uint32_t r = 0; r < runs.size(); ++r)
            forEdges(runs[r].front(), [&](HalfEdge h) {
                for (HalfEdge o : edges.around(edges.edgeOf(h)))
                    if (runOf[mesh::triangleOf(o)] != noEdge) sheets.join(r, runOf[mesh::triangleOf(o)]);
            });
        // Votes of the rim: edges at which an odd number of other triangles end against those at which an even number
        // do.
        struct Rim {
            std::size_t odd = 0;
            std::size_t even = 0;
            std::vector<TriangleId> triangles;
            bool picked = true;
        };
        std::map<std::uint32_t, Rim> rims;
        for (std::uint32_t r = 0; r < runs.size(); ++r) {
            Rim& rim = rims[sheets.find(r)];
            rim.triangles.insert(rim.triangles.end(), runs[r].begin(), runs[r].end());
            for (TriangleId t : runs[r]) rim.picked &= chosen_[t] != 0;
            forEdges(runs[r].front(), [&](HalfEdge h) {
                std::size_t others = 0;
                std::size_t runsHere = 0;
                std::uint32_t last = noEdge;
                for (HalfEdge o : edges.around(edges.edgeOf(h))) {
                    const std::uint32_t run = runOf[mesh::triangleOf(o)];
                    others += run == noEdge;
                    if (run != noEdge && run != last) ++runsHere;
                    if (run != noEdge) last = run;
                }
                if (others % 2 == 1)
                    ++rim.odd;
                else if (others > 0 || runsHere == 1)
                    ++rim.even;
            });
        }
        const std::size_t all = m_.triangles.size();
        std::size_t gone = 0;
        for (const auto& [root, rim] : rims) {
            if (!rim.picked || rim.even <= rim.odd || !options_.removeSheets) continue;
            if (gone + rim.triangles.size() == all) continue;  // nothing would be left
            gone += rim.triangles.size();
            for (TriangleId t : rim.triangles) alive_[t] = 0;
            result_.removed.push_back(describe(RemovedSheet::Double, rim.triangles));
        }
        for (const auto& run : runs) keepOne(run);
    }

    // Of triangles on the same vertices that are not all to go, the first of those that face as most of them do stays.
    void keepOne(const std::vector<TriangleId>& run) {
        if (!alive_[run.front()]) return;
        const auto even = [&](TriangleId t) {
            return arrange::sameTurn(m_.triangles[run.front()], m_.triangles[t]) > 0;
        };
        std::size_t forward = 0;
        for (TriangleId t : run) forward += even(t);
        if (!options_.removeSheets && forward > 0 && forward < run.size()) return;
        const bool facing = 2 * forward >= run.size();
        bool kept = false;
        for (TriangleId t : run) {
            if (!kept && even(t) == facing) {
                kept = true;
                undecided_[t] = chosen_[t] && 2 * forward == run.size();
            } else if (chosen_[t]) {
                alive_[t] = 0;
                ++result_.surplus;
            }
        }
    }

    // What was written as often one way as the other faces as its neighbours do, and outwards where it is closed by
    // itself.
    void turnUndecided() {
        if (std::find(undecided_.begin(), undecided_.end(), 1) == undecided_.end()) return undecided_.clear();
        const mesh::Edges edges(m_);
        std::vector<std::uint8_t> turned(m_.triangles.size(), 0);
        std::vector<std::uint8_t> known(m_.triangles.size(), 0);
        // From the triangles in the list on; false where the surface ends or ties.
        const auto spread = [&](std::vector<TriangleId>& list) {
            bool closed = true;
            for (std::size_t i = 0; i < list.size(); ++i)
                forEdges(list[i], [&](HalfEdge h) {
                    const auto around = edges.around(edges.edgeOf(h));
                    closed &= around.size() == 2;
                    if (around.size() != 2) return;
                    const HalfEdge other = around[0] == h ? around[1] : around[0];
                    const TriangleId o = mesh::triangleOf(other);
                    if (known[o]) return;
                    known[o] = 1;
                    turned[o] = turned[list[i]] ^ static_cast<std::uint8_t>(mesh::runsAlong(m_, h, other));
                    list.push_back(o);
                });
            return closed;
        };
        std::vector<TriangleId> decided;
        for (TriangleId t = 0; t < known.size(); ++t)
            if (!undecided_[t]) {
                known[t] = 1;
                decided.push_back(t);
            }
        spread(decided);
        for (TriangleId t = 0; t < known.size(); ++t) {
            if (known[t]) continue;
            known[t] = 1;
            std::vector<TriangleId> alone{t};
            if (!spread(alone)) continue;
            double volume = 0;
            for (const TriangleId o : alone)
                volume += (turned[o] ? -1 : 1) * mesh::areaVector(m_, o).dot(m_.corner(o, 0) - m_.corner(t, 0));
            if (volume < 0)
                for (const TriangleId o : alone) turned[o] ^= 1;
        }
        for (TriangleId t = 0; t < turned.size(); ++t)
            if (turned[t]) std::swap(m_.triangles[t][1], m_.triangles[t][2]);
        undecided_.clear();
    }

    template <class Use>
    void forEdges(TriangleId t, const Use& use) const {
        for (HalfEdge h = 3 * t; h < 3 * t + 3; ++h) use(h);
    }

    // ---- walls and fins

    struct Patch {
        std::vector<TriangleId> triangles;
        double area = 0;
        double volume = 0;    // as its first triangle faces
        double facing = 0;    // area that faces as the first triangle does, less that which does not
        double border = 0;    // length of its edges that are open or non-manifold
        double rim = 0;       // of its open ones
        bool linked = false;  // its two sides are one
        std::uint32_t shell = 0;
    };

    static std::uint32_t side(std::uint32_t patch, bool back) { return 2 * patch + back; }

    // One round; true where anything went.
    bool removeSheets() {
        const mesh::Edges edges(m_);
        bool any = false;
        for (EdgeId e = 0; e < edges.count() && !any; ++e) any = edges.degree(e) > 2;
        if (!any) return false;
        findPatches(edges);
        const mesh::Groups shells = mesh::shellsOf(m_, edges);
        std::vector<std::uint8_t> tied(shells.count, 0);
        for (EdgeId e = 0; e < edges.count(); ++e)
            if (edges.degree(e) > 2) tied[shells.of[mesh::triangleOf(edges.around(e)[0])]] = 1;
        for (Patch& p : patches_) p.shell = shells.of[p.triangles.front()];
        linkRims(edges);
        mesh::DisjointSets cells(2 * patches_.size());
        for (std::uint32_t p = 0; p < patches_.size(); ++p)
            if (patches_[p].linked) cells.join(side(p, false), side(p, true));
        for (EdgeId e = 0; e < edges.count(); ++e)
            if (edges.degree(e) > 2) linkWedges(edges, e, cells);
        return judge(cells, tied);
    }

    void findPatches(const mesh::Edges& edges) {
        const mesh::Groups groups = mesh::patchesOf(m_, edges);
        patches_.assign(groups.count, {});
        patchOf_ = groups.of;
        turned_.assign(m_.triangles.size(), 0);
        const Point centre = mesh::boxOf(m_).centre();
        std::vector<std::uint8_t> seen(m_.triangles.size(), 0);
        for (TriangleId start = 0; start < m_.triangles.size(); ++start) {
            if (seen[start] || patchOf_[start] == noEdge) continue;
            Patch& patch = patches_[patchOf_[start]];
            seen[start] = 1;
            patch.triangles.push_back(start);
            for (std::size_t i = 0; i < patch.triangles.size(); ++i) {
                const TriangleId t = patch.triangles[i];
                const Point n = mesh::areaVector(m_, t);
                const double sign = turned_[t] ? -1 : 1;
                patch.area += 0.5 * n.norm();
                patch.facing += 0.5 * sign * n.norm();
                patch.volume += sign * n.dot(m_.corner(t, 0) - centre) / 6;
                forEdges(t, [&](HalfEdge h) {
                    const HalfEdge other = edges.twin(h);
                    if (other == noEdge) {
                        const double length = (m_.positions[fromVertex(m_, h)] - m_.positions[toVertex(m_, h)]).norm();
                        patch.border += length;
                        if (edges.degree(edges.edgeOf(h)) == 1) patch.rim += length;
                        return;
                    }
                    const TriangleId n2 = mesh::triangleOf(other);
                    const bool against = mesh::runsAlong(m_, h, other) != (turned_[t] != 0);
                    if (!seen[n2]) {
                        seen[n2] = 1;
                        turned_[n2] = against;
                        patch.triangles.push_back(n2);
                    } else if ((turned_[n2] != 0) != against) {
                        patch.linked = true;  // one-sided
                    }
                });
            }
        }
    }

    void linkRims(const mesh::Edges& edges) {
        std::vector<std::uint8_t> tied(m_.positions.size(), 0);
        mesh::DisjointSets rims(m_.positions.size());
        for (EdgeId e = 0; e < edges.count(); ++e) {
            const HalfEdge h = edges.around(e)[0];
            if (edges.degree(e) > 2) tied[fromVertex(m_, h)] = tied[toVertex(m_, h)] = 1;
            if (edges.degree(e) == 1) rims.join(fromVertex(m_, h), toVertex(m_, h));
        }
        std::vector<std::uint8_t> tiedRim(m_.positions.size(), 0);
        for (VertexId v = 0; v < m_.positions.size(); ++v)
            if (tied[v]) tiedRim[rims.find(v)] = 1;
        for (EdgeId e = 0; e < edges.count(); ++e) {
            if (edges.degree(e) != 1) continue;
            const HalfEdge h = edges.around(e)[0];
            Patch& patch = patches_[patchOf_[mesh::triangleOf(h)]];
            if (tiedRim[rims.find(fromVertex(m_, h))] || patch.rim > tolerance::finRimShare * patch.border)
                patch.linked = true;
        }
    }

    // Between two triangles that follow each other around an edge there is one wedge: their sides there are one cell.
    void linkWedges(const mesh::Edges& edges, EdgeId e, mesh::DisjointSets& cells) const {
        const std::vector<HalfEdge> order = byAngle(m_, edges.around(e));
        // A triangle that runs along the edge from its lower vertex has its front counter-clockwise of it.
        const auto sideOf = [&](HalfEdge h, bool counterClockwise) {
            const bool ascending = fromVertex(m_, h) < toVertex(m_, h);
            const bool front = ascending == counterClockwise;
            const TriangleId t = mesh::triangleOf(h);
            return side(patchOf_[t], front == (turned_[t] != 0));
        };
        for (std::size_t i = 0; i < order.size(); ++i)
            cells.join(sideOf(order[i], true), sideOf(order[(i + 1) % order.size()], false));
    }

    struct Cell {
        double volume = 0;  // its border seen from within; negative for what lies around a shell
        double area = 0;
        double faced = 0;  // area of the border whose front faces the cell
        bool outer = false;
        bool nextToOuter = false;
    };

    bool judge(mesh::DisjointSets& cells, const std::vector<std::uint8_t>& tied) {
        std::map<std::uint32_t, Cell> all;
        for (std::uint32_t p = 0; p < patches_.size(); ++p) {
            const Patch& patch = patches_[p];
            for (const bool back : {false, true}) {
                Cell& cell = all[cells.find(side(p, back))];
                cell.volume += back ? patch.volume : -patch.volume;
                cell.area += patch.area;
                cell.faced += 0.5 * (patch.area + (back ? -patch.facing : patch.facing));
            }
        }
        std::map<std::uint32_t, std::uint32_t> outerOf;  // of each shell
        for (std::uint32_t p = 0; p < patches_.size(); ++p)
            for (const bool back : {false, true}) {
                const std::uint32_t c = cells.find(side(p, back));
                const auto [it, fresh] = outerOf.try_emplace(patches_[p].shell, c);
                if (!fresh && all[c].volume < all[it->second].volume) it->second = c;
            }
        for (const auto& [shell, c] : outerOf) all[c].outer = true;
        const auto cellOf = [&](std::uint32_t p, bool back) -> Cell& { return all[cells.find(side(p, back))]; };
        for (std::uint32_t p = 0; p < patches_.size(); ++p) {
            cellOf(p, false).nextToOuter |= cellOf(p, true).outer;
            cellOf(p, true).nextToOuter |= cellOf(p, false).outer;
        }
        // A cavity's walls face it, and it does not border on what lies around.
        const auto empty = [](const Cell& c) { return c.outer || (!c.nextToOuter && 2 * c.faced > c.area); };
        std::map<std::uint32_t, double> areaOf;
        for (const Patch& p : patches_) areaOf[p.shell] += p.area;
        const auto emptySides = [&](std::uint32_t p) {
            return std::pair(empty(cellOf(p, false)), empty(cellOf(p, true)));
        };
        // By shell: its area that faces what is empty of it, less that which faces away.
        std::map<std::uint32_t, double> outward;
        for (std::uint32_t p = 0; p < patches_.size(); ++p)
            if (const auto [front, back] = emptySides(p); tied[patches_[p].shell] && front != back)
                outward[patches_[p].shell] += front ? patches_[p].facing : -patches_[p].facing;
        std::map<std::uint32_t, bool> cavity;
        for (const auto& [shell, area] : outward) cavity[shell] = area < 0 && liesInMaterial(shell);
        bool changed = false;
        for (std::uint32_t p = 0; p < patches_.size(); ++p) {
            const Patch& patch = patches_[p];
            if (!tied[patch.shell]) continue;
            const bool same = cells.find(side(p, false)) == cells.find(side(p, true));
            const auto [emptyFront, emptyBack] = emptySides(p);
            if (same || (!emptyFront && !emptyBack)) {
                changed |= removePatch(patch, same, areaOf[patch.shell]);
            } else if (emptyFront != emptyBack) {
                face(patch, emptyFront != cavity[patch.shell]);
            }
        }
        compact();
        return changed;
    }

    // The others wind about the shell: one that faces inward there is a cavity, whatever hangs on it.
    [[nodiscard]] bool liesInMaterial(std::uint32_t shell) const {
        std::vector<TriangleId> others;
        const Point* corner = nullptr;
        for (const Patch& patch : patches_) {
            if (patch.shell == shell)
                corner = &m_.corner(patch.triangles.front(), 0);
            else
                others.insert(others.end(), patch.triangles.begin(), patch.triangles.end());
        }
        if (!corner || others.empty()) return false;
        const space::WindingTree winding(m_, others, std::vector<int>(m_.triangles.size(), 1));
        return winding.at(*corner) > 0.5;
    }

    bool removePatch(const Patch& patch, bool fin, double shellArea) {
        if (fin && patch.rim == 0) return false;
        RemovedSheet sheet = describe(fin ? RemovedSheet::Fin : RemovedSheet::Wall, patch.triangles);
        const bool picked =
            std::all_of(patch.triangles.begin(), patch.triangles.end(), [&](TriangleId t) { return chosen_[t] != 0; });
        if (!picked) return false;
        if (fin && patch.area > options_.largestFin * shellArea) {
            const bool known = std::any_of(
                result_.leftFins.begin(), result_.leftFins.end(),
                [&](const RemovedSheet& s) { return s.position == sheet.position && s.area == sheet.area; });
            if (!known) result_.leftFins.push_back(sheet);
            return false;
        }
        for (TriangleId t : patch.triangles) alive_[t] = 0;
        result_.removed.push_back(sheet);
        return true;
    }

    // Turns the patch so that its fronts face the empty cell.
    void face(const Patch& patch, bool frontIsEmpty) {
        for (TriangleId t : patch.triangles) {
            if ((turned_[t] == 0) == frontIsEmpty || !chosen_[t]) continue;
            std::swap(m_.triangles[t][1], m_.triangles[t][2]);
            ++result_.flipped;
        }
    }

    // ---- what only touches

    bool part() {
        const mesh::Edges edges(m_);
        const Separation s =
            separateTouching(m_, edges, {.precision = options_.precision, .touching = options_.touching});
        if (s.replaced.empty()) return false;
        result_.parted += s.added.size();
        for (std::size_t i = 0; i < s.added.size(); ++i) {
            const Point p = mesh::rounded(options_.precision, s.added[i]);
            result_.farthestMoved = std::max(result_.farthestMoved, (p - s.addedFrom[i]).norm());
            m_.positions.push_back(p);
        }
        for (TriangleId t : s.replaced) alive_[t] = 0;
        for (std::size_t i = 0; i < s.replacement.size(); ++i) {
            m_.triangles.push_back(s.replacement[i]);
            if (!m_.regions.empty()) m_.regions.push_back(m_.regions[s.replacementOf[i]]);
            chosen_.push_back(chosen_[s.replacementOf[i]]);
            alive_.push_back(1);
        }
        compact();
        return true;
    }

    ResolveOptions options_;
    Mesh m_;
    std::vector<std::uint8_t> chosen_;
    std::vector<std::uint8_t> undecided_;  // kept of as many that faced one way as the other
    std::vector<std::uint8_t> alive_;
    std::vector<Patch> patches_;
    std::vector<std::uint32_t> patchOf_;
    std::vector<std::uint8_t> turned_;  // against the first triangle of its patch
    ResolveResult result_;
};

}  // namespace

mesh::Outcome<ResolveResult> resolve(const Mesh& m, const mesh::Pick& pick, const ResolveOptions& options,
                                     mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    return Resolving(m, pick, options).run(progress);
}

}  // namespace zither::fit
