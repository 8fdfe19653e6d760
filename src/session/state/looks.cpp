// A stop is judged when it comes to the front and is not known by this brief.
#include "session/state/looks.h"

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
                     Progress& progress, const check::Surveyed::Heard& heard) {
    mesh::PartOfProgress judging(progress, 0, 0.5);
    auto survey = part->survey(options, judging, heard);
    if (!survey) return mesh::errorOf(survey);
    mesh::PartOfProgress comparing(progress, 0.5, 0.7);
    auto loss = lossSince(origin, *part, comparing);
    if (!loss) return mesh::errorOf(loss);
    mesh::PartOfProgress preparing(progress, 0.7, 1);
    auto display = prepareDisplay(part, **survey, preparing);
    if (!display) return mesh::errorOf(display);
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

std::shared_ptr<const Display> Looks::display() const {
    if (const Look* look = shown()) return look->display;
    const Part* part = parts_.current();
    return part && part->glimpse && part->glimpse->part->shared() == part->track.part()->shared() ? part->glimpse
                                                                                                  : nullptr;
}

const Looks::Listening* Looks::ofCurrent() const {
    const Part* part = parts_.current();
    if (!part || kept()) return nullptr;
    const auto it = listening_.find(part->id);
    return it != listening_.end() && it->second.mesh == part->track.part()->shared() ? &it->second : nullptr;
}

bool Looks::listening() const {
    return ofCurrent() != nullptr;
}

std::optional<double> Looks::heard(check::DefectClass defect) const {
    const Listening* of = ofCurrent();
    if (!of) return std::nullopt;
    const auto it = of->heard.find(defect.operator->());
    return it == of->heard.end() ? std::nullopt : std::optional(it->second);
}

void Looks::hear() {
    bool ofCurrent = false;
    for (auto& [id, listening] : listening_) {
        const std::lock_guard lock(listening.inbox->guard);
        for (const auto& [defect, value] : std::exchange(listening.inbox->told, {})) {
            listening.heard[defect.operator->()] = value;
            ofCurrent |= parts_.current() && parts_.current()->id == id;
        }
    }
    if (ofCurrent) Q_EMIT heardAnother();
}

void Looks::refresh() {
    const Part* part = parts_.current();
    if (!part || (kept() && kept()->survey->options.cover(judging_.options()))) return;
    judge(*part);
}

void Looks::judge(const Part& part, std::function<void()> then) {
    const std::shared_ptr<const mesh::Mesh> mesh = part.track.part()->shared();
    const check::SurveyOptions options = judging_.optionsFor(part);
    const auto known = listening_.find(part.id);
    const bool begun = known != listening_.end() && known->second.mesh == mesh && known->second.options == options;
    if (!begun)
        listening_[part.id] = {
            mesh, options, {}, std::make_shared<std::vector<std::function<void()>>>(), std::make_shared<Inbox>()};
    const auto waiting = listening_[part.id].then;
    if (then) waiting->push_back(std::move(then));
    if (begun) return;
    const auto heard = [this, inbox = listening_[part.id].inbox](check::DefectClass defect, double value) {
        {
            const std::lock_guard lock(inbox->guard);
            inbox->told.emplace_back(defect, value);
        }
        QMetaObject::invokeMethod(this, "hear", Qt::QueuedConnection);
    };
    jobs_.start<Look>(
        QString("Judging %1").arg(part.name), Jobs::Lane::Work,
        [surface = part.track.part(), options, origin = part.originOf(part.track.current()), heard](Progress& p) {
            return lookAt(surface, options, origin, p, heard);
        },
        [this, id = part.id, mesh, options, waiting](Outcome<Look> look) {
            const auto it = listening_.find(id);
            if (it != listening_.end() && it->second.mesh == mesh && it->second.options == options)
                listening_.erase(it);
            Part* judged = parts_.withId(id);
            if (!look) notice_.failed(look.error());
            // The user may have gone on meanwhile.
            if (look && judged && judged->track.part()->shared() == look->part->shared()) {
                judged->shown = std::move(*look);
                judged->glimpse = nullptr;
                if (judged == parts_.current()) {
                    refresh();
                    Q_EMIT changed();
                }
                parts_.touched();
            }
            for (const auto& ended : *waiting) ended();
            // Where it was cancelled there is something else to say, too.
            if (!look) Q_EMIT changed();
        });
}

}  // namespace zither::session
