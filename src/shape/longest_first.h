// Long edges split, along the path of ever longer ones the last first (Rivara 1997), so that needles become wider and
// not longer.
#pragma once

#include <vector>

#include "shape/linked_surface.h"

namespace zither::shape {

// Until `excess` (length over what is allowed, of a half-edge) is at most 1 everywhere, or what is left is beside
// longer edges that must stay (lockedLine): over a long edge there is always a triangle with a side of half its length,
// however often others are split, so that no edge below three quarters of it is. `split(h)` splits.
template <class Excess, class Split>
void splitLongestFirst(LinkedSurface& s, const Excess& excess, const Split& split) {
    constexpr double share = 0.75;
    std::vector<std::uint8_t> stays(3 * s.triangleSlots(), 0);
    const auto lengthOf = [&](HalfEdge h) { return (s.at(s.from(h)) - s.at(s.to(h))).norm(); };
    const auto isHeldUp = [&](HalfEdge h) {
        const double length = lengthOf(h);
        for (const HalfEdge side : {h, s.twin(h)}) {
            if (side == mesh::noEdge) continue;
            for (const HalfEdge e : {mesh::nextInTriangle(side), mesh::previousInTriangle(side)})
                if ((s.line(e) == lockedLine || stays[e]) && excess(e) > 1 && length <= share * lengthOf(e))
                    return true;
        }
        return false;
    };
    // noEdge: none of them is too long, or may be split.
    const auto longestOf = [&](TriangleId t) {
        HalfEdge longest = mesh::noEdge;
        double most = 1;
        for (unsigned k = 0; k < 3; ++k) {
            const auto h = static_cast<HalfEdge>(3 * t + k);
            if (s.line(h) == lockedLine || stays[h] || !(excess(h) > most)) continue;
            most = excess(h);
            longest = h;
        }
        return longest;
    };
    for (bool any = true; any;) {
        any = false;
        for (TriangleId t = 0; t < s.triangleSlots(); ++t) {
            if (!s.isAlive(t)) continue;
            HalfEdge longest = longestOf(t);
            if (longest == mesh::noEdge) continue;
            any = true;
            // On to where both sides agree, so that no triangle is split across its width.
            for (HalfEdge beyond = s.twin(longest); beyond != mesh::noEdge; beyond = s.twin(longest)) {
                const HalfEdge next = longestOf(beyond / 3);
                if (next == mesh::noEdge || !(excess(next) > excess(longest))) break;
                longest = next;
            }
            if (isHeldUp(longest)) {
                stays[longest] = 1;
                if (s.twin(longest) != mesh::noEdge) stays[s.twin(longest)] = 1;
                continue;
            }
            split(longest);
            stays.resize(3 * s.triangleSlots(), 0);
        }
    }
}

}  // namespace zither::shape
