// Thin spaces between thousands; as many significant digits as were asked for.
#include "session/reading/number_text.h"

#include <algorithm>
#include <cmath>

#include "io/units.h"

namespace zither::session {

Numbers::Numbers(int digits) : digits_(std::clamp(digits, fewestDigits, mostDigits)) {}

const QStringList& unitNames() {
    static const QStringList names = [] {
        QStringList all;
        for (const std::string_view unit : io::unitNames()) all << text(unit);
        return all;
    }();
    return names;
}

QString spaced(std::uint64_t number) {
    QString text = QString::number(number);
    for (auto i = text.size() - 3; i > 0; i -= 3) text.insert(i, QChar(0x202F));
    return text;
}

QString Numbers::shortNumber(double value) const {
    if (std::isinf(value)) return "∞";
    if (value == std::floor(value) && std::abs(value) < 1e15)
        return value < 0 ? "−" + spaced(static_cast<std::uint64_t>(-value)) : spaced(static_cast<std::uint64_t>(value));
    if (std::abs(value) >= std::pow(10, digits_))
        return spaced(static_cast<std::uint64_t>(std::llround(std::abs(value)))).prepend(value < 0 ? "−" : "");
    return QString::number(value, 'g', digits_);
}

QString Numbers::placeText(const mesh::Point& p) const {
    return QString("%1, %2, %3").arg(shortNumber(p.x()), shortNumber(p.y()), shortNumber(p.z()));
}

}  // namespace zither::session
