// What is new since the import; what is gone is marked over it.
#include <atomic>

#include "measure/loss.h"
#include "mesh/parallel.h"
#include "session/lens/colours.h"
#include "session/reading/loss_signs.h"
#include "session/reading/number_text.h"
#include "session/reading/palette.h"

namespace zither::session {
namespace {

mesh::Outcome<Coat> coat(const LensView& view, mesh::Progress& progress) {
    const mesh::Mesh& m = view.part.mesh();
    const space::TriangleTree& import = view.import->tree();
    const double tolerance = measure::lossTolerance(view.import->mesh());
    Coat coat;
    coat.colours.assign(m.triangles.size(), packed(clay::face));
    std::vector<double> areaOf(m.triangles.size(), 0);
    const std::uint32_t ink = packed(sign::added.ink);
    std::atomic<bool> stop = false;
    constexpr std::size_t block = 8192;
    mesh::parallelFor((m.triangles.size() + block - 1) / block, 1, [&](std::size_t b) {
        for (std::size_t i = b * block; i < std::min(m.triangles.size(), (b + 1) * block) && !stop; ++i) {
            const mesh::TriangleId t(static_cast<std::uint32_t>(i));
            if (import.nearest(mesh::centroid(m, t), tolerance)) continue;
            coat.colours[i] = ink;
            areaOf[i] = mesh::areaVector(m, t).norm() / 2;
        }
        if (!progress.report(static_cast<double>(b * block) / static_cast<double>(m.triangles.size()))) stop = true;
    });
    if (stop) return mesh::cancelled();
    double area = 0;
    for (const double a : areaOf) area += a;
    const double whole = view.survey.mass.area;
    coat.legend.title = "Lost and added since the import";
    coat.legend.note =
        QString("blue: new, %1 % of the area; a ring with a bar: lost\nwithin %2 of the import it counts as kept")
            .arg(view.numbers.shortNumber(whole > 0 ? 100 * area / whole : 0), view.numbers.shortNumber(tolerance));
    return coat;
}

}  // namespace

constinit const Lens addedLens = {
    .name = "added", .help = "What is new since the import, in blue; what is lost is marked.", .coat = coat};

}  // namespace zither::session
