// Indices into the survey of the current stop; they are forgotten when another surface is in front.
#include "session/state/choice.h"

#include <algorithm>

#include "check/catalogue.h"

namespace zither::session {

using check::DefectClass;

Choice::Choice(const Bench& bench, const Judging& judging) : looks_(bench.looks), judging_(judging) {}

void Choice::chooseClass(std::optional<DefectClass> defect) {
    if (chosenClass_ != defect) Q_EMIT classLeft();
    chosenClass_ = defect;
    chosenFinding_.reset();
    Q_EMIT changed();
}

void Choice::chooseFinding(std::size_t index) {
    const Look* look = looks_.kept();
    if (!look || index >= look->survey->findings.list.size()) return;
    const DefectClass defect = look->survey->findings.list[index].defect;
    if (chosenClass_ != defect) chooseClass(defect);
    chosenFinding_ = index;
    Q_EMIT changed();
    Q_EMIT placeChosen();
}

void Choice::chooseShell(std::size_t shell) {
    const Look* look = looks_.kept();
    if (!look) return;
    // The check of shells gives one finding a shell, in their order.
    std::size_t number = 0;
    const auto& list = look->survey->findings.list;
    for (std::size_t i = 0; i < list.size(); ++i)
        if (list[i].defect == check::shells && number++ == shell) return chooseFinding(i);
}

std::vector<std::size_t> Choice::places(DefectClass defect) const {
    std::vector<std::size_t> result;
    if (!looks_.kept()) return result;
    const auto& list = looks_.kept()->survey->findings.list;
    const int a = axis();
    for (std::size_t i = 0; i < list.size(); ++i)
        if (list[i].defect == defect && (!slab_ || slab_->holds(list[i].position[a]))) result.push_back(i);
    std::stable_sort(result.begin(), result.end(),
                     [&](std::size_t x, std::size_t y) { return list[x].position[a] < list[y].position[a]; });
    return result;
}

void Choice::step(int direction) {
    const std::vector<DefectClass> classes = chosenClass_ ? std::vector{*chosenClass_} : judging_.failingClasses();
    for (const DefectClass defect : classes) {
        const std::vector<std::size_t> all = places(defect);
        if (all.empty()) continue;
        const auto at = chosenFinding_ ? std::find(all.begin(), all.end(), *chosenFinding_) : all.end();
        const auto count = static_cast<std::ptrdiff_t>(all.size());
        const std::ptrdiff_t index =
            at == all.end() ? (direction > 0 ? 0 : count - 1) : (at - all.begin() + direction + count) % count;
        return chooseFinding(all[static_cast<std::size_t>(index)]);
    }
}

int Choice::axis() const {
    if (axis_ || !looks_.kept()) return axis_.value_or(0);
    int longest = 0;
    looks_.kept()->survey->mass.size.extent().maxCoeff(&longest);
    return longest;
}

void Choice::setAxis(std::optional<int> axis) {
    axis_ = axis;
    slab_.reset();
    Q_EMIT changed();
}

void Choice::setSlab(std::optional<Slab> slab) {
    slab_ = slab;
    Q_EMIT changed();
}

void Choice::forgetPlace() {
    chosenFinding_.reset();
}

}  // namespace zither::session
