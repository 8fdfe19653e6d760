// The axis along which a triangle's shadow is not degenerate, decided exactly.
#include "exact/projection.h"

#include <Eigen/Geometry>

namespace zither::exact {

Projection projectionOf(const Corner3& t) {
    const Point3 normal = (*t[1] - *t[0]).cross(*t[2] - *t[0]);
    Projection p;
    normal.cwiseAbs().maxCoeff(&p.axis);
    for (int tries = 0; tries < 3; ++tries, p.axis = (p.axis + 1) % 3) {
        p.turn = orient2dDropping(p.axis, *t[0], *t[1], *t[2]);
        if (p.turn != 0) break;
    }
    return p;
}

bool inTriangleInPlane(const Projection& projection, const Point3& p, const Corner3& t) {
    for (unsigned k = 0; k < 3; ++k)
        if (orient2dDropping(projection.axis, *t[k], *t[(k + 1) % 3], p) * projection.turn < 0) return false;
    return true;
}

}  // namespace zither::exact
