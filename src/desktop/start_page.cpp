// Links below a drawing.
#include "desktop/start_page.h"

#include <QDir>
#include <QFileInfo>
#include <QLabel>
#include <QLocale>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

#include "desktop/theme.h"
#include "io/format.h"

namespace zither::desktop {

namespace {
constexpr int mostRecent = 6;
constexpr int columnWidth = 460;

QLabel* centred(const QString& text, int pixels, QFont::Weight weight, const QColor& colour) {
    auto* label = new QLabel(text);
    label->setFont(typeface(pixels, weight));
    label->setAlignment(Qt::AlignHCenter);
    label->setWordWrap(true);
    label->setStyleSheet(QString("color: %1;").arg(colour.name()));
    return label;
}

}  // namespace

StartPage::StartPage(session::Workshop& workshop, const QString& sample) : workshop_(workshop), sample_(sample) {
    setObjectName("start");
    auto* outer = new QHBoxLayout(this);
    auto* middle = new QWidget;
    middle->setFixedWidth(columnWidth);
    auto* column = new QVBoxLayout(middle);
    column->setSpacing(8);
    column->addStretch(1);
    column->addSpacing(90);
    column->addWidget(centred("Drop surface files here", 19, QFont::DemiBold, workshop_.paper().ink));
    column->addWidget(
        centred(QString("%1, one or many. Nothing is changed on reading; every check runs at once, and each finding "
                        "becomes a mark on the strings below.")
                    .arg(QString::fromStdString(io::formatTitles())),
                13, QFont::Normal, workshop_.paper().quiet));
    auto* open = new QPushButton("Open files …");
    open->setObjectName("main");
    connect(open, &QPushButton::clicked, this, &StartPage::openWanted);
    column->addSpacing(8);
    column->addWidget(open, 0, Qt::AlignHCenter);
    column->addSpacing(10);
    links_ = new QVBoxLayout;
    links_->setSpacing(1);
    column->addLayout(links_);
    column->addStretch(2);
    outer->addStretch(1);
    outer->addWidget(middle);
    outer->addStretch(1);
    connect(&workshop_.opening(), &session::Opening::recentChanged, this, &StartPage::rebuild);
    connect(&workshop_.saving(), &session::Saving::changed, this, &StartPage::rebuild);
    rebuild();
}

void StartPage::addLink(const QString& name, const QString& text, const QStringList& files) {
    auto* link = new QPushButton(text);
    link->setObjectName(name);
    link->setToolTip(files.join('\n'));
    link->setStyleSheet(QString("QPushButton { border: none; background: transparent; padding: 4px 10px; color: %1; }"
                                "QPushButton:hover, QPushButton:focus { background: %2; }")
                            .arg(workshop_.paper().spruce.name(), workshop_.paper().chosen.name()));
    connect(link, &QPushButton::clicked, this, [this, files] { workshop_.opening().open(files); });
    links_->addWidget(link, 0, Qt::AlignHCenter);
}

// Before anything else: what was not saved.
void StartPage::addLeftBehind() {
    const auto& left = workshop_.saving().leftBehind();
    if (left.empty()) return;
    QStringList parts;
    for (const session::Saving::Left& l : left) parts << l.parts;
    const QString names = parts.size() > 3 ? QString("%1 parts").arg(parts.size()) : parts.join(", ");
    links_->addWidget(centred(
        QString("Unsaved work of %1: %2").arg(QLocale().toString(left.front().when, QLocale::ShortFormat), names), 12,
        QFont::DemiBold, workshop_.paper().ink));
    auto* row = new QHBoxLayout;
    row->addStretch(1);
    const auto add = [&](const QString& text, const QString& name, void (session::Saving::*run)()) {
        auto* button = new QPushButton(text);
        button->setObjectName(name);
        connect(button, &QPushButton::clicked, &workshop_.saving(), run);
        row->addWidget(button);
    };
    add("Bring it back", "bring-back", &session::Saving::bringBack);
    add("Throw it away", "throw-away", &session::Saving::throwAway);
    row->addStretch(1);
    auto* holder = new QWidget;
    holder->setLayout(row);
    links_->addWidget(holder);
    links_->addSpacing(8);
}

void StartPage::rebuild() {
    while (QLayoutItem* item = links_->takeAt(0)) {
        if (item->widget()) item->widget()->deleteLater();
        delete item;
    }
    addLeftBehind();
    QStringList recent;
    for (const QString& file : workshop_.opening().recentFiles())
        if (QFileInfo::exists(file) && recent.size() < mostRecent) recent << file;
    if (!recent.isEmpty()) links_->addWidget(centred("Lately", 11, QFont::DemiBold, workshop_.paper().quiet));
    for (const QString& file : recent)
        addLink("recent", QString("%1  ·  %2").arg(QFileInfo(file).fileName(), QFileInfo(file).dir().dirName()),
                {file});
    const QDir rig(sample_);
    QStringList parts;
    for (const QString& file : rig.entryList({"*.stl"}, QDir::Files, QDir::Name)) parts << rig.filePath(file);
    if (sample_.isEmpty() || parts.isEmpty()) return;
    links_->addSpacing(8);
    addLink("sample", QString("Look at the Skerry rig: %1 damaged parts to try things on").arg(parts.size()), parts);
}

void StartPage::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), workshop_.paper().sheet);
    // Strings over a bridge.
    const QPointF c(width() / 2.0, height() * 0.2);
    for (int i = 0; i < 7; ++i) {
        painter.setPen(QPen(i % 2 == 0 ? workshop_.paper().wood : workshop_.paper().spruce, 1.2));
        painter.drawLine(c + QPointF(-110 + 6 * i, 9 * i - 30), c + QPointF(110 - 6 * i, 9 * i - 30));
    }
}

}  // namespace zither::desktop
