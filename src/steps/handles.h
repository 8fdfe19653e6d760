// What the handles of steps share.
#pragma once

#include "steps/step.h"

namespace zither::steps {

// A direction as a parameter holds it: without the last digits that turning it left.
std::string directionText(const mesh::Point& direction);

// A number that was dragged, to what a part of that size needs.
double neat(double dragged, double size);
mesh::Point neat(const mesh::Point& dragged, double size);

// Which axis the direction is, and whether along it; none: it is askew.
struct AlongAxis {
    Eigen::Index axis = 0;
    bool forward = true;
};
std::optional<AlongAxis> alongAxis(const mesh::Point& direction);

}  // namespace zither::steps
