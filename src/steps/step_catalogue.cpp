// The list of steps. A new step: its own file with its descriptor, and one line here.
#include "steps/all_steps.h"

namespace zither::steps {

const Family familyClose = {"close", "Close"};
const Family familyJoin = {"join", "Join"};
const Family familyCutAway = {"cut-away", "Cut away"};
const Family familyTurn = {"turn", "Turn and place"};
const Family familyShape = {"shape", "Shape"};
const Family familyTriangles = {"triangles", "Triangles"};
const Family familyByHand = {"by-hand", "By hand"};

std::span<const std::reference_wrapper<const Family>> families() {
    static const std::reference_wrapper<const Family> all[] = {
        familyClose, familyJoin, familyCutAway, familyTurn, familyShape, familyTriangles, familyByHand,
    };
    return all;
}

double shareOfPart(const Surveyed& s, double share) {
    return s.mesh().triangles.empty() ? 0.0 : share * mesh::boxOf(s.mesh()).diagonal();
}

std::vector<std::uint8_t> besidePick(const Mesh& m, const Pick& pick) {
    if (pick.everything()) return {};
    std::vector<std::uint8_t> beside = pick.mask(m);
    for (std::uint8_t& flag : beside) flag = flag == 0;
    return beside;
}

std::span<const std::reference_wrapper<const Step>> catalogue() {
    static const std::reference_wrapper<const Step> all[] = {
        cleanStep(),   stitchStep(),        resolveStep(),      orientStep(),   absorbStep(),       dropShellsStep(),
        fillStep(),    bridgeStep(),        closeHandlesStep(), encloseStep(),  thickenStep(),      hollowStep(),
        offsetStep(),  trimStep(),          flattenStep(),      placeStep(),    scaleStep(),        mirrorStep(),
        alignStep(),   joinStep(),          fuseStep(),         subtractStep(), intersectStep(),    removeStep(),
        mendStep(),    flipStep(),          moveVertexStep(),   brushStep(),    collapseEdgeStep(), swapEdgeStep(),
        putBackStep(), wrapStep(),          decimateStep(),     remeshStep(),   refineStep(),       smoothStep(),
        softenStep(),  refineSliversStep(), easeStep(),         settleStep(),
    };
    return all;
}

}  // namespace zither::steps
