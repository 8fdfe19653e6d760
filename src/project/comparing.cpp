// The trees and surveys of both sides are used where they are known.
#include "project/comparing.h"

#include <optional>

namespace zither::project {

mesh::Outcome<measure::Loss> lossOf(const check::Surveyed& a, const check::Surveyed& b, const ComparingOptions& how,
                                    mesh::Progress& progress) {
    mesh::PartOfProgress surveying(progress, 0, 0.3);
    const auto survey = b.survey(b.knownOptions(), surveying);
    if (!survey) return tl::unexpected(survey.error());
    measure::LossOptions options;
    options.facing = (*survey)->watertight && (*survey)->mass.volume > 0;
    std::optional<measure::ToldTrees> told;
    if (how.told) options.told = &told.emplace(*how.told);
    mesh::PartOfProgress comparing(progress, 0.3, 1);
    return measure::lossBetween({a.tree(), a.shells()}, {b.tree(), b.shells()}, options, comparing);
}

mesh::Outcome<Compared> compare(const check::Surveyed& a, const check::Surveyed& b, const ComparingOptions& options,
                                mesh::Progress& progress) {
    mesh::PartOfProgress far(progress, 0, 0.7);
    auto distance = measure::compare(a.tree(), b.tree(), far);
    if (!distance) return tl::unexpected(distance.error());
    mesh::PartOfProgress near(progress, 0.7, 1);
    auto loss = lossOf(a, b, options, near);
    if (!loss) return tl::unexpected(loss.error());
    return Compared{*distance, std::move(*loss)};
}

}  // namespace zither::project
