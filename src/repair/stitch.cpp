// Corners before edges, the smallest gaps first; candidates come from a cell grid.
#include "repair/stitch.h"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

#include "measure/fold_angle.h"
#include "mesh/edges.h"
#include "repair/repair_tolerances.h"
#include "space/cell_grid.h"

namespace zither::repair {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

// Joining and splitting in turn: the middle of a split edge may be joined with another one.
constexpr int passes = 4;
// A gap up to this share of the edges there is closed before wider ones are looked at.
constexpr double shareOfEdge = 0.35;
// What goes to meet the other displaces less than this share of what the other would.
constexpr double gentler = 0.5;
// Candidates for joining that are looked at, and kept: seconds, and a gigabyte.
constexpr std::size_t mostLookedAt = 400'000'000;
constexpr std::size_t mostPairs = 40'000'000;
// A proposal looks at so many at most: it is asked while somebody waits.
constexpr std::size_t mostForProposal = 50'000'000;

// The open edges of a mesh, with what has to be known of them to tell whether two fit together.
class Borders {
public:
    explicit Borders(const check::Surveyed& s)
        : m_(s.mesh()),
          edges_(s.edges()),
          first_(s.mesh().positions.size() + 1, 0),
          shortest_(s.mesh().positions.size(), std::numeric_limits<double>::infinity()) {
        const Mesh& m = m_;
        for (mesh::EdgeId e = 0; e < edges_.count(); ++e)
            if (edges_.degree(e) == 1) open.push_back(edges_.around(e)[0]);
        std::sort(open.begin(), open.end());
        for (HalfEdge h : open) {
            ++first_[fromVertex(m, h) + 1];
            ++first_[toVertex(m, h) + 1];
        }
        for (std::size_t v = 0; v < m.positions.size(); ++v) first_[v + 1] += first_[v];
        at_.resize(first_.back());
        std::vector<std::uint32_t> next(first_.begin(), first_.end() - 1);
        for (HalfEdge h : open) {
            at_[next[fromVertex(m, h)]++] = h;
            at_[next[toVertex(m, h)]++] = h;
            const double length = direction(h).norm();
            meanLength_ += length / static_cast<double>(open.size());
            for (const VertexId v : {fromVertex(m, h), toVertex(m, h)}) shortest_[v] = std::min(shortest_[v], length);
        }
    }

    // The open half-edges that start or end at v.
    [[nodiscard]] std::span<const HalfEdge> at(VertexId v) const {
        return {at_.data() + first_[v], at_.data() + first_[v + 1]};
    }
    [[nodiscard]] bool isOpen(VertexId v) const { return first_[v] != first_[v + 1]; }

    [[nodiscard]] double meanLength() const { return meanLength_; }
    // Of the open edges at v.
    [[nodiscard]] double shortestAt(VertexId v) const { return shortest_[v]; }
    [[nodiscard]] double shortest() const {
        double shortest = std::numeric_limits<double>::infinity();
        for (const double length : shortest_) shortest = std::min(shortest, length);
        return shortest;
    }

    [[nodiscard]] bool fit(HalfEdge a, HalfEdge b, bool sameFacingOnly) const {
        if (mesh::triangleOf(a) == mesh::triangleOf(b)) return false;
        const Point da = direction(a).normalized();
        const Point db = direction(b).normalized();
        const double cosine = da.dot(db);
        if (std::abs(cosine) < tolerance::stitchAlong || (sameFacingOnly && cosine > 0)) return false;
        return inwards(a).dot(inwards(b)) < tolerance::stitchFoldsBack;
    }
    [[nodiscard]] bool fitAt(VertexId a, VertexId b, bool sameFacingOnly) const {
        for (HalfEdge x : at(a))
            for (HalfEdge y : at(b))
                if (fit(x, y, sameFacingOnly)) return true;
        return false;
    }
    // An open edge at v and some edge at o end in the same vertex, and no triangle there is folded back onto the one
    // of the open edge: a wall whose foot has been closed under it, but for its end.
    [[nodiscard]] bool endsOnSeam(const mesh::Corners& corners, VertexId v, VertexId o) const {
        const auto around = at(v);
        return std::any_of(around.begin(), around.end(), [&](HalfEdge h) {
            const VertexId shared = fromVertex(m_, h) == v ? toVertex(m_, h) : fromVertex(m_, h);
            const Point mine = inwards(h);
            bool any = false;
            for (const HalfEdge c : corners.at(o)) {
                const mesh::Triangle& t = m_.triangles[mesh::triangleOf(c)];
                if (!mesh::hasCorner(t, shared)) continue;
                if (mesh::hasCorner(t, v)) return false;
                any = true;
                const HalfEdge foot = toVertex(m_, c) == shared ? c : mesh::previousInTriangle(c);
                if (!(mine.dot(inwards(foot)) < tolerance::stitchFoldsBack)) return false;
            }
            return any;
        });
    }
    // An open edge runs between them.
    [[nodiscard]] bool linked(VertexId a, VertexId b) const {
        const auto around = at(a);
        return std::any_of(around.begin(), around.end(),
                           [&](HalfEdge h) { return fromVertex(m_, h) == b || toVertex(m_, h) == b; });
    }

