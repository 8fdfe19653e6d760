// One search for what is seen serves every step, preview and file of a part.
#include "steps/lost.h"

#include "check/tight_shells.h"
#include "measure/mass.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

Mesh without(const Mesh& m, std::vector<std::uint8_t> flags) {
    for (std::uint8_t& flag : flags) flag = !flag;
    return mesh::keepTriangles(m, flags);
}

}  // namespace

check::SurveyedPtr SeenOfImport::import() {
    if (!still_) return import_;
    const std::lock_guard lock(moving_);
    if (!import_) import_ = std::make_shared<const check::Surveyed>(mesh::moved(still_->import()->mesh(), motion_));
    return import_;
}

mesh::Outcome<measure::Loss> SeenOfImport::lossTo(const check::Surveyed& part, measure::Told told,
                                                  mesh::Progress& progress) {
    const measure::ToldTrees trees(std::move(told));
    const Points points = seenThrough(trees);
    mesh::PartOfProgress surveying(progress, 0, 0.3);
    const auto survey = part.survey(part.knownOptions(), surveying);
    if (!survey) return mesh::errorOf(survey);
    measure::LossOptions how;
    how.facing = (*survey)->watertight && (*survey)->mass.volume > 0;
    how.told = &trees;
    mesh::PartOfProgress comparing(progress, 0.3, 1);
    const auto from = import();
    auto loss =
        measure::lossBetween(*points, {from->tree(), from->shells()}, {part.tree(), part.shells()}, how, comparing);
    if (loss && !from->mesh().regions.empty())
        loss->regions =
            measure::regionChange({from->mesh(), from->edges()}, {part.mesh(), part.edges()}, loss->tolerance);
    return loss;
}

SeenOfImport::Points SeenOfImport::seenFree() {
    const std::lock_guard lock(looking_);
    if (free_) return free_;
    if (!still_) {
        tight_ = check::tightShells(*import_);
        const measure::LossImport import{{import_->tree(), import_->shells()}, import_->rays(), tight_};
        return free_ = std::make_shared<const measure::SeenPoints>(import);
    }
    Points before = still_->seenFree();
    std::vector<measure::SeenPoint> points = before->points();
    const double scale = motion_.scale();
    for (measure::SeenPoint& p : points) {
        p.at = motion_.of(p.at);
        p.normal = motion_.turned(p.normal);
        p.area *= scale * scale;
    }
    return free_ = std::make_shared<const measure::SeenPoints>(std::move(before), std::move(points));
}

SeenOfImport::Points SeenOfImport::seenThrough(const measure::ToldTrees& told) {
    Points free = seenFree();
    if (!told.closing) return free;
    const auto from = import();
    const measure::LossImport as{{from->tree(), from->shells()}, from->rays()};
    return std::make_shared<const measure::SeenPoints>(std::move(free), as, told.closing->surface());
}

void Origin::follow(const Record& record) {
    if (record.motion) {
        moved = true;
        if (seen) seen = std::make_shared<SeenOfImport>(std::move(seen), *record.motion);
        for (mesh::Mesh* m : {&told.closing, &told.mayGo, &told.reshaped, &told.bodies})
            *m = mesh::moved(*m, *record.motion);
    }
    if (record.told) told.append(*record.told);
}

std::shared_ptr<const measure::Told> toldToGo(const Mesh& before, const Mesh& after) {
    return std::make_shared<const measure::Told>(
        measure::Told{.reshaped = without(before, measure::keptOf(before, after).of)});
}

std::shared_ptr<const measure::Told> toldShaped(const Mesh& before, const Mesh& after) {
    const measure::Kept kept = measure::keptOf(before, after);
    return std::make_shared<const measure::Told>(
        measure::Told{.reshaped = without(before, kept.of), .bodies = without(after, kept.in)});
}

}  // namespace zither::steps
