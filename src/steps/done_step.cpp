// What was done to a part, step by step.
#include "steps/done_step.h"

#include "steps/lost.h"

namespace zither::steps {

measure::Told toldBy(const std::vector<DoneStep>& done) {
    Origin origin;
    for (const DoneStep& step : done) origin.follow(step.record);
    return std::move(origin.told);
}

}  // namespace zither::steps
