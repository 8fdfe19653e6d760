// How a part should stand: on which face, or so that least of it hangs over.
#pragma once

#include <optional>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::measure {

// The rotation that brings a direction upward (+z) by the shortest way; exact where it is an axis.
Eigen::Matrix3d uprightFor(const mesh::Point& up);
// About an axis through the origin; exact at right angles about x, y and z.
Eigen::Matrix3d turnAbout(const mesh::Point& axis, double degrees);

// The box of every vertex that a triangle uses, once it is turned (or scaled) so.
mesh::Box boxTurned(const mesh::Mesh& m, const Eigen::Matrix3d& linear);

// A direction in which much of the surface faces.
struct Facing {
    mesh::Point normal = mesh::Point::Zero();
    double area = 0;
};
// Largest first; normals within about two degrees are one.
std::vector<Facing> largestFacings(const mesh::Mesh& m, std::size_t most);

// A flat face that all of the part is on one side of.
struct Base {
    mesh::Point down = mesh::Point::Zero();  // out of the part
    double area = 0;
    bool steady = false;  // the centre of mass is over it
};
// The one to stand on: the largest steady one, else the largest. None: no face is flat and outermost.
std::optional<Base> largestBase(const mesh::Mesh& m);

struct UprightOptions {
    double slopeDeg = 45;               // of overhangs
    std::optional<mesh::Point> within;  // a box to fit in, turned about the upright: width, depth, height. None: any
};
struct Upright {
    mesh::Point up = mesh::Point::Zero();  // in the part as it lies
    double turn = 0;                       // about +z after uprightFor, radians, so that it fits
    double overhang = 0;                   // area, as definitions.md
    double overhangNow = 0;                // the same as it lies
};
// The direction of least overhang, among those of the axes, of large faces and all over the sphere, then by ever
// smaller turns about the best ones: overhang as a function of direction has many low points, and the lowest of them
// may be missed. Where several are alike: +z as it lies, else the lowest part. None: it fits in no way that was tried.
// Error: only cancelled.
mesh::Outcome<std::optional<Upright>> leastOverhang(const mesh::Mesh& m, const UprightOptions& options,
                                                    mesh::Progress& progress);

}  // namespace zither::measure
