// Patches, pieces, cells, evidence, cut, skin: stage by stage.
#include "repair/volumes.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <unordered_map>

#include "arrange/fit.h"
#include "arrange/pieces.h"
#include "holes/candidates.h"
#include "measure/loss.h"
#include "mesh/disjoint_sets.h"
#include "mesh/parallel.h"
#include "mesh/tolerances.h"
#include "repair/cells.h"
#include "repair/minimum_cut.h"
#include "space/winding.h"

namespace zither::repair {
namespace {

using arrange::Pieces;
using holes::Candidate;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

constexpr std::uint8_t given = 0;  // operands
constexpr std::uint8_t patch = 1;

class Deciding {
public:
    Deciding(const check::Surveyed& s, const VolumesOptions& options) : s_(s), input_(s.mesh()), options_(options) {}

    mesh::Outcome<Volumes> run(mesh::Progress& progress) {
        mesh::PartOfProgress patching(progress, 0, 0.15);
        if (auto done = addPatches(patching); !done) return tl::unexpected(done.error());
        mesh::PartOfProgress cutting(progress, 0.15, 0.5);
        auto pieces = arrange::piecesOf(check::Surveyed(both_), operandOf_, cutting);
        if (!pieces) return tl::unexpected(pieces.error());
        p_ = std::move(*pieces);
        mesh::PartOfProgress linking(progress, 0.5, 0.65);
        auto cells = cellsOf(p_, linking);
        if (!cells) return tl::unexpected(cells.error());
        cells_ = std::move(*cells);
        measure();
        if (!progress.report(0.75)) return mesh::cancelled();
        decide();
        if (!progress.report(0.8)) return mesh::cancelled();
        readOff();
        mesh::PartOfProgress settling(progress, 0.8, 1);
        return finish(settling);
    }

private:
    // ---- patches

    mesh::Outcome<void> addPatches(mesh::Progress& progress) {
        auto found = holes::candidatePatches(s_, options_.precision, progress);
        if (!found) return tl::unexpected(found.error());
        candidates_ = std::move(*found);
        both_ = input_;
        operandOf_.assign(input_.triangles.size(), given);
        for (std::uint32_t c = 0; c < candidates_.size(); ++c) {
            const holes::Patch& p = candidates_[c].patch;
            const std::size_t shift = both_.positions.size() - input_.positions.size();
            both_.positions.insert(both_.positions.end(), p.added.begin(), p.added.end());
            for (mesh::Triangle t : p.triangles) {
                for (mesh::VertexId& v : t)
                    if (v >= input_.positions.size()) v = v + shift;
                both_.triangles.push_back(t);
                if (!both_.regions.empty()) both_.regions.push_back(input_.regions[candidates_[c].beside]);
                operandOf_.push_back(patch);
                candidateOf_.push_back(c);
            }
        }
        return {};
    }

    [[nodiscard]] bool isPatch(TriangleId piece) const { return operandOf_[p_.sourceOf[piece]] == patch; }
    [[nodiscard]] std::uint32_t candidateOf(TriangleId piece) const {
        return candidateOf_[p_.sourceOf[piece] - input_.triangles.size()];
    }
    [[nodiscard]] bool staysOpen(const Candidate& c) const { return !c.meant.empty() && !options_.closeMeant; }

    // ---- evidence

