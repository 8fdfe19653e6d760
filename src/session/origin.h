// What a surface came from: the import of its part, and what steps have listed on the way to it.
#pragma once

#include <memory>

#include "steps/lost.h"

namespace zither::session {

struct Origin {
    std::shared_ptr<steps::SeenOfImport> seen;  // nullptr: the surface is the import itself
    measure::Told told;
    check::SurveyedPtr import = {};  // where changed places are asked for
};

// Lost of the import and added to it; nullptr for the import. Error: only cancelled.
inline mesh::Outcome<std::shared_ptr<const measure::Loss>> lossSince(const Origin& origin, const check::Surveyed& part,
                                                                     mesh::Progress& progress) {
    if (!origin.seen) return nullptr;
    auto loss = origin.seen->lossTo(part, origin.told, progress);
    if (!loss) return tl::unexpected(loss.error());
    return std::make_shared<const measure::Loss>(std::move(*loss));
}

}  // namespace zither::session
