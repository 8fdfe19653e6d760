// The numbers of a part, or of a pick of it, as a drawing or a report has them.
#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <string_view>
#include <vector>

#include "measure/mass.h"
#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "mesh/pick.h"

namespace zither::measure {

// Of the volume that a closed surface encloses; none where that is nothing.
std::optional<mesh::Point> centreOfMass(const mesh::Mesh& m);

// V - E + F of the whole, without collapsed triangles: 2 for each closed shell without handles, 2 less for each handle.
std::ptrdiff_t eulerOf(const mesh::Mesh& m, const mesh::Edges& edges);

// One value of each triangle, or edge, from the worst on.
struct Spread {
    double worst = 0;
    double onePercent = 0;  // a hundredth of them are no better
    double mean = 0;
    std::size_t count = 0;
    // How many in each of as many even steps from `low` to `high`; what lies beyond counts with the last.
    static constexpr std::size_t steps = 24;
    double low = 0;
    double high = 1;
    std::array<std::uint32_t, steps> histogram{};
};

// How fit triangles are for a mesh of a volume. Collapsed triangles are the worst of all.
struct TriangleQuality {
    Spread angle;     // the smallest of each, in degrees: 60 at best
    Spread score;     // 4 sqrt(3) times the area over the sum of the squared edges: 1 at best (Bhatia & Lawrence 1990)
    Spread aspect;    // longest edge over least height, over that of an even triangle: 1 at best
    Spread edge;      // length over the mean of those that it meets, or the other way round: 1 at best
    Spread dihedral;  // degrees by which the surface turns over each edge of two triangles: 0 at best
};

struct Numbers {
    std::size_t triangles = 0;
    std::size_t vertices = 0;
    mesh::Box box;
    double area = 0;
    // Of a whole surface without open edges.
    std::optional<double> volume;
    std::optional<mesh::Point> centreOfMass;
    mesh::Point centreOfArea = mesh::Point::Zero();
    EdgeLength edges;
    double borderLength = 0;  // of open edges, or of the rim of a pick
    TriangleQuality quality;
};
Numbers numbersOf(const mesh::Mesh& m, const mesh::Edges& edges, const mesh::Pick& pick);

}  // namespace zither::measure
