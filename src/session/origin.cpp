// One search for what is seen serves every step, preview and file of a part.
#include "session/origin.h"

namespace zither::session {

using Points = std::shared_ptr<const std::vector<measure::SeenPoint>>;

mesh::Outcome<Points> SeenOfImport::points(const measure::ToldTrees& told, mesh::Progress& progress) {
    const std::lock_guard lock(looking_);
    if (!told.closing && free_) return free_;
    auto found = measure::seenPoints({import_->tree(), import_->shells()}, told.closing.get(), progress);
    if (!found) return tl::unexpected(found.error());
    auto points = std::make_shared<const std::vector<measure::SeenPoint>>(std::move(*found));
    if (!told.closing) free_ = points;
    return points;
}

mesh::Outcome<std::shared_ptr<const measure::Loss>> lossSince(const Origin& origin, const check::Surveyed& part,
                                                              mesh::Progress& progress) {
    if (!origin.seen) return nullptr;
    const measure::ToldTrees told(origin.told);
    mesh::PartOfProgress looking(progress, 0, 0.6);
    const auto points = origin.seen->points(told, looking);
    if (!points) return tl::unexpected(points.error());
    const auto survey = part.survey(part.knownOptions(), looking);
    if (!survey) return tl::unexpected(survey.error());
    measure::LossOptions how;
    how.facing = (*survey)->watertight && (*survey)->mass.volume > 0;
    how.told = &told;
    mesh::PartOfProgress comparing(progress, 0.6, 1);
    const check::Surveyed& import = *origin.seen->import();
    auto loss =
        measure::lossBetween(**points, {import.tree(), import.shells()}, {part.tree(), part.shells()}, how, comparing);
    if (!loss) return tl::unexpected(loss.error());
    return std::make_shared<const measure::Loss>(std::move(*loss));
}

}  // namespace zither::session
