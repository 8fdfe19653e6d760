// Handles come from the descriptor of a step; a drag goes back to it as values.
#include "session/state/drag_handles.h"

#include "check/catalogue.h"
#include "session/lens/lens.h"

namespace zither::session {

using steps::Handle;

DragHandles::DragHandles(Workshop& workshop, DeskModel& desk, QObject* parent)
    : QObject(parent), workshop_(workshop), desk_(desk) {
    connect(&desk_, &DeskModel::changed, this, &DragHandles::refresh);
    connect(&desk_, &DeskModel::valuesChanged, this, &DragHandles::refresh);
    connect(&desk_, &DeskModel::figuresChanged, this, &DragHandles::refresh);
    connect(&workshop_.choice(), &Choice::changed, this, &DragHandles::refresh);
    connect(&workshop_.coating(), &Coating::changed, this, &DragHandles::refresh);
    connect(&workshop_.parts(), &Parts::leaving, this, [this] { held_.reset(); });
    connect(&workshop_.looks(), &Looks::changed, this, [this] {
        if (!workshop_.looks().kept()) held_.reset();
        refresh();
    });
}

void DragHandles::refresh() {
    if (held_) return;
    handles_ = now();
    Q_EMIT changed();
}

const steps::Record* DragHandles::tried() const {
    const steps::Step* step = desk_.edited();
    const auto& preview = workshop_.trial().current();
    return step && preview && preview->call.step == step ? &preview->record : nullptr;
}

std::vector<Handle> DragHandles::now() const {
    if (!workshop_.looks().kept()) return {};
    if (const steps::Step* step = desk_.edited(); step && step->handles)
        return step->handles(*workshop_.parts().current()->track.part(), desk_.valuesFor(*step), tried());
    return desk_.edited() ? std::vector<Handle>() : buildDirection();
}

std::vector<Handle> DragHandles::buildDirection() const {
    const auto chosen = workshop_.choice().chosenClass();
    if (&workshop_.coating().lens() != &slopeLens && chosen != check::DefectClass(check::overhangs)) return {};
    const mesh::Box& box = workshop_.looks().kept()->display->box;
    const auto up = workshop_.judging().brief().up;
    constexpr double reach = 0.6;  // of the diagonal: beyond the part
    return {{.kind = Handle::Arrow,
             .name = "built upward",
             .at = box.centre(),
             .direction = mesh::Point(up[0], up[1], up[2]).normalized(),
             .length = reach * box.diagonal(),
             .turns = true}};
}

void DragHandles::take(std::size_t handle) {
    step_ = desk_.edited();
    if (step_ && !step_->handles) step_ = nullptr;
    from_ = step_ ? desk_.valuesFor(*step_) : steps::Arguments();
    fromTried_ = tried() ? std::optional(*tried()) : std::nullopt;
    held_ = handle;
    Q_EMIT changed();
}

void DragHandles::bring(const Handle& to) {
    if (!held_) return;
    handles_[*held_] = to;
    if (step_)
        desk_.setValues(*step_, step_->dragged(*workshop_.parts().current()->track.part(), from_,
                                               fromTried_ ? &*fromTried_ : nullptr, *held_, to));
    Q_EMIT changed();
}

void DragHandles::letGo() {
    if (!held_) return;
    const mesh::Point up = handles_[*held_].direction;
    held_.reset();
    if (!step_) workshop_.judging().setBuildDirection(up);
    refresh();
}

const Handle* DragHandles::heldPlane() const {
    return held_ && handles_[*held_].kind == Handle::Plane ? &handles_[*held_] : nullptr;
}

}  // namespace zither::session