    void measure() {
        const Mesh& m = p_.mesh;
        area_.resize(m.triangles.size());
        mesh::parallelFor(area_.size(), 4096, [&](std::size_t t) {
            area_[t] = 0.5 * mesh::areaVector(m, static_cast<TriangleId>(t)).norm();
        });
        // The largest sides of each cell speak for it.
        struct Witness {
            double area = 0;
            TriangleId piece = 0;
            bool back = false;
        };
        std::vector<std::vector<Witness>> witnesses(cells_.count);
        border_.assign(cells_.count, 0);
        for (TriangleId t = 0; t < area_.size(); ++t)
            for (const bool back : {false, true}) {
                const std::uint32_t c = cells_.of[t][back];
                border_[c] += area_[t];
                if (c == 0 || cells_.of[t][0] == cells_.of[t][1]) continue;
                std::vector<Witness>& list = witnesses[c];
                if (list.size() < witnessesACell) {
                    list.push_back({area_[t], t, back});
                    continue;
                }
                auto least = std::min_element(list.begin(), list.end(),
                                              [](const Witness& a, const Witness& b) { return a.area < b.area; });
                if (area_[t] > least->area) *least = {area_[t], t, back};
            }
        std::vector<TriangleId> all;
        for (TriangleId t = 0; t < both_.triangles.size(); ++t)
            if (!mesh::isCollapsed(both_.triangles[t])) all.push_back(t);
        const space::WindingTree winding(both_, std::move(all), std::vector<int>(both_.triangles.size(), 1));
        winding_.assign(cells_.count, 0);
        mesh::parallelFor(cells_.count, 16, [&](std::size_t c) {
            double sum = 0;
            double weight = 0;
            for (const Witness& w : witnesses[c]) {
                // On a surface the number is the mean of its two sides.
                const double half = 0.5 * (p_.weight[w.piece][0] + p_.weight[w.piece][1]);
                sum += w.area * (winding.at(mesh::centroid(m, w.piece)) + (w.back ? half : -half));
                weight += w.area;
            }
            winding_[c] = weight > 0 ? sum / weight : 0;
        });
        addUnknown();
    }

    // Groups most of whose faces are there once each way have no inside by their direction: they enclose what they
    // enclose, and a cavity where one lies within another.
    void addUnknown() {
        const auto groups = static_cast<std::uint32_t>(cells_.around.size());
        std::vector<double> known(groups, 0);
        std::vector<double> unknown(groups, 0);
        for (TriangleId t = 0; t < area_.size(); ++t) {
            if (cells_.of[t][0] == cells_.of[t][1] || isPatch(t)) continue;
            (p_.weight[t][0] == 0 ? unknown : known)[cells_.groupOf[t]] += area_[t];
        }
        for (std::uint32_t c = 1; c < cells_.count; ++c) {
            int depth = 0;
            std::uint32_t g = cells_.owner[c];
            for (std::uint32_t steps = 0; g != mesh::noIndex && steps <= groups; ++steps) {
                depth += unknown[g] > known[g];
                g = cells_.around[g] == 0 ? mesh::noIndex : cells_.owner[cells_.around[g]];
            }
            winding_[c] += depth % 2;
        }
    }

    // ---- full or empty

    void decide() {
        std::vector<CutNode> nodes(cells_.count);
        double total = 0;
        for (const double a : area_) total += a;
        for (std::uint32_t c = 0; c < cells_.count; ++c) {
            const double full = std::clamp(winding_[c], 0.0, 1.0);
            nodes[c] = {border_[c] * (1 - full), border_[c] * full};
        }
        nodes[0] = {1000 * total, 0};
        std::unordered_map<std::uint64_t, CutEdge> between;
        for (TriangleId t = 0; t < area_.size(); ++t) {
            const auto [front, back] = cells_.of[t];
            if (front == back) continue;
            const auto [a, b] = std::minmax(front, back);
            CutEdge& e = between.try_emplace((std::uint64_t{a} << 32) | b, CutEdge{a, b, 0, 0}).first->second;
            const double price = (isPatch(t) ? tolerance::patchPrice : tolerance::surfacePrice) * area_[t];
            e.aFull += price;
            e.bFull += price;
            // Full in front of a triangle, and empty behind it.
            const int weight = p_.weight[t][0];
            if (weight == 0) continue;
            const std::uint32_t wrong = weight > 0 ? front : back;
            (wrong == a ? e.aFull : e.bFull) += area_[t];
        }
        std::vector<CutEdge> edges;
        for (const auto& [key, e] : between) edges.push_back(e);
        std::sort(edges.begin(), edges.end(),
                  [](const CutEdge& x, const CutEdge& y) { return x.a != y.a ? x.a < y.a : x.b < y.b; });
        full_ = minimumCut(nodes, edges);
        result_.cells = cells_.count - 1;
        result_.full = static_cast<std::size_t>(std::count(full_.begin(), full_.end(), 1));
    }

