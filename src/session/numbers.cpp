// Thin spaces between thousands; three or four significant digits.
#include "session/numbers.h"

#include <cmath>

namespace zither::session {

QString spaced(std::uint64_t number) {
    QString text = QString::number(number);
    for (auto i = text.size() - 3; i > 0; i -= 3) text.insert(i, QChar(0x202F));
    return text;
}

QString shortNumber(double value) {
    if (std::isinf(value)) return "∞";
    if (value == std::floor(value) && std::abs(value) < 1e15)
        return value < 0 ? "−" + spaced(static_cast<std::uint64_t>(-value)) : spaced(static_cast<std::uint64_t>(value));
    if (std::abs(value) >= 1000)
        return spaced(static_cast<std::uint64_t>(std::llround(std::abs(value)))).prepend(value < 0 ? "−" : "");
    return QString::number(value, 'g', 3);
}

QString placeText(const mesh::Point& p) {
    return QString("%1, %2, %3").arg(shortNumber(p.x()), shortNumber(p.y()), shortNumber(p.z()));
}

}  // namespace zither::session