    // Some border at v fits along the open edge.
    [[nodiscard]] bool fitAlong(VertexId v, HalfEdge edge, bool sameFacingOnly) const {
        const auto around = at(v);
        return std::any_of(around.begin(), around.end(), [&](HalfEdge h) { return fit(h, edge, sameFacingOnly); });
    }

    std::vector<HalfEdge> open;

private:
    [[nodiscard]] Point direction(HalfEdge h) const {
        return m_.positions[toVertex(m_, h)] - m_.positions[fromVertex(m_, h)];
    }
    // From the edge into its triangle, in the triangle's plane.
    [[nodiscard]] Point inwards(HalfEdge h) const {
        const Point& from = m_.positions[fromVertex(m_, h)];
        return measure::across(from, direction(h).normalized(), m_.positions[oppositeVertex(m_, h)]).normalized();
    }

    const Mesh& m_;
    const mesh::Edges& edges_;
    std::vector<std::uint32_t> first_;
    std::vector<HalfEdge> at_;
    std::vector<double> shortest_;
    double meanLength_ = 0;
};

class Stitching {
public:
    Stitching(const check::Surveyed& s, const mesh::Pick& pick, const StitchOptions& options)
        : options_(options),
          given_(s),
          m_(s.mesh()),
          picked_(m_.positions.size(), 0),
          came_(m_.positions.size()),
          now_(m_.positions.size()),
          gathers_(m_.positions.size(), 0) {
        const Mesh& m = m_;
        for (VertexId v = 0; v < now_.size(); ++v) {
            now_[v] = v;
            came_[v].add(m.positions[v]);
        }
        const std::vector<std::uint8_t> chosen = pick.mask(m);
        for (TriangleId t = 0; t < m.triangles.size(); ++t)
            if (chosen[t])
                for (VertexId v : m.triangles[t]) picked_[v] = 1;
    }

    mesh::Outcome<StitchResult> run(mesh::Progress& progress) {
        // First what is close together for the edges there, then all within the distance, which may be longer than the
        // edges of a fine rim; where no edge is as short as that, both are one.
        for (const bool local : {true, false}) {
            if (local && options_.distance <= shareOfEdge * Borders(given_).shortest()) continue;
            share_ = local ? shareOfEdge : std::numeric_limits<double>::infinity();
            mesh::PartOfProgress part(progress, local ? 0 : 0.5, local ? 0.5 : 1);
            if (auto done = runPasses(part); !done) return mesh::errorOf(done);
        }
        for (VertexId v = 0; v < now_.size(); ++v)
            result_.farthestMoved =
                std::max(result_.farthestMoved, (m_.positions[now_[v]] - given_.mesh().positions[v]).norm());
        mesh::dropUnusedVertices(m_);
        result_.mesh = std::move(m_);
        return std::move(result_);
    }

private:
    mesh::Outcome<void> runPasses(mesh::Progress& progress) {
        // Corners first, the smallest gaps before larger ones; only then edges are split at corners that lie on them,
        // or a corner would be taken for one on an edge before the one that it belongs to is within reach.
        for (int pass = 0; pass < passes; ++pass) {
            const std::size_t before = result_.joined + result_.split;
            for (bool any = true; any;) {
                mesh::PartOfProgress part(progress, (pass + 0.3) / passes, (pass + 0.3) / passes);
                mesh::Outcome<bool> joined = joinVertices(part);
                if (!joined) return mesh::errorOf(joined);
                any = *joined;
                if (!part.report(1)) return mesh::cancelled();
            }
            // Splitting an edge may leave a shorter one that another vertex lies on.
            recent_.assign(m_.triangles.size(), 1);
            for (int round = 0; round < 6 && splitEdges(); ++round)
                if (!progress.report((pass + 0.7) / passes)) return mesh::cancelled();
            if (result_.joined + result_.split == before) break;
        }
        return {};
    }

