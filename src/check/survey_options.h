// What a survey measures besides the counts, where somebody asks for it.
#pragma once

#include <array>
#include <vector>

#include "mesh/mesh.h"

namespace zither::check {

struct SurveyOptions {
    // Triangles with an angle below this are listed as slivers.
    double sliverAngleDeg = 5;
    // What takes longer is measured where it is asked for; 0: not.
    double wall = 0;                    // in the file's unit: thinner walls are thin
    double slopeDeg = 0;                // of overhangs towards `up`
    double knifeDeg = 0;                // sharper edges are knife edges
    double narrowEdges = 0;             // walls thinner than so many edges are too thin for the mesh
    double narrowEdge = 0;              // of that length, in the file's unit; 0: of the mean edge
    double componentPercent = 0;        // of the part's diagonal: smaller shells are small
    double holePercent = 0;             // the same of the width of holes
    double tunnelPercent = 0;           // and of the way around tunnels
    double parallelDeg = 0;             // of undercuts along `up`: walls nearer to it than this are none
    std::array<double, 3> up{0, 0, 1};  // build direction
    // Sizes of build volumes, any of which will do: width, depth and height, in the file's unit; the height is along
    // `up`.
    std::vector<std::array<double, 3>> build = {};

    [[nodiscard]] mesh::Point upward() const;  // of length 1

    bool operator==(const SurveyOptions&) const = default;
    // All that the others ask for is measured with these as well.
    [[nodiscard]] bool cover(const SurveyOptions& other) const;
};

}  // namespace zither::check
