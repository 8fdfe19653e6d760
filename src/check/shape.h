// Measures of a shape, which briefs may limit.
#pragma once

#include <limits>

namespace zither::check {

// What is only measured where it is asked for, and where the surface is what can be measured: NaN elsewhere.
struct Shape {
    static constexpr double untold = std::numeric_limits<double>::quiet_NaN();
    double thinArea = untold;      // share of the area
    double thinnest = untold;      // infinite: nothing is thin
    double thinPlaces = untold;    // how many
    double wallStep = untold;      // grid within triangles longer than the limit
    bool wallCoarser = false;      // than half the limit
    double narrowPlaces = untold;  // how many are too thin for the mesh
    double narrowest = untold;
    double smallComponents = untold;
    double smallHoles = untold;
    double smallTunnels = untold;
    double overhangArea = untold;
    double undercutArea = untold;
    double knifeLength = untold;
    double outsideBuild = untold;  // how much longer than a build volume allows
    double voids = 0;              // cavities within material; always told
    double voidVolume = 0;
};

}  // namespace zither::check