    // Nothing that was given in the box is farther from the point than may be.
    [[nodiscard]] bool isWithin(const mesh::Box& box, const Point& point) const {
        return (box.max - point).cwiseMax(point - box.min).norm() <= options_.distance;
    }

    // How far v may be from what it is joined with in this pass.
    [[nodiscard]] double reachOf(const Borders& borders, VertexId v) const {
        return std::min(options_.distance, share_ * borders.shortestAt(v));
    }

    // Each vertex goes to the nearest one that stays, small gaps first; none moves farther than the distance, all
    // passes together. True where any was joined. Two ends of one edge are not joined: that would eat the surface, not
    // a gap.
    mesh::Outcome<bool> joinVertices(mesh::Progress& progress) {
        const double reach = options_.distance;
        const check::Surveyed anew(m_);
        const bool asGiven = result_.joined + result_.split == 0 && !moved_;
        const check::Surveyed& now = asGiven ? given_ : anew;
        const Borders borders(now);
        const mesh::Corners& corners = now.corners();
        space::CellGrid grid(2 * reach);
        std::vector<VertexId> target(m_.positions.size());
        for (VertexId v = 0; v < target.size(); ++v) target[v] = v;
        struct Pair {
            double gap;
            VertexId stays;
            VertexId goes;
        };
        std::vector<Pair> pairs;
        std::size_t looked = 0;
        const auto fit = [&](VertexId a, VertexId b) {
            return borders.fitAt(a, b, options_.sameFacingOnly) ||
                   (!options_.sameFacingOnly &&
                    (borders.endsOnSeam(corners, a, b) || borders.endsOnSeam(corners, b, a)));
        };
        for (VertexId v = 0; v < target.size(); ++v) {
            if (!(borders.isOpen(v) || gathers_[v]) || !picked_[v]) continue;
            const Point& p = m_.positions[v];
            if (v % 1024 == 0 && !progress.report(0)) return mesh::cancelled();
            if (looked > mostLookedAt || pairs.size() > mostPairs)
                return mesh::badInput(fmt::format(
                    "stitch: within {:.3g} of each other lie too many borders to tell which belong together "
                    "(the mean open edge is {:.3g} long): choose a smaller distance, or pick a part of it",
                    reach, borders.meanLength()));
            const double within = reachOf(borders, v);
            grid.near(space::around(p, reach), [&](VertexId o) {
                ++looked;
                const double gap = (m_.positions[o] - p).norm();
                if (gap <= within && gap <= reachOf(borders, o) && !mesh::linked(m_, corners, v, o) && fit(o, v))
                    pairs.push_back({gap, o, v});
            });
            grid.add(v, p);
        }
        std::sort(pairs.begin(), pairs.end(), [](const Pair& a, const Pair& b) {
            return a.gap != b.gap ? a.gap < b.gap : a.stays != b.stays ? a.stays < b.stays : a.goes < b.goes;
        });
        std::vector<std::uint8_t> holds(target.size(), 0);  // others have come here
        for (const Pair& pair : pairs) {
            VertexId stays = pair.stays;
            VertexId goes = pair.goes;
            // Who moved already is followed where it went.
            if (target[stays] != stays) stays = target[stays];
            if (target[goes] != goes || stays == goes) continue;
            if (holds[goes] && holds[stays]) continue;
            const Point step = m_.positions[stays] - m_.positions[goes];
            const bool dearer = displaced(corners, stays, step) < gentler * displaced(corners, goes, step);
            if (holds[goes] || (dearer && !holds[stays])) std::swap(stays, goes);
            if (!isWithin(came_[goes], m_.positions[stays]) || mesh::linked(m_, corners, goes, stays)) continue;
            target[goes] = stays;
            holds[stays] = gathers_[stays] = 1;
            came_[stays].add(came_[goes]);
            ++result_.joined;
        }
        for (VertexId& v : now_) v = target[v];
        bool any = false;
        for (mesh::Triangle& t : m_.triangles)
            for (VertexId& v : t)
                if (target[v] != v) {
                    v = target[v];
                    any = true;
                }
        if (any) removeCollapsed();
        return any;
    }

