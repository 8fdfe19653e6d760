// Which measures there are follows from the catalogue.
#include "check/measured.h"

#include <algorithm>

#include "check/catalogue.h"

namespace zither::check {
namespace {

const std::vector<const Measure*>& everyMeasure() {
    static const std::vector<const Measure*> all = [] {
        std::vector<const Measure*> gathered;
        for (const DefectClass defect : catalogue())
            gathered.insert(gathered.end(), defect->measures.begin(), defect->measures.end());
        return gathered;
    }();
    return all;
}

// A class that does not list a measure has no place to write it.
std::size_t placeOf(const Measure& measure) {
    const auto& all = everyMeasure();
    return static_cast<std::size_t>(std::find(all.begin(), all.end(), &measure) - all.begin());
}

}  // namespace

Measured::Measured() : values_(everyMeasure().size(), untold) {}

double Measured::operator[](const Measure& measure) const {
    return values_.at(placeOf(measure));
}

void Measured::set(const Measure& measure, double value) {
    values_.at(placeOf(measure)) = value;
}

void Measured::forget(std::span<const Measure* const> measures) {
    for (const Measure* measure : measures) set(*measure, untold);
}

}  // namespace zither::check
