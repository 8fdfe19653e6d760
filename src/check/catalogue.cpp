// The list of classes of defects. A new one: its own file with its descriptor, and one line here.
#include "check/catalogue.h"

#include <algorithm>

namespace zither::check {

std::span<const DefectClass> catalogue() {
    static constexpr DefectClass all[] = {
        openEdges,
        nonmanifoldEdges,
        nonmanifoldVertices,
        misoriented,
        duplicates,
        degenerate,
        selfIntersections,
        inwardShells,
        buriedShells,
        shells,
        slivers,
        needles,
        folds,
        hairGaps,
        voids,
        thinWalls,
        overhangs,
        undercuts,
        knifeEdges,
        outsideBuild,
        narrowWalls,
        smallComponents,
        smallHoles,
        smallTunnels,
    };
    return all;
}

std::size_t indexOf(DefectClass defect) {
    const auto all = catalogue();
    return static_cast<std::size_t>(std::find(all.begin(), all.end(), defect) - all.begin());
}

}  // namespace zither::check
