// What is chosen of the part in front: a class of defects, one of its places, the axis of the strings, a slab across
// it.
#pragma once

#include <QObject>
#include <optional>
#include <vector>

#include "session/state/bench.h"
#include "session/state/looks.h"

namespace zither::session {

// A slab of the part across the strings' axis, in the part's unit.
struct Slab {
    double low = 0;
    double high = 0;

    [[nodiscard]] bool holds(double position) const { return position >= low && position <= high; }
};

class Choice : public QObject {
    Q_OBJECT
public:
    Choice(const Bench& bench, const Judging& judging);

    [[nodiscard]] std::optional<check::DefectClass> chosenClass() const { return chosenClass_; }
    void chooseClass(std::optional<check::DefectClass> defect);
    // Index in the survey of the current stop.
    [[nodiscard]] std::optional<std::size_t> chosenFinding() const { return chosenFinding_; }
    void chooseFinding(std::size_t index);
    // Nothing is chosen, but the view should show a place.
    void lookAt(const mesh::Point& position, double size) { Q_EMIT placeShown(position, size); }
    // The finding that is a shell of the survey, by the shell's number.
    void chooseShell(std::size_t shell);
    // To the next or previous place of the chosen class (of any failing class where none is chosen), along the axis.
    void step(int direction);
    [[nodiscard]] int axis() const;         // 0, 1, 2: of the strings
    void setAxis(std::optional<int> axis);  // none: the longest
    [[nodiscard]] std::optional<Slab> slab() const { return slab_; }
    void setSlab(std::optional<Slab> slab);
    // Findings of a class in the order of the axis, within the slab; of the current stop.
    [[nodiscard]] std::vector<std::size_t> places(check::DefectClass defect) const;

    // The surface is another one: its places are too.
    void forgetPlace();
    void forgetSlab() { slab_.reset(); }

Q_SIGNALS:
    void classLeft();                                           // another class is about to be chosen
    void changed();                                             // class, place, slab, axis
    void placeChosen();                                         // the view should fly there
    void placeShown(const mesh::Point& position, double size);  // and there

private:
    const Looks& looks_;
    const Judging& judging_;
    std::optional<check::DefectClass> chosenClass_;
    std::optional<std::size_t> chosenFinding_;
    std::optional<int> axis_;
    std::optional<Slab> slab_;
};

}  // namespace zither::session
