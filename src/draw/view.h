// Where a part is looked at from, and how much of it is seen.
#pragma once

#include <Eigen/Core>
#include <array>
#include <string_view>
#include <utility>

#include "draw/picture.h"
#include "mesh/mesh.h"

namespace zither::draw {

enum class View { Front, Back, Left, Right, Top, Bottom, Iso };

// As a command line calls them.
inline constexpr std::array<std::pair<std::string_view, View>, 7> namedViews = {{{"front", View::Front},
                                                                                 {"back", View::Back},
                                                                                 {"left", View::Left},
                                                                                 {"right", View::Right},
                                                                                 {"top", View::Top},
                                                                                 {"bottom", View::Bottom},
                                                                                 {"iso", View::Iso}}};

// Rows: right, up, towards the eye. `up` is up in the picture; seen along it, any other axis is.
Eigen::Matrix3d axesTowards(const mesh::Point& eye, const mesh::Point& up);
Eigen::Matrix3d axesOf(View view);

// What a parallel view shows, in the part's unit.
struct Frame {
    mesh::Point centre = mesh::Point::Zero();
    double height = 1;  // of the picture
};

// All of a surface (a few thousand of its corners are looked at) with some room around it. `aspect`: width of the
// picture by its height.
Frame frameOf(const mesh::Mesh& m, const Eigen::Matrix3d& axes, double aspect);

// The eye for a whole surface, in a picture of at least one pixel.
Eye eyeOn(const mesh::Mesh& m, View view, int width, int height);

}  // namespace zither::draw
