// Holes closed, each in the way that suits it.
#pragma once

#include <limits>
#include <optional>
#include <string>
#include <vector>

#include "check/surveyed.h"
#include "holes/rims.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::holes {

enum class FillWay {
    Chosen,  // for each hole by its rim
    Flat,    // in a plane; rims inside others in one plane become islands
    Taut,    // the smallest patch that does not fold
    Smooth,  // refined and bent like the surface around
    Ruled,   // between two opposite stretches of the rim
    Sharp,   // the faces around carried on until they meet
};
// "flat", "taut" ... and back; none for any other word.
std::string_view nameOf(FillWay way);
std::optional<FillWay> fillWayNamed(std::string_view name);

// The way that suits one rim without islands, where its faces do not meet in an edge or a corner.
struct ChosenWay {
    FillWay way;
    std::string_view why;
};
ChosenWay chosenWay(const RimShape& shape, std::size_t edges);

struct FillOptions {
    FillWay way = FillWay::Chosen;
    double maxSize = std::numeric_limits<double>::infinity();  // largest extent of a rim's box, in the file's unit
    bool closeMeant = true;  // false: openings that are likely meant (whyMeant in rims.h) stay, and are listed
    mesh::Precision precision = mesh::Precision::Double;  // of the coordinates of new vertices
    bool bends = true;  // false: where a patch crosses, no smooth one is tried, which takes long and makes vertices
};

struct Opening {
    mesh::Point position = mesh::Point::Zero();
    double size = 0;  // diagonal of the rim's box
    std::size_t edges = 0;
    std::string why;  // it stays open
};
struct FilledHole {
    mesh::Point position = mesh::Point::Zero();
    double size = 0;
    std::size_t edges = 0;
    std::size_t triangles = 0;
    FillWay way = FillWay::Taut;
    std::string_view why;  // this way
    bool crosses = false;  // no patch was found that does not cross the surface or itself
};
struct FillResult {
    mesh::Mesh mesh;
    std::vector<FilledHole> filled;  // largest first
    std::size_t added = 0;           // triangles
    std::vector<Opening> left;       // largest first
    std::size_t notClosed = 0;       // rims whose edges form no loop: neighbours face opposite ways; orient first
};

// Every patch is tested exactly against the surface and against itself; where it crosses, its triangles that do are
// forbidden and the next best patch is tried, then the other ways. Holes of which no triangle is picked stay.
mesh::Outcome<FillResult> fill(const check::Surveyed& s, const mesh::Pick& pick, const FillOptions& options,
                               mesh::Progress& progress);

// The mesh without the flagged triangles (one flag a triangle), and the rims closed that this opens; holes that were
// there before stay.
// Of the options: the way, and whether patches bend.
mesh::Outcome<FillResult> cutOut(const mesh::Mesh& m, const std::vector<std::uint8_t>& gone, const FillOptions& options,
                                 mesh::Progress& progress);

// Patches that cross, openings that stayed, and rims that form no loop.
std::size_t faultsOf(const FillResult& r);

}  // namespace zither::holes
