// Before and after: another stop of the part - the import as a rule - beside what is in front, parted by a line that
// can be dragged, or each in a half of the view; or all of it, for as long as it is held.
#pragma once

#include <QObject>
#include <memory>
#include <optional>

#include "session/state/bench.h"
#include "session/state/jobs.h"
#include "session/state/parts.h"

namespace zither::session {

class BeforeAfter : public QObject {
    Q_OBJECT
public:
    explicit BeforeAfter(const Bench& bench);

    // The other stop; none: nothing is compared.
    void setOther(std::optional<project::StopId> stop);
    [[nodiscard]] std::optional<project::StopId> other() const { return other_; }
    // Where the line stands, as a share of the view's width; the other stop is seen to the left of it.
    void setDivider(double share);
    [[nodiscard]] double divider() const { return divider_; }
    // Each is seen whole, looked at from the same place.
    void setSideBySide(bool sideBySide);
    [[nodiscard]] bool sideBySide() const { return sideBySide_ && other_ && !held_; }
    // The import in place of what is in front, until it is let go.
    void hold(bool held);
    [[nodiscard]] bool held() const { return held_; }

    // What is to be drawn, up to which share of the width; nullptr: nothing, or not yet.
    [[nodiscard]] std::shared_ptr<const Display> display() const;
    [[nodiscard]] double drawnTo() const { return held_ ? 1 : divider_; }
    [[nodiscard]] QString nameOfOther() const;
    // Another part, or another stop of it, is in front.
    void refresh();

Q_SIGNALS:
    void changed();

private:
    // Of the import or of the other stop, as steps since have moved it.
    [[nodiscard]] check::SurveyedPtr wanted() const;

    const Parts& parts_;
    Jobs& jobs_;
    std::uint64_t ofPart_ = 0;
    std::optional<project::StopId> other_;
    double divider_ = 0.5;
    bool sideBySide_ = false;
    bool held_ = false;
    std::shared_ptr<const Display> display_;
};

}  // namespace zither::session
