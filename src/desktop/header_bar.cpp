// Wishes go to the workshop; what is shown is read from it on its signals.
#include "desktop/header_bar.h"

#include <QHBoxLayout>
#include <QMenuBar>
#include <QPainter>

#include "desktop/theme.h"
#include "session/reading/strings.h"

namespace zither::desktop {

HeaderBar::HeaderBar(session::Workshop& workshop, QWidget* parent) : QWidget(parent), workshop_(workshop) {
    setObjectName("header");
    setFixedHeight(36);
    auto* row = new QHBoxLayout(this);
    row->setContentsMargins(50, 2, 14, 2);
    row->setSpacing(8);
    menus_ = new QMenuBar;
    menus_->setNativeMenuBar(false);
    menus_->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
    name_ = new QLabel;
    name_->setFont(typeface(14, QFont::DemiBold));
    facts_ = new QLabel;
    facts_->setObjectName("quiet");
    // What does not fit is told where it is pointed at.
    facts_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    unit_ = new QComboBox;
    unit_->setObjectName("unit");
    unit_->addItems(session::unitNames());
    unit_->setToolTip("Most formats carry no unit: say which one the numbers are in. Nothing is scaled.");
    brief_ = new QComboBox;
    brief_->setObjectName("brief");
    brief_->setMinimumWidth(128);
    for (const steps::Brief& b : steps::builtInBriefs())
        brief_->addItem(QString::fromStdString(b.title), QString::fromStdString(b.id));
    brief_->addItem("From a file …", QString());
    tune_ = new QLabel;
    tune_->setObjectName("tune");
    tune_->setFont(typeface(13, QFont::DemiBold));
    repair_ = new QPushButton("Repair");
    repair_->setObjectName("second");
    export_ = new QPushButton("Export …");
    export_->setObjectName("main");

    row->addWidget(menus_);
    row->addSpacing(10);
    row->addWidget(name_);
    row->addWidget(unit_);
    row->addWidget(facts_, 1);
    auto* briefLabel = new QLabel("Brief");
    briefLabel->setObjectName("quiet");
    row->addWidget(briefLabel);
    row->addWidget(brief_);
    row->addWidget(tune_);
    row->addSpacing(6);
    row->addWidget(repair_);
    row->addWidget(export_);

    connect(unit_, &QComboBox::activated, this, [this] { workshop_.parts().setUnit(unit_->currentText()); });
    connect(brief_, &QComboBox::activated, this, [this](int i) {
        if (i < static_cast<int>(steps::builtInBriefs().size()))
            workshop_.judging().setBrief(steps::builtInBriefs()[static_cast<std::size_t>(i)]);
        else
            Q_EMIT otherBriefWanted();
        refresh();
    });
    connect(repair_, &QPushButton::clicked, this, &HeaderBar::repairWanted);
    connect(export_, &QPushButton::clicked, this, &HeaderBar::exportWanted);
    connect(&workshop_.parts(), &session::Parts::changed, this, &HeaderBar::refresh);
    connect(&workshop_.looks(), &session::Looks::changed, this, &HeaderBar::refresh);
    connect(&workshop_.judging(), &session::Judging::changed, this, &HeaderBar::refresh);
    refresh();
}

void HeaderBar::refresh() {
    const session::Part* part = workshop_.parts().current();
    const session::Look* look = workshop_.looks().shown();
    constexpr int longestName = 150;
    const QString name = part ? part->name : QString("Zither");
    name_->setText(name_->fontMetrics().elidedText(name, Qt::ElideRight, longestName));
    name_->setToolTip(name);
    unit_->setVisible(part != nullptr);
    if (part) {
        unit_->setCurrentText(part->unit().name);
        // Behind a step that converts, the unit is what that made it.
        unit_->setEnabled(part->unit().name == part->importedUnit.name);
        unit_->setStyleSheet(part->unit().assumed ? QString("color: %1;").arg(workshop_.paper().quiet.name())
                                                  : QString());
    }
    if (const auto seen = workshop_.looks().display()) {
        const mesh::Point e = seen->box.extent();
        facts_->setText(QString("%1%2 × %3 × %4 · %5 triangles")
                            .arg(part->unit().assumed ? "assumed · " : "", workshop_.numbers().shortNumber(e.x()),
                                 workshop_.numbers().shortNumber(e.y()), workshop_.numbers().shortNumber(e.z()),
                                 session::spaced(seen->mesh().triangles.size())));
    } else {
        facts_->setText(part ? "" : "finds, mends and proves triangle surfaces");
    }
    facts_->setToolTip(facts_->text());
    int index = brief_->findData(QString::fromStdString(workshop_.judging().chosen().id));
    brief_->setCurrentIndex(index >= 0 ? index : brief_->count() - 1);
    const auto verdict = workshop_.judging().verdict();
    tune_->setText(verdict ? QString("%1 of %2 in tune").arg(verdict->met()).arg(verdict->asked()) : QString());
    repair_->setEnabled(look != nullptr);
    export_->setEnabled(look != nullptr);
    update();
}

void HeaderBar::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), workshop_.paper().ground);
    p.setPen(workshop_.paper().line);
    p.drawLine(0, height() - 1, width(), height() - 1);
    for (int i = 0; i < 5; ++i) {
        p.setPen(QPen(i % 2 == 0 ? workshop_.paper().wood : workshop_.paper().spruce, 1.6));
        p.drawLine(QPointF(18, 8 + 5 * i), QPointF(40, 8 + 5 * i));
    }
}

}  // namespace zither::desktop
