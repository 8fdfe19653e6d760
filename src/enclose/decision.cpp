// Patches, pieces, cells, evidence, cut: stage by stage.
#include "enclose/decision.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <numeric>
#include <unordered_map>

#include "arrange/pieces.h"
#include "enclose/cells.h"
#include "enclose/enclose_tolerances.h"
#include "enclose/evidence.h"
#include "enclose/minimum_cut.h"
#include "enclose/patched.h"
#include "measure/loss.h"
#include "measure/measure_tolerances.h"
#include "measure/visibility.h"
#include "mesh/disjoint_sets.h"
#include "mesh/lazy.h"
#include "mesh/parallel.h"

namespace zither::enclose {

using arrange::Pieces;
using holes::Candidate;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

namespace {

// The least of the values, as many as add up to the budget; least first.
std::vector<std::uint32_t> leastWithin(double budget, const std::vector<double>& values) {
    std::vector<std::uint32_t> order(values.size());
    std::iota(order.begin(), order.end(), 0U);
    std::stable_sort(order.begin(), order.end(),
                     [&](std::uint32_t a, std::uint32_t b) { return values[a] < values[b]; });
    const auto end =
        std::find_if(order.begin(), order.end(), [&](std::uint32_t i) { return (budget -= values[i]) < 0; });
    order.erase(end, order.end());
    return order;
}

}  // namespace

class Decision::Impl {
public:
    // Keeps references to both.
    Impl(const check::Surveyed& s, const VolumesOptions& options) : s_(s), input_(s.mesh()), options_(options) {}

    mesh::Outcome<void> run(mesh::Progress& progress) {
        mesh::PartOfProgress patching(progress, 0, 0.2);
        auto patched = patchedAll(s_, options_.precision, patching);
        if (!patched) return mesh::errorOf(patched);
        patched_ = std::move(*patched);
        mesh::PartOfProgress cutting(progress, 0.2, 0.6);
        auto pieces = arrange::piecesOf(check::Surveyed(patched_.mesh), patched_.operands(), cutting);
        if (!pieces) return mesh::errorOf(pieces);
        p_ = std::move(*pieces);
        mesh::PartOfProgress linking(progress, 0.6, 0.8);
        auto cells = cellsOf(p_, patched_.mesh, linking);
        if (!cells) return mesh::errorOf(cells);
        cells_ = std::move(*cells);
        evidence_ = evidenceOf(p_, cells_, patched_, thinnessOf(input_));
        if (!progress.report(0.9)) return mesh::cancelled();
        decide();
        if (!options_.closeMeant) fillPockets();
        giveRoles();
        judgeInner();
        findShreds();
        listPieces(Role::Shred, result_.shreds);
        if (options_.sheets == VolumesOptions::Sheets::Keep) findOverhangs();
        if (!progress.report(1)) return mesh::cancelled();
        return {};
    }

    Surfaces surfaces(Volumes& result) {
        readOff();
        result = std::move(result_);
        return std::move(out_);
    }

    [[nodiscard]] std::vector<std::uint8_t> sheetTriangles() const {
        std::vector<std::uint8_t> sheet(input_.triangles.size(), 0);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t)
            if (role_[t] == Role::Sheet) sheet[p_.sourceOf[t]] = 1;
        for (TriangleId t = 0; t < evidence_.area.size(); ++t)
            if (isSkin(t) && p_.sourceOf[t] < sheet.size()) sheet[p_.sourceOf[t]] = 0;
        return sheet;
    }

private:
    [[nodiscard]] bool isPatch(TriangleId piece) const { return patched_.isPatch(p_.sourceOf[piece]); }
    [[nodiscard]] std::uint32_t candidateOf(TriangleId piece) const { return patched_.candidateAt(p_.sourceOf[piece]); }
    [[nodiscard]] bool staysOpen(const Candidate& c) const { return !c.meant.empty() && !options_.closeMeant; }

    // ---- full or empty