    void removeCollapsed() {
        std::size_t next = 0;
        for (std::size_t t = 0; t < m_.triangles.size(); ++t) {
            if (mesh::isCollapsed(m_.triangles[t])) {
                ++result_.collapsed;
                continue;
            }
            m_.triangles[next] = m_.triangles[t];
            if (!m_.regions.empty()) m_.regions[next] = m_.regions[t];
            ++next;
        }
        m_.triangles.resize(next);
        if (!m_.regions.empty()) m_.regions.resize(next);
    }

    // Six times the volume that is swept when a vertex moves by so much: nothing where the triangles around it lie
    // along the way.
    [[nodiscard]] double displaced(const mesh::Corners& corners, VertexId v, const Point& step) const {
        double sum = 0;
        for (HalfEdge h : corners.at(v)) sum += std::abs(step.dot(mesh::areaVector(m_, mesh::triangleOf(h))));
        return sum;
    }

    // No triangle around it turns over.
    [[nodiscard]] bool mayMove(const mesh::Corners& corners, VertexId v, const Point& to) {
        const auto around = corners.at(v);
        const Point from = m_.positions[v];
        return std::all_of(around.begin(), around.end(), [&](HalfEdge h) {
            const Point before = mesh::areaVector(m_, mesh::triangleOf(h));
            m_.positions[v] = to;
            const Point after = mesh::areaVector(m_, mesh::triangleOf(h));
            m_.positions[v] = from;
            return before.isZero() || before.dot(after) > 0;
        });
    }

    // Vertices whose own surface would be displaced less than that of the edge which they lie along go onto the edge:
    // the rim of a flat end onto the wall around it, whose chords are others.
    void moveOntoEdges(const check::Surveyed& now, const Borders& borders, const space::CellGrid& grid) {
        struct Nearest {
            double gap;
            HalfEdge edge;
        };
        std::map<VertexId, Nearest> nearest;
        for (HalfEdge h : borders.open)
            if (recent_[mesh::triangleOf(h)] && picked_[fromVertex(m_, h)] && picked_[toVertex(m_, h)])
                for (VertexId v : verticesOn(grid, borders, h)) {
                    const double gap = (footOn(h, m_.positions[v]) - m_.positions[v]).norm();
                    const auto [at, added] = nearest.try_emplace(v, Nearest{gap, h});
                    if (!added && gap < at->second.gap) at->second = {gap, h};
                }
        for (const auto& [v, near] : nearest) {
            const Point foot = footOn(near.edge, m_.positions[v]);
            const Point step = foot - m_.positions[v];
            const double ofEdge = std::abs(step.dot(mesh::areaVector(m_, mesh::triangleOf(near.edge))));
            if (!isWithin(came_[v], foot) || !(displaced(now.corners(), v, step) < gentler * ofEdge) ||
                !mayMove(now.corners(), v, foot))
                continue;
            m_.positions[v] = foot;
            moved_ = true;
        }
    }

    [[nodiscard]] Point footOn(HalfEdge h, const Point& p) const {
        const Point& a = m_.positions[fromVertex(m_, h)];
        const Point ab = m_.positions[toVertex(m_, h)] - a;
        return a + std::clamp(ab.dot(p - a) / ab.squaredNorm(), 0.0, 1.0) * ab;
    }

    // One round: each open edge with open vertices along its inside is split at all of them, where the triangles are
    // recent. True where any was.
    bool splitEdges() {
        const check::Surveyed now(m_);
        const Borders borders(now);
        space::CellGrid grid(std::max(options_.distance, borders.meanLength()));
        for (VertexId v = 0; v < m_.positions.size(); ++v)
            if (borders.isOpen(v) && picked_[v]) grid.add(v, m_.positions[v]);
        moveOntoEdges(now, borders, grid);
        std::vector<std::uint8_t> touched(m_.triangles.size(), 0);
        bool any = false;
        for (HalfEdge h : borders.open) {
            if (touched[mesh::triangleOf(h)] || !recent_[mesh::triangleOf(h)] || !picked_[fromVertex(m_, h)] ||
                !picked_[toVertex(m_, h)])
                continue;
            const std::vector<VertexId> on = verticesOn(grid, borders, h);
            if (on.empty()) continue;
            touched[mesh::triangleOf(h)] = 1;
            splitAt(h, on);
            any = true;
        }
        recent_ = std::move(touched);
        recent_.resize(m_.triangles.size(), 1);
        return any;
    }

