#include "session/lens/lens.h"

namespace zither::session {

std::span<const std::reference_wrapper<const Lens>> lenses() {
    static const std::reference_wrapper<const Lens> all[] = {
        plainLens, facingLens, shellsLens, nestingLens, changeLens, deviationLens, qualityLens,
    };
    return all;
}

}  // namespace zither::session
