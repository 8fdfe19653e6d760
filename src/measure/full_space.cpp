// Points lie in rows, so that neighbours are asked about together.
#include "measure/full_space.h"

#include <algorithm>
#include <cmath>

#include "measure/measure_tolerances.h"
#include "space/winding.h"

namespace zither::measure {
namespace {

// So many points over the box, as far apart along each axis; off round coordinates, where faces like to lie.
std::vector<mesh::Point> gridOver(const mesh::Box& box) {
    constexpr double most = 6000;
    constexpr double offset = 0.3819660112501051;
    const mesh::Point size = box.extent();
    const double step = std::cbrt(size.prod() / most);
    std::vector<mesh::Point> points;
    if (!(step > 0) || !std::isfinite(step)) return points;
    for (double z = offset * step; z < size.z(); z += step)
        for (double y = offset * step; y < size.y(); y += step)
            for (double x = offset * step; x < size.x(); x += step) points.push_back(box.min + mesh::Point(x, y, z));
    return points;
}

}  // namespace

FullSpace::FullSpace(const space::TriangleTree& tree, const std::vector<std::uint8_t>& closed, double tolerance)
    : tree_(tree), tolerance_(tolerance) {
    const mesh::Mesh& m = tree.surface();
    std::vector<mesh::TriangleId> triangles;
    for (mesh::TriangleId t = 0; t < closed.size(); ++t)
        if (closed[t]) triangles.push_back(t);
    if (triangles.empty()) return;
    mesh::Box box;
    for (const mesh::TriangleId t : triangles) box.add(mesh::boxOf(m, t));
    full_ = gridOver(box);
    const auto keepWithin = [&](const space::WindingTree& winding) {
        std::vector<double> values(full_.size());
        winding.at(full_, values);
        std::size_t kept = 0;
        for (std::size_t i = 0; i < full_.size(); ++i)
            if (values[i] > tolerance::surelyFull) full_[kept++] = full_[i];
        full_.resize(kept);
    };
    keepWithin(space::WindingTree(m, triangles, std::vector<int>(m.triangles.size(), 1)));
    // An open shell within may be the skin of a void that is torn.
    if (triangles.size() < m.triangles.size()) keepWithin(space::WindingTree(m));
    // Fewer do not tell some thousandths.
    constexpr std::size_t least = 500;
    if (full_.size() < least) full_.clear();
}

double FullSpace::emptiedBy(const mesh::Mesh& other) const {
    if (full_.empty()) return 0;
    const space::WindingTree winding(other);
    std::vector<double> values(full_.size());
    winding.at(full_, values);
    std::size_t emptied = 0;
    for (std::size_t i = 0; i < full_.size(); ++i)
        if (values[i] < tolerance::surelyEmpty && !tree_.reaches(full_[i], tolerance_)) ++emptied;
    return static_cast<double>(emptied) / static_cast<double>(full_.size());
}

}  // namespace zither::measure
