// The result goes behind the stop that it began from, wherever the user is by then.
#include "session/mending.h"

#include "steps/automatic_repair.h"

namespace zither::session {

using mesh::Outcome;

Mending::Mending(Parts& parts, const Judging& judging, Jobs& jobs, Notice& notice, QObject* parent)
    : QObject(parent), parts_(parts), judging_(judging), jobs_(jobs), notice_(notice) {}

void Mending::start() {
    const Part* part = parts_.current();
    if (!part) return;
    jobs_.start<steps::RepairResult>(
        QString("Repairing %1").arg(part->name), Jobs::Lane::Work,
        [surface = part->track.part(), brief = judging_.brief(),
         seen = part->track.part() == part->track.imported() ? part->seen : nullptr](mesh::Progress& progress) {
            return steps::repairAutomatically(surface, {.brief = brief, .seen = seen}, progress);
        },
        [this, id = part->id, from = part->track.current()](Outcome<steps::RepairResult> result) {
            if (!result) return notice_.failed(result.error());
            const std::size_t count = result->steps.size();
            Part* repaired = parts_.addSteps(id, from, std::move(result->steps));
            if (!repaired) return;
            repaired->left[repaired->track.current()] = std::move(result->left);
            if (count == 0)
                notice_.say("Repair found nothing that its steps can mend.");
            else
                notice_.say(count == 1 ? QString("Repair took one step; it is a stop on the track.")
                                       : QString("Repair took %1 steps; each is a stop on the track.").arg(count));
            parts_.showSteps(*repaired);
        });
}

}  // namespace zither::session
