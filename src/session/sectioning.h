// The section: a plane across the strings' axis; the cut is computed beside the window.
#pragma once

#include <QObject>
#include <memory>
#include <optional>

#include "measure/section.h"
#include "session/choice.h"

namespace zither::session {

class Sectioning : public QObject {
    Q_OBJECT
public:
    Sectioning(const Looks& looks, const Choice& choice, Jobs& jobs, QObject* parent);

    // In the part's unit; none: the part is whole.
    void set(std::optional<double> position);
    void move(double by);  // within the part; nothing where there is no section
    [[nodiscard]] std::optional<double> position() const { return position_; }
    // The cut that was computed last; nullptr until the first is there.
    [[nodiscard]] std::shared_ptr<const measure::Section> section() const { return section_; }
    void refresh();

Q_SIGNALS:
    void changed();  // moved, or computed

private:
    const Looks& looks_;
    const Choice& choice_;
    Jobs& jobs_;
    std::optional<double> position_;
    std::shared_ptr<const measure::Section> section_;
};

}  // namespace zither::session
