// A surface made fair: ripples go, the shape stays.
#pragma once

#include <cstdint>
#include <functional>

#include "check/surveyed.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/precision.h"
#include "mesh/progress.h"

namespace zither::shape {

struct SmoothOptions {
    double scale = 0;       // ripples of this length are halved, shorter ones go; in the file's unit, above 0
    double deviation = 0;   // no vertex moves farther
    double creaseDeg = 35;  // edges that turn by more are creases, and stay
    mesh::Precision precision = mesh::Precision::Single;  // of the coordinates that come out
    bool keepVolume = true;
    // How far a vertex may go that way, beside the deviation; empty: as far as that.
    std::function<double(mesh::VertexId, const mesh::Point& way)> bound = {};
};

struct Smoothed {
    check::SurveyedPtr part;
    std::size_t moved = 0;     // vertices
    std::size_t fixed = 0;     // on creases and borders
    std::size_t heldBack = 0;  // that would have gone farther, or into something
    double farthest = 0;       // that any of them moved: the surfaces are nowhere farther from each other, both ways
    double volumeBefore = 0;
    double volumeAfter = 0;
};

// Implicit fairing (Desbrun, Meyer, Schroeder, Barr 1999) with the square of the Laplacian (Botsch & Kobbelt 2004):
// the least of |x - x0|^2 + t^2 |Lx|^2 over the surface, which damps ripples of length l by 1 + (scale / l)^4, so that
// what is larger hardly moves and nothing shrinks; then the volume of a closed surface is given back along the normals.
// Creases, borders and borders of regions keep their bits, and say nothing about how the surface turns beside them.
// Where triangles come to cross that did not, their vertices go back by halves. Of a pick: vertices all of whose
// triangles are in it; it goes on smoothly into the rest. Error: only cancelled.
mesh::Outcome<Smoothed> smooth(const check::Surveyed& s, const mesh::Pick& pick, const SmoothOptions& options,
                               mesh::Progress& progress);

}  // namespace zither::shape
