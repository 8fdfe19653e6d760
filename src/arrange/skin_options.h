// What cutting a surface is told: which side of it counts as inside.
#pragma once

#include <cstdint>
#include <vector>

namespace zither::space {
class WindingTree;
}

namespace zither::arrange {

// What counts as inside, from the winding numbers about the two operands (0 and 1).
enum class Solid {
    Union,         // inside any: both operands count together
    Difference,    // inside the first, outside the second
    Intersection,  // inside both
};

struct SkinOptions {
    Solid solid = Solid::Union;
    // Operand of each triangle, 0 or 1; empty: all 0.
    std::vector<std::uint8_t> operandOf;
    // The surface is a cutting from one that bounds a solid wherever it does not cross itself: triangles at the rim of
    // the cutting, if nothing crosses them, have outside in front of them and inside behind. Where that cannot be, or
    // says nothing about some piece, the skin is `doubtful`.
    bool soundElsewhere = false;
    // The surface is a cutting from an open one, whose winding number this tells; it counts every triangle once. Not
    // owned. Only with Union, and without soundElsewhere.
    const space::WindingTree* around = nullptr;
    // Of each triangle: it may meet others in more than a common edge or corner. The others meet no triangle but those
    // in that way. Empty: all may.
    std::vector<std::uint8_t> mayCross;
    // What lies twice, once each way, stays: it separates nothing, but it can be seen.
    bool keepCancelled = false;
};

}  // namespace zither::arrange
