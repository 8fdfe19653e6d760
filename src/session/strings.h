// The strings: one line for each requirement of the brief, with a mark for every finding along the part. As data, so
// that the widget only draws and tests can read.
#pragma once

#include <QString>
#include <optional>
#include <vector>

#include "session/workshop.h"

namespace zither::session {

enum class MarkState { Stays, Goes, Comes };  // Goes and Comes: of the preview

struct Mark {
    double at = 0;    // 0 to 1 along the axis
    double size = 0;  // 0 to 1: extent against the part's
    MarkState state = MarkState::Stays;
    std::size_t finding = 0;  // in the kept survey; of the preview's for Comes
};

struct StringRow {
    QString id;
    QString title;
    QString value;
    QString limit;  // "limit 0", "noted"
    bool met = true;
    bool noted = false;
    std::optional<check::DefectClass> defect;
    std::vector<Mark> marks;
};

std::vector<StringRow> stringRows(const Workshop& workshop);

// "88 310": thin spaces between thousands.
QString spaced(std::uint64_t number);
// Three or four significant digits, without an exponent where it can be helped.
QString shortNumber(double value);

inline QString text(std::string_view s) {
    return QString::fromUtf8(s.data(), static_cast<int>(s.size()));
}

}  // namespace zither::session
