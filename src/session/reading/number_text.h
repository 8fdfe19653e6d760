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
// A few significant digits, without an exponent where it can be helped.
QString shortNumber(double value);
// How many, for every number from now on.
inline constexpr int fewestDigits = 3;
inline constexpr int mostDigits = 6;
void setSignificantDigits(int digits);

// Of lengths, as they are chosen from.
const QStringList& unitNames();

// "1, 2, 3".
QString placeText(const mesh::Point& p);

inline QString text(std::string_view s) {
    return QString::fromUtf8(s.data(), static_cast<int>(s.size()));
}

}  // namespace zither::session
