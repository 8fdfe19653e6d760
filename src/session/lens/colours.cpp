// A ramp that is read by lightness alone.
#include "session/lens/colours.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace zither::session {

std::uint32_t packed(const QColor& c) {
    return 0xFF000000U | static_cast<std::uint32_t>(c.blue()) << 16 | static_cast<std::uint32_t>(c.green()) << 8 |
           static_cast<std::uint32_t>(c.red());
}

std::uint32_t ramp(double t) {
    static const std::array<QColor, 5> stops = {QColor(0xF2, 0xE6, 0xC9), QColor(0xE0, 0xB0, 0x6A),
                                                QColor(0xC4, 0x6A, 0x3C), QColor(0x8C, 0x2F, 0x4B),
                                                QColor(0x3D, 0x1B, 0x45)};
    const double x = std::clamp(t, 0.0, 1.0) * (stops.size() - 1);
    const auto i = std::min<std::size_t>(static_cast<std::size_t>(x), stops.size() - 2);
    const double f = x - static_cast<double>(i);
    const auto mix = [&](int a, int b) { return static_cast<int>(std::lround((1 - f) * a + f * b)); };
    return packed(QColor(mix(stops[i].red(), stops[i + 1].red()), mix(stops[i].green(), stops[i + 1].green()),
                         mix(stops[i].blue(), stops[i + 1].blue())));
}

Coat coatOfValues(const std::vector<double>& values, const ValueRange& range, Legend legend) {
    const auto [low, high, darkIsLow] = range;
    Coat coat;
    constexpr std::size_t bins = 48;
    legend.low = low;
    legend.high = high;
    legend.continuous = true;
    legend.histogram.assign(bins, 0);
    coat.colours.resize(values.size());
    coat.values.assign(values.begin(), values.end());
    const double width = high > low ? high - low : 1;
    for (std::size_t t = 0; t < values.size(); ++t) {
        const double x = std::clamp((values[t] - low) / width, 0.0, 1.0);
        coat.colours[t] = ramp(darkIsLow ? 1 - x : x);
        ++legend.histogram[std::min(bins - 1, static_cast<std::size_t>(x * bins))];
    }
    coat.legend = std::move(legend);
    return coat;
}

}  // namespace zither::session
