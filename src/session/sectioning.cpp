// The newest position wins; the cut before it is cancelled.
#include "session/sectioning.h"

#include <algorithm>

namespace zither::session {

using mesh::Outcome;

Sectioning::Sectioning(const Looks& looks, const Choice& choice, Jobs& jobs, QObject* parent)
    : QObject(parent), looks_(looks), choice_(choice), jobs_(jobs) {}

void Sectioning::set(std::optional<double> position) {
    position_ = position;
    if (!position) section_ = nullptr;
    Q_EMIT changed();
    refresh();
}

void Sectioning::move(double by) {
    if (!position_ || !looks_.shown()) return;
    const mesh::Box& box = looks_.shown()->display->box;
    const int axis = choice_.axis();
    set(std::clamp(*position_ + by, box.min[axis], box.max[axis]));
}

void Sectioning::refresh() {
    if (!position_ || !looks_.shown()) return;
    using Cut = std::shared_ptr<const measure::Section>;
    jobs_.start<Cut>(
        "Section", Jobs::Lane::Section,
        [part = looks_.shown()->part, axis = choice_.axis(),
         at = *position_](mesh::Progress& progress) -> Outcome<Cut> {
            auto section = measure::sectionOf(part->tree(), axis, at, progress);
            if (!section) return tl::unexpected(section.error());
            return std::make_shared<const measure::Section>(std::move(*section));
        },
        [this](Outcome<Cut> section) {
            if (!section || !position_) return;
            section_ = std::move(*section);
            Q_EMIT changed();
        });
}

}  // namespace zither::session
