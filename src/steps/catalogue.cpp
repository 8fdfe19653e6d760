// The list of steps. A new step: its own file with its descriptor, and one line here.
#include "steps/steps_list.h"

namespace zither::steps {

std::span<const std::reference_wrapper<const Step>> catalogue() {
    static const std::reference_wrapper<const Step> all[] = {
        cleanStep(),         stitchStep(),       resolveStep(),  orientStep(),       dropShellsStep(), fillStep(),
        bridgeStep(),        closeHandlesStep(), encloseStep(),  thickenStep(),      hollowStep(),     offsetStep(),
        trimStep(),          flattenStep(),      placeStep(),    scaleStep(),        mirrorStep(),     alignStep(),
        joinStep(),          fuseStep(),         subtractStep(), intersectStep(),    removeStep(),     mendStep(),
        flipStep(),          moveVertexStep(),   brushStep(),    collapseEdgeStep(), swapEdgeStep(),   putBackStep(),
        wrapStep(),          decimateStep(),     remeshStep(),   refineStep(),       smoothStep(),     softenStep(),
        refineSliversStep(), settleStep(),
    };
    return all;
}

}  // namespace zither::steps
