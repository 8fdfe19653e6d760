// The list of steps. A new step: its own file with its descriptor, and one line here.
#include "steps/steps_list.h"

namespace zither::steps {

const std::vector<Step>& catalogue() {
    static const std::vector<Step> all = {
        cleanStep(), weldStep(),     orientStep(),    dropShellsStep(), fillStep(),
        fuseStep(),  subtractStep(), intersectStep(), decimateStep(),   settleStep(),
    };
    return all;
}

}  // namespace zither::steps
