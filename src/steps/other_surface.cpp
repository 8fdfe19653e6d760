// What is said of units stands in one place, for steps and for comparisons.
#include "steps/other_surface.h"

#include <filesystem>

#include "io/units.h"
#include "steps/units_met.h"

namespace zither::steps {

Outcome<io::Surface> readOther(const Arguments& a, const std::string& file, Record& record, mesh::Progress& progress) {
    Outcome<io::Surface> other = io::readSurface(file, progress);
    if (!other) return other;
    const UnitsMet met = unitsMet({"the part", a.unit}, {std::filesystem::path(file).filename().string(), other->unit});
    if (met.converts()) io::convert(other->mesh, other->unit, a.unit);
    if (!met.said.empty()) record.say(met.said);
    return other;
}

}  // namespace zither::steps
