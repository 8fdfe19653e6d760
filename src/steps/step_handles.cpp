// Numbers that were dragged, made short enough to be read and typed again.
#include "steps/step_handles.h"

#include <cmath>

namespace zither::steps {
namespace {

double rounded(double value, double unit) {
    return std::round(value / unit) * unit;
}

// 10 to a whole power; exact from 1e-22 up to 1e22, where it is divided by or multiplied with.
double toUnit(double value, int power) {
    const double ten = std::pow(10.0, std::abs(power));
    return power < 0 ? std::round(value * ten) / ten : rounded(value, ten);
}

constexpr int directionDigits = 9;

}  // namespace

std::string directionText(const mesh::Point& direction) {
    mesh::Point p = direction;
    // Adding 0 makes a 0 of -0.
    for (double& x : p) x = toUnit(x, -directionDigits) + 0.0;
    return textOfPlace(p);
}

double neat(double dragged, double size) {
    constexpr int digits = 4;
    if (!(size > 0) || !std::isfinite(dragged)) return dragged;
    return toUnit(dragged, static_cast<int>(std::floor(std::log10(size))) - digits) + 0.0;
}

mesh::Point neat(const mesh::Point& dragged, double size) {
    return {neat(dragged.x(), size), neat(dragged.y(), size), neat(dragged.z(), size)};
}

mesh::Box boxOfPart(const Surveyed& s) {
    const auto survey = s.known();
    return survey ? survey->mass.size : mesh::boxOf(s.mesh());
}

std::optional<AlongAxis> alongAxis(const mesh::Point& direction) {
    Eigen::Index axis = 0;
    const double most = direction.cwiseAbs().maxCoeff(&axis);
    const mesh::Point rest = direction - direction[axis] * mesh::Point::Unit(axis);
    if (!(rest.norm() < 1e-9 * most)) return std::nullopt;
    return AlongAxis{axis, direction[axis] > 0};
}

}  // namespace zither::steps
