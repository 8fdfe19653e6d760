// One search for what is seen serves every step, preview and file of a part.
#include "steps/lost.h"

namespace zither::steps {

mesh::Outcome<measure::Loss> SeenOfImport::lossTo(const check::Surveyed& part, measure::Told told,
                                                  mesh::Progress& progress) {
    const measure::ToldTrees trees(std::move(told));
    mesh::PartOfProgress looking(progress, 0, 0.5);
    const auto points = seenThrough(trees, looking);
    if (!points) return tl::unexpected(points.error());
    mesh::PartOfProgress surveying(progress, 0.5, 0.7);
    const auto survey = part.survey(part.knownOptions(), surveying);
    if (!survey) return tl::unexpected(survey.error());
    measure::LossOptions how;
    how.facing = (*survey)->watertight && (*survey)->mass.volume > 0;
    how.told = &trees;
    mesh::PartOfProgress comparing(progress, 0.7, 1);
    return measure::lossBetween(**points, {import_->tree(), import_->shells()}, {part.tree(), part.shells()}, how,
                                comparing);
}

mesh::Outcome<SeenOfImport::Points> SeenOfImport::seenThrough(const measure::ToldTrees& told,
                                                              mesh::Progress& progress) {
    const std::lock_guard lock(looking_);
    const measure::LossSurface import{import_->tree(), import_->shells()};
    if (!free_) {
        mesh::PartOfProgress looking(progress, 0, 0.5);
        auto found = measure::seenPoints(import, looking);
        if (!found) return tl::unexpected(found.error());
        free_ = std::make_shared<const std::vector<measure::SeenPoint>>(std::move(*found));
    }
    if (!told.closing) return free_;
    mesh::PartOfProgress past(progress, 0.5, 1);
    auto found = measure::seenPast(told.closing->surface(), import, *free_, past);
    if (!found) return tl::unexpected(found.error());
    return std::make_shared<const std::vector<measure::SeenPoint>>(std::move(*found));
}

}  // namespace zither::steps
