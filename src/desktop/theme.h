// How the workshop looks: palette, type, style sheet, and the glyphs of the defect classes.
#pragma once

#include <QApplication>
#include <QFont>
#include <QPainter>

#include "session/reading/palette.h"

namespace zither::desktop {

void applyTheme(QApplication& application, const session::Paper& paper);

// Inter with tabular figures, in pixels; weight as in QFont.
QFont typeface(int pixels, QFont::Weight weight = QFont::Normal);

struct GlyphStyle {
    double size = 14;  // pixels across
    QColor colour;
    QColor halo;  // about it: the paper that it stands on
    bool filled = false;
};
// A class's glyph centred at a point.
void drawGlyph(QPainter& painter, const check::Glyph& glyph, const QPointF& centre, const GlyphStyle& style);

// Paper for what is written over the part, so that it can be read on any colour.
void drawPaper(QPainter& painter, const QRectF& rect, QColor ground);

// Counts as bars that stand on the bottom of the rectangle, the highest as high as it; by their square roots, so that
// few beside many are seen.
void drawBars(QPainter& painter, const QRectF& rect, const std::vector<std::uint32_t>& counts, const QColor& ink);

}  // namespace zither::desktop
