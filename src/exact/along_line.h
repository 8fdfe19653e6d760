// In which order a line passes through planes, exactly.
#pragma once

#include "exact/projection.h"

namespace zither::exact {

// Sign of where the line origin + t direction meets plane a less where it meets plane b: -1 where it comes to a first.
// The line is parallel to neither. Rational arithmetic: for the few cases where floating-point numbers cannot tell.
int compareAlongLine(const Point3& origin, const Point3& direction, const Corner3& a, const Corner3& b);

}  // namespace zither::exact