    void decide() {
        std::vector<CutNode> nodes(cells_.count);
        double total = 0;
        for (const double a : evidence_.area) total += a;
        for (std::uint32_t c = 0; c < cells_.count; ++c) {
            const double full = std::clamp(evidence_.winding[c], 0.0, 1.0);
            nodes[c] = {evidence_.counts[c] * evidence_.border[c] * (1 - full),
                        evidence_.counts[c] * evidence_.border[c] * full};
        }
        nodes[0] = {1000 * total, 0};
        std::unordered_map<std::uint64_t, CutEdge> between;
        for (TriangleId t = 0; t < evidence_.area.size(); ++t) {
            const auto [front, back] = cells_.of[t];
            if (front == back) continue;
            const auto [a, b] = std::minmax(front, back);
            CutEdge& e = between.try_emplace(mesh::pairKey(a, b), CutEdge{a, b, 0, 0}).first->second;
            const double price = (isPatch(t) ? tolerance::patchPrice : tolerance::surfacePrice) * evidence_.area[t];
            e.aFull += price;
            e.bFull += price;
            // Full in front of a triangle, and empty behind it.
            const int weight = p_.weight[t][0] * evidence_.facing[cells_.groupOf[t]];
            if (weight == 0) continue;
            const std::uint32_t wrong = weight > 0 ? front : back;
            (wrong == a ? e.aFull : e.bFull) += std::min(evidence_.counts[a], evidence_.counts[b]) * evidence_.area[t];
        }
        std::vector<CutEdge> edges;
        edges.reserve(between.size());
        for (const auto& [key, e] : between) edges.push_back(e);
        std::sort(edges.begin(), edges.end(),
                  [](const CutEdge& x, const CutEdge& y) { return x.a != y.a ? x.a < y.a : x.b < y.b; });
        full_ = minimumCut(nodes, edges);
        fillBags();
        unpinch();
        result_.cells = cells_.count - 1;
        result_.full = static_cast<std::size_t>(std::count(full_.begin(), full_.end(), 1));
    }

