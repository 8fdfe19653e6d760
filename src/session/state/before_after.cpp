// The scene of the other surface is made beside the window, when it is first asked for.
#include "session/state/before_after.h"

#include <algorithm>
#include <utility>

namespace zither::session {

BeforeAfter::BeforeAfter(const Bench& bench) : parts_(bench.parts), jobs_(bench.jobs) {}

check::SurveyedPtr BeforeAfter::wanted() const {
    const Part* part = parts_.current();
    if (!part || (!other_ && !held_)) return nullptr;
    const project::StopId stop = held_ ? 0 : *other_;
    if (stop >= part->track.stops().size()) return nullptr;
    if (stop != 0) return part->track.stop(stop).part;
    const Origin origin = part->originOf(part->track.current());
    return origin.seen ? origin.seen->import() : part->track.stop(0).part;
}

std::shared_ptr<const Display> BeforeAfter::display() const {
    const check::SurveyedPtr surface = wanted();
    return surface && display_ && display_->part == surface ? display_ : nullptr;
}

void BeforeAfter::refresh() {
    const Part* part = parts_.current();
    // Stops of another part are others.
    if (std::exchange(ofPart_, part ? part->id : 0) != (part ? part->id : 0)) other_.reset();
    const check::SurveyedPtr surface = wanted();
    if (!surface || (display_ && display_->part == surface)) {
        if (!surface) display_ = nullptr;
        Q_EMIT changed();
        return;
    }
    using Result = std::shared_ptr<const Display>;
    jobs_.start<Result>(
        "Showing what it was", Jobs::Lane::Compare,
        [surface](mesh::Progress&) -> mesh::Outcome<Result> { return displayWithoutLines(surface); },
        [this](mesh::Outcome<Result> display) {
            if (display) display_ = std::move(*display);
            Q_EMIT changed();
        });
}

void BeforeAfter::setOther(std::optional<project::StopId> stop) {
    other_ = stop;
    if (!stop) divider_ = 0.5;
    refresh();
}

void BeforeAfter::setDivider(double share) {
    divider_ = std::clamp(share, 0.02, 0.98);
    Q_EMIT changed();
}

void BeforeAfter::setSideBySide(bool sideBySide) {
    sideBySide_ = sideBySide;
    if (sideBySide && !other_) return setOther(project::StopId(0));
    Q_EMIT changed();
}

void BeforeAfter::hold(bool held) {
    if (held == held_) return;
    held_ = held;
    refresh();
}

QString BeforeAfter::nameOfOther() const {
    const Part* part = parts_.current();
    if (!part || held_ || !other_) return "import";
    return QString::fromStdString(part->track.stop(*other_).label);
}

}  // namespace zither::session
