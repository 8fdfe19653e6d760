// Colours as the card wants them, and the ramp that all lenses of values share.
#pragma once

#include <QColor>
#include <array>
#include <vector>

#include "session/lens/lens.h"

namespace zither::session {

std::uint32_t packed(const QColor& c);

// From paper over wood to ink, 0 to 1: light is little, dark is much; readable without telling hues apart.
std::uint32_t ramp(double t);
// What it runs through, in equal stretches.
const std::array<QColor, 5>& rampStops();

struct ValueRange {
    double low = 0;
    double high = 0;
    bool darkIsLow = false;
};
// One value a triangle, as colours and histogram.
Coat coatOfValues(const std::vector<double>& values, const ValueRange& range, Legend legend);
// The same values coloured and counted between other ends.
void colourBetween(Coat& coat, double low, double high);

}  // namespace zither::session
