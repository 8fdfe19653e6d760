// Cells bring equal points together; exact comparison decides inside a cell.
#include "arrange/exact_numbering.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>

#include "arrange/arrange_tolerances.h"
#include "mesh/parallel.h"

namespace zither::arrange {
namespace {

constexpr mesh::NoIndex none;

// Points of equal exact coordinates get one number: same[i] is the place in `used` of the first that equals used[i].
// Cells far larger than the error of approximations bring equals together; only those in one cell are compared exactly.
void mergePoints(const ExactPoints& points, const std::vector<std::uint32_t>& used, std::vector<std::uint32_t>& same) {
    struct Cell {
        std::array<std::int64_t, 3> at;
        std::uint32_t place;
        bool operator<(const Cell& o) const { return at != o.at ? at < o.at : place < o.place; }
    };
    const double error = points.grid().approximationError();
    const double size = points.grid().greatest() * tolerance::equalPointsCell;
    constexpr double offset = 0.37;  // round coordinates should not lie on the rims of cells
    std::vector<Cell> cells(used.size());
    mesh::parallelFor(used.size(), 1024, [&](std::size_t i) {
        const Point& p = points.approximate(used[i]);
        cells[i].place = static_cast<std::uint32_t>(i);
        std::optional<exact::Homogeneous> exactly;
        for (int k = 0; k < 3; ++k) {
            double x = p[k];
            const auto cellOf = [&](double c) { return std::floor(c / size + offset); };
            // Where rounding could have moved the point across the rim of a cell, its nearest double decides, which is
            // the same for all points there.
            if (!points.isGiven(used[i]) && cellOf(x - 2 * error) != cellOf(x + 2 * error)) {
                if (!exactly) exactly = points.exactPoint(used[i]);
                x = points.grid().nearestDouble(*exactly, k);
            }
            cells[i].at[static_cast<unsigned>(k)] = size > 0 ? static_cast<std::int64_t>(cellOf(x)) : 0;
        }
    });
    mesh::parallelSort(cells.begin(), cells.end());
    same.resize(used.size());
    for (std::uint32_t i = 0; i < same.size(); ++i) same[i] = i;
    for (std::size_t i = 0; i < cells.size();) {
        std::size_t end = i + 1;
        while (end < cells.size() && cells[end].at == cells[i].at) ++end;
        if (end - i > 1) {
            std::vector<std::pair<std::uint32_t, std::optional<exact::Homogeneous>>> firsts;
            const auto exactOf = [&](auto& entry) -> const exact::Homogeneous& {
                if (!entry.second) entry.second = points.exactPoint(used[entry.first]);
                return *entry.second;
            };
            for (; i < end; ++i) {
                std::pair<std::uint32_t, std::optional<exact::Homogeneous>> entry{cells[i].place, std::nullopt};
                const std::uint32_t point = used[entry.first];
                bool found = false;
                for (auto& first : firsts) {
                    const std::uint32_t other = used[first.first];
                    const bool bothGiven = points.isGiven(point) && points.isGiven(other);
                    const bool bothMade = !points.isGiven(point) && !points.isGiven(other);
                    const bool alike = bothMade && points.generator(point).kind == points.generator(other).kind &&
                                       points.generator(point).from == points.generator(other).from;
                    if (bothGiven || (!alike && !exact::equal(exactOf(entry), exactOf(first)))) continue;
                    same[entry.first] = first.first;
                    found = true;
                    break;
                }
                if (!found) firsts.push_back(std::move(entry));
            }
        }
        i = end;
    }
}

}  // namespace

std::vector<VertexId> numberPoints(const ExactPoints& points, std::vector<std::uint32_t> used, Mesh& out,
                                   std::vector<VertexId>& givenVertex) {
    // The order of the input for its own vertices, then the constructed ones.
    mesh::parallelSort(used.begin(), used.end());
    used.erase(std::unique(used.begin(), used.end()), used.end());
    std::vector<std::uint32_t> same;
    mergePoints(points, used, same);
    std::vector<VertexId> slot(points.count(), none);
    for (std::size_t i = 0; i < used.size(); ++i) {
        if (same[i] == i) {
            slot[used[i]] = out.positions.size();
            out.positions.push_back(points.approximate(used[i]));
            givenVertex.push_back(points.isGiven(used[i]) ? VertexId(used[i]) : VertexId(none));
        } else {
            slot[used[i]] = slot[used[same[i]]];
        }
    }
    return slot;
}

}  // namespace zither::arrange
