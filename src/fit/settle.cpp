// Rounds, finds what crosses among what moved, cuts a small cutting anew, until nothing crosses; then parts.
#include "fit/settle.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>
#include <optional>
#include <set>

#include "arrange/cut_surface.h"
#include "arrange/skin.h"
#include "check/crossing_pairs.h"
#include "check/tied_vertices.h"
#include "fit/fit_tolerances.h"
#include "fit/separate.h"
#include "mesh/lazy.h"
#include "mesh/parallel.h"
#include "mesh/vertex_join.h"
#include "space/triangle_tree.h"
#include "space/winding.h"

namespace zither::fit {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

constexpr mesh::NoIndex none;
constexpr int mostPasses = 40;
constexpr int mostPassesOpen = 12;
constexpr int mostRings = 3;
constexpr std::size_t mostGrown = 4;  // times the triangles that came in, those that were replaced included

// The surface while it is mended: triangles are only taken out or added, vertices only added or, where they are equal,
// joined. So no triangle moves, and one tree over those that there were when they were rounded serves to the end.
class Settler {
public:
    Settler(const Mesh& m, const SettleOptions& options)
        : options_(options),
          precision_(options.precision),
          m_(m),
          diagonal_(mesh::boxOf(m).diagonal()),
          given_(m.triangles.size() + 500),
          source_(m.triangles.size()) {
        for (TriangleId t = 0; t < source_.size(); ++t) source_[t] = t;
    }

    mesh::Outcome<Settled> run(mesh::Progress& progress) {
        std::size_t least = std::numeric_limits<std::size_t>::max();  // broken triangles, in any pass
        roundAll();
        if (!progress.report(0.05)) return mesh::cancelled();
        double units = 4;
        for (result_.passes = 1;; ++result_.passes) {
            const double share = 0.1 + 0.8 * (1 - 1.0 / result_.passes);
            mesh::PartOfProgress part(progress, share, 0.1 + 0.8 * (1 - 1.0 / (result_.passes + 1)));
            auto broken = brokenTriangles(part);
            if (!broken) return mesh::errorOf(broken);
            // Mending that makes ever more of what it mends has lost.
            if (!broken->empty()) least = std::min(least, broken->size());
            for (const TriangleId t : *broken) troubled_.insert(source_[t]);
            const bool last =
                result_.passes == (options_.impatient ? 20 : mostPasses) ||
                (options_.impatient ? 2 * broken->size() > 3 * least + 32 : broken->size() / 8 > least + 25) ||
                m_.triangles.size() > mostGrown * given_ ||
                (result_.passes == mostPassesOpen && isOpen_.get([&] { return isOpen(); }));
            if (!broken->empty()) {
                if (last) {
                    for (TriangleId t : *broken) result_.unsound.push_back(mesh::centroid(m_, t));
                    break;
                }
                if (auto done = recut(*broken, part); !done) return mesh::errorOf(done);
                continue;
            }
            const std::size_t touching = separate(units);
            if (touching == 0) break;
            if (last) {
                result_.unsound.push_back(m_.positions[m_.triangles.back()[0]]);
                break;
            }
            units *= 2;
        }
        finish();
        if (!progress.report(1)) return mesh::cancelled();
        return std::move(result_);
    }

private:
    // What an open surface encloses is a guess, and mending by guesses need not come to an end.
    [[nodiscard]] bool isOpen() const {
        std::vector<TriangleId> numberOf;
        const mesh::Edges edges(living(numberOf));
        for (mesh::EdgeId e = 0; e < edges.count(); ++e)
            if (edges.degree(e) == 1) return true;
        return false;
    }

    // Where a vertex that is made comes to lie.
    [[nodiscard]] Point placed(const Point& p) const {
        constexpr int mostDoublings = 6;
        const double grid = std::ldexp(options_.grid, std::clamp(result_.passes - 2, 0, mostDoublings));
        return placedOn(grid, precision_, p);
    }

    void roundAll() {
        std::vector<std::uint8_t> moved = options_.made;
        moved.resize(m_.positions.size(), 0);
        for (VertexId v = 0; v < m_.positions.size(); ++v) {
            const Point before = m_.positions[v];
            m_.positions[v] = moved[v] ? placed(before) : mesh::rounded(precision_, before);
            if (m_.positions[v] == before) continue;
            moved[v] = 1;
            ++result_.rounded;
            result_.farthestMoved = std::max(result_.farthestMoved, (m_.positions[v] - before).norm());
        }
        alive_.assign(m_.triangles.size(), 1);
        joinEqual();
        for (TriangleId t = 0; t < m_.triangles.size(); ++t)
            if (alive_[t] && (moved[m_.triangles[t][0]] || moved[m_.triangles[t][1]] || moved[m_.triangles[t][2]]))
                suspects_.push_back(t);
    }

