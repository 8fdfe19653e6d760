// The strings: one line for each requirement of the brief, with a mark for every finding along the part. As data, so
// that the widget only draws and tests can read.
#pragma once

#include <QString>
#include <optional>
#include <vector>

#include "session/reading/loss_signs.h"
#include "session/reading/number_text.h"
#include "session/workshop.h"

namespace zither::session {

// Goes and Comes: of the preview; Was: only of the stop that the part is compared with.
enum class MarkState { Stays, Goes, Comes, Was };

struct Mark {
    double at = 0;    // 0 to 1 along the axis
    double size = 0;  // 0 to 1: extent against the part's
    MarkState state = MarkState::Stays;
    std::size_t finding =
        0;  // in the kept survey, the preview's for Comes, the other's for Was; or a place of the loss
};

struct StringRow {
    QString id;
    QString title;
    QString value;
    QString limit;  // "limit 0", "noted"
    bool met = true;
    bool noted = false;
    bool listening = false;  // its check is not done yet
    std::optional<check::DefectClass> defect;
    std::optional<Sign> sign;  // how it is drawn; none: a number without places
    std::vector<Mark> marks;   // of a class its findings; else what is lost (Goes) and added (Comes)
};

// "open edges: 7, limit 0".
QString failureText(const steps::Judged& judged, const Numbers& numbers);

std::vector<StringRow> stringRows(const Workshop& workshop);

}  // namespace zither::session
