// Every tolerance of the program, each with what it is relative to and why it has its size. What can be decided
// exactly has no tolerance and is not here.
#pragma once

namespace zither::tolerance {

// Deviation search stops when the proven bound is this close to the largest distance found. Relative to the diagonal
// of both surfaces' box: far below any tolerance a drawing asks for, far above rounding (1e-16).
inline constexpr double deviationRelative = 1e-6;
// ... or relative to the distance found itself: a fiftieth is less than any limit is chosen to.
inline constexpr double deviationOfValue = 2e-2;
// What is this close to the other surface, relative to the diagonal, is taken to be as far from it as from what was
// found there first: a tenth of what is left open anyway, and as much as rounding to 32 bits can move a vertex.
inline constexpr double deviationBeside = 1e-7;

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

// Orientation: shares of rays that leave the part from the two sides of an open patch; below this difference they are
// taken as alike (a sheet hanging free is seen from both sides).
inline constexpr double seenAlike = 0.05;

// Fill: fold angle (cosine) between neighbours above which area decides; a patch is said to fold beyond 120 degrees.
inline constexpr double foldCosine = -0.5;

// Stitching: only gaps below this share of the mean open edge can be cracks: shorter than any edge of a fair
// tessellation, so that stitching joins no neighbours.
inline constexpr double crackOfOpenEdge = 0.25;

// Drawing: planes whose normals have a sine below this are parallel to the eye, and the line in which they meet says
// nothing. Relative to 1.
inline constexpr double drawnParallel = 1e-9;

// ---- lost and added (definitions.md)

// How far off the surface a point looks around. Of the box's diagonal: above the rounding of a file, below its details.
inline constexpr double hairOffSurface = 1e-6;
// A speck: of the box's diagonal; and of the area, all of them together.
inline constexpr double speckSize = 0.02;
inline constexpr double speckArea = 0.005;
// A repair may lose this share of a shell's area that is seen at all through a crack, without losing the shell.
inline constexpr double glimpse = 0.02;

// ---- wall, slope, undercut (definitions.md)

// Of the diagonal: where bodies lie in each other, faces no farther apart along a ray are met at once.
inline constexpr double wallTogether = 1e-9;
// Of half the diagonal: a ray begins so far before its point that rounding to 32 bits leaves nothing out that lies
// ahead.
inline constexpr double rayBefore = 1e-6;
// In degrees: a slope is below its limit where it is so by more than this.
inline constexpr double slopeDeg = 0.01;
// Of the height: what lies so low stands on the floor.
inline constexpr double onFloor = 1e-3;
// Of a side: what is so little longer fits in it.
inline constexpr double justFits = 1e-9;
// Of a footprint: a face is no farther from the lowest point where the part stands on it (of the diagonal).
inline constexpr double standsOn = 1e-4;
// Of an area: overhangs that differ by less are alike, and what moves the part less, or leaves it lower, is better.
inline constexpr double overhangsAlike = 1e-3;
// Of the diagonal: where rounding moves a part by more than this, it is told (32 bits at the origin: 6e-8).
inline constexpr double roundingTold = 1e-6;
// Of the diagonal: undercuts are looked for on a grid so wide.
inline constexpr double undercutGrid = 5e-3;

// ---- fit for use (definitions.md: needles)

// Of the diagonal: what is thinner than this most meshers refuse, and what is made may move that far to be thicker.
inline constexpr double needleHeight = 1e-6;
// In degrees: what is made has no smaller angle, unless given edges force it.
inline constexpr double fitAngleDeg = 0.5;
// Of the diagonal: what cutting makes lies on a grid no wider than this, which 32 bits hold of a coordinate. Points
// that crowd together become one, and nothing is made too fine for a file.
inline constexpr double madeGrid = 0x1p-23;
// Of a surface's area: a patch over a spot that rounding does not hold may lose or add this much of what can be seen.
inline constexpr double strayShare = 1e-4;
// The same, of all spots together.
inline constexpr double straySum = 5e-4;

// Of the diagonal: what touches is parted by a few of these at least, where a file's own units are finer still. Pulled
// apart by less, it could not be told from rounding.
inline constexpr double partingLength = 2.5e-9;

// Of the diagonal: where 32-bit coordinates come in wider steps than this, they show: a hundredth of what is seen lost.
inline constexpr double coarseStep = 1e-5;

// ---- full and empty

// A ray counts if it passes every edge, and parts every two surfaces, by more than this share of the diagonal: far
// above the error of constructed points.
inline constexpr double rayMargin = 1e-11;
// Price of a patch against the given surface's evidence, a unit of area: closing what is open must be worth it, but a
// wrong side of the same area costs more.
inline constexpr double patchPrice = 0.3;
// Price of the given surface: of two ways that the evidence likes alike, that with less surface.
inline constexpr double surfacePrice = 0.01;
// Where bodies in one group are inside out and others are not, by more than this share, its direction says nothing.
inline constexpr double mixedFacing = 0.1;
// Of a piece of surface: patches over its rims that lie on it over more than this make it a sheet. Above the hairs of
// cracks, whose patches lie within rounding of it.
inline constexpr double doubledShare = 1e-2;
// Of the surface: small sheets that hang on the skin may go, all together, where others stay; half of what may be lost.
inline constexpr double overhangShare = 1e-3;
// Of the skin's area: a pocket between surfaces that pass through each other in an open body has less around it.
inline constexpr double pocketShare = 1e-2;
// Of the diagonal: cells thinner than this count less and less. A few times what 32 bits hold of a coordinate.
inline constexpr double thinCell = 4e-7;

// Of the tolerance of lost and added: a sheet becomes a body so thick that what faced away from it is still found.
inline constexpr double sheetThickness = 0.9;

// ---- the new skin

// Planes whose directions count for less than this share of the strongest say nothing of where they meet.
inline constexpr double skinFlatShare = 0.05;
// Groups of triangles beyond twice their radius count as one: the winding number is compared with a half only. Of the
// skin around open surfaces as well.
inline constexpr double skinFarAway = 2;
// Of the length of a body by distance: a point is on its skin that comes so near to it.
inline constexpr double onLevel = 1e-7;
// Of a wall: a body is hollowed anew where the wall would be thinner than asked by more.
inline constexpr double wallShort = 1e-3;
// Of the wall: what is put around a thin place may be simplified by as much.
inline constexpr double thickerSkin = 0.03;
// A winding number this near to a whole one is far from any gap.
inline constexpr double skinNearlyWhole = 0.1;

// ---- aligning

// Weight of the points themselves beside that of the planes they are to reach: enough to end what slides, too little to
// hold it back.
inline constexpr double slideHold = 1e-4;
// A round gains something where the distance falls by this share.
inline constexpr double alignGain = 1e-4;

// ---- smoothing

// Of a surface's area a vertex: the least that a vertex counts for, so that needles do not outweigh the rest.
inline constexpr double leastVertexArea = 1e-6;
// Relative residual at which places are as good as solved: far below what a coordinate of a file holds of a ripple.
inline constexpr double fairingResidual = 1e-6;

// ---- creases

// Of the diagonal: a triangle thinner than this has no normal to speak of.
inline constexpr double creaseNeedle = 1e-6;

// ---- stitching

// Stretches run along each other within about 37 degrees.
inline constexpr double stitchAlong = 0.8;
// The directions from the border into the two surfaces: -1 where they go on into each other, 1 where they lie on each
// other. Above this they pass by each other.
inline constexpr double stitchFoldsBack = 0.77;
// A step by this factor between gaps parts cracks from openings.
inline constexpr double stitchWideStep = 4;
// Cracks concern this share of the open vertices at least.
inline constexpr double stitchLeastShare = 0.03;
// Of the mean open edge: narrower than any triangle of a fair tessellation.
inline constexpr double stitchHair = 0.05;

// ---- openings

// Round: length squared over 4 pi times the area, of which a circle has 1 (definitions.md: within 5 % of a circle).
inline constexpr double openingRound = 1.05;
// In one plane: of the rim's size (definitions.md).
inline constexpr double openingFlat = 0.01;
// Sine of a turn the other way that a convex rim may make: below what coordinates of a file hold of an angle.
inline constexpr double rimStraight = 1e-3;
// An opening above this share of the part is more likely meant than torn.
inline constexpr double openingLargeShare = 0.2;

// ---- what touches, and fins

// How far copies are moved, in units of the last place: enough that rounding does not bring them together again.
inline constexpr double partingUnits = 4;
// A patch whose rim is this share of its border or more hangs on an edge, and is not a surface with a hole in it.
inline constexpr double finRimShare = 0.3;

// ---- which patch suits a rim

// Rims nearer to their plane are closed in it; the surface beyond stands on it nearly upright, or goes on nearly in it.
inline constexpr double rimUpright = 0.35;
inline constexpr double rimGoesOn = 0.998;
// Triangles beyond the rim that change direction more than this (mean cosine) say nothing of a curvature.
inline constexpr double rimSteady = 0.8;

// ---- weights of a taut patch

// as a fold: worse than any real one
inline constexpr double tautForbidden = 10;
// a triangle without area: only where there is no other way
inline constexpr double tautDegenerate = 5;

// The grid of a skin begins this share of a cell off the part's box, so that flat sides do not lie in its planes.
inline constexpr double skinOffGrid = 1e-3;
// A plane touches a cell within this share of it; and a crossing of an edge lies on it within the second. Rounding of
// coordinates of a few thousand cells is a thousand times smaller.
inline constexpr double skinTouch = 1e-9;
inline constexpr double skinOnEdge = 1e-6;
// Of two diagonals the second must be better by this cosine: the first where both are alike.
inline constexpr double skinTie = 1e-12;

// ---- lengths that nobody sees, and ties

// Relative to the diagonal of the part's box: far below what a print or a mesh resolves.
inline constexpr double unseenLength = 1e-5;
// Relative to the same: how far refining slivers may move the surface, where nobody says otherwise.
inline constexpr double proposedSliverMove = 1e-4;
// Relative to the same: gaps below it are what coordinates of 32 bits cannot tell, and are always closed.
inline constexpr double stitchAlways = 1e-7;
// Relative to 1, the sum of unit vectors: a shorter one has no direction.
inline constexpr double noDirection = 1e-9;
// Relative to its length: a loop must be shorter by this share to take another one's place.
inline constexpr double shorterLoop = 1e-9;
// Relative to the product of three distances: a point lies in the plane of a triangle, where its solid angle jumps.
inline constexpr double inPlane = 1e-14;
// Of a winding number: a half is rounded down, so that what lies on both sides alike is outside.
inline constexpr double windingTie = 1e-9;
// In radians: four corners on a circle are swapped neither way.
inline constexpr double delaunayTie = 1e-9;
// Relative to the diagonal of the patch: vertices that move less than this have come to rest.
inline constexpr double smoothAtRest = 1e-3;
// Relative to the largest coordinate: the least frame about an outline, so that one far from the origin has some room.
inline constexpr double sectionFrame = 1e-9;
// Sine between a ray and a plane that it is said to pass through: flatter ones are decided by another ray.
inline constexpr double raySteepest = 1e-3;
// In radians: an angle without size still counts a little, so that a vertex among needles has a normal.
inline constexpr double leastAngle = 1e-6;
// Of an area: sums of the same points in another order differ by less.
inline constexpr double sumsAlike = 1e-12;
// Of the sum of absolute products: rounding of a dot product of three and of the differences in it.
inline constexpr double dotRounding = 8 * 0x1p-52;
// Of a squared extent: an area of two triangles laid over each other that may be nothing but the rounding of the frame.
inline constexpr double overlayRounding = 0x1p-46;
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
// Of the largest coordinate: points in cells this wide are compared exactly. Far above the error of approximations
// (2^-51), far below what lies apart.
inline constexpr double equalPointsCell = 0x1p-40;
// Of unit vectors: below it two directions are parallel, and a view has no upright.
inline constexpr double viewParallel = 1e-9;
// Of the diagonal: the nearest that a view comes.
inline constexpr double viewNearest = 1e-7;
// Lengths: a scene of one point still has a size.
inline constexpr double viewLeast = 1e-12;
// Relative to nothing: what is divided by a length takes this one where it is 0. Far below any coordinate.
inline constexpr double aboveZero = 1e-300;

}  // namespace zither::tolerance
