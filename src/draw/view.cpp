// Axes from a direction and what is up there; the frame from the corners' extent along them.
#include "draw/view.h"

#include <Eigen/Geometry>
#include <algorithm>

#include "draw/draw_tolerances.h"

namespace zither::draw {

using mesh::Point;

Eigen::Matrix3d axesTowards(const Point& eye, const Point& up) {
    const Point z = eye.normalized();
    Point x = up.cross(z);
    if (x.norm() < tolerance::viewParallel)
        x = Point::UnitX().cross(z).norm() > tolerance::viewParallel ? Point(Point::UnitX()) : Point(Point::UnitY());
    x = (x - x.dot(z) * z).normalized();
    Eigen::Matrix3d axes;
    axes.row(0) = x;
    axes.row(1) = z.cross(x);
    axes.row(2) = z;
    return axes;
}

Eigen::Matrix3d axesOf(View view) {
    switch (view) {
        case View::Front:
            return axesTowards(-Point::UnitY(), Point::UnitZ());
        case View::Back:
            return axesTowards(Point::UnitY(), Point::UnitZ());
        case View::Left:
            return axesTowards(-Point::UnitX(), Point::UnitZ());
        case View::Right:
            return axesTowards(Point::UnitX(), Point::UnitZ());
        case View::Top:
            return axesTowards(Point::UnitZ(), Point::UnitY());
        case View::Bottom:
            return axesTowards(-Point::UnitZ(), Point::UnitY());
        case View::Iso:
            break;
    }
    return axesTowards(Point(0.55, -0.75, 0.45), Point::UnitZ());
}

Frame frameOf(const mesh::Mesh& m, const Eigen::Matrix3d& axes, double aspect) {
    constexpr std::size_t mostLookedAt = 20'000;
    const std::size_t stride = m.positions.size() / mostLookedAt + 1;
    mesh::Box seen;
    for (std::size_t v = 0; v < m.positions.size(); v += stride) seen.add(Point(axes * m.positions[v]));
    constexpr double margin = 1.2;  // room for the lens and the hints
    return {axes.transpose() * seen.centre(),
            std::max({seen.extent().y(), seen.extent().x() / aspect, tolerance::viewLeast}) * margin};
}

Eye eyeOn(const mesh::Mesh& m, View view, int width, int height) {
    const Eigen::Matrix3d axes = axesOf(view);
    const Frame frame = frameOf(m, axes, static_cast<double>(width) / height);
    Eye eye;
    eye.right = axes.row(0).transpose();
    eye.up = axes.row(1).transpose();
    eye.pixel = frame.height / height;
    eye.width = width;
    eye.height = height;
    // Behind all of it: as far off as it is large.
    const double away = 2 * std::max(mesh::boxOf(m).diagonal(), frame.height);
    eye.corner = frame.centre - away * eye.into() - 0.5 * eye.pixel * ((width - 1) * eye.right - (height - 1) * eye.up);
    return eye;
}

}  // namespace zither::draw
