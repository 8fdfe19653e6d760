// The list of lenses. A new one: its own file with its descriptor, and one line here.
#include "session/lens/lens.h"

namespace zither::session {

std::span<const std::reference_wrapper<const Lens>> lenses() {
    static const std::reference_wrapper<const Lens> all[] = {
        plainLens,     facingLens,  shellsLens, nestingLens, changeLens,
        deviationLens, qualityLens, wallLens,   slopeLens,   addedLens,
    };
    return all;
}

}  // namespace zither::session
