// One sentence for each of the ways that two units can meet.
#include "steps/units_met.h"

#include <fmt/format.h>

#include "io/units.h"

namespace zither::steps {

UnitsMet unitsMet(const WithUnit& first, const WithUnit& second) {
    if (first.unit == second.unit) return {};
    if (first.unit.empty())
        return {1, fmt::format("{} carries no unit: its numbers are taken as {}, the unit of {}.", first.name,
                               second.unit, second.name)};
    if (second.unit.empty())
        return {1, fmt::format("{} carries no unit: its numbers are taken as {}, the unit of {}.", second.name,
                               first.unit, first.name)};
    const double factor = io::unitFactor(second.unit, first.unit);
    return {factor, fmt::format("Lengths of {} were converted from {} to {}, the unit of {}: times {}.", second.name,
                                second.unit, first.unit, first.name, factor)};
}

}  // namespace zither::steps
