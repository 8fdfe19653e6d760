// Winding numbers, what they mean in each group, and how much a cell counts.
#include "enclose/evidence.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "enclose/enclose_tolerances.h"
#include "mesh/parallel.h"
#include "space/winding.h"

namespace zither::enclose {

using arrange::Pieces;
using mesh::Mesh;
using mesh::TriangleId;

namespace {

constexpr std::size_t witnessesACell = 6;

class Measuring {
public:
    Measuring(const Pieces& pieces, const Cells& cells, const Patched& patched)
        : p_(pieces), cells_(cells), patched_(patched) {}

    void run(double thin) {
        findWitnesses();
        measureWinding();
        understandGroups();
        measureThickness(thin);
    }

    [[nodiscard]] Evidence result() && { return std::move(e_); }

private:
    // A side of a cell.
    struct Witness {
        double area = 0;
        TriangleId piece = 0;
        bool back = false;
    };

    // The largest sides of each cell speak for it.
    void findWitnesses() {
        const Mesh& m = p_.mesh;
        e_.area.resize(m.triangles.size());
        mesh::parallelFor(e_.area.size(), 4096, [&](std::size_t t) {
            e_.area[t] = 0.5 * mesh::areaVector(m, static_cast<TriangleId>(t)).norm();
        });
        witnesses_.resize(cells_.count);
        e_.border.assign(cells_.count, 0);
        for (TriangleId t = 0; t < e_.area.size(); ++t)
            for (const bool back : {false, true}) {
                const std::uint32_t c = cells_.of[t][back];
                e_.border[c] += e_.area[t];
                if (c == 0 || cells_.of[t][0] == cells_.of[t][1]) continue;
                std::vector<Witness>& list = witnesses_[c];
                if (list.size() < witnessesACell) {
                    list.push_back({e_.area[t], t, back});
                    continue;
                }
                auto least = std::min_element(list.begin(), list.end(),
                                              [](const Witness& a, const Witness& b) { return a.area < b.area; });
                if (e_.area[t] > least->area) *least = {e_.area[t], t, back};
            }
    }

    void measureWinding() {
        std::vector<std::uint8_t> speaks(e_.area.size(), 0);
        for (const auto& list : witnesses_)
            for (const Witness& w : list) speaks[w.piece] = 1;
        // Of everything, with the patches in place.
        std::vector<TriangleId> all;
        for (TriangleId t = 0; t < patched_.mesh.triangles.size(); ++t)
            if (!mesh::isCollapsed(patched_.mesh.triangles[t])) all.push_back(t);
        const std::vector<double> around =
            space::WindingTree(patched_.mesh, all, std::vector<int>(patched_.mesh.triangles.size(), 1))
                .atMiddles(p_.mesh, speaks);
        e_.winding.assign(cells_.count, 0);
        for (std::uint32_t c = 0; c < cells_.count; ++c) {
            double sum = 0;
            double weight = 0;
            for (const Witness& w : witnesses_[c]) {
                // On a surface the number is the mean of its two sides.
                const double half = 0.5 * (p_.weight[w.piece][0] + p_.weight[w.piece][1]);
                sum += w.area * (around[w.piece] + (w.back ? half : -half));
                weight += w.area;
            }
            e_.winding[c] = weight > 0 ? sum / weight : 0;
        }
    }

    // From what winding numbers say of each group by itself to what they mean where it lies. A group most of whose
    // faces are there once each way has no direction: it encloses what it encloses, as a cavity where it lies within
    // what is full. One that is inside out in empty space is a body all the same.
    void understandGroups() {
        const auto groups = static_cast<std::uint32_t>(cells_.around.size());
        std::vector<double> known(groups, 0);
        std::vector<double> unknown(groups, 0);
        for (TriangleId t = 0; t < e_.area.size(); ++t) {
            if (cells_.of[t][0] == cells_.of[t][1] || patched_.isPatch(p_.sourceOf[t])) continue;
            (p_.weight[t][0] == 0 ? unknown : known)[cells_.groupOf[t]] += e_.area[t];
        }
        std::vector<std::vector<std::uint32_t>> owned(groups);
        std::vector<std::vector<std::uint32_t>> within(cells_.count);  // groups that lie in a cell
        for (std::uint32_t c = 1; c < cells_.count; ++c)
            if (cells_.owner[c] != mesh::noIndex) owned[cells_.owner[c]].push_back(c);
        for (std::uint32_t g = 0; g < groups; ++g) within[cells_.around[g]].push_back(g);
        e_.facing.assign(groups, 1);
        const std::vector<double> measured = e_.winding;
        std::vector<std::uint32_t> open{0};
        std::vector<std::uint8_t> done(cells_.count, 0);
        done[0] = 1;
        while (!open.empty()) {
            const std::uint32_t around = open.back();
            open.pop_back();
            const bool inFull = e_.winding[around] > 0.5;
            for (const std::uint32_t g : within[around]) {
                // How much of it is enclosed as it faces, and how much inside out.
                double right = 0;
                double wrong = 0;
                for (const std::uint32_t c : owned[g]) {
                    const double turn = measured[c] - measured[around];
                    (turn < 0 ? wrong : right) += e_.border[c] * std::abs(turn);
                }
                const bool undirected = unknown[g] > known[g];
                const bool mixed = std::min(right, wrong) > tolerance::mixedFacing * std::max(right, wrong);
                if (undirected || (mixed && !inFull))
                    e_.facing[g] = 0;
                else if (wrong > right && !inFull)
                    e_.facing[g] = -1;
                for (const std::uint32_t c : owned[g]) {
                    if (done[c]) continue;
                    done[c] = 1;
                    const double turn = measured[c] - measured[around];
                    e_.winding[c] = e_.winding[around] + (undirected ? (inFull ? -1 : 1)
                                                          : inFull   ? turn
                                                                     : std::abs(turn));
                    open.push_back(c);
                }
            }
        }
    }

    // How much a cell counts: one thinner than what may move anyway hardly does, so that what lies on each other within
    // rounding becomes one layer, not two that no file can hold apart.
    void measureThickness(double thin) {
        const Mesh& m = p_.mesh;
        std::vector<double> volume(cells_.count, 0);
        std::vector<TriangleId> first(cells_.count, mesh::noIndex);
        for (TriangleId t = 0; t < e_.area.size(); ++t)
            for (const bool back : {false, true}) {
                const std::uint32_t c = cells_.of[t][back];
                // About a point of the cell's own, so that far from the origin no digits are lost.
                if (first[c] == mesh::noIndex) first[c] = t;
                const double v = mesh::areaVector(m, t).dot(m.corner(t, 0) - m.corner(first[c], 0)) / 6;
                volume[c] += back ? v : -v;
            }
        e_.counts.assign(cells_.count, 1);
        for (std::uint32_t c = 1; c < cells_.count; ++c)
            if (e_.border[c] > 0) e_.counts[c] = std::min(1.0, 2 * std::abs(volume[c]) / e_.border[c] / thin);
    }

    const Pieces& p_;
    const Cells& cells_;
    const Patched& patched_;
    std::vector<std::vector<Witness>> witnesses_;  // of each cell
    Evidence e_;
};

}  // namespace

Evidence evidenceOf(const Pieces& pieces, const Cells& cells, const Patched& patched, double thin) {
    Measuring measuring(pieces, cells, patched);
    measuring.run(thin);
    return std::move(measuring).result();
}

}  // namespace zither::enclose
