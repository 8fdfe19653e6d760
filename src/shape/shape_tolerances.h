// Tolerances of this room, each with what it is relative to and why it has its size.
#pragma once

namespace zither::tolerance {

// Decimation: weight of the planes that hold borders in place, relative to the quadric of the surface itself
// (Garland & Heckbert 1998 use a large penalty; at 100 a border moves a tenth as far as the surface does).
inline constexpr double borderWeight = 100.0;
// Decimation: a collapse may turn no triangle further than this cosine (about 75 degrees): beyond it surfaces fold.
inline constexpr double flipCosine = 0.25;
// Decimation: a collapse may leave no triangle whose height is below this share of its longest edge, unless it was
// worse before: it keeps slivers out without forbidding the collapse of existing ones.
inline constexpr double sliverHeight = 0.02;
// Decimation: quadrics are solved by the pseudo-inverse below this relative eigenvalue; flat and ridge-like
// neighbourhoods otherwise throw the new vertex far along the flat direction.
inline constexpr double quadricCondition = 1e-3;

// ---- the new skin

// Planes whose directions count for less than this share of the strongest say nothing of where they meet.
inline constexpr double skinFlatShare = 0.05;
// Of the length of a body by distance: a point is on its skin that comes so near to it.
inline constexpr double onLevel = 1e-7;
// Of a wall: a body is hollowed anew where the wall would be thinner than asked by more.
inline constexpr double wallShort = 1e-3;
// Of the wall: what is put around a thin place may be simplified by as much.
inline constexpr double thickerSkin = 0.03;
// A winding number this near to a whole one is far from any gap.
inline constexpr double skinNearlyWhole = 0.1;

// ---- smoothing

// Of a surface's area a vertex: the least that a vertex counts for, so that needles do not outweigh the rest.
inline constexpr double leastVertexArea = 1e-6;
// Relative residual at which places are as good as solved: far below what a coordinate of a file holds of a ripple.
inline constexpr double fairingResidual = 1e-6;

// ---- creases

// Of the diagonal: a triangle thinner than this has no normal to speak of.
inline constexpr double creaseNeedle = 1e-6;

// ---- weights of a taut patch

// The grid of a skin begins this share of a cell off the part's box, so that flat sides do not lie in its planes.
inline constexpr double skinOffGrid = 1e-3;
// A plane touches a cell within this share of it; and a crossing of an edge lies on it within the second. Rounding of
// coordinates of a few thousand cells is a thousand times smaller.
inline constexpr double skinTouch = 1e-9;
inline constexpr double skinOnEdge = 1e-6;
// Of two diagonals the second must be better by this cosine: the first where both are alike.
inline constexpr double skinTie = 1e-12;

// ---- lengths that nobody sees, and ties

// Decimation: angles below this are bad (10 degrees), and a collapse that leaves one, smaller than there was, costs as
// much as moving what is around it by this share of its size: next to nothing, and what a person takes for shape.
inline constexpr double badSine = 0.17364817766693033;
inline constexpr double shapePrice = 1e-4;
inline constexpr double shapePricePreferred = 3e-3;
// Of a squared sine: by so much the smallest angle must grow where edges swap for the shape's sake, so that rounding
// does not swap them forth and back.
inline constexpr double shapeGain = 1e-6;
// Of the diagonal: what lies within this of a plane is flat for swapping edges (32 bits tell 6e-8 apart).
inline constexpr double swapFlatness = 1e-7;
// Of a squared length: of two collapses that cost the same, the shorter edge goes first.
inline constexpr double collapseTie = 0x1p-80;

}  // namespace zither::tolerance