    void joinEqual() {
        const std::vector<VertexId> first = mesh::firstOfEqual(m_.positions);
        for (VertexId v = 0; v < first.size(); ++v) result_.joined += first[v] != v;
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) {
            if (!alive_[t]) continue;
            for (VertexId& v : m_.triangles[t]) v = first[v];
            if (mesh::isCollapsed(m_.triangles[t])) alive_[t] = 0;
        }
    }

    void buildTree() {
        std::vector<std::uint8_t> flat(m_.triangles.size(), 0);
        mesh::parallelFor(flat.size(), 4096,
                          [&](std::size_t t) { flat[t] = check::isDegenerate(m_, static_cast<TriangleId>(t)); });
        std::vector<TriangleId> sound;
        for (TriangleId t = 0; t < m_.triangles.size(); ++t)
            if (alive_[t] && !flat[t]) sound.push_back(t);
        tree_ = std::make_unique<space::TriangleTree>(m_, sound);
        treeEnd_ = static_cast<TriangleId>(m_.triangles.size());
    }

    // Suspects that are degenerate, and triangles that cross a suspect.
    mesh::Outcome<std::vector<TriangleId>> brokenTriangles(mesh::Progress& progress) {
        std::set<TriangleId> broken(overlaid_.begin(), overlaid_.end());
        overlaid_.clear();
        std::vector<TriangleId> sound;
        for (TriangleId t : suspects_)
            if (alive_[t]) check::isDegenerate(m_, t) ? static_cast<void>(broken.insert(t)) : sound.push_back(t);
        if (!tree_) {
            if (sound.empty()) return std::vector<TriangleId>(broken.begin(), broken.end());
            buildTree();
            std::vector<std::uint8_t> flags(m_.triangles.size(), 0);
            for (TriangleId t : sound) flags[t] = 1;
            auto pairs = check::crossingPairs(*tree_, progress, {.suspects = flags});
            if (!pairs) return mesh::errorOf(pairs);
            for (const auto& [a, b] : *pairs) {
                broken.insert(a);
                broken.insert(b);
            }
        } else if (!sound.empty()) {
            const space::TriangleTree fresh(m_, addedTriangles());
            std::vector<std::vector<TriangleId>> found(sound.size());
            mesh::parallelFor(sound.size(), 16, [&](std::size_t i) {
                const TriangleId t = sound[i];
                forEachNear(fresh, mesh::boxOf(m_, t), [&](TriangleId o) {
                    if (o != t && !check::isDegenerate(m_, o) && !mesh::sameCorners(m_.triangles[t], m_.triangles[o]) &&
                        check::trianglesIntersect(m_, t, o))
                        found[i].push_back(o);
                });
                if (!found[i].empty()) found[i].push_back(t);
            });
            for (const auto& list : found) broken.insert(list.begin(), list.end());
        }
        if (!progress.report(0.5)) return mesh::cancelled();
        return std::vector<TriangleId>(broken.begin(), broken.end());
    }

    [[nodiscard]] std::vector<TriangleId> addedTriangles() const {
        std::vector<TriangleId> added;
        for (TriangleId t = treeEnd_; t < m_.triangles.size(); ++t)
            if (alive_[t]) added.push_back(t);
        return added;
    }

    template <class Visit>
    void forEachNear(const space::TriangleTree& fresh, const mesh::Box& box, const Visit& visit) const {
        tree_->overlapping(box, [&](TriangleId t) {
            if (alive_[t]) visit(t);
        });
        fresh.overlapping(box, [&](TriangleId t) {
            if (alive_[t]) visit(t);
        });
    }

    // How the surface as it is now winds around points.
    struct Around {
        explicit Around(const Settler& settler) : surface(settler.living(numbers)), winding(surface) {}

        std::vector<TriangleId> numbers;
        Mesh surface;
        space::WindingTree winding;
    };

