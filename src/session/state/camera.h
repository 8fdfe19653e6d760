// The eye that looks at the part: orbit about a point, pan, zoom to a point, fit, standard views, and smooth flights.
#pragma once

#include <QMatrix4x4>
#include <QPointF>
#include <QSizeF>
#include <QVector3D>

#include "draw/view.h"
#include "mesh/mesh.h"

namespace zither::session {

// Orthographic: lengths can be compared anywhere in the view. World lengths in the part's unit; screen in pixels, y
// down.
class Camera {
public:
    using View = draw::View;

    void setViewport(const QSizeF& pixels) { viewport_ = pixels; }
    [[nodiscard]] QSizeF viewport() const { return viewport_; }
    // The part's box: bounds depth and the default distance.
    void setScene(const mesh::Box& box) { scene_ = box; }

    // Shows the whole of the mesh (a few thousand of its corners are looked at), beside so many pixels on the left that
    // something lies over.
    void fit(const mesh::Mesh& m, double covered = 0);
    void lookFrom(View view);
    // Parts of some programs stand along Y; else up is Z.
    void setYUp(bool yUp) { yUp_ = yUp; }
    static constexpr double degreesPerPixel = 0.46;
    // Turns by the mouse's way in pixels, about a world point that stays where it is on the screen.
    void orbit(const QPointF& pixels, const mesh::Point& about);
    void pan(const QPointF& pixels);
    // Zooms so that the world point under `at` stays there.
    void zoom(double factor, const QPointF& at);

    // View such that a place of some extent fills a good part of the screen, seen along -normal where it has one.
    void flyTo(const mesh::Point& place, double extent, const mesh::Point& normal);

    // Looks straight at a place, along -normal, at so much of the world from top to bottom.
    void faceTo(const mesh::Point& place, double height, const mesh::Point& normal);

    [[nodiscard]] QMatrix4x4 viewProjection() const;
    [[nodiscard]] QMatrix4x4 rotation() const;
    [[nodiscard]] QPointF toScreen(const mesh::Point& p) const;
    // Depth along the view direction, larger is farther.
    [[nodiscard]] mesh::Point direction() const;  // into the screen
    [[nodiscard]] mesh::Point right() const { return axes_.row(0).transpose(); }
    [[nodiscard]] mesh::Point up() const { return axes_.row(1).transpose(); }
    [[nodiscard]] mesh::Point rayOrigin(const QPointF& at) const;
    [[nodiscard]] double worldPerPixel() const { return height_ / std::max(1.0, viewport_.height()); }
    [[nodiscard]] mesh::Point centre() const { return centre_; }

    // Where it is, to be kept and come back to.
    struct Place {
        mesh::Point centre = mesh::Point::Zero();
        double height = 1;  // world length of the screen's
        Eigen::Matrix3d axes = Eigen::Matrix3d::Identity();
        bool yUp = false;
        bool operator==(const Place&) const = default;
    };
    [[nodiscard]] Place place() const { return {centre_, height_, axes_, yUp_}; }
    void goTo(const Place& place) {
        centre_ = place.centre;
        height_ = place.height;
        axes_ = place.axes;
        yUp_ = place.yUp;
    }

    // A point between two cameras, for flights: t from 0 to 1.
    [[nodiscard]] static Camera between(const Camera& a, const Camera& b, double t);

private:
    [[nodiscard]] mesh::Point worldUp() const { return yUp_ ? mesh::Point::UnitY() : mesh::Point::UnitZ(); }

    QSizeF viewport_{800, 600};
    bool yUp_ = false;
    mesh::Box scene_;
    mesh::Point centre_ = mesh::Point::Zero();
    double height_ = 1;                                   // world length of the screen's height
    Eigen::Matrix3d axes_ = Eigen::Matrix3d::Identity();  // rows: right, up, towards the viewer
};

}  // namespace zither::session
