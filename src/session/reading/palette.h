// Colours: of the workshop, and of the classes of defects as their descriptors say.
#pragma once

#include <QColor>

#include "check/defect_class.h"

namespace zither::session {

// The workshop's own colours, on light or on dark paper.
struct Paper {
    bool isDark;
    QColor ground, sheet, raised, line, ink, quiet, chosen, spruce, wood, fails, picked, edge;

    // The ink of a class, as light as this paper needs it.
    [[nodiscard]] QColor inkOf(check::DefectClass defect) const;
};

const Paper& lightPaper();
const Paper& darkPaper();

// What the part is made of is the same on both.
namespace clay {
extern const QColor face;
extern const QColor hatched;
extern const QColor cap;
}  // namespace clay

}  // namespace zither::session