    // Cuts the broken triangles anew, in a cutting of the surface that holds them and their neighbours; a wider one
    // where what lies around does not say what is inside, and at last the whole of a closed surface.
    mesh::Outcome<void> recut(const std::vector<TriangleId>& broken, mesh::Progress& progress) {
        result_.recut += broken.size();
        if (!tree_) buildTree();
        const space::TriangleTree fresh(m_, addedTriangles());
        std::set<TriangleId> region(broken.begin(), broken.end());
        std::vector<TriangleId> frontier(broken);
        arrange::SkinOptions local;
        local.soundElsewhere = true;
        for (int rings = 1; rings <= mostRings; ++rings) {
            std::vector<TriangleId> next;
            for (TriangleId t : frontier)
                forEachNear(fresh, mesh::boxOf(m_, t), [&](TriangleId o) {
                    if (mesh::sharesCorner(m_.triangles[t], m_.triangles[o]) && region.insert(o).second)
                        next.push_back(o);
                });
            frontier = std::move(next);
            std::vector<TriangleId> members(region.begin(), region.end());
            mesh::SilentProgress silent;
            auto skin = arrange::skinOf(cutting(members, fresh), local, silent);
            if (!skin) return mesh::errorOf(skin);
            if (skin->doubtful) continue;
            replace(members, *skin);
            return {};
        }
        std::vector<TriangleId> all;
        arrange::SkinOptions options;
        std::optional<Around> around;
        if (isOpen_.get([&] { return isOpen(); })) {
            // Nothing tells exactly what an open surface encloses: then a guess about the region is as good.
            all.assign(region.begin(), region.end());
            options.around = &around.emplace(*this).winding;
        } else {
            for (TriangleId t = 0; t < m_.triangles.size(); ++t)
                if (alive_[t]) all.push_back(t);
        }
        const Mesh cut = cutting(all, fresh);
        // What is broken is known, and what lies around it: nothing else crosses.
        if (!options.around)
            for (const TriangleId t : all) options.mayCross.push_back(region.contains(t));
        mesh::PartOfProgress part(progress, 0.5, 1);
        auto skin = arrange::skinOf(cut, options, part);
        if (!skin) return mesh::errorOf(skin);
        replace(all, *skin);
        return {};
    }

    void join(VertexId from, VertexId onto, const space::TriangleTree& fresh) {
        ++result_.joined;
        mesh::Box at;
        at.add(m_.positions[from]);
        forEachNear(fresh, at, [&](TriangleId t) {
            for (VertexId& v : m_.triangles[t])
                if (v == from) v = onto;
            if (mesh::isCollapsed(m_.triangles[t])) alive_[t] = 0;
        });
    }

    // The vertices of triangles, ascending.
    [[nodiscard]] std::vector<VertexId> cornersOf(const std::vector<TriangleId>& members) const {
        std::vector<VertexId> all;
        constexpr std::size_t fewInAll = 16;
        if (members.size() < m_.positions.size() / fewInAll) {
            for (TriangleId t : members) all.insert(all.end(), m_.triangles[t].begin(), m_.triangles[t].end());
            std::sort(all.begin(), all.end());
            all.erase(std::unique(all.begin(), all.end()), all.end());
            return all;
        }
        std::vector<std::uint8_t> used(m_.positions.size(), 0);
        for (TriangleId t : members)
            for (const VertexId v : m_.triangles[t]) used[v] = 1;
        for (VertexId v = 0; v < used.size(); ++v)
            if (used[v]) all.push_back(v);
        return all;
    }

    Mesh cutting(std::vector<TriangleId>& members, const space::TriangleTree& fresh) {
        Mesh cut;
        std::erase_if(members, [&](TriangleId t) { return !alive_[t]; });
        const std::vector<VertexId> all = cornersOf(members);
        cuttingVertices_ = all;
        for (VertexId v : all) cut.positions.push_back(m_.positions[v]);
        // Vertices that rounding made equal become one, for all triangles that they are corners of.
        const std::vector<VertexId> first = mesh::firstOfEqual(cut.positions);
        bool joined = false;
        for (std::size_t i = 0; i < all.size(); ++i)
            if (first[i] != i) {
                join(all[i], all[first[i]], fresh);
                joined = true;
            }
        if (joined) return cutting(members, fresh);
        for (TriangleId t : members) {
            mesh::Triangle c;
            for (unsigned k = 0; k < 3; ++k)
                c[k] =
                    static_cast<VertexId>(std::lower_bound(all.begin(), all.end(), m_.triangles[t][k]) - all.begin());
            cut.triangles.push_back(c);
        }
        return cut;
    }