    // ---- the skin

    enum class Role : std::uint8_t { Skin, SkinTurned, Wall, Sheet, Shred, Nothing };

    void readOff() {
        role_.resize(area_.size());
        // Full cells that hang together, and those among them into which an opening that stays lets one see.
        mesh::DisjointSets bodies(cells_.count);
        for (TriangleId t = 0; t < area_.size(); ++t) {
            const auto [front, back] = cells_.of[t];
            if (full_[front] && full_[back]) bodies.join(front, back);
        }
        std::vector<std::uint8_t> opened(cells_.count, 0);
        for (TriangleId t = 0; t < area_.size(); ++t) {
            const auto [front, back] = cells_.of[t];
            if (full_[front] == full_[back] || !isPatch(t) || !staysOpen(candidates_[candidateOf(t)])) continue;
            opened[bodies.find(full_[front] ? front : back)] = 1;
        }
        used_.assign(candidates_.size(), 0);
        for (TriangleId t = 0; t < area_.size(); ++t) {
            const auto [front, back] = cells_.of[t];
            const bool virtualPatch = isPatch(t) && staysOpen(candidates_[candidateOf(t)]);
            if (full_[front] != full_[back]) {
                role_[t] = virtualPatch ? Role::Nothing : full_[back] ? Role::Skin : Role::SkinTurned;
                if (isPatch(t)) used_[candidateOf(t)] = 1;
            } else if (isPatch(t)) {
                role_[t] = Role::Nothing;
            } else {
                role_[t] = full_[front] && !opened[bodies.find(front)] ? Role::Wall : Role::Sheet;
            }
        }
        listPieces(Role::Wall, result_.walls);
        findShreds();
        listPieces(Role::Shred, result_.shreds);
        emit(listPieces(Role::Sheet, result_.sheets));
        for (std::size_t c = 0; c < candidates_.size(); ++c) {
            const Candidate& candidate = candidates_[c];
            VolumesPiece piece{candidate.shape.centre, candidate.shape.size, candidate.shape.area.norm(),
                               candidate.patch.triangles.size(), std::string(candidate.meant)};
            if (staysOpen(candidate))
                result_.open.push_back(piece);
            else if (used_[c])
                result_.closed.push_back(piece);
        }
        for (auto* list : {&result_.closed, &result_.open, &result_.walls, &result_.shreds, &result_.sheets})
            std::stable_sort(list->begin(), list->end(),
                             [](const VolumesPiece& a, const VolumesPiece& b) { return a.area > b.area; });
    }

