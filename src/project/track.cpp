// A tree of stops, and for each the child that redo goes to.
#include "project/track.h"

#include <algorithm>

namespace zither::project {

Stop stopOf(steps::DoneStep done) {
    Stop stop;
    stop.label = std::string(done.call.step->name);
    stop.call = std::move(done.call);
    stop.used = std::move(done.used);
    stop.record = std::move(done.record);
    stop.why = std::move(done.why);
    stop.part = std::move(done.part);
    stop.seconds = done.seconds;
    return stop;
}

Track::Track(check::SurveyedPtr imported) {
    Stop first;
    first.label = "import";
    first.part = std::move(imported);
    stops_.push_back(std::move(first));
    redo_.emplace_back();
}

Track::Track(std::vector<Stop> stops, StopId current) : stops_(std::move(stops)), redo_(stops_.size()) {
    for (Stop& stop : stops_) stop.children.clear();
    for (StopId id = 1; id < stops_.size(); ++id) {
        stops_[stops_[id].parent].children.push_back(id);
        redo_[stops_[id].parent] = id;
    }
    goTo(current);
}

StopId Track::add(Stop stop) {
    const auto id = static_cast<StopId>(stops_.size());
    stop.parent = current_;
    stop.children.clear();
    stops_[current_].children.push_back(id);
    redo_[current_] = id;
    stops_.push_back(std::move(stop));
    redo_.emplace_back();
    current_ = id;
    return id;
}

void Track::lighten() {
    for (StopId id = 0; id < stops_.size(); ++id)
        if (id != current_) stops_[id].part = stops_[id].part->light();
}

bool Track::goTo(StopId id) {
    if (id >= stops_.size()) return false;
    for (StopId s = id; s != 0; s = stops_[s].parent) redo_[stops_[s].parent] = s;
    current_ = id;
    return true;
}

void Track::undo() {
    if (!canUndo()) return;
    redo_[stops_[current_].parent] = current_;
    current_ = stops_[current_].parent;
}

void Track::redo() {
    if (canRedo()) current_ = *redo_[current_];
}

std::vector<StopId> Track::pathTo(StopId id) const {
    std::vector<StopId> path{id};
    while (path.back() != 0) path.push_back(stops_[path.back()].parent);
    std::reverse(path.begin(), path.end());
    return path;
}

std::vector<steps::StepCall> Track::recipeTo(StopId id) const {
    std::vector<steps::StepCall> calls;
    for (StopId s : pathTo(id))
        if (stops_[s].call) calls.push_back(*stops_[s].call);
    return calls;
}

}  // namespace zither::project
