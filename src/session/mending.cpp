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
        [surface = part->track.part(), brief = judging_.brief()](mesh::Progress& progress) {
            return steps::repairAutomatically(surface, {.brief = brief}, progress);
        },
        [this, id = part->id, from = part->track.current()](Outcome<steps::RepairResult> result) {
            if (!result) return notice_.failed(result.error());
            Part* repaired = parts_.withId(id);
            if (!repaired) return;
            // The user may have gone to another stop meanwhile; the steps belong behind the one they began from.
            if (!result->steps.empty()) repaired->track.goTo(from);
            for (steps::DoneStep& done : result->steps) repaired->track.add(project::stopOf(std::move(done)));
            const project::StopId to = repaired->track.current();
            repaired->left[to] = result->left;
            if (result->steps.empty())
                notice_.say("Repair found nothing that its steps can mend.");
            else
                notice_.say(QString("Repair took %1 steps; each is a stop on the track.").arg(result->steps.size()));
            if (repaired == parts_.current())
                parts_.goTo(to);
            else
                parts_.touched();
        });
}

}  // namespace zither::session
