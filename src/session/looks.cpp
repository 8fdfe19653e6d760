// A stop is judged when it comes to the front and is not known by this brief.
#include "session/looks.h"

#include <algorithm>

namespace zither::session {

using mesh::Outcome;
using mesh::Progress;

namespace {

std::vector<repair::Place> changesSince(const Origin& origin, const check::Surveyed& part) {
    if (!origin.seen) return {};
    const auto import = origin.seen->import();
    std::vector<repair::Place> changes = repair::Places(import->mesh(), part.mesh()).list();
    std::stable_sort(changes.begin(), changes.end(), [](const repair::Place& a, const repair::Place& b) {
        return a.box.diagonal() > b.box.diagonal();
    });
    return changes;
}

}  // namespace

Outcome<Look> lookAt(const check::SurveyedPtr& part, const check::SurveyOptions& options, const Origin& origin,
                     Progress& progress) {
    mesh::PartOfProgress judging(progress, 0, 0.5);
    auto survey = part->survey(options, judging);
    if (!survey) return tl::unexpected(survey.error());
    mesh::PartOfProgress comparing(progress, 0.5, 0.7);
    auto loss = lossSince(origin, *part, comparing);
    if (!loss) return tl::unexpected(loss.error());
    mesh::PartOfProgress preparing(progress, 0.7, 1);
    auto display = prepareDisplay(part, **survey, preparing);
    if (!display) return tl::unexpected(display.error());
    return Look{part,
                *survey,
                *display,
                std::move(*loss),
                changesSince(origin, *part),
                std::make_shared<const Proposals>(proposalsFor(*part))};
}

Looks::Looks(Parts& parts, Judging& judging, Jobs& jobs, Notice& notice, QObject* parent)
    : QObject(parent), parts_(parts), judging_(judging), jobs_(jobs), notice_(notice) {}

void Looks::show(const Look* tried) {
    tried_ = tried;
    Q_EMIT changed();
}

void Looks::forget() {
    for (const auto& part : parts_.all()) part->shown.reset();
}

void Looks::refresh() {
    const Part* part = parts_.current();
    if (!part || (kept() && kept()->survey->options.cover(judging_.options()))) return;
    jobs_.start<Look>(
        QString("Judging %1").arg(part->name), Jobs::Lane::Work,
        [surface = part->track.part(), options = judging_.options(),
         origin = part->originOf(part->track.current())](Progress& p) { return lookAt(surface, options, origin, p); },
        [this, id = part->id](Outcome<Look> look) {
            if (!look) return notice_.failed(look.error());
            Part* judged = parts_.withId(id);
            // The user may have gone on meanwhile.
            if (!judged || judged->track.part()->shared() != look->part->shared()) return;
            judged->shown = std::move(*look);
            if (judged == parts_.current()) refresh();
            Q_EMIT changed();
            parts_.touched();
        });
}

}  // namespace zither::session
