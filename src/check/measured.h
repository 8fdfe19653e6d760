// Numbers that classes of defects tell of a surface beside their findings: lengths, areas, how many places.
#pragma once

#include <limits>
#include <span>
#include <vector>

namespace zither::check {

struct Measure;

// A number for each measure of the catalogue; NaN: it was not asked for, or cannot be told of this surface. Classes
// write theirs side by side.
class Measured {
public:
    static constexpr double untold = std::numeric_limits<double>::quiet_NaN();

    Measured();
    [[nodiscard]] double operator[](const Measure& measure) const;
    void set(const Measure& measure, double value);
    void forget(std::span<const Measure* const> measures);

private:
    std::vector<double> values_;  // in the order of the catalogue
};

}  // namespace zither::check
