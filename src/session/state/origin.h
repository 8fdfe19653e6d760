// What a surface lost since its import, for the window.
#pragma once

#include <memory>

#include "steps/lost.h"

namespace zither::session {

using steps::Origin;

// Lost of the import and added to it; nullptr for the import. Error: only cancelled.
inline mesh::Outcome<std::shared_ptr<const measure::Loss>> lossSince(const Origin& origin, const check::Surveyed& part,
                                                                     mesh::Progress& progress) {
    if (!origin.seen) return nullptr;
    auto loss = origin.seen->lossTo(part, origin.told, progress);
    if (!loss) return mesh::errorOf(loss);
    return std::make_shared<const measure::Loss>(std::move(*loss));
}

}  // namespace zither::session