    // Describes what hangs together of the pieces of a role; of each piece the number of its own.
    std::vector<std::uint32_t> listPieces(Role role, std::vector<VolumesPiece>& list) const {
        const Mesh& m = p_.mesh;
        std::vector<std::uint32_t> numberOf(area_.size(), mesh::noIndex);
        if (std::find(role_.begin(), role_.end(), role) == role_.end()) return numberOf;
        const mesh::Edges edges(m);
        mesh::DisjointSets sets(area_.size());
        for (mesh::EdgeId e = 0; e < edges.count(); ++e) {
            std::uint32_t first = mesh::noIndex;
            for (const mesh::HalfEdge h : edges.around(e)) {
                const TriangleId t = mesh::triangleOf(h);
                if (role_[t] != role) continue;
                if (first == mesh::noIndex) first = t;
                sets.join(first, t);
            }
        }
        std::vector<std::uint32_t> ofRoot(area_.size(), mesh::noIndex);
        std::vector<mesh::Box> boxes;
        for (TriangleId t = 0; t < area_.size(); ++t) {
            if (role_[t] != role) continue;
            std::uint32_t& number = ofRoot[sets.find(t)];
            if (number == mesh::noIndex) {
                number = static_cast<std::uint32_t>(list.size());
                list.emplace_back();
                boxes.emplace_back();
            }
            numberOf[t] = number;
            boxes[number].add(mesh::boxOf(m, t));
            list[number].area += area_[t];
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
        std::vector<std::uint8_t> skin(both_.triangles.size(), 0);
        for (TriangleId t = 0; t < area_.size(); ++t)
            skin[p_.sourceOf[t]] |= role_[t] == Role::Skin || role_[t] == Role::SkinTurned || role_[t] == Role::Wall;
        std::vector<std::uint8_t> attached(sheets.size(), 0);
        for (TriangleId t = 0; t < area_.size(); ++t)
            if (role_[t] == Role::Sheet) attached[sheetOf[t]] |= skin[p_.sourceOf[t]];
        for (TriangleId t = 0; t < area_.size(); ++t) {
            if (role_[t] != Role::Sheet || !attached[sheetOf[t]]) continue;
            const VolumesPiece& sheet = sheets[sheetOf[t]];
            if (2 * sheet.area <= narrow * sheet.size) role_[t] = Role::Shred;
        }
    }

    // The skin into skin_; sheets into rest_, as they came where no triangle of theirs is partly something else.
    void emit(const std::vector<std::uint32_t>& sheetOf) {
        const Mesh& m = p_.mesh;
        std::vector<std::uint8_t> otherwise(both_.triangles.size(), 0);  // some piece of the triangle is no sheet
        for (TriangleId t = 0; t < area_.size(); ++t)
            if (role_[t] != Role::Sheet) otherwise[p_.sourceOf[t]] = 1;
        std::vector<std::uint8_t> mixed(result_.sheets.size(), 0);
        for (TriangleId t = 0; t < area_.size(); ++t)
            if (role_[t] == Role::Sheet && otherwise[p_.sourceOf[t]]) mixed[sheetOf[t]] = 1;
        skin_.positions = m.positions;
        skin_.regionNames = rest_.regionNames = m.regionNames;
        rest_.positions = m.positions;
        std::vector<std::uint8_t> left(both_.triangles.size(), 0);  // the triangle stands in the result, or a piece
        std::vector<std::uint8_t> asItCame(both_.triangles.size(), 0);
        for (TriangleId t = 0; t < area_.size(); ++t) {
            const TriangleId source = p_.sourceOf[t];
            if (role_[t] == Role::Wall || role_[t] == Role::Shred || role_[t] == Role::Nothing) continue;
            mesh::Triangle corners = m.triangles[t];
            if (role_[t] == Role::Sheet) {
                if (options_.dropSheets) continue;
                left[source] = 1;
                if (!mixed[sheetOf[t]]) {
                    asItCame[source] = 1;
                    continue;
                }
                add(rest_, restSource_, corners, t);
                continue;
            }
            left[source] = 1;
            if (role_[t] == Role::SkinTurned) std::swap(corners[1], corners[2]);
            result_.turned += source < input_.triangles.size() && role_[t] == Role::SkinTurned;
            add(skin_, skinSource_, corners, t);
            skinWhole_.push_back(t < p_.whole && source < input_.triangles.size());
        }
        std::vector<std::uint8_t> whole(both_.triangles.size(), 0);
        for (TriangleId t = 0; t < p_.whole; ++t) whole[p_.sourceOf[t]] = 1;
        for (TriangleId t = 0; t < input_.triangles.size(); ++t) result_.cut += left[t] && !whole[t] && !asItCame[t];
        // Untouched sheets by the numbers of the input.
        const std::size_t shift = rest_.positions.size();
        rest_.positions.insert(rest_.positions.end(), input_.positions.begin(), input_.positions.end());
        for (TriangleId t = 0; t < input_.triangles.size(); ++t) {
            if (!asItCame[t]) continue;
            const mesh::Triangle& v = input_.triangles[t];
            rest_.triangles.push_back({v[0] + shift, v[1] + shift, v[2] + shift});
            restSource_.push_back(t);
            if (!input_.regions.empty()) rest_.regions.push_back(input_.regions[t]);
        }
        std::vector<std::uint8_t> used(skin_.positions.size(), 0);
        for (const mesh::Triangle& t : skin_.triangles)
            for (const mesh::VertexId v : t) used[v] = 1;
        for (mesh::VertexId v = 0; v < used.size(); ++v)
            if (used[v]) skinMade_.push_back(p_.givenVertex[v] == mesh::noIndex);
        mesh::dropUnusedVertices(skin_);
        mesh::dropUnusedVertices(rest_);
    }

    void add(Mesh& to, std::vector<TriangleId>& sources, const mesh::Triangle& corners, TriangleId piece) const {
        to.triangles.push_back(corners);
        const TriangleId source = p_.sourceOf[piece];
        sources.push_back(source < input_.triangles.size() ? source : TriangleId(mesh::noIndex));
        if (!p_.mesh.regions.empty()) to.regions.push_back(p_.mesh.regions[piece]);
    }

    mesh::Outcome<Volumes> finish(mesh::Progress& progress) {
        arrange::FitOptions options;
        options.precision = options_.precision;
        options.made = std::move(skinMade_);
        options.untouched = std::move(skinWhole_);
        auto fit = arrange::makeFit(skin_, options, progress);
        if (!fit) return tl::unexpected(fit.error());
        result_.collapsed = fit->collapsed;
        result_.swapped = fit->swapped;
        result_.farthestMoved = fit->farthestMoved;
        result_.unsound = std::move(fit->unsound);
        result_.mesh = std::move(fit->mesh);
        for (const TriangleId t : fit->sourceOf) result_.sourceOf.push_back(skinSource_[t]);
        if (rest_.triangles.empty()) return std::move(result_);
        // The regions of both are those of the input.
        const std::size_t first = result_.mesh.triangles.size();
        const auto shift = result_.mesh.positions.size();
        for (Point& p : rest_.positions) result_.mesh.positions.push_back(p);
        for (TriangleId t = 0; t < rest_.triangles.size(); ++t) {
            const mesh::Triangle& v = rest_.triangles[t];
            result_.mesh.triangles.push_back({v[0] + shift, v[1] + shift, v[2] + shift});
            result_.sourceOf.push_back(restSource_[t]);
        }
        if (!rest_.regions.empty()) {
            result_.mesh.regions.resize(first, 0);
            result_.mesh.regions.insert(result_.mesh.regions.end(), rest_.regions.begin(), rest_.regions.end());
        }
        mesh::joinEqualVertices(result_.mesh);
        return std::move(result_);
    }

    static constexpr std::size_t witnessesACell = 6;

    const check::Surveyed& s_;
    const Mesh& input_;
    const VolumesOptions& options_;
    std::vector<Candidate> candidates_;
    Mesh both_;                               // the input, then the patches
    std::vector<std::uint8_t> operandOf_;     // of each triangle of it
    std::vector<std::uint32_t> candidateOf_;  // of each triangle of a patch
    Pieces p_;
    Cells cells_;
    std::vector<double> area_;     // of each piece
    std::vector<double> border_;   // of each cell: area of its sides
    std::vector<double> winding_;  // of each cell
    std::vector<std::uint8_t> full_;
    std::vector<Role> role_;  // of each piece
    std::vector<std::uint8_t> used_;
    Mesh skin_;
    Mesh rest_;
    std::vector<TriangleId> skinSource_;
    std::vector<TriangleId> restSource_;
    std::vector<std::uint8_t> skinMade_;   // of each vertex: it was not given
    std::vector<std::uint8_t> skinWhole_;  // of each triangle: one of the input that is not cut
    Volumes result_;
};

}  // namespace

mesh::Outcome<Volumes> fullOrEmpty(const check::Surveyed& s, const VolumesOptions& options, mesh::Progress& progress) {
    return Deciding(s, options).run(progress);
}

}  // namespace zither::repair
