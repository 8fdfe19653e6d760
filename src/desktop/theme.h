// How the workshop looks: palette, type, style sheet, and the glyphs of the defect classes.
#pragma once

#include <QApplication>
#include <QFont>
#include <QPainter>

#include "session/reading/palette.h"

namespace zither::desktop {

// On the paper that is in use (session::paper).
void applyTheme(QApplication& application);

// Inter with tabular figures, in pixels; weight as in QFont.
QFont typeface(int pixels, QFont::Weight weight = QFont::Normal);

struct GlyphStyle {
    double size = 14;  // pixels across
    QColor colour;
    bool filled = false;
};
// A class's glyph centred at a point, over a halo of paper.
void drawGlyph(QPainter& painter, const check::Glyph& glyph, const QPointF& centre, const GlyphStyle& style);

// Paper for what is written over the part, so that it can be read on any colour.
void drawPaper(QPainter& painter, const QRectF& rect);

// Counts as bars that stand on the bottom of the rectangle, the highest as high as it; by their square roots, so that
// few beside many are seen.
void drawBars(QPainter& painter, const QRectF& rect, const std::vector<std::uint32_t>& counts);

}  // namespace zither::desktop
