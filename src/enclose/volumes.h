// A repair that thinks in volumes: space is cut into cells by the surface and by patches over its rims, every cell is
// decided to be full or empty, and the skin between full and empty is the result.
#pragma once

#include <string>
#include <vector>

#include "check/surveyed.h"
#include "fit/fit.h"
#include "measure/loss.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/precision.h"
#include "mesh/progress.h"
#include "mesh/traced.h"
#include "repair/places.h"

namespace zither::enclose {

struct VolumesOptions {
    // Openings that are likely meant are closed; else they part inside from outside and stay open.
    bool closeMeant = false;
    enum class Sheets {
        Keep,     // what bounds no volume stays as it is
        Drop,     // it goes
        Thicken,  // it becomes a body (thicken.h)
    } sheets = Sheets::Keep;
    double thickness = 0;                                 // of a thickened sheet, in the file's unit; above 0
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
    // So many triangles in trouble are covered with plates (fit/fit.h) where no rounding holds them.
    std::size_t mostCovered = fit::usuallyCovered;
    bool putBackWorse = false;  // places that lose too much, or where a count is worse, stay as they came
};

// A connected piece of the surface, or a patch.
struct VolumesPiece {
    mesh::Point position = mesh::Point::Zero();  // the middle of its box
    double size = 0;                             // diagonal of its box
    double area = 0;
    std::size_t triangles = 0;
    std::string why = {};                        // of an opening: it is likely meant
    mesh::Point corner = mesh::Point::Zero();    // of a triangle of the input that it is part of, or of its rim
    std::vector<mesh::TriangleId> members = {};  // of a sheet that stays: its triangles in the result
};

// All lists: largest area first.
struct Volumes : mesh::Traced {
    std::vector<std::uint8_t> ofSheet;    // of each triangle: it is part of a sheet that stays; empty: none is
    std::vector<VolumesPiece> closed;     // openings, by a patch
    measure::Told told;                   // patches of `closed` before they are cut, sheets that went, thick bodies
    std::vector<VolumesPiece> open;       // openings that are likely meant, and stay
    std::vector<VolumesPiece> shreds;     // sheets too narrow to be seen lost, left at the skin by cutting: gone
    std::vector<VolumesPiece> overhangs;  // small sheets that hang on the skin, where others stay: gone
    std::vector<VolumesPiece> walls;      // full on both sides: gone
    std::vector<VolumesPiece> sheets;     // empty on both sides: done with as asked
    std::size_t turned = 0;               // triangles that face the other way now
    std::size_t cut = 0;                  // triangles that came in of which only pieces are left
    std::size_t cells = 0;                // besides the outside
    std::size_t full = 0;                 // of these
    std::size_t collapsed = 0;            // edges of needles that cutting had made
    std::size_t swapped = 0;              // edges of caps, the same
    double farthestMoved = 0;             // by that and by rounding
    std::vector<mesh::Point> patched;     // spots that no rounding held, cut out and closed anew
    double largestPatch = 0;              // diagonal of the largest one's rim
    std::size_t smallAngles = 0;          // of what was made (fit/fit.h)
    std::size_t plates = 0;               // that cover what no rounding held (fit/fit.h)
    double plateHeight = 0;               // they reach fit::plateReach times so far at most
    std::size_t coverable = 0;            // triangles in trouble still that more plates may cover
    std::vector<mesh::Point> unsound;     // places that could not be settled
    std::vector<repair::PlaceLeft> asTheyCame;  // places that were put back
};

// Steps of the way: patches for every rim (holes/candidates.h); everything cut where it meets (arrange/pieces.h); the
// sides of pieces linked into cells by the angular order around edges (Zhou, Grinspun, Zorin, Jacobson 2016), groups
// that do not touch by rays; winding numbers with the patches in place as evidence for a cell (Jacobson 2013); a
// minimum cut between full and empty (Labatut, Pons, Keriven 2009): least disagreement with the evidence and with the
// side that triangles face, least invented surface. What is full on both sides is a wall and goes, except where it can
// be seen through an opening that stays; what is empty on both sides is a sheet. The result is settled.
// Triangles of the skin that nothing crosses keep their bits; coordinates that do not fit the precision are rounded
// before anything else. Those of 64 bits are also tried in 32, as most files hold them. Error: cancelled.
mesh::Outcome<Volumes> fullOrEmpty(const check::Surveyed& s, const VolumesOptions& options, mesh::Progress& progress);

struct ThickSheets {
    mesh::Mesh mesh;
    mesh::Mesh bodies;          // before they became one with what they meet
    std::size_t sheets = 0;     // that became bodies
    std::size_t triangles = 0;  // of these
    bool besideOpen = false;    // other open surfaces stand beside them, whatever they cross
    double farthestMoved = 0;   // by rounding
    std::vector<mesh::Point> unsound;
};

// Picked sheets become bodies behind their faces (thicken.h), and exactly one with every closed shell that they meet;
// those must not face inwards. No pick: every piece of surface that ends somewhere. Their own faces keep their bits
// where nothing crosses them. What is closed already stays. Error: the pick ends within a surface; cancelled.
mesh::Outcome<ThickSheets> thickenSheets(const check::Surveyed& s, const mesh::Pick& pick, double thickness,
                                         mesh::Precision precision, mesh::Progress& progress);

}  // namespace zither::enclose