    // Takes out the members; puts in the skin of their cutting. Triangles that come out whole stay where they are.
    void replace(const std::vector<TriangleId>& members, const arrange::Skin& skin) {
        std::vector<std::uint8_t> stays(members.size(), 0);
        for (std::size_t i = 0; i < skin.whole; ++i) {
            const mesh::Triangle& now = skin.mesh.triangles[i];
            const mesh::Triangle& before = m_.triangles[members[skin.sourceOf[i]]];
            // Turned over, it is another triangle.
            stays[skin.sourceOf[i]] =
                globalCorner(skin, now[0]) == before[0] && globalCorner(skin, now[1]) == before[1];
        }
        for (std::size_t i = 0; i < members.size(); ++i) alive_[members[i]] = stays[i];

        const std::vector<VertexId> numberOf = placeVertices(skin);
        suspects_.clear();
        for (std::size_t i = 0; i < skin.mesh.triangles.size(); ++i) {
            const std::uint32_t member = skin.sourceOf[i];
            if (i < skin.whole && stays[member]) continue;
            const mesh::Triangle& t = skin.mesh.triangles[i];
            if (mesh::isCollapsed({numberOf[t[0]], numberOf[t[1]], numberOf[t[2]]})) continue;
            suspects_.push_back(addTriangle({numberOf[t[0]], numberOf[t[1]], numberOf[t[2]]}, members[member]));
        }
    }

    std::vector<VertexId> placeVertices(const arrange::Skin& skin) {
        std::vector<VertexId> numberOf(skin.mesh.positions.size());
        for (VertexId v = 0; v < skin.mesh.positions.size(); ++v) {
            numberOf[v] = globalCorner(skin, v);
            if (numberOf[v] != none) continue;
            numberOf[v] = static_cast<VertexId>(m_.positions.size());
            m_.positions.push_back(placed(skin.mesh.positions[v]));
        }
        return numberOf;
    }

    // The number that a vertex of the skin had in the whole surface; none for a new one.
    [[nodiscard]] VertexId globalCorner(const arrange::Skin& skin, VertexId v) const {
        return skin.givenVertex[v] == none ? none : cuttingVertices_[skin.givenVertex[v]];
    }

    TriangleId addTriangle(const mesh::Triangle& t, TriangleId from) {
        m_.triangles.push_back(t);
        if (!m_.regions.empty()) m_.regions.push_back(m_.regions[from]);
        source_.push_back(source_[from]);
        alive_.push_back(1);
        return static_cast<TriangleId>(m_.triangles.size() - 1);
    }

    // What the surface looks like now, and the number of each of its triangles here.
    Mesh living(std::vector<TriangleId>& numberOf) const {
        Mesh now;
        now.positions = m_.positions;
        for (TriangleId t = 0; t < m_.triangles.size(); ++t)
            if (alive_[t]) {
                now.triangles.push_back(m_.triangles[t]);
                numberOf.push_back(t);
            }
        return now;
    }

    // Nothing crosses. Duplicates go, as a skin knows what they enclose; touching edges and vertices are parted.
    // Returns how much there was to do.
    std::size_t separate(double units) {
        std::vector<TriangleId> numberOf;
        const Mesh now = living(numberOf);
        const check::Surveyed surveyed(now);
        const mesh::Edges& edges = surveyed.edges();
        // More than two triangles, or two that lie on each other.
        const auto isCrowded = [&](mesh::EdgeId e) {
            const auto around = edges.around(e);
            return around.size() > 2 ||
                   (around.size() == 2 && mesh::sameCorners(now.triangles[mesh::triangleOf(around[0])],
                                                            now.triangles[mesh::triangleOf(around[1])]));
        };
        bool manifold = true;
        for (mesh::EdgeId e = 0; e < edges.count() && manifold; ++e) manifold = !isCrowded(e);
        if (manifold && check::tiedVertices(surveyed).empty()) return 0;
        std::map<mesh::Triangle, std::set<TriangleId>> alike;
        for (mesh::EdgeId e = 0; e < edges.count(); ++e)
            if (isCrowded(e))
                for (mesh::HalfEdge h : edges.around(e)) {
                    const TriangleId t = numberOf[mesh::triangleOf(h)];
                    alike[mesh::sortedCorners(m_.triangles[t])].insert(t);
                }
        if (const std::size_t duplicates = cancelDuplicates(alike); duplicates > 0) return duplicates;
        const Separation parted =
            separateTouching(now, edges,
                             {.precision = precision_,
                              .units = units,
                              .leastUnit = std::max(options_.grid, tolerance::partingLength * diagonal_)});
        if (parted.replaced.empty()) {
            leaveUnparted(now, edges, numberOf);
            return 0;
        }
        result_.separated += parted.added.size();
        for (const Point& p : parted.added) m_.positions.push_back(placed(p));
        suspects_.clear();
        for (TriangleId t : parted.replaced) alive_[numberOf[t]] = 0;
        for (std::size_t i = 0; i < parted.replacement.size(); ++i)
            suspects_.push_back(addTriangle(parted.replacement[i], numberOf[parted.replacementOf[i]]));
        if (!tree_) buildTree();
        return parted.replaced.size();
    }

