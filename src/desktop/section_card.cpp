// Widgets that send wishes to the session and show what it says.
#include "desktop/section_card.h"

#include <QComboBox>
#include <QDoubleSpinBox>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSignalBlocker>
#include <QToolButton>
#include <QVBoxLayout>
#include <cmath>

#include "desktop/theme.h"
#include "session/reading/number_text.h"
#include "session/reading/strings.h"

namespace zither::desktop {
namespace {

constexpr int cardWidth = 232;
// Ways to lay a cut, in the order of the list; axes come first.
enum Way { AlongFace = 3, ThroughMeasured = 4 };

// So that an arrow key moves it by a hundredth of the part or less, and digits enough are seen.
void setScale(QDoubleSpinBox& box, double size) {
    const double step = size > 0 ? std::pow(10, std::floor(std::log10(size)) - 2) : 1;
    box.setDecimals(std::clamp(2 - static_cast<int>(std::floor(std::log10(step))), 1, 9));
    box.setSingleStep(step);
}

QDoubleSpinBox* numberBox(const QString& name) {
    auto* box = new QDoubleSpinBox;
    box->setObjectName(name);
    box->setButtonSymbols(QAbstractSpinBox::NoButtons);
    box->setAlignment(Qt::AlignRight);
    box->setKeyboardTracking(false);
    return box;
}

QLabel* nameOf(const QString& text) {
    auto* label = new QLabel(text);
    label->setObjectName("quiet");
    return label;
}

QToolButton* sign(const QString& text, const QString& name, const QString& tip) {
    auto* button = new QToolButton;
    button->setText(text);
    button->setObjectName(name);
    button->setToolTip(tip);
    button->setAccessibleName(tip);
    return button;
}

}  // namespace

SectionCard::SectionCard(session::Workshop& workshop, QWidget* parent)
    : QFrame(parent),
      workshop_(workshop),
      chips_(new QHBoxLayout),
      lies_(new QComboBox),
      at_(numberBox("section.at")),
      thickness_(numberBox("section.thickness")),
      figures_(new QLabel) {
    setObjectName("card");
    setAutoFillBackground(true);
    setFixedWidth(cardWidth);
    session::Sectioning& sectioning = workshop_.sectioning();
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(10, 6, 8, 8);
    column->setSpacing(5);

    auto* top = new QHBoxLayout;
    top->setSpacing(2);
    auto* title = nameOf("CUT");
    title->setFont(typeface(11, QFont::DemiBold));
    top->addWidget(title);
    top->addLayout(chips_);
    top->addStretch(1);
    auto* more = sign("+", "section.add", "Another cut besides");
    connect(more, &QToolButton::clicked, &sectioning, &session::Sectioning::add);
    top->addWidget(more);
    auto* less = sign("×", "section.remove", "Take this cut away");
    connect(less, &QToolButton::clicked, &sectioning, &session::Sectioning::removeActive);
    top->addWidget(less);
    column->addLayout(top);

    auto* grid = new QGridLayout;
    grid->setVerticalSpacing(4);
    lies_->setObjectName("section.lies");
    lies_->addItems({"across X", "across Y", "across Z", "along the picked face", "through measured points"});
    connect(lies_, &QComboBox::activated, this, &SectionCard::layAs);
    auto* over = sign("other side", "section.over", "What is left lies on the other side");
    connect(over, &QToolButton::clicked, &sectioning, &session::Sectioning::turnOver);
    grid->addWidget(lies_, 0, 0, 1, 2);
    grid->addWidget(nameOf("at"), 1, 0);
    grid->addWidget(at_, 1, 1);
    grid->addWidget(nameOf("slab of"), 2, 0);
    grid->addWidget(thickness_, 2, 1);
    grid->addWidget(over, 3, 1, Qt::AlignRight);
    grid->setColumnStretch(1, 1);
    column->addLayout(grid);
    thickness_->setSpecialValueText("all behind it");
    connect(at_, &QDoubleSpinBox::valueChanged, &sectioning, &session::Sectioning::moveTo);
    connect(thickness_, &QDoubleSpinBox::valueChanged, &sectioning, &session::Sectioning::setThickness);

    figures_->setObjectName("section.figures");
    figures_->setFont(typeface(11));
    figures_->setWordWrap(true);
    column->addWidget(figures_);
    connect(&sectioning, &session::Sectioning::changed, this, &SectionCard::refresh);
    refresh();
}

void SectionCard::layAs(int way) {
    session::Sectioning& sectioning = workshop_.sectioning();
    if (way == AlongFace)
        sectioning.layOnFace();
    else if (way == ThroughMeasured)
        sectioning.layThroughMeasured();
    else if (way < AlongFace)
        sectioning.acrossAxis(way);
    refresh();
}

void SectionCard::refreshChips() {
    const session::Sectioning& sectioning = workshop_.sectioning();
    const int count = sectioning.cuts().size() > 1 ? static_cast<int>(sectioning.cuts().size()) : 0;
    while (chips_->count() > count) {
        QLayoutItem* last = chips_->takeAt(chips_->count() - 1);
        last->widget()->deleteLater();
        delete last;
    }
    while (chips_->count() < count) {
        const int i = chips_->count();
        auto* chip = sign(QString::number(i + 1), QString("section.cut%1").arg(i + 1), QString("Cut %1").arg(i + 1));
        connect(chip, &QToolButton::clicked, this,
                [this, i] { workshop_.sectioning().setActive(static_cast<std::size_t>(i)); });
        chips_->addWidget(chip);
    }
    for (int i = 0; i < count; ++i)
        chips_->itemAt(i)->widget()->setFont(
            typeface(12, static_cast<std::size_t>(i) == sectioning.activeIndex() ? QFont::Bold : QFont::Normal));
}

void SectionCard::refresh() {
    const session::Sectioning::Cut* cut = workshop_.sectioning().active();
    setVisible(cut != nullptr);
    if (!cut) return;
    refreshChips();
    refreshNumbers(*cut);
    // Lines that wrap want more than a first guess.
    layout()->activate();
    setFixedHeight(layout()->totalHeightForWidth(cardWidth));
}

void SectionCard::refreshNumbers(const session::Sectioning::Cut& cut) {
    const QSignalBlocker quietAt(at_);
    const QSignalBlocker quietThickness(thickness_);
    const QString unit = workshop_.parts().current()->unit().name;
    const auto [low, high] = workshop_.sectioning().extent();
    for (QDoubleSpinBox* box : {at_, thickness_}) {
        setScale(*box, high - low);
        box->setSuffix(" " + unit);
    }
    at_->setRange(low, high);
    at_->setValue(cut.plane.at);
    thickness_->setRange(0, high - low);
    thickness_->setValue(cut.thickness);
    int way = AlongFace;
    for (int axis = 0; axis < 3; ++axis)
        if (cut.lies == lies_->itemText(axis)) way = axis;
    if (cut.lies == "through three points") way = ThroughMeasured;
    lies_->setCurrentIndex(way);
    const measure::Section* s = cut.figures();
    if (!s) return figures_->setText("…");
    QString said = QString("%1 %2² enclosed").arg(workshop_.numbers().shortNumber(s->area), unit);
    if (s->areaTwice > 0)
        said += QString(", %1 %2² of it more than once").arg(workshop_.numbers().shortNumber(s->areaTwice), unit);
    said += QString("\noutline %1 %2 in %3 %4")
                .arg(workshop_.numbers().shortNumber(s->length), unit, session::spaced(s->loops),
                     s->loops == 1 ? "loop" : "loops");
    if (s->openEnds > 0)
        said += QString(", open at %1 places%2")
                    .arg(session::spaced(s->openEnds), s->cap.triangles.empty() ? "" : ", led straight on");
    figures_->setText(said);
}

}  // namespace zither::desktop
