// The trees and surveys of both sides are used where they are known.
#include "project/comparing.h"

#include "steps/lost.h"

namespace zither::project {

mesh::Outcome<Compared> compare(const check::Surveyed& a, const check::Surveyed& b, const ComparingOptions& options,
                                mesh::Progress& progress) {
    mesh::PartOfProgress far(progress, 0, 0.7);
    auto distance = measure::compare({a.tree(), a.edges()}, {b.tree(), b.edges()}, far);
    if (!distance) return mesh::errorOf(distance);
    mesh::PartOfProgress near(progress, 0.7, 1);
    steps::SeenOfImport own(check::SurveyedPtr(std::shared_ptr<void>(), &a));
    steps::SeenOfImport& seen = options.seen ? *options.seen : own;
    auto loss = seen.lossTo(b, options.told ? *options.told : measure::Told(), near);
    if (!loss) return mesh::errorOf(loss);
    Compared compared{*distance, std::move(*loss)};
    compared.lostUntold = compared.loss.lost;
    if (!options.told || options.told->closing.triangles.empty()) return compared;
    const auto untold = seen.lossTo(b, {}, near);
    if (!untold) return mesh::errorOf(untold);
    compared.lostUntold = untold->lost;
    return compared;
}

mesh::Outcome<Compared> compareAligned(const check::Surveyed& a, const check::Surveyed& b, mesh::Progress& progress) {
    mesh::PartOfProgress fitting(progress, 0, 0.2);
    const auto aligned = measure::aligned(a.mesh(), b.tree(), {}, fitting);
    if (!aligned) return mesh::errorOf(aligned);
    mesh::PartOfProgress comparing(progress, 0.2, 1);
    auto compared = compare(check::Surveyed(mesh::moved(a.mesh(), aligned->motion)), b, {}, comparing);
    if (compared) compared->aligned = *aligned;
    return compared;
}

}  // namespace zither::project
