// Rows of names and values, a histogram for each kind of quality.
#include "desktop/numbers_window.h"

#include <QClipboard>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QGuiApplication>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "desktop/theme.h"

namespace zither::desktop {
namespace {

class Bars : public QWidget {
public:
    Bars(const measure::Spread& spread, const QColor& ink, QWidget* parent)
        : QWidget(parent), counts_(spread.histogram.begin(), spread.histogram.end()), ink_(ink) {
        setFixedHeight(22);
    }

protected:
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        drawBars(painter, QRectF(0, 1, width(), height() - 2), counts_, ink_);
    }

private:
    std::vector<std::uint32_t> counts_;
    QColor ink_;
};

QLabel* label(const QString& text, const QColor& ink, QWidget* parent) {
    auto* l = new QLabel(text, parent);
    l->setFont(typeface(12));
    l->setStyleSheet(QString("color: %1").arg(ink.name()));
    return l;
}

}  // namespace

NumbersWindow::NumbersWindow(session::Workshop& workshop, QWidget* parent)
    : QWidget(parent, Qt::Tool), workshop_(workshop), lines_(new QVBoxLayout) {
    setWindowTitle("Numbers");
    setObjectName("numbers");
    setFixedWidth(360);
    auto* whole = new QVBoxLayout(this);
    whole->addLayout(lines_);
    auto* below = new QHBoxLayout;
    auto* density = new QDoubleSpinBox(this);
    density->setObjectName("numbers.density");
    density->setRange(0, 100);
    density->setDecimals(3);
    density->setSuffix(" g/cm³");
    density->setSpecialValueText("no density");
    connect(density, &QDoubleSpinBox::valueChanged, this,
            [this](double value) { workshop_.counting().setDensity(value); });
    below->addWidget(density);
    auto* copy = new QPushButton("Copy as text", this);
    connect(copy, &QPushButton::clicked, this, [this] {
        QString text = workshop_.counting().title() + "\n";
        for (const auto& row : workshop_.counting().rows()) text += row.name + "\t" + row.value + "\n";
        for (const auto& quality : workshop_.counting().qualities()) text += quality.name + "\t" + quality.value + "\n";
        QGuiApplication::clipboard()->setText(text);
    });
    below->addWidget(copy);
    whole->addLayout(below);
    connect(&workshop.counting(), &session::Counting::changed, this, &NumbersWindow::refresh);
}

void NumbersWindow::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    workshop_.counting().setWanted(true);
}

void NumbersWindow::hideEvent(QHideEvent* event) {
    QWidget::hideEvent(event);
    workshop_.counting().setWanted(false);
}

void NumbersWindow::refresh() {
    while (QLayoutItem* item = lines_->takeAt(0)) {
        delete item->widget();
        delete item;
    }
    const session::Paper& paper = workshop_.paper();
    auto* content = new QWidget(this);
    auto* grid = new QGridLayout(content);
    grid->setContentsMargins(0, 0, 0, 0);
    grid->setVerticalSpacing(3);
    auto* title = label(workshop_.counting().title(), paper.ink, content);
    title->setFont(typeface(14, QFont::DemiBold));
    title->setObjectName("numbers.title");
    int line = 0;
    grid->addWidget(title, line++, 0, 1, 2);
    for (const auto& row : workshop_.counting().rows()) {
        grid->addWidget(label(row.name, paper.quiet, content), line, 0);
        auto* value = label(row.value, paper.ink, content);
        value->setTextInteractionFlags(Qt::TextSelectableByMouse);
        value->setObjectName("numbers." + row.name);
        grid->addWidget(value, line++, 1);
    }
    for (const auto& quality : workshop_.counting().qualities()) {
        grid->addWidget(label(quality.name, paper.quiet, content), line++, 0, 1, 2);
        grid->addWidget(new Bars(quality.spread, paper.wood, content), line++, 0, 1, 2);
        grid->addWidget(label(quality.value, paper.ink, content), line++, 0, 1, 2);
    }
    lines_->addWidget(content);
    adjustSize();
}

}  // namespace zither::desktop
