// The result goes behind the stop that it began from, wherever the user is by then.
#include "session/work/repairing.h"

#include "project/job.h"

namespace zither::session {

using mesh::Outcome;

Repairing::Repairing(const Bench& bench, const Judging& judging, const Exporting& exporting)
    : parts_(bench.parts), judging_(judging), exporting_(exporting), jobs_(bench.jobs), notice_(bench.notice) {}

void Repairing::start() {
    repair(parts_.chosenIds(), {});
}

void Repairing::start(std::uint64_t id, const steps::RepairAsked& asked) {
    repair({id}, asked);
}

void Repairing::repair(std::vector<std::uint64_t> ids, const steps::RepairAsked& asked) {
    const Part* part = parts_.takeNext(ids);
    if (!part) return;
    jobs_.start<steps::RepairResult>(
        QString("Repairing %1").arg(part->name), Jobs::Lane::Work,
        [subject = judging_.subjectOf(*part), format = &exporting_.format(), asked](mesh::Progress& progress) {
            return project::repair(subject, asked, format, progress);
        },
        [this, id = part->id, from = part->track.current(), ids, asked](Outcome<steps::RepairResult> result) {
            if (!result) {
                notice_.failed(result.error());
                // Cancelled means all of them.
                if (!result.error().cancelled()) repair(ids, asked);
                return;
            }
            const std::size_t count = result->steps.size();
            Part* repaired = parts_.addSteps(id, from, std::move(result->steps));
            if (!repaired) return repair(ids, asked);
            const bool saysWhy = !result->left.empty();
            repaired->left[repaired->track.current()] = std::move(result->left);
            repaired->tried[repaired->track.current()] = std::move(result->tried);
            if (count == 0)
                notice_.say(
                    saysWhy
                        ? QString("Repair changed nothing in %1; Left to do on the desk says why.").arg(repaired->name)
                        : QString("Repair found nothing in %1 to mend.").arg(repaired->name));
            else
                notice_.say(count == 1
                                ? QString("Repair of %1 took one step; it is a stop on the track.").arg(repaired->name)
                                : QString("Repair of %1 took %2 steps; each is a stop on the track.")
                                      .arg(repaired->name)
                                      .arg(count));
            parts_.showSteps(*repaired);
            repair(ids, asked);
        });
}

}  // namespace zither::session
