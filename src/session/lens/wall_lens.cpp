// How thick the material is behind each triangle.
#include "measure/wall.h"

#include <cmath>

#include "session/lens/colours.h"
#include "session/reading/number_text.h"

namespace zither::session {
namespace {

// What is thicker than this many limits is all alike: light.
constexpr double limitsShown = 5;
// Of the size, where no limit was asked for.
constexpr double shareShown = 0.1;

mesh::Outcome<Coat> coat(const LensView& view, mesh::Progress& progress) {
    const check::Survey& survey = view.survey;
    Legend legend;
    legend.title = "Wall";
    if (!survey.watertight || !(survey.mass.volume > 0)) {
        Coat coat;
        coat.legend = std::move(legend);
        coat.legend.note = "Only a closed surface that faces outward has material behind it.";
        return coat;
    }
    const mesh::Mesh& m = view.part.mesh();
    const auto walls = measure::wallsAtCentres({m, view.part.edges(), view.part.rays(), survey.solid}, progress);
    if (!walls) return mesh::errorOf(walls);
    const double limit = survey.options.wall;
    const double most = limit > 0 ? limitsShown * limit : shareShown * survey.mass.size.diagonal();
    if (limit > 0)
        legend.note =
            QString("asked: %1; measured at the middle of each triangle").arg(view.numbers.shortNumber(limit));
    return coatOfValues(*walls, {0, most, true}, std::move(legend));
}

}  // namespace

constinit const Lens wallLens = {
    .name = "wall", .help = "How thick the material is, straight in from the surface.", .measures = true, .coat = coat};

}  // namespace zither::session
