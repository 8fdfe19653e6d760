// How far the surface lies from the import, at its corners.
#include <algorithm>
#include <cmath>

#include "measure/deviation.h"
#include "session/lens/colours.h"
#include "session/reading/number_text.h"

namespace zither::session {
namespace {

// The farthest of its corners.
std::vector<double> ofTriangles(const mesh::Mesh& m, const std::vector<double>& ofVertex) {
    std::vector<double> ofTriangle(m.triangles.size());
    for (std::size_t t = 0; t < ofTriangle.size(); ++t) {
        const mesh::Triangle& tri = m.triangles[t];
        ofTriangle[t] = std::max({ofVertex[tri[0]], ofVertex[tri[1]], ofVertex[tri[2]]});
    }
    return ofTriangle;
}

mesh::Outcome<Coat> coat(const LensView& view, mesh::Progress& progress) {
    const auto atVertices = measure::distancesAtCorners(view.part.mesh(), view.import->tree(), progress);
    if (!atVertices) return mesh::errorOf(atVertices);
    const std::vector<double> distances = ofTriangles(view.part.mesh(), *atVertices);
    Legend legend;
    legend.title = "Distance from the import, at corners";
    const auto most = std::max_element(distances.begin(), distances.end());
    const double farthest = most == distances.end() ? 0 : *most;
    if (farthest > 0) {
        const auto t = static_cast<mesh::TriangleId>(most - distances.begin());
        legend.note = "farthest near " + view.numbers.placeText(mesh::centroid(view.part.mesh(), t));
    }
    Coat coat = coatOfValues(distances, {0, farthest}, std::move(legend));
    coat.atVertices.assign(atVertices->begin(), atVertices->end());
    return coat;
}

}  // namespace

constinit const Lens deviationLens = {
    .name = "deviation", .help = "How far the surface lies from what came in.", .measures = true, .coat = coat};

}  // namespace zither::session
