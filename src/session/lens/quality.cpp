// The smallest angle of each triangle.
#include "measure/mass.h"
#include "mesh/parallel.h"
#include "session/lens/colours.h"

namespace zither::session {
namespace {

mesh::Outcome<Coat> coat(const LensView& view, mesh::Progress&) {
    const mesh::Mesh& m = view.part.mesh();
    std::vector<double> angles(m.triangles.size());
    mesh::parallelFor(angles.size(), 4096, [&](std::size_t t) {
        angles[t] = measure::smallestAngleDeg(m, static_cast<mesh::TriangleId>(t));
    });
    Legend legend;
    legend.title = "Smallest angle";
    legend.unit = "°";
    return coatOfValues(angles, {0, 60, true}, std::move(legend));
}

}  // namespace

constinit const Lens qualityLens = {.name = "quality", .help = "The smallest angle of each triangle.", .coat = coat};

}  // namespace zither::session
