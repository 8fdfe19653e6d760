// What can be dragged in the view: the handles of the step on the desk, or the direction in which the part is built.
#pragma once

#include <QObject>
#include <optional>
#include <vector>

#include "session/reading/desk_model.h"

namespace zither::session {

class DragHandles : public QObject {
    Q_OBJECT
public:
    DragHandles(Workshop& workshop, DeskModel& desk, QObject* parent = nullptr);

    // As they stand now.
    [[nodiscard]] const std::vector<steps::Handle>& handles() const { return handles_; }
    // Until it is let go, where `bring` puts this handle is told to what it belongs to.
    void take(std::size_t handle);
    [[nodiscard]] std::optional<std::size_t> held() const { return held_; }
    void bring(const steps::Handle& to);
    void letGo();
    // While a plane is held: the part as it is kept is shown, and what would go as a ghost.
    [[nodiscard]] const steps::Handle* heldPlane() const;

Q_SIGNALS:
    void changed();

private:
    void refresh();
    [[nodiscard]] std::vector<steps::Handle> now() const;
    [[nodiscard]] std::vector<steps::Handle> buildDirection() const;
    // What is tried out with the values on the desk.
    [[nodiscard]] const steps::Record* tried() const;

    Workshop& workshop_;
    DeskModel& desk_;
    std::vector<steps::Handle> handles_;
    std::optional<std::size_t> held_;
    // What stood when it was taken: all that happens until it is let go is told from there.
    const steps::Step* step_ = nullptr;  // none: the build direction
    steps::Arguments from_;
    std::optional<steps::Record> fromTried_;
};

}  // namespace zither::session
