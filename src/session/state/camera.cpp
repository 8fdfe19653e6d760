// Orthographic; the eye's axes are a rotation, a flight is interpolated between two of them.
#include "session/state/camera.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <numbers>

#include "draw/draw_tolerances.h"
#include "session/session_tolerances.h"

namespace zither::session {

using mesh::Point;

namespace {

// What is up on the screen where one looks against a direction of length 1.
Point upBeside(const Point& direction) {
    return std::abs(direction.z()) > 0.95 ? Point(Point::UnitY()) : Point(Point::UnitZ());
}

}  // namespace

void Camera::fit(const mesh::Mesh& m, double covered) {
    const double left = std::clamp(covered, 0.0, 0.5 * viewport_.width());
    const draw::Frame frame = draw::frameOf(m, axes_, (viewport_.width() - left) / std::max(1.0, viewport_.height()));
    height_ = frame.height;
    centre_ = frame.centre - 0.5 * left * worldPerPixel() * right();
}

void Camera::lookFrom(View view) {
    axes_ = draw::axesOf(view);
    if (!yUp_) return;
    // Views are told of a world whose up is Z: Y stands for it, and what came from the front still does.
    Eigen::Matrix3d stood;
    stood << 1, 0, 0, 0, 0, -1, 0, 1, 0;
    axes_ = axes_ * stood;
}

void Camera::orbit(const QPointF& pixels, const Point& about) {
    // Sideways turns about the world's up, so that up stays up; up and down about the screen's right.
    constexpr double perPixel = degreesPerPixel * std::numbers::pi / 180;
    const Eigen::AngleAxisd yaw(-pixels.x() * perPixel, worldUp());
    const Eigen::AngleAxisd pitch(-pixels.y() * perPixel, Point(axes_.row(0)));
    const Eigen::Matrix3d turn = (yaw * pitch).toRotationMatrix();
    axes_ = axes_ * turn.transpose();
    axes_.row(0).normalize();
    axes_.row(2) = (axes_.row(2) - axes_.row(2).dot(axes_.row(0)) * axes_.row(0)).normalized();
    axes_.row(1) = axes_.row(2).cross(axes_.row(0));
    centre_ = about + turn * (centre_ - about);
}

void Camera::pan(const QPointF& pixels) {
    centre_ -= worldPerPixel() * (pixels.x() * axes_.row(0).transpose() - pixels.y() * axes_.row(1).transpose());
}

void Camera::zoom(double factor, const QPointF& at) {
    const double scene = std::max(scene_.diagonal(), tolerance::viewLeast);
    const double next = std::clamp(height_ / factor, tolerance::viewNearest * scene, 20 * scene);
    const QPointF off(at.x() - viewport_.width() / 2, at.y() - viewport_.height() / 2);
    const double change = (height_ - next) / std::max(1.0, viewport_.height());
    centre_ += change * (off.x() * axes_.row(0).transpose() - off.y() * axes_.row(1).transpose());
    height_ = next;
}

void Camera::flyTo(const Point& place, double extent, const Point& normal) {
    centre_ = place;
    const double scene = std::max(scene_.diagonal(), tolerance::viewLeast);
    height_ = std::clamp(extent * 3.2, 0.02 * scene, scene);
    if (normal.norm() > 0) {
        // Only as far as needed: a place that faces the viewer already is left as it is seen.
        const Point n = normal.normalized();
        if (n.dot(Point(axes_.row(2))) < 0.5)
            axes_ = draw::axesTowards(n + Point(0.3 * axes_.row(2).transpose()), upBeside(n));
    }
}

void Camera::faceTo(const Point& place, double height, const Point& normal) {
    centre_ = place;
    height_ = height;
    axes_ = draw::axesTowards(normal, upBeside(normal.normalized()));
}

Point Camera::direction() const {
    return -axes_.row(2).transpose();
}

Point Camera::rayOrigin(const QPointF& at) const {
    const double s = worldPerPixel();
    const double back = std::max(scene_.diagonal(), height_) * 2 + (scene_.centre() - centre_).norm();
    return centre_ + s * (at.x() - viewport_.width() / 2) * axes_.row(0).transpose() -
           s * (at.y() - viewport_.height() / 2) * axes_.row(1).transpose() + back * axes_.row(2).transpose();
}

QPointF Camera::toScreen(const Point& p) const {
    const Point local = axes_ * (p - centre_);
    const double s = 1 / worldPerPixel();
    return {viewport_.width() / 2 + s * local.x(), viewport_.height() / 2 - s * local.y()};
}

QMatrix4x4 Camera::rotation() const {
    QMatrix4x4 m;
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 3; ++c) m(r, c) = static_cast<float>(axes_(r, c));
    return m;
}

QMatrix4x4 Camera::viewProjection() const {
    const double aspect = viewport_.width() / std::max(1.0, viewport_.height());
    const double depth = scene_.diagonal() + (scene_.centre() - centre_).norm() + tolerance::viewLeast;
    QMatrix4x4 projection;
    projection.ortho(static_cast<float>(-height_ * aspect / 2), static_cast<float>(height_ * aspect / 2),
                     static_cast<float>(-height_ / 2), static_cast<float>(height_ / 2), static_cast<float>(-depth),
                     static_cast<float>(depth));
    QMatrix4x4 view = rotation();
    const Point moved = -(axes_ * centre_);
    for (int r = 0; r < 3; ++r) view(r, 3) = static_cast<float>(moved[r]);
    return projection * view;
}

Camera Camera::between(const Camera& a, const Camera& b, double t) {
    const double s = t * t * (3 - 2 * t);
    Camera c = b;
    c.centre_ = (1 - s) * a.centre_ + s * b.centre_;
    c.height_ = std::exp((1 - s) * std::log(a.height_) + s * std::log(b.height_));
    c.axes_ = Eigen::Quaterniond(a.axes_).slerp(s, Eigen::Quaterniond(b.axes_)).toRotationMatrix();
    return c;
}

}  // namespace zither::session
