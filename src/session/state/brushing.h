// A stroke of the brush while it is drawn: what it touches is shown at once, and kept as one step when it ends.
#pragma once

#include <QObject>
#include <QTimer>
#include <memory>
#include <optional>
#include <vector>

#include "session/reading/desk_model.h"
#include "session/reading/sight.h"
#include "shape/brush.h"

namespace zither::session {

class Brushing : public QObject {
    Q_OBJECT
public:
    Brushing(Workshop& workshop, DeskModel& desk, QObject* parent = nullptr);

    // The brush is on the desk, and no work for it is under way.
    [[nodiscard]] bool ready();
    // Of what a dab touches, in the part's unit.
    [[nodiscard]] double width();
    [[nodiscard]] bool drawing() const { return stroke_ != nullptr; }
    // A stroke begins, goes on, ends. Places are on the part as it is kept.
    void begin(const mesh::Point& place);
    void go(const mesh::Point& place);
    void end();
    // What is drawn in place of the triangles that were touched; nullptr: nothing was.
    [[nodiscard]] std::shared_ptr<const Moved> moved() const { return moved_; }
    // Where the stroke makes the surface meet itself.
    [[nodiscard]] const std::vector<mesh::Point>& crossings() const { return crossings_; }

Q_SIGNALS:
    void changed();

private:
    void dab(const mesh::Point& place);
    void showMoved();
    void forget();

    Workshop& workshop_;
    DeskModel& desk_;
    check::SurveyedPtr part_;  // that the stroke is drawn on
    std::unique_ptr<shape::Stroke> stroke_;
    std::vector<mesh::Point> path_;
    std::shared_ptr<const Moved> moved_;
    std::vector<mesh::Point> crossings_;
    std::shared_ptr<std::vector<std::uint8_t>> hidden_;
    double crossingMs_ = 0;  // that looking for them took last
};

}  // namespace zither::session
