// A ramp that is read by lightness alone.
#include "session/lens/colours.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "draw/ramp.h"

namespace zither::session {

std::uint32_t packed(const QColor& c) {
    return 0xFF000000U | static_cast<std::uint32_t>(c.blue()) << 16 | static_cast<std::uint32_t>(c.green()) << 8 |
           static_cast<std::uint32_t>(c.red());
}

const std::array<QColor, 5>& rampStops() {
    static const std::array<QColor, 5> stops = [] {
        std::array<QColor, 5> all;
        for (std::size_t i = 0; i < all.size(); ++i) all[i] = QColor::fromRgb(draw::ink::ramp[i]);
        return all;
    }();
    return stops;
}

std::uint32_t ramp(double t) {
    const std::array<QColor, 5>& stops = rampStops();
    const double x = std::clamp(t, 0.0, 1.0) * static_cast<double>(stops.size() - 1);
    const auto i = std::min<std::size_t>(static_cast<std::size_t>(x), stops.size() - 2);
    const double f = x - static_cast<double>(i);
    const auto mix = [&](int a, int b) { return static_cast<int>(std::lround((1 - f) * a + f * b)); };
    return packed(QColor(mix(stops[i].red(), stops[i + 1].red()), mix(stops[i].green(), stops[i + 1].green()),
                         mix(stops[i].blue(), stops[i + 1].blue())));
}

Coat coatOfValues(const std::vector<double>& values, const ValueRange& range, Legend legend) {
    Coat coat;
    legend.continuous = true;
    coat.values.assign(values.begin(), values.end());
    coat.darkIsLow = range.darkIsLow;
    coat.legend = std::move(legend);
    colourBetween(coat, range.low, range.high);
    return coat;
}

void colourBetween(Coat& coat, double low, double high) {
    constexpr std::size_t bins = 48;
    coat.legend.low = low;
    coat.legend.high = high;
    coat.legend.histogram.assign(bins, 0);
    coat.colours.resize(coat.values.size());
    const double width = high > low ? high - low : 1;
    for (std::size_t t = 0; t < coat.values.size(); ++t) {
        const double x = std::clamp((coat.values[t] - low) / width, 0.0, 1.0);
        coat.colours[t] = ramp(coat.darkIsLow ? 1 - x : x);
        ++coat.legend.histogram[std::min(bins - 1, static_cast<std::size_t>(x * bins))];
    }
}

}  // namespace zither::session