    // What the surface itself encloses cannot be seen. Where nearly all around is empty as well it is full: empty, all
    // of its surface would stay as sheets around nothing.
    void fillBags() {
        std::vector<double> sheets(cells_.count, 0);
        std::vector<double> skin(cells_.count, 0);
        std::vector<std::uint8_t> open(cells_.count, 0);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t) {
            const auto [front, back] = cells_.of[t];
            if (front == back) continue;
            for (const std::uint32_t c : {front, back}) {
                (full_[front] || full_[back] ? skin : sheets)[c] += evidence_.area[t];
                open[c] |= isPatch(t);
            }
        }
        constexpr double nearlyAll = 2;  // times as much
        for (std::uint32_t c = 1; c < cells_.count; ++c)
            if (!full_[c] && !open[c] && evidence_.counts[c] >= 1 && sheets[c] > nearlyAll * skin[c]) full_[c] = 1;
    }

    // Cells so small that nobody sees which they are become what keeps bodies from touching along edges: what touches
    // must be pulled apart afterwards, and rounding has no room for that among small pieces.
    void unpinch() {
        const Mesh& m = p_.mesh;
        std::vector<mesh::Box> boxes(cells_.count);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t)
            for (const std::uint32_t c : cells_.of[t]) boxes[c].add(mesh::boxOf(m, t));
        const double unseen = measure::lossTolerance(input_);
        std::vector<std::uint8_t> isFree(cells_.count, 0);
        for (std::uint32_t c = 1; c < cells_.count; ++c) isFree[c] = boxes[c].diagonal() < unseen;
        std::vector<std::vector<std::uint32_t>> fansOf(cells_.count);
        for (std::uint32_t f = 0; f < p_.fans.size(); ++f)
            for (const mesh::HalfEdge h : p_.fans[f])
                for (const std::uint32_t c : cells_.of[mesh::triangleOf(h)])
                    if (isFree[c] && (fansOf[c].empty() || fansOf[c].back() != f)) fansOf[c].push_back(f);
        // Skin that meets at an edge beyond the two pieces that must.
        const auto pinchesAt = [&](std::uint32_t f) {
            std::size_t skin = 0;
            for (const mesh::HalfEdge h : p_.fans[f]) {
                const auto [front, back] = cells_.of[mesh::triangleOf(h)];
                skin += full_[front] != full_[back];
            }
            return skin > 2 ? skin - 2 : 0;
        };
        constexpr int rounds = 10;
        for (int round = 0; round < rounds; ++round) {
            bool changed = false;
            for (std::uint32_t c = 1; c < cells_.count; ++c) {
                std::size_t before = 0;
                for (const std::uint32_t f : fansOf[c]) before += pinchesAt(f);
                if (before == 0) continue;
                full_[c] ^= 1;
                std::size_t after = 0;
                for (const std::uint32_t f : fansOf[c]) after += pinchesAt(f);
                if (after >= before)
                    full_[c] ^= 1;
                else
                    changed = true;
            }
            if (!changed) break;
        }
    }

    // ---- the skin

    // Inner: full on both sides, of a body with an opening that stays.
    enum class Role : std::uint8_t { Skin, SkinTurned, Wall, Inner, Sheet, Shred, Nothing };

    [[nodiscard]] bool isSkin(TriangleId piece) const {
        return role_[piece] == Role::Skin || role_[piece] == Role::SkinTurned;
    }

    // Cells that hang together as all full or all empty.
    [[nodiscard]] mesh::DisjointSets spaces() const {
        mesh::DisjointSets sets(cells_.count);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t) {
            const auto [front, back] = cells_.of[t];
            if (full_[front] == full_[back]) sets.join(front, back);
        }
        return sets;
    }

    // Of each root of spaces(): it is full, and an opening that stays lets one see into it.
    [[nodiscard]] std::vector<std::uint8_t> openedBodies(mesh::DisjointSets& spaces) const {
        std::vector<std::uint8_t> opened(cells_.count, 0);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t) {
            const auto [front, back] = cells_.of[t];
            if (full_[front] == full_[back] || !isPatch(t) || !staysOpen(patched_.candidates[candidateOf(t)])) continue;
            opened[spaces.find(full_[front] ? front : back)] = 1;
        }
        return opened;
    }

    // Small pockets that surfaces through each other enclose within a body with an opening that stays become full: as
    // shells of their own they would face the wrong way, as no closed shell is around them.
    void fillPockets() {
        mesh::DisjointSets sets = spaces();
        const std::vector<std::uint8_t> opened = openedBodies(sets);
        std::vector<std::uint8_t> within(cells_.count, 0);  // of roots: it borders such a body, where something is cut
        std::vector<double> border(cells_.count, 0);
        double whole = 0;
        for (TriangleId t = 0; t < evidence_.area.size(); ++t) {
            const auto [front, back] = cells_.of[t];
            if (full_[front] == full_[back]) continue;
            whole += evidence_.area[t];
            const std::uint32_t empty = sets.find(full_[front] ? back : front);
            border[empty] += evidence_.area[t];
            if (t >= p_.whole && opened[sets.find(full_[front] ? front : back)]) within[empty] = 1;
        }
        const std::uint32_t outside = sets.find(0);
        for (std::uint32_t c = 1; c < cells_.count; ++c) {
            const std::uint32_t root = sets.find(c);
            if (!full_[c] && root != outside && within[root] && border[root] < tolerance::pocketShare * whole)
                full_[c] = 1;
        }
        result_.full = static_cast<std::size_t>(std::count(full_.begin(), full_.end(), 1));
    }

    void giveRoles() {
        role_.resize(evidence_.area.size());
        mesh::DisjointSets bodies = spaces();
        const std::vector<std::uint8_t> opened = openedBodies(bodies);
        used_.assign(patched_.candidates.size(), 0);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t) {
            const auto [front, back] = cells_.of[t];
            const bool virtualPatch = isPatch(t) && staysOpen(patched_.candidates[candidateOf(t)]);
            if (full_[front] != full_[back]) {
                role_[t] = virtualPatch ? Role::Nothing : full_[back] ? Role::Skin : Role::SkinTurned;
                if (isPatch(t)) used_[candidateOf(t)] = 1;
            } else if (isPatch(t)) {
                role_[t] = Role::Nothing;
            } else {
                role_[t] = !full_[front] ? Role::Sheet : opened[bodies.find(front)] ? Role::Inner : Role::Wall;
            }
        }
    }

    // What little of all that can be seen are inner pieces that hang together: those are walls that go; the others, as
    // a rib in an open hull, are sheets that stay.
    void judgeInner() {
        std::vector<VolumesPiece> inner;
        const std::vector<std::uint32_t> numberOf = listPieces(Role::Inner, inner);
        if (inner.empty()) return;
        Mesh closing;
        for (std::uint32_t c = 0; c < patched_.candidates.size(); ++c)
            if (used_[c] && !staysOpen(patched_.candidates[c])) appendPatch(patched_.candidates[c].patch, closing);
        const space::RayScene rays(input_);
        const measure::Visibility visibility(input_, rays, closing);
        const std::vector<Sample> samples = samplesOf(inner, numberOf);
        std::vector<std::uint8_t> seen(samples.size(), 0);
        mesh::parallelFor(samples.size(), 16, [&](std::size_t i) {
            const Point normal = mesh::areaVector(p_.mesh, samples[i].piece).normalized();
            seen[i] = visibility.isSeen(samples[i].at, normal) || visibility.isSeen(samples[i].at, -normal);
        });
        std::vector<double> seenOf(inner.size(), 0);
        for (std::size_t i = 0; i < samples.size(); ++i)
            if (seen[i]) seenOf[numberOf[samples[i].piece]] += samples[i].area;
        double whole = 0;
        for (TriangleId t = 0; t < evidence_.area.size(); ++t)
            if (isSkin(t) && !isPatch(t)) whole += evidence_.area[t];
        std::vector<std::uint8_t> goes(inner.size(), 0);
        for (const std::uint32_t i : leastWithin(tolerance::overhangShare * whole, seenOf)) goes[i] = 1;
        for (TriangleId t = 0; t < evidence_.area.size(); ++t)
            if (role_[t] == Role::Inner) role_[t] = goes[numberOf[t]] ? Role::Wall : Role::Sheet;
    }

    // A point of a piece that speaks for so much area.
    struct Sample {
        TriangleId piece;
        Point at;
        double area;
    };

    // Points evenly over the area of each list of pieces, in the order of the pieces: the middle of one, or of the
    // quarters around its corners.
    [[nodiscard]] std::vector<Sample> samplesOf(const std::vector<VolumesPiece>& lists,
                                                const std::vector<std::uint32_t>& numberOf) const {
        constexpr double inAll = 5'000;
        constexpr double atLeast = 16;  // a list
        double whole = 0;
        for (const VolumesPiece& list : lists) whole += list.area;
        std::vector<double> passed(lists.size(), 0);
        std::vector<std::size_t> taken(lists.size(), 0);
        std::vector<Sample> samples;
        for (TriangleId t = 0; t < evidence_.area.size(); ++t) {
            const std::uint32_t n = numberOf[t];
            if (n == mesh::noIndex || !(lists[n].area > 0)) continue;
            const double step = lists[n].area / std::max(atLeast, std::ceil(inAll * lists[n].area / whole));
            passed[n] += evidence_.area[t];
            const Point middle = mesh::centroid(p_.mesh, t);
            for (; (static_cast<double>(taken[n]) + 0.5) * step < passed[n]; ++taken[n]) {
                const auto k = static_cast<unsigned>(taken[n] % 4);
                samples.push_back({t, k == 3 ? middle : Point(0.5 * (middle + p_.mesh.corner(t, k))), step});
            }
        }
        return samples;
    }

    void readOff() {
        listPieces(Role::Wall, result_.walls);
        emit(listPieces(Role::Sheet, result_.sheets));
        for (std::size_t c = 0; c < patched_.candidates.size(); ++c) {
            const Candidate& candidate = patched_.candidates[c];
            VolumesPiece piece{
                candidate.shape.centre,
                candidate.shape.size,
                candidate.shape.area.norm(),
                candidate.patch.triangles.size(),
                std::string(candidate.meant),
                holes::cornersOf(candidate.patch, candidate.patch.triangles.front(), input_.positions)[0]};
            if (staysOpen(candidate))
                result_.open.push_back(piece);
            else if (used_[c]) {
                result_.closed.push_back(piece);
                appendPatch(candidate.patch, result_.told.closing);
            }
        }
        for (auto* list :
             {&result_.closed, &result_.open, &result_.walls, &result_.shreds, &result_.overhangs, &result_.sheets})
            std::stable_sort(list->begin(), list->end(),
                             [](const VolumesPiece& a, const VolumesPiece& b) { return a.area > b.area; });
    }

    void appendPatch(const holes::Patch& p, Mesh& to) const {
        for (const mesh::Triangle& t : p.triangles) {
            const std::size_t first = to.positions.size();
            for (const Point& corner : holes::cornersOf(p, t, input_.positions)) to.positions.push_back(corner);
            to.triangles.push_back({first, first + 1, first + 2});
        }
    }

    // Describes what hangs together of the pieces of a role; of each piece the number of its own.
    std::vector<std::uint32_t> listPieces(Role role, std::vector<VolumesPiece>& list) const {
        const Mesh& m = p_.mesh;
        std::vector<std::uint32_t> numberOf(evidence_.area.size(), mesh::noIndex);
        if (std::find(role_.begin(), role_.end(), role) == role_.end()) return numberOf;
        const mesh::Edges& edges = edges_.get([&] { return mesh::Edges(m); });
        mesh::DisjointSets sets(evidence_.area.size());
        for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
            std::uint32_t first = mesh::noIndex;
            for (const mesh::HalfEdge h : edges.around(e)) {
                const TriangleId t = mesh::triangleOf(h);
                if (role_[t] != role) continue;
                if (first == mesh::noIndex) first = t;
                sets.join(first, t);
            }
        }
        std::vector<std::uint32_t> ofRoot(evidence_.area.size(), mesh::noIndex);
        std::vector<mesh::Box> boxes;
        for (TriangleId t = 0; t < evidence_.area.size(); ++t) {
            if (role_[t] != role) continue;
            std::uint32_t& number = ofRoot[sets.find(t)];
            if (number == mesh::noIndex) {
                number = static_cast<std::uint32_t>(list.size());
                list.emplace_back().corner = patched_.mesh.positions[patched_.mesh.triangles[p_.sourceOf[t]][0]];
                boxes.emplace_back();
            }
            numberOf[t] = number;
            boxes[number].add(mesh::boxOf(m, t));
            list[number].area += evidence_.area[t];
            ++list[number].triangles;
        }
        for (std::size_t i = 0; i < list.size(); ++i) {
            list[i].position = boxes[i].centre();
            list[i].size = boxes[i].diagonal();
        }
        return numberOf;
    }

    // What cutting leaves of a triangle of the skin where it reaches a little too far: narrower than the tolerance of
    // what can be seen, and part of a triangle whose rest is skin.
    void findShreds() {
        std::vector<VolumesPiece> sheets;
        const std::vector<std::uint32_t> sheetOf = listPieces(Role::Sheet, sheets);
        if (sheets.empty()) return;
        const double narrow = measure::lossTolerance(input_);
        std::vector<std::uint8_t> skin(patched_.mesh.triangles.size(), 0);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t)
            skin[p_.sourceOf[t]] |= isSkin(t) || role_[t] == Role::Wall;
        std::vector<std::uint8_t> attached(sheets.size(), 0);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t)
            if (role_[t] == Role::Sheet) attached[sheetOf[t]] |= skin[p_.sourceOf[t]];
        for (TriangleId t = 0; t < evidence_.area.size(); ++t) {
            if (role_[t] != Role::Sheet || !attached[sheetOf[t]]) continue;
            const VolumesPiece& sheet = sheets[sheetOf[t]];
            if (2 * sheet.area <= narrow * sheet.size) role_[t] = Role::Shred;
        }
    }

    // Sheets that hang on the skin and are so small that they may be lost, the smallest first: they would stay as fins
    // on it, worse than what came.
    void findOverhangs() {
        std::vector<VolumesPiece> sheets;
        const std::vector<std::uint32_t> sheetOf = listPieces(Role::Sheet, sheets);
        if (sheets.empty()) return;
        const Mesh& m = p_.mesh;
        double whole = 0;
        std::vector<std::uint8_t> skin(m.positions.size(), 0);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t) {
            if (isSkin(t) || role_[t] == Role::Sheet) whole += evidence_.area[t];
            if (!isSkin(t)) continue;
            for (const mesh::VertexId v : m.triangles[t]) skin[v] = 1;
        }
        std::vector<std::uint8_t> hangs(sheets.size(), 0);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t)
            if (role_[t] == Role::Sheet)
                for (const mesh::VertexId v : m.triangles[t]) hangs[sheetOf[t]] |= skin[v];
        const double largest = tolerance::speckSize * mesh::boxOf(input_).diagonal();
        std::vector<double> areas;
        for (std::uint32_t i = 0; i < sheets.size(); ++i)
            areas.push_back(hangs[i] && sheets[i].size < largest ? sheets[i].area
                                                                 : std::numeric_limits<double>::infinity());
        std::vector<std::uint8_t> goes(sheets.size(), 0);
        for (const std::uint32_t i : leastWithin(tolerance::overhangShare * whole, areas)) {
            goes[i] = 1;
            result_.overhangs.push_back(sheets[i]);
        }
        for (TriangleId t = 0; t < evidence_.area.size(); ++t)
            if (role_[t] == Role::Sheet && goes[sheetOf[t]]) role_[t] = Role::Shred;
    }

    // The skin into out_.skin; sheets into out_.rest, as they came where no triangle of theirs is partly something
    // else.
    void emit(const std::vector<std::uint32_t>& sheetOf) {
        const Mesh& m = p_.mesh;
        std::vector<std::uint8_t> otherwise(patched_.mesh.triangles.size(),
                                            0);  // some piece of the triangle is no sheet
        for (TriangleId t = 0; t < evidence_.area.size(); ++t)
            if (role_[t] != Role::Sheet) otherwise[p_.sourceOf[t]] = 1;
        std::vector<std::uint8_t> mixed(result_.sheets.size(), 0);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t)
            if (role_[t] == Role::Sheet && otherwise[p_.sourceOf[t]]) mixed[sheetOf[t]] = 1;
        out_.skin.mesh.positions = m.positions;
        out_.skin.mesh.regionNames = out_.rest.mesh.regionNames = m.regionNames;
        out_.skin.mesh.regionsAre = out_.rest.mesh.regionsAre = m.regionsAre;
        out_.rest.mesh.positions = m.positions;
        std::vector<std::uint8_t> left(patched_.mesh.triangles.size(),
                                       0);  // the triangle stands in the result, or a piece
        std::vector<std::uint8_t> asItCame(patched_.mesh.triangles.size(), 0);
        for (TriangleId t = 0; t < evidence_.area.size(); ++t) {
            const TriangleId source = p_.sourceOf[t];
            if (role_[t] == Role::Wall || role_[t] == Role::Shred || role_[t] == Role::Nothing) continue;
            mesh::Triangle corners = m.triangles[t];
            if (role_[t] == Role::Sheet) {
                if (options_.sheets == VolumesOptions::Sheets::Drop) {
                    const std::size_t first = result_.told.mayGo.positions.size();
                    for (const mesh::VertexId v : corners) result_.told.mayGo.positions.push_back(m.positions[v]);
                    result_.told.mayGo.triangles.push_back({first, first + 1, first + 2});
                    continue;
                }
                left[source] = 1;
                if (!mixed[sheetOf[t]]) {
                    asItCame[source] = 1;
                    continue;
                }
                add(out_.rest, corners, t);
                continue;
            }
            left[source] = 1;
            if (role_[t] == Role::SkinTurned) std::swap(corners[1], corners[2]);
            result_.turned += source < input_.triangles.size() && role_[t] == Role::SkinTurned;
            add(out_.skin, corners, t);
            out_.skinWhole.push_back(t < p_.whole && source < input_.triangles.size());
        }
        std::vector<std::uint8_t> whole(patched_.mesh.triangles.size(), 0);
        for (TriangleId t = 0; t < p_.whole; ++t) whole[p_.sourceOf[t]] = 1;
        for (TriangleId t = 0; t < input_.triangles.size(); ++t) result_.cut += left[t] && !whole[t] && !asItCame[t];
        // Untouched sheets by the numbers of the input.
        const std::size_t shift = out_.rest.mesh.positions.size();
        out_.rest.mesh.positions.insert(out_.rest.mesh.positions.end(), input_.positions.begin(),
                                        input_.positions.end());
        for (TriangleId t = 0; t < input_.triangles.size(); ++t) {
            if (!asItCame[t]) continue;
            const mesh::Triangle& v = input_.triangles[t];
            out_.rest.mesh.triangles.push_back({v[0] + shift, v[1] + shift, v[2] + shift});
            out_.rest.sourceOf.push_back(t);
            if (!input_.regions.empty()) out_.rest.mesh.regions.push_back(input_.regions[t]);
        }
        std::vector<std::uint8_t> used(out_.skin.mesh.positions.size(), 0);
        for (const mesh::Triangle& t : out_.skin.mesh.triangles)
            for (const mesh::VertexId v : t) used[v] = 1;
        for (mesh::VertexId v = 0; v < used.size(); ++v)
            if (used[v]) out_.skinMade.push_back(p_.givenVertex[v] == mesh::noIndex);
        mesh::dropUnusedVertices(out_.skin.mesh);
        mesh::dropUnusedVertices(out_.rest.mesh);
    }

    void add(mesh::Traced& to, const mesh::Triangle& corners, TriangleId piece) const {
        to.mesh.triangles.push_back(corners);
        const TriangleId source = p_.sourceOf[piece];
        to.sourceOf.push_back(source < input_.triangles.size() ? source : TriangleId(mesh::noIndex));
        if (!p_.mesh.regions.empty()) to.mesh.regions.push_back(p_.mesh.regions[piece]);
    }

    const check::Surveyed& s_;
    const Mesh& input_;
    const VolumesOptions& options_;
    Patched patched_;
    Pieces p_;
    Cells cells_;
    Evidence evidence_;
    std::vector<std::uint8_t> full_;
    std::vector<Role> role_;         // of each piece
    mesh::Lazy<mesh::Edges> edges_;  // of the pieces
    std::vector<std::uint8_t> used_;
    Surfaces out_;
    Volumes result_;
};

Decision::Decision(std::unique_ptr<Impl> impl) : impl_(std::move(impl)) {}
Decision::Decision(Decision&&) noexcept = default;
Decision::~Decision() = default;

mesh::Outcome<Decision> Decision::of(const check::Surveyed& s, const VolumesOptions& options,
                                     mesh::Progress& progress) {
    auto impl = std::make_unique<Impl>(s, options);
    if (auto done = impl->run(progress); !done) return mesh::errorOf(done);
    return Decision(std::move(impl));
}

std::vector<std::uint8_t> Decision::sheetTriangles() const {
    return impl_->sheetTriangles();
}

Surfaces Decision::surfaces(Volumes& result) && {
    return impl_->surfaces(result);
}

}  // namespace zither::enclose
