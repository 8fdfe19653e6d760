// Parts in the order of their names, each with an id that is never used again.
#include "session/state/parts.h"

#include <algorithm>
#include <utility>

#include "mesh/memory.h"

namespace zither::session {

Part* Parts::withId(std::uint64_t id) {
    const auto it = std::find_if(parts_.begin(), parts_.end(), [&](const auto& p) { return p->id == id; });
    return it == parts_.end() ? nullptr : it->get();
}

Origin Part::originOf(project::StopId stop) const {
    return stop == 0 ? Origin{} : originBehind(stop);
}

Origin Part::originBehind(project::StopId stop) const {
    Origin origin{seen};
    for (const project::StopId on : track.pathTo(stop)) {
        const steps::Record& record = track.stop(on).record;
        origin.follow(record);
        if (!record.motion) continue;
        std::shared_ptr<steps::SeenOfImport>& known = seenMoved[on];
        if (!known) known = origin.seen;
        origin.seen = known;
    }
    return origin;
}

Unit Part::unitAt(project::StopId stop) const {
    Unit unit = importedUnit;
    for (const project::StopId on : track.pathTo(stop))
        if (const std::string& said = track.stop(on).record.unit; !said.empty())
            unit = {QString::fromStdString(said), false};
    return unit;
}

bool Part::movedBefore(project::StopId stop) const {
    const auto path = track.pathTo(stop);
    return std::any_of(path.begin(), path.end(), [&](project::StopId on) { return track.stop(on).record.motion; });
}

std::uint64_t Parts::add(Part part) {
    part.id = nextId_++;
    const std::uint64_t id = part.id;
    const Part* front = current();
    parts_.push_back(std::make_unique<Part>(std::move(part)));
    if (!ordered_)
        std::sort(parts_.begin(), parts_.end(),
                  [](const auto& a, const auto& b) { return QString::localeAwareCompare(a->name, b->name) < 0; });
    stayAt(front);
    Q_EMIT changed();
    return id;
}

std::uint64_t Parts::addLast(Part part) {
    ordered_ = true;
    return add(std::move(part));
}

void Parts::stayAt(const Part* front) {
    if (!front) return;
    const auto it = std::find_if(parts_.begin(), parts_.end(), [&](const auto& p) { return p.get() == front; });
    current_ = static_cast<std::size_t>(it - parts_.begin());
}

void Parts::rename(std::size_t index, const QString& name) {
    if (index >= parts_.size() || name.trimmed().isEmpty()) return;
    parts_[index]->name = name.trimmed();
    Q_EMIT changed();
}

void Parts::order(std::size_t index, std::size_t before) {
    if (index >= parts_.size() || before > parts_.size() || before == index || before == index + 1) return;
    const Part* front = current();
    ordered_ = true;
    const auto at = [&](std::size_t i) { return parts_.begin() + static_cast<std::ptrdiff_t>(i); };
    if (before > index)
        std::rotate(at(index), at(index + 1), at(before));
    else
        std::rotate(at(before), at(index), at(index + 1));
    stayAt(front);
    Q_EMIT changed();
}

void Parts::toggleChosen(std::size_t index) {
    if (index >= parts_.size() || index == current_) return;
    const std::uint64_t id = parts_[index]->id;
    if (alsoChosen_.erase(id) == 0) alsoChosen_.insert(id);
    Q_EMIT changed();
}

void Parts::chooseAll() {
    for (const auto& part : parts_) alsoChosen_.insert(part->id);
    Q_EMIT changed();
}

bool Parts::isChosen(std::size_t index) const {
    return index < parts_.size() && (index == current_ || alsoChosen_.contains(parts_[index]->id));
}

Part* Parts::takeNext(std::vector<std::uint64_t>& ids) {
    while (!ids.empty()) {
        Part* part = withId(ids.front());
        ids.erase(ids.begin());
        if (part) return part;
    }
    return nullptr;
}

std::vector<std::uint64_t> Parts::chosenIds() const {
    std::vector<std::uint64_t> ids;
    for (std::size_t i = 0; i < parts_.size(); ++i)
        if (isChosen(i)) ids.push_back(parts_[i]->id);
    return ids;
}

void Parts::close(std::size_t index) {
    if (index >= parts_.size()) return;
    Q_EMIT leaving();
    const bool wasInFront = current_ == index;
    alsoChosen_.erase(parts_[index]->id);
    if (current_ && index < *current_) --*current_;
    parts_.erase(parts_.begin() + static_cast<std::ptrdiff_t>(index));
    if (parts_.empty())
        current_.reset();
    else if (current_)
        current_ = std::min(*current_, parts_.size() - 1);
    if (wasInFront) Q_EMIT moved();
    Q_EMIT changed();
    mesh::returnSmallPieces();
}

void Parts::choose(std::size_t index) {
    if (index >= parts_.size()) return;
    Q_EMIT leaving();
    current_ = index;
    alsoChosen_.clear();
    arrived();
}

void Parts::chooseId(std::uint64_t id) {
    for (std::size_t i = 0; i < parts_.size(); ++i)
        if (parts_[i]->id == id) return choose(i);
}

void Parts::setUnit(const QString& name) {
    if (!current()) return;
    current()->importedUnit = {name, false};
    unitBefore_ = current()->unit().name;
    Q_EMIT unitChanged();
    Q_EMIT changed();
}

void Parts::addStop(project::Stop stop, Look look) {
    if (!current()) return;
    current()->track.add(std::move(stop));
    current()->shown = std::move(look);
    arrived();
}

Part* Parts::addSteps(std::uint64_t id, project::StopId from, std::vector<steps::DoneStep> steps) {
    Part* part = withId(id);
    if (!part) return nullptr;
    if (!steps.empty()) part->track.goTo(from);
    for (steps::DoneStep& done : steps) part->track.add(project::stopOf(std::move(done)));
    return part;
}

void Parts::showSteps(const Part& part) {
    if (&part == current())
        goTo(part.track.current());
    else
        touched();
}

void Parts::undo() {
    if (!current() || !current()->track.canUndo()) return;
    current()->track.undo();
    arrived();
}

void Parts::redo() {
    if (!current() || !current()->track.canRedo()) return;
    current()->track.redo();
    arrived();
}

void Parts::goTo(project::StopId stop) {
    if (current() && current()->track.goTo(stop)) arrived();
}

void Parts::arrived() {
    current()->track.lighten();
    Q_EMIT moved();
    // A step may have brought the part into another unit, which limits are judged in.
    if (const QString unit = current()->unit().name; unit != std::exchange(unitBefore_, unit)) Q_EMIT unitChanged();
    Q_EMIT changed();
}

}  // namespace zither::session