    // Open vertices within reach of the inside of edge h that fit along it, in their order.
    [[nodiscard]] std::vector<VertexId> verticesOn(const space::CellGrid& grid, const Borders& borders,
                                                   HalfEdge h) const {
        const Point& a = m_.positions[fromVertex(m_, h)];
        const Point& b = m_.positions[toVertex(m_, h)];
        const Point ab = b - a;
        const double length = ab.norm();
        const double farthest = std::min(options_.distance, share_ * length);
        std::vector<std::pair<double, VertexId>> found;
        if (!(length > 2 * farthest)) return {};
        mesh::Box reached = space::around(a, farthest);
        reached.add(space::around(b, farthest));
        const auto look = [&](VertexId v) {
            if (!reached.contains(space::around(m_.positions[v], 0))) return;
            const double t = ab.dot(m_.positions[v] - a) / length;
            const double gap = (a + t / length * ab - m_.positions[v]).norm();
            if (gap > farthest || mesh::hasCorner(m_.triangles[mesh::triangleOf(h)], v)) return;
            const double reach = std::min(farthest, reachOf(borders, v));
            if (gap > reach || !(t > reach && t < length - reach)) return;
            if (borders.fitAlong(v, h, options_.sameFacingOnly)) found.emplace_back(t, v);
        };
        // Along the edge, a cell at a time: cells are as long as the mean edge, so all edges together take few.
        const double steps = std::clamp(std::ceil(length / grid.cell()), 1.0, 1e6);
        for (double step = 0; step < steps; ++step) {
            mesh::Box box = space::around(a + step / steps * ab, farthest);
            box.add(space::around(a + (step + 1) / steps * ab, farthest));
            grid.near(box, look);
        }
        std::sort(found.begin(), found.end());
        std::vector<VertexId> on;
        for (const auto& [t, v] : found)
            if (on.empty() || on.back() != v) on.push_back(v);
        return on;
    }

    // The triangle of h becomes a fan over its opposite corner.
    void splitAt(HalfEdge h, const std::vector<VertexId>& on) {
        const TriangleId t = mesh::triangleOf(h);
        const VertexId end = toVertex(m_, h);
        const VertexId apex = oppositeVertex(m_, h);
        VertexId from = fromVertex(m_, h);
        for (std::size_t i = 0; i <= on.size(); ++i) {
            const VertexId to = i < on.size() ? on[i] : end;
            if (i == 0) {
                m_.triangles[t] = {from, to, apex};
            } else {
                m_.triangles.push_back({from, to, apex});
                if (!m_.regions.empty()) m_.regions.push_back(m_.regions[t]);
            }
            from = to;
        }
        ++result_.split;
    }

    StitchOptions options_;
    double share_ = 0;  // of the shortest edge at a vertex that a gap may have there
    const check::Surveyed& given_;
    Mesh m_;
    std::vector<std::uint8_t> picked_;
    std::vector<mesh::Box> came_;        // of each vertex: where those that became it were given
    std::vector<VertexId> now_;          // what each given vertex has become
    std::vector<std::uint8_t> gathers_;  // others have become it
    bool moved_ = false;                 // some vertex, onto an edge
    std::vector<std::uint8_t> recent_;   // triangles that the last round of splitting made or changed
    StitchResult result_;
};

std::vector<double> gapsBetween(const Mesh& m, const Borders& borders) {
    std::vector<double> gaps;
    const double reach = tolerance::crackOfOpenEdge * borders.meanLength();
    if (!(reach > 0)) return gaps;
    space::CellGrid vertices(reach);
    space::CellGrid middles(0.5 * borders.meanLength());
    for (VertexId v = 0; v < m.positions.size(); ++v)
        if (borders.isOpen(v)) vertices.add(v, m.positions[v]);
    // Edges are found by their middles; those much longer than most are walked along.
    for (std::uint32_t i = 0; i < borders.open.size(); ++i) {
        const Point& a = m.positions[fromVertex(m, borders.open[i])];
        const Point& b = m.positions[toVertex(m, borders.open[i])];
        const double length = (b - a).norm();
        const double steps = std::clamp(std::ceil(length / borders.meanLength()), 1.0, 1000.0);
        for (double step = 0.5; step < steps; ++step) middles.add(i, a + step / steps * (b - a));
    }
    std::size_t looked = 0;
    for (VertexId v = 0; v < m.positions.size() && looked < mostForProposal; ++v) {
        if (!borders.isOpen(v)) continue;
        // A gap that is wider than an edge beside it is long is no crack, however long others are.
        double best = std::min(reach, borders.shortestAt(v));
        const double most = best;
        const Point& p = m.positions[v];
        vertices.near(space::around(p, reach), [&](VertexId o) {
            ++looked;
            const double gap = (m.positions[o] - p).norm();
            if (o != v && gap < best && gap < borders.shortestAt(o) && !borders.linked(v, o) &&
                borders.fitAt(v, o, false))
                best = gap;
        });
        middles.near(space::around(p, best + 0.5 * borders.meanLength()), [&](std::uint32_t i) {
            ++looked;
            const HalfEdge h = borders.open[i];
            if (mesh::hasCorner(m.triangles[mesh::triangleOf(h)], v)) return;
            const Point& a = m.positions[fromVertex(m, h)];
            const Point ab = m.positions[toVertex(m, h)] - a;
            const double t = ab.dot(p - a) / ab.squaredNorm();
            if (!(t > 0 && t < 1)) return;
            if (const double gap = (a + t * ab - p).norm(); gap < best && borders.fitAlong(v, h, false)) best = gap;
        });
        if (best < most) gaps.push_back(best);
    }
    return gaps;
}

// Of open vertices, the gaps to what they could be joined with, least first.
struct Gaps {
    std::vector<double> sorted;
    std::size_t open = 0;   // vertices
    double meanLength = 0;  // of open edges

