// The skin of a surface that crosses itself: all triangles are cut along the curves in which they meet, every piece
// gets the winding numbers on its two sides, and only pieces between outside and inside are kept. After Zhou, Grinspun,
// Zorin, Jacobson 2016 and Cherchi, Livesu, Scateni, Attene 2020; what is local stays local: winding numbers are
// carried from piece to piece by what is crossed on the way, and one exact ray for each connected surface says where
// they start.
#pragma once

#include <cstdint>
#include <vector>

#include "arrange/skin_options.h"
#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "mesh/traced.h"

namespace zither::arrange {

struct GoneShell {
    mesh::Box box;
    std::size_t triangles = 0;
    mesh::TriangleId first = 0;  // in the surface that came in
    bool inward = false;         // closed, and encloses negative volume
};

// Triangles that were not cut come first, in their order and with their bits; then the pieces. Coordinates of new
// vertices are within two units of the last place (of the largest coordinate) of the exact ones.
struct Skin : mesh::Traced {
    std::size_t whole = 0;  // the first so many triangles are not cut
    std::size_t crossingPairs = 0;
    std::size_t cut = 0;           // triangles of the input that were cut
    std::size_t shellsIn = 0;      // of the input
    std::vector<GoneShell> gone;   // shells of the input of which nothing is left, largest first
    std::size_t openShells = 0;    // judged by the generalised winding number, as they enclose nothing exactly
    std::size_t inwardShells = 0;  // closed, enclosing negative volume
    bool doubtful = false;         // soundElsewhere was contradicted, or says nothing about some piece
    std::size_t buriedPieces = 0;  // pieces of open shells dropped because the rest of the surface encloses them
};

mesh::Outcome<Skin> skinOf(const check::Surveyed& s, const SkinOptions& options, mesh::Progress& progress);

}  // namespace zither::arrange
