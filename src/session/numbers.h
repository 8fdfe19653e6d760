// Numbers and names as people read them.
#pragma once

#include <QString>
#include <cstdint>
#include <string_view>

#include "mesh/mesh.h"

namespace zither::session {

// "88 310": thin spaces between thousands.
QString spaced(std::uint64_t number);
// Three or four significant digits, without an exponent where it can be helped.
QString shortNumber(double value);

// "1, 2, 3".
QString placeText(const mesh::Point& p);

inline QString text(std::string_view s) {
    return QString::fromUtf8(s.data(), static_cast<int>(s.size()));
}

}  // namespace zither::session
