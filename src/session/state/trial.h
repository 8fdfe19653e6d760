// A step tried out: the part shows the result, and nothing is kept until the user says so.
#pragma once

#include <QObject>
#include <optional>

#include "session/state/bench.h"
#include "session/state/picking.h"

namespace zither::session {

// A step tried out but not kept.
struct Preview {
    steps::StepCall call;
    steps::Arguments used;
    steps::Record record;
    Look look;
    double seconds = 0;  // that the step took
    // Either surface lies within this of the other (proven); none: not yet, or it would take too long.
    std::optional<double> deviation = {};
};

class Trial : public QObject {
    Q_OBJECT
public:
    Trial(const Bench& bench, const Judging& judging, const Picking& picking);

    // With the pick where the call has none of its own and the step takes one. A newer trial replaces an older one.
    void start(const steps::StepCall& call);
    [[nodiscard]] const std::optional<Preview>& current() const { return preview_; }
    [[nodiscard]] bool running() const { return running_; }
    // The deviation of what is tried out is being worked out.
    [[nodiscard]] bool measuring() const { return measuring_; }
    void keep();
    void drop();

Q_SIGNALS:
    void changed();
    void measured();  // the deviation of what is tried out

private:
    void measureDeviation();
    void stopMeasuring();

    Parts& parts_;
    Looks& looks_;
    const Judging& judging_;
    const Picking& picking_;
    Jobs& jobs_;
    Notice& notice_;
    std::optional<Preview> preview_;
    bool running_ = false;
    bool measuring_ = false;
};

}  // namespace zither::session
