// One style sheet and palette; glyphs are drawn from their strokes.
#include "desktop/theme.h"

#include <QPalette>
#include <QPixmapCache>
#include <QPolygonF>
#include <algorithm>
#include <cmath>

// Resources of a static library are only linked where they are asked for; the macro wants the global namespace.
static void loadResources() {
    Q_INIT_RESOURCE(desktop);
}

namespace zither::desktop {

namespace {

// What cannot be used is half as strong.
QColor between(const QColor& a, const QColor& b) {
    return QColor((a.red() + b.red()) / 2, (a.green() + b.green()) / 2, (a.blue() + b.blue()) / 2);
}

}  // namespace

QFont typeface(int pixels, QFont::Weight weight) {
    QFont font("Inter");
    font.setPixelSize(pixels);
    font.setWeight(weight);
    return font;
}

void applyTheme(QApplication& application, const session::Paper& paper) {
    loadResources();
    // Glyphs have a halo of paper.
    QPixmapCache::clear();
    application.setStyle("Fusion");
    application.setFont(typeface(12));
    QPalette palette;
    palette.setColor(QPalette::Window, paper.ground);
    palette.setColor(QPalette::WindowText, paper.ink);
    palette.setColor(QPalette::Base, paper.raised);
    palette.setColor(QPalette::AlternateBase, paper.sheet);
    palette.setColor(QPalette::Text, paper.ink);
    palette.setColor(QPalette::Button, paper.raised);
    palette.setColor(QPalette::ButtonText, paper.ink);
    palette.setColor(QPalette::Highlight, paper.spruce);
    palette.setColor(QPalette::HighlightedText, paper.raised);
    palette.setColor(QPalette::ToolTipBase, paper.raised);
    palette.setColor(QPalette::ToolTipText, paper.ink);
    palette.setColor(QPalette::PlaceholderText, paper.quiet);
    application.setPalette(palette);
    application.setStyleSheet(QString(R"(
        QMainWindow, QWidget#ground { background: %1; }
        QMenuBar { background: transparent; padding: 0; }
        QMenuBar::item { padding: 4px 7px; background: transparent; border-radius: 4px; }
        QMenuBar::item:selected { background: %6; }
        QMenu { background: %2; border: 1px solid %3; padding: 4px; }
        QMenu::item { padding: 5px 26px 5px 14px; border-radius: 4px; }
        QMenu::item:selected { background: %6; color: %4; }
        QMenu::item:disabled { color: %9; }
        QMenu::separator { height: 1px; background: %3; margin: 4px 8px; }
        QPushButton { background: %2; border: 1px solid %3; border-radius: 5px; padding: 6px 14px; color: %4; font-weight: 500; }
        QPushButton:hover { border-color: %5; }
        QPushButton:pressed { background: %6; }
        QPushButton:disabled { color: %9; }
        QPushButton#main { background: %5; color: %2; border-color: %5; }
        QPushButton#main:hover { background: %10; }
        QPushButton#main:disabled { background: %11; border-color: %11; }
        QPushButton#second { border: 1px solid %5; color: %5; }
        QPushButton#second:disabled { border-color: %3; color: %9; }
        QToolButton { border: none; background: transparent; padding: 3px 7px; border-radius: 4px; }
        QToolButton:hover { background: %6; }
        QComboBox, QLineEdit, QDoubleSpinBox, QSpinBox { background: %2; border: 1px solid %3; border-radius: 4px; padding: 4px 8px; selection-background-color: %5; }
        QComboBox:focus, QLineEdit:focus, QDoubleSpinBox:focus, QSpinBox:focus { border-color: %5; }
        QComboBox::drop-down { border: none; width: 20px; }
        QComboBox::down-arrow { image: url(:/desktop/arrow.png); width: 10px; height: 6px; }
        QComboBox QAbstractItemView { background: %2; border: 1px solid %3; selection-background-color: %6; selection-color: %4; }
        QScrollArea { border: none; background: transparent; }
        QScrollBar:vertical { width: 8px; background: transparent; }
        QScrollBar::handle:vertical { background: %3; border-radius: 4px; min-height: 24px; }
        QScrollBar::add-line, QScrollBar::sub-line { height: 0; width: 0; }
        QScrollBar::add-page, QScrollBar::sub-page { background: transparent; }
        QListWidget { background: transparent; border: none; outline: none; }
        QListWidget::item { padding: 4px 6px; border-radius: 4px; }
        QListWidget::item:selected { background: %6; color: %4; }
        QToolTip { background: %2; color: %4; border: 1px solid %3; padding: 4px; }
        QSplitter::handle { background: %3; }
        QFrame#card { background: %7; border: 1px solid %3; border-radius: 6px; }
        QLabel#quiet { color: %8; }
    )")
                                  .arg(paper.ground.name(), paper.raised.name(), paper.line.name(), paper.ink.name(),
                                       paper.spruce.name(), paper.chosen.name(), paper.sheet.name(), paper.quiet.name(),
                                       between(paper.quiet, paper.ground).name(), paper.spruce.darker(118).name(),
                                       between(paper.spruce, paper.ground).name()));
}

namespace {

struct Circle {
    QPointF centre;
    double radius;
};

void strokeGlyph(QPainter& p, const check::Glyph& glyph, const Circle& within, const QBrush& fill) {
    const auto at = [&](const check::GlyphPoint& g) { return within.centre + within.radius * QPointF(g.x, g.y); };
    for (std::size_t i = 0; i < glyph.strokeCount; ++i) {
        const check::Glyph::Stroke& stroke = glyph.strokes[i];
        QPolygonF line;
        for (std::size_t k = 0; k < stroke.count; ++k) line << at(stroke.point[k]);
        p.setBrush(stroke.closed ? fill : Qt::NoBrush);
        stroke.closed ? p.drawPolygon(line) : p.drawPolyline(line);
    }
    for (std::size_t i = 0; i < glyph.circleCount; ++i) {
        const check::Glyph::Circle& circle = glyph.circles[i];
        p.setBrush(circle.solid ? QBrush(p.pen().color()) : fill);
        p.drawEllipse(at(circle.centre), circle.radius * within.radius, circle.radius * within.radius);
    }
}

// With the glyph in its middle.
QPixmap drawnGlyph(const check::Glyph& glyph, const GlyphStyle& style, double pixels) {
    const double halo = std::max(2.5, style.size * 0.3);
    const double side = 2 * std::ceil(style.size / 2 + halo) + 2;
    const QSize size = (QSizeF(side, side) * pixels).toSize();
    QPixmap drawn(size);
    drawn.setDevicePixelRatio(pixels);
    drawn.fill(Qt::transparent);
    QPainter p(&drawn);
    p.setRenderHint(QPainter::Antialiasing);
    const Circle within{QPointF(size.width(), size.height()) / (2 * pixels), style.size / 2};
    const auto round = [&](const QColor& colour, double width) {
        p.setPen(QPen(colour, width, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    };
    round(style.halo, halo);
    strokeGlyph(p, glyph, within, Qt::NoBrush);
    round(style.colour, std::max(1.2, style.size * 0.13));
    strokeGlyph(p, glyph, within, style.filled ? QBrush(style.colour) : Qt::NoBrush);
    return drawn;
}

}  // namespace

void drawPaper(QPainter& painter, const QRectF& rect, QColor ground) {
    ground.setAlphaF(0.85F);
    painter.setPen(Qt::NoPen);
    painter.setBrush(ground);
    painter.drawRoundedRect(rect, 5, 5);
}

void drawGlyph(QPainter& painter, const check::Glyph& glyph, const QPointF& centre, const GlyphStyle& style) {
    // Hundreds are drawn in each frame, of a few kinds.
    const double pixels = painter.device()->devicePixelRatioF();
    const QString key = QString("glyph %1 %2 %3 %4 %5 %6")
                            .arg(reinterpret_cast<std::uintptr_t>(&glyph))
                            .arg(style.size)
                            .arg(style.colour.rgba())
                            .arg(style.halo.rgba())
                            .arg(style.filled)
                            .arg(pixels);
    QPixmap drawn;
    if (!QPixmapCache::find(key, &drawn)) {
        drawn = drawnGlyph(glyph, style, pixels);
        QPixmapCache::insert(key, drawn);
    }
    const QSizeF size = drawn.deviceIndependentSize();
    const QPointF corner = (centre - QPointF(size.width(), size.height()) / 2) * pixels;
    painter.drawPixmap(QPointF(std::round(corner.x()), std::round(corner.y())) / pixels, drawn);
}

void drawBars(QPainter& painter, const QRectF& rect, const std::vector<std::uint32_t>& counts, const QColor& ink) {
    const double most =
        counts.empty() ? 0 : std::sqrt(static_cast<double>(*std::max_element(counts.begin(), counts.end())));
    if (most == 0) return;
    const double step = rect.width() / static_cast<double>(counts.size());
    for (std::size_t i = 0; i < counts.size(); ++i) {
        const double h = rect.height() * std::sqrt(static_cast<double>(counts[i])) / most;
        painter.fillRect(QRectF(rect.left() + step * static_cast<double>(i), rect.bottom() - h, step * 0.8, h), ink);
    }
}

}  // namespace zither::desktop