    // Closed surfaces that overlap around an edge bound no wedges in turn there, and nothing parts them.
    void leaveUnparted(const Mesh& now, const mesh::Edges& edges, const std::vector<TriangleId>& numberOf) {
        for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
            if (edges.degree(e) < 3 || arrange::balanceAt(now, edges, e) != 0) continue;
            const mesh::HalfEdge first = edges.around(e).front();
            result_.unsound.push_back(0.5 * now.positions[mesh::fromVertex(now, first)] +
                                      0.5 * now.positions[mesh::toVertex(now, first)]);
            for (const mesh::HalfEdge h : edges.around(e)) troubled_.insert(source_[numberOf[mesh::triangleOf(h)]]);
        }
    }

    // Two sheets that came to lie on each other, front to front or back to back, enclose nothing: both go. Sheets that
    // face the same way are left for a skin, which knows how deep inside they lie. Returns how many were alike.
    std::size_t cancelDuplicates(const std::map<mesh::Triangle, std::set<TriangleId>>& alike) {
        std::size_t count = 0;
        for (const auto& [corners, list] : alike) {
            if (list.size() < 2) continue;
            count += list.size();
            std::array<std::vector<TriangleId>, 2> byTurn;
            for (TriangleId t : list) {
                const mesh::Triangle& c = m_.triangles[t];
                const unsigned k = c[0] == corners[0] ? 0 : c[1] == corners[0] ? 1 : 2;
                byTurn[c[(k + 1) % 3] == corners[1]].push_back(t);
            }
            const std::size_t cancelled = std::min(byTurn[0].size(), byTurn[1].size());
            for (auto& turn : byTurn) {
                for (std::size_t i = 0; i < cancelled; ++i) alive_[turn[i]] = 0;
                if (turn.size() - cancelled > 1)
                    overlaid_.insert(overlaid_.end(), turn.begin() + static_cast<std::ptrdiff_t>(cancelled),
                                     turn.end());
            }
        }
        if (count > 0) suspects_.clear();
        return count;
    }

    void finish() {
        result_.troubled.assign(troubled_.begin(), troubled_.end());
        for (TriangleId t = 0; t < m_.triangles.size(); ++t)
            if (alive_[t]) result_.sourceOf.push_back(source_[t]);
        result_.mesh = mesh::keepTriangles(m_, alive_);
    }

    const SettleOptions& options_;
    mesh::Precision precision_;
    Mesh m_;
    double diagonal_;
    std::size_t given_;  // triangles that came in, and a few
    std::vector<TriangleId> source_;
    std::vector<std::uint8_t> alive_;
    std::set<TriangleId> troubled_;              // of the surface that came in
    std::vector<TriangleId> suspects_;           // changed since they were last found sound
    std::vector<VertexId> cuttingVertices_;      // of the last cutting
    std::vector<TriangleId> overlaid_;           // duplicates that face the same way
    std::unique_ptr<space::TriangleTree> tree_;  // over the first treeEnd_ triangles, dead ones included
    TriangleId treeEnd_ = 0;
    mesh::Lazy<bool> isOpen_;
    Settled result_;
};

}  // namespace

Point placedOn(double grid, mesh::Precision precision, const Point& p) {
    // Adding 0 makes the zero of a small negative number the same as any other.
    return mesh::rounded(precision, grid > 0 ? Point((p / grid).array().round() * grid + 0.0) : p);
}

double madeGrid(const Mesh& m) {
    const double diagonal = mesh::boxOf(m).diagonal();
    return diagonal > 0 ? std::exp2(std::floor(std::log2(tolerance::madeGrid * diagonal))) : 0;
}

mesh::Outcome<Settled> settle(const Mesh& m, const SettleOptions& options, mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    return Settler(m, options).run(progress);
}

}  // namespace zither::fit