    explicit Gaps(const check::Surveyed& s) {
        const Borders borders(s);
        sorted = gapsBetween(s.mesh(), borders);
        std::sort(sorted.begin(), sorted.end());
        for (VertexId v = 0; v < s.mesh().positions.size(); ++v) open += borders.isOpen(v);
        meanLength = borders.meanLength();
    }

    // Twice the widest of the gaps that are cracks; 0 where none is.
    [[nodiscard]] double widestOfCracks(double least) const {
        double distance = 0;
        for (std::size_t first = 0; first < sorted.size();) {
            std::size_t last = first;
            // Next to none within a wide step is as good as none: a few odd places must not chain cracks to openings.
            while (true) {
                const auto after = sorted.begin() + static_cast<std::ptrdiff_t>(last + 1);
                const double within = tolerance::stitchWideStep * std::max(sorted[last], least);
                const auto more = static_cast<std::size_t>(std::upper_bound(after, sorted.end(), within) - after);
                const bool odd =
                    more <= tolerance::stitchOddPlaces &&
                    static_cast<double>(more) < tolerance::stitchLeastShare * static_cast<double>(last + 1 - first);
                if (more == 0 || (odd && distance == 0)) break;
                last += more;
            }
            // A few narrow places among many open vertices are the corners of torn holes, not cracks; and after the
            // first group that is, others must be narrow indeed.
            const bool many =
                static_cast<double>(last + 1 - first) >= tolerance::stitchLeastShare * static_cast<double>(open);
            if (many && (distance == 0 || sorted[last] <= tolerance::stitchHair * meanLength))
                distance = 2 * sorted[last];
            first = last + 1;
        }
        return distance;
    }
};

}  // namespace

std::vector<double> gapsOf(const check::Surveyed& s) {
    return gapsBetween(s.mesh(), Borders(s));
}

double proposedStitchDistance(const check::Surveyed& s) {
    const Gaps gaps(s);
    if (gaps.sorted.empty()) return 0;
    const double least = tolerance::stitchAlways * mesh::boxOf(s.mesh()).diagonal();
    if (gaps.sorted.front() > least) return gaps.widestOfCracks(least);
    // Gaps below what coordinates can tell are always closed: only what is open then says more, where they are many.
    const auto below = std::upper_bound(gaps.sorted.begin(), gaps.sorted.end(), least) - gaps.sorted.begin();
    if (static_cast<double>(below) < tolerance::stitchLeastShare * static_cast<double>(gaps.open))
        return std::max(2 * least, gaps.widestOfCracks(least));
    mesh::SilentProgress silent;
    const auto closed = stitch(s, mesh::Pick(), {.distance = 2 * least}, silent);
    return std::max(2 * least, closed ? Gaps(check::Surveyed(closed->mesh)).widestOfCracks(least) : 0);
}

mesh::Outcome<StitchResult> stitch(const check::Surveyed& s, const mesh::Pick& pick, const StitchOptions& options,
                                   mesh::Progress& progress) {
    if (!(options.distance >= 0)) return mesh::badInput("stitch: the distance must not be negative");
    if (!progress.report(0)) return mesh::cancelled();
    if (options.distance == 0) return StitchResult{s.mesh(), 0, 0, 0, 0};
    return Stitching(s, pick, options).run(progress);
}

}  // namespace zither::repair
