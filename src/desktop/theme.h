// How the workshop looks: palette, type, style sheet, and the glyphs of the defect classes.
#pragma once

#include <QApplication>
#include <QFont>
#include <QPainter>

#include "session/inks.h"

namespace zither::desktop {

void applyTheme(QApplication& application);

// Inter with tabular figures, in pixels; weight as in QFont.
QFont typeface(int pixels, QFont::Weight weight = QFont::Normal);

// A class's glyph centred at a point, `size` pixels across, drawn in the pen's colour over a halo of paper.
void drawGlyph(QPainter& painter, session::Glyph glyph, const QPointF& centre, double size, const QColor& colour,
               bool filled = false);

}  // namespace zither::desktop
