// What a step found out that other code decides by; what people read of it stands in its record.
#pragma once

#include <cstddef>

namespace zither::steps {

// Nothing of it concerns most steps, and is 0 then.
struct Facts {
    std::size_t unsoundPlaces = 0;       // where no rounding held what was made
    std::size_t coverableTriangles = 0;  // in trouble, which plates could cover
    std::size_t placesPutBack = 0;       // as they came, because some count would have been worse
    std::size_t openingsLeft = 0;
    double sheetArea = 0;         // of what bounds no volume
    double openShareDropped = 0;  // of the surface's area: shells that went and lie in none of the others
};

}  // namespace zither::steps
