// Whether something lies along a ray, asked millions of times: Embree's trees, in 32 bits (Wald, Woop, Benthin,
// Johnson, Ernst 2014).
#pragma once

#include <memory>

#include "mesh/mesh.h"

namespace zither::space {

// Of the triangles of a mesh, which need not outlive it. Coordinates are rounded to about 6e-8 of the diagonal, so that
// a ray should start farther than that from what it is not to meet. Queries are const and may run in parallel. An empty
// mesh blocks nothing.
class Occlusion {
public:
    explicit Occlusion(const mesh::Mesh& m);
    ~Occlusion();
    Occlusion(const Occlusion&) = delete;
    Occlusion& operator=(const Occlusion&) = delete;

    // Some triangle lies along the ray; the direction need not have length 1.
    [[nodiscard]] bool blocks(const mesh::Point& from, const mesh::Point& direction) const;

private:
    struct Scene;
    std::unique_ptr<Scene> scene_;
    mesh::Point centre_ = mesh::Point::Zero();
    double scale_ = 0;  // to coordinates within -1 and 1
};

}  // namespace zither::space
