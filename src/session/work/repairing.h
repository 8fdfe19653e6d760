// The automatic repair of the chosen parts, one after the other: each of its steps becomes a stop on the track.
#pragma once

#include <QObject>
#include <vector>

#include "session/state/bench.h"
#include "session/state/looks.h"
#include "session/work/exporting.h"

namespace zither::session {

class Repairing : public QObject {
    Q_OBJECT
public:
    // `exporting`: which file the parts are for.
    Repairing(const Bench& bench, const Judging& judging, const Exporting& exporting);

    void start();
    // One part, with what is said beforehand.
    void start(std::uint64_t id, const steps::RepairAsked& asked);

private:
    // The first of them, then the rest; those that were closed meanwhile are left out.
    void repair(std::vector<std::uint64_t> ids, const steps::RepairAsked& asked);

    Parts& parts_;
    const Judging& judging_;
    const Exporting& exporting_;
    Jobs& jobs_;
    Notice& notice_;
};

}  // namespace zither::session
