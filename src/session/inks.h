// Colours: of the workshop, and of the classes of defects as their descriptors say.
#pragma once

#include <QColor>

#include "check/defect_class.h"
#include "draw/inks.h"

namespace zither::session {

// The ink of a class, for painting.
inline QColor inkOf(check::DefectClass defect) {
    return QColor::fromRgb(defect->ink.rgb);
}

// The workshop's own colours.
namespace paper {
inline const QColor ground(0xEF, 0xE7, 0xDA);
inline const QColor sheet = QColor::fromRgb(draw::ink::sheet);
inline const QColor raised(0xFB, 0xF7, 0xEF);
inline const QColor line(0xD9, 0xCB, 0xB4);
inline const QColor ink(0x22, 0x2B, 0x2E);
inline const QColor quiet(0x75, 0x70, 0x66);
inline const QColor chosen(0xE3, 0xD7, 0xC0);
inline const QColor spruce(0x4C, 0x6B, 0x5C);
inline const QColor wood(0xB7, 0x82, 0x4F);
inline const QColor fails(0xB3, 0x13, 0x4E);
inline const QColor clay = QColor::fromRgb(draw::ink::clay);
inline const QColor hatched = QColor::fromRgb(draw::ink::hatched);
inline const QColor edge = QColor::fromRgb(draw::ink::edge);
inline const QColor picked(0x3F, 0x7D, 0x9C);
inline const QColor cap = QColor::fromRgb(draw::ink::cap);
}  // namespace paper

}  // namespace zither::session
