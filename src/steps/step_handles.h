// What the handles of steps share.
#pragma once

#include "steps/step.h"

namespace zither::steps {

// A direction as a parameter holds it: without the last digits that turning it left.
std::string directionText(const mesh::Point& direction);

// A number that was dragged, to what a part of that size needs.
double neat(double dragged, double size);
mesh::Point neat(const mesh::Point& dragged, double size);

// The box of the part; of one that was judged without looking at its corners again: a drag asks at every move.
mesh::Box boxOfPart(const Surveyed& s);

// Which axis the direction is, and whether along it; none: it is askew.
struct AlongAxis {
    Eigen::Index axis = 0;
    bool forward = true;
};
std::optional<AlongAxis> alongAxis(const mesh::Point& direction);

}  // namespace zither::steps
