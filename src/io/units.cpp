// Each unit is a whole number of micrometres, so that a factor is rounded once.
#include "io/units.h"

#include <algorithm>
#include <array>

namespace zither::io {
namespace {

constexpr std::array<std::string_view, 6> names{"mm", "cm", "m", "um", "in", "ft"};
constexpr std::array<double, 6> micrometres{1'000, 10'000, 1'000'000, 1, 25'400, 304'800};

double micrometresIn(std::string_view unit) {
    const auto* it = std::find(names.begin(), names.end(), unit);
    return it == names.end() ? 0 : micrometres[static_cast<std::size_t>(it - names.begin())];
}

}  // namespace

std::span<const std::string_view> unitNames() {
    return names;
}

double millimetresIn(std::string_view unit) {
    return micrometresIn(unit) / micrometres.front();
}

double unitFactor(std::string_view from, std::string_view to) {
    return micrometresIn(to) > 0 ? micrometresIn(from) / micrometresIn(to) : 0;
}

void convert(mesh::Mesh& m, std::string_view from, std::string_view to) {
    const double factor = unitFactor(from, to);
    if (factor == 1) return;
    for (mesh::Point& p : m.positions) p *= factor;
}

}  // namespace zither::io
