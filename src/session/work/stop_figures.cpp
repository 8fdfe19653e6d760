// The stops on the way to the one in front, first to last.
#include "session/work/stop_figures.h"

#include <algorithm>

#include "project/comparing.h"

namespace zither::session {

using mesh::Outcome;

StopFigures::StopFigures(const Bench& bench) : parts_(bench.parts), jobs_(bench.jobs) {}

void StopFigures::setWanted(bool wanted) {
    wanted_ = wanted;
    if (!wanted) {
        jobs_.cancel(Jobs::Lane::Stops);
        asking_.reset();
    }
    refresh();
}

std::optional<StopFigures::Figures> StopFigures::of(project::StopId stop) const {
    const Part* part = parts_.current();
    const auto it = part ? known_.find({part->id, stop}) : known_.end();
    return it == known_.end() ? std::nullopt : std::optional(it->second);
}

void StopFigures::refresh() {
    const Part* part = parts_.current();
    if (!wanted_ || !part) return;
    for (const project::StopId stop : part->track.pathTo(part->track.current())) {
        const std::pair key(part->id, stop);
        const Origin origin = part->originOf(stop);
        if (known_.contains(key) || !origin.seen) continue;
        // It is being compared already.
        if (asking_ == key) return;
        asking_ = key;
        jobs_.start<Figures>(
            "Comparing stops with the import", Jobs::Lane::Stops,
            [origin, surface = part->track.stop(stop).part](mesh::Progress& progress) -> Outcome<Figures> {
                const auto import = origin.seen->import();
                const auto compared = project::compare(*import, *surface, {&origin.told, origin.seen.get()}, progress);
                if (!compared) return mesh::errorOf(compared);
                const measure::Comparison& distance = compared->distance;
                return Figures{std::max(distance.aToB.max, distance.bToA.max), compared->loss.lost};
            },
            [this, key](Outcome<Figures> figures) {
                if (asking_ == key) asking_.reset();
                if (!figures) return;
                known_[key] = *figures;
                Q_EMIT changed();
                refresh();
            });
        return;
    }
}

}  // namespace zither::session
