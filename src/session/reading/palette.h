// Colours: of the workshop, and of the classes of defects as their descriptors say.
#pragma once

#include <QColor>

#include "check/defect_class.h"
#include "draw/inks.h"

namespace zither::session {

// The ink of a class, for painting on paper.
QColor inkOf(check::DefectClass defect);

// The workshop's own colours, as light paper has them until another is used.
namespace paper {
inline QColor ground(0xEF, 0xE7, 0xDA);
inline QColor sheet = QColor::fromRgb(draw::ink::sheet);
inline QColor raised(0xFB, 0xF7, 0xEF);
inline QColor line(0xD9, 0xCB, 0xB4);
inline QColor ink(0x22, 0x2B, 0x2E);
inline QColor quiet(0x75, 0x70, 0x66);
inline QColor chosen(0xE3, 0xD7, 0xC0);
inline QColor spruce(0x4C, 0x6B, 0x5C);
inline QColor wood(0xB7, 0x82, 0x4F);
inline QColor fails(0xB3, 0x13, 0x4E);
inline QColor picked(0x3F, 0x7D, 0x9C);
inline QColor edge = QColor::fromRgb(draw::ink::edge);
// What the part is made of stays.
inline const QColor clay = QColor::fromRgb(draw::ink::clay);
inline const QColor hatched = QColor::fromRgb(draw::ink::hatched);
inline const QColor cap = QColor::fromRgb(draw::ink::cap);

[[nodiscard]] bool isDark();
// Light or dark, from now on: what has been drawn must be drawn anew.
void use(bool darkPaper);
}  // namespace paper

}  // namespace zither::session
