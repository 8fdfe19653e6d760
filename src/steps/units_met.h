// Two surfaces of which each may know the unit of its lengths.
#pragma once

#include <string>
#include <string_view>

namespace zither::steps {

struct WithUnit {
    std::string name;  // as a sentence calls it
    std::string unit;  // "mm", "in" ...; empty where nobody has said
};

struct UnitsMet {
    double factor = 1;  // that lengths of the second are multiplied by to be lengths of the first
    std::string said;   // a sentence; empty where both are in one unit, or neither knows its own

    [[nodiscard]] bool converts() const { return factor != 1; }
};

// The first one's unit is that of both from there on. Where one of them does not know its own, its numbers are taken to
// be in the other's.
UnitsMet unitsMet(const WithUnit& first, const WithUnit& second);

}  // namespace zither::steps
