// Numbers and names as people read them.
#pragma once

#include <QString>
#include <QStringList>
#include <cstdint>
#include <string_view>

#include "mesh/mesh.h"

namespace zither::session {

// "88 310": thin spaces between thousands.
QString spaced(std::uint64_t number);

// Numbers that are not whole, with as many significant digits as the user wants.
class Numbers {
public:
    static constexpr int fewestDigits = 3;
    static constexpr int mostDigits = 6;

    Numbers() = default;
    explicit Numbers(int digits);
    [[nodiscard]] int digits() const { return digits_; }
    // Without an exponent where it can be helped.
    [[nodiscard]] QString shortNumber(double value) const;
    // "1, 2, 3".
    [[nodiscard]] QString placeText(const mesh::Point& p) const;

private:
    int digits_ = fewestDigits;
};

// Of lengths, as they are chosen from.
const QStringList& unitNames();

inline QString text(std::string_view s) {
    return QString::fromUtf8(s.data(), static_cast<int>(s.size()));
}

}  // namespace zither::session
