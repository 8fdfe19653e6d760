// How far each stop of a track lies from the import, and what of it was lost: compared one after the other beside the
// window, while somebody looks.
#pragma once

#include <QObject>
#include <map>
#include <optional>
#include <utility>

#include "session/state/bench.h"
#include "session/state/jobs.h"
#include "session/state/parts.h"

namespace zither::session {

class StopFigures : public QObject {
    Q_OBJECT
public:
    explicit StopFigures(const Bench& bench);

    struct Figures {
        double deviation = 0;  // the larger of both directions, as a bound
        double lost = 0;       // share of what can be seen of the import
    };
    // Compared only while somebody wants to know.
    void setWanted(bool wanted);
    void refresh();
    // Of a stop of the part in front; nothing for the import, and until it is known.
    [[nodiscard]] std::optional<Figures> of(project::StopId stop) const;

Q_SIGNALS:
    void changed();

private:
    const Parts& parts_;
    Jobs& jobs_;
    bool wanted_ = false;
    std::map<std::pair<std::uint64_t, project::StopId>, Figures> known_;  // by part and stop
    std::optional<std::pair<std::uint64_t, project::StopId>> asking_;
};

}  // namespace zither::session
