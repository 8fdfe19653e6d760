// A surface for rays that are asked by the million: Embree's trees, in 32 bits (Wald, Woop, Benthin, Johnson, Ernst
// 2014). Whether something lies along a ray, and what a bundle of parallel rays meets first.
#pragma once

#include <array>
#include <cstdint>
#include <limits>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "mesh/mesh.h"

namespace zither::space {

// Rays side by side in one direction, for pictures.
struct RayBundle {
    static constexpr std::size_t size = 16;
    std::array<mesh::Point, size> from;
    mesh::Point direction = mesh::Point::UnitZ();  // of length 1
    std::array<double, size> near{};               // what lies before or beyond is not met; far below near: no ray
    std::array<double, size> far{};
};

struct RayHits {
    static constexpr std::uint32_t none = ~0U;
    std::array<std::uint32_t, RayBundle::size> triangle;  // none: nothing was met
    std::array<float, RayBundle::size> along;             // how far from where the ray starts
    std::array<float, RayBundle::size> second, third;     // barycentric coordinates of those corners
};

// Of the triangles of a mesh, which must outlive it where it is of all of them. Coordinates are rounded to about 6e-8
// of the diagonal, so that a ray should start farther than that from what it is not to meet. Queries are const and may
// run in parallel. An empty mesh blocks nothing. About 43 bytes a triangle.
class RayScene {
public:
    // What is spared: time while the tree is made (a third of it; rays then take half as long again), or while rays are
    // asked.
    enum class Spares { Building, Asking };
    explicit RayScene(const mesh::Mesh& m, Spares spares = Spares::Asking);
    // Of some triangles, for rays along the last of three axes (rows, of length 1, at right angles): what lies near
    // `centre` across them is told apart far more finely.
    RayScene(const mesh::Mesh& m, std::span<const mesh::TriangleId> triangles, const mesh::Point& centre,
             const Eigen::Matrix3d& axes);
    ~RayScene();
    RayScene(const RayScene&) = delete;
    RayScene& operator=(const RayScene&) = delete;

    // Some triangle lies along the ray; the direction need not have length 1.
    [[nodiscard]] bool blocks(const mesh::Point& from, const mesh::Point& direction) const;
    // A triangle that a ray passes through, and how far from its start, in lengths of the direction.
    struct Passage {
        mesh::TriangleId triangle = 0;
        double along = 0;
        bool leaving = false;  // through the back of it
    };
    // A ray from a point of triangle `own` of the mesh that this was made of, looking through that triangle.
    struct Way {
        const mesh::Mesh& mesh;
        mesh::TriangleId own;
        mesh::Point from;
        mesh::Point direction;                                    // of length 1
        double within = std::numeric_limits<double>::infinity();  // what lies farther need not be met
    };
    // What is met first whose plane lies ahead of the point (decided in 64 bits: also what is nearer than the rounding
    // of the scene); nothing where nothing is.
    [[nodiscard]] std::optional<Passage> firstBeyond(const Way& way) const;
    // All that it passes through, in no order; also at the point itself, and a millionth of the size before it.
    void allBeyond(const Way& way, std::vector<Passage>& passages) const;
    // What each ray meets first. `hidden`: one flag a triangle of the mesh, those set are not met; empty: none is.
    void meet(const RayBundle& rays, RayHits& hits, std::span<const std::uint8_t> hidden = {}) const;
    // The triangle that a ray meets first; nothing where it meets none.
    [[nodiscard]] std::optional<mesh::TriangleId> firstMet(const mesh::Point& from, const mesh::Point& direction) const;

private:
    struct Scene;

    [[nodiscard]] std::uint32_t askBeyond(const Way& way, std::vector<Passage>* all) const;
    void build(const mesh::Mesh& m, std::span<const mesh::TriangleId> triangles, Spares spares);
    [[nodiscard]] Eigen::Vector3f within(const mesh::Point& p) const {
        return (axes_ * (p - centre_) * scale_).cast<float>();
    }
    [[nodiscard]] std::uint32_t numberOf(std::uint32_t met) const { return numbers_.empty() ? met : numbers_[met]; }

    std::unique_ptr<Scene> scene_;
    std::vector<std::uint32_t> numbers_;  // of the triangles; empty: all of the mesh
    mesh::Point centre_ = mesh::Point::Zero();
    Eigen::Matrix3d axes_ = Eigen::Matrix3d::Identity();
    double scale_ = 1;  // to coordinates within -1 and 1
};

}  // namespace zither::space
