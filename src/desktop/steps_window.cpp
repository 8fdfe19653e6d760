// What the track knows already; how far each stop lies from the import is worked out while the table is open.
#include "desktop/steps_window.h"

#include <QClipboard>
#include <QGuiApplication>
#include <QHeaderView>
#include <QPushButton>
#include <QTableWidget>
#include <QVBoxLayout>
#include <algorithm>
#include <cmath>

#include "desktop/theme.h"
#include "session/reading/number_text.h"

namespace zither::desktop {

using session::spaced;

namespace {
const QStringList columns = {"stop",     "triangles", "shells", "volume",  "open edges",
                             "crossing", "deviation", "lost",   "seconds", "what it did"};
}

StepsWindow::StepsWindow(session::Workshop& workshop, QWidget* parent)
    : QWidget(parent, Qt::Tool), workshop_(workshop) {
    setObjectName("steps-table");
    setWindowTitle("What each step did");
    resize(860, 320);
    auto* column = new QVBoxLayout(this);
    table_ = new QTableWidget;
    table_->setColumnCount(static_cast<int>(columns.size()));
    table_->setHorizontalHeaderLabels(columns);
    table_->setEditTriggers(QAbstractItemView::NoEditTriggers);
    table_->setSelectionBehavior(QAbstractItemView::SelectRows);
    table_->verticalHeader()->hide();
    table_->horizontalHeader()->setStretchLastSection(true);
    table_->setShowGrid(false);
    column->addWidget(table_);
    auto* copy = new QPushButton("Copy as text");
    connect(copy, &QPushButton::clicked, this, [this] { QGuiApplication::clipboard()->setText(asText()); });
    column->addWidget(copy, 0, Qt::AlignLeft);
    connect(&workshop_.parts(), &session::Parts::changed, this, &StepsWindow::refresh);
    connect(&workshop_.looks(), &session::Looks::changed, this, &StepsWindow::refresh);
    connect(&workshop_.stopFigures(), &session::StopFigures::changed, this, &StepsWindow::refresh);
    // A row leads to its stop.
    connect(table_, &QTableWidget::cellDoubleClicked, this,
            [this](int row) { workshop_.goTo(table_->item(row, 0)->data(Qt::UserRole).value<project::StopId>()); });
}

void StepsWindow::showEvent(QShowEvent*) {
    workshop_.stopFigures().setWanted(true);
    refresh();
}

void StepsWindow::hideEvent(QHideEvent*) {
    workshop_.stopFigures().setWanted(false);
}

void StepsWindow::refresh() {
    if (!isVisible()) return;
    table_->setRowCount(0);
    const session::Part* part = workshop_.parts().current();
    if (!part) return;
    for (const project::StopId id : part->track.pathTo(part->track.current())) {
        const project::Stop& stop = part->track.stop(id);
        const int row = table_->rowCount();
        table_->insertRow(row);
        const auto known = stop.part->known();
        const auto told = [&](auto value) { return known ? value(*known) : QString("–"); };
        QStringList cells = {QString::fromStdString(stop.label), spaced(stop.part->mesh().triangles.size())};
        cells << told([](const check::Survey& s) { return spaced(s.counts.shells); })
              << told([&](const check::Survey& s) { return workshop_.numbers().shortNumber(s.mass.volume); })
              << told([](const check::Survey& s) { return spaced(s.counts.boundaryEdges); })
              << told([](const check::Survey& s) { return spaced(s.counts.selfIntersectingTriangles); });
        const auto figures = workshop_.stopFigures().of(id);
        cells << (figures   ? workshop_.numbers().shortNumber(figures->deviation)
                  : id == 0 ? QString()
                            : QString("…"))
              << (figures   ? workshop_.numbers().shortNumber(100 * figures->lost) + " %"
                  : id == 0 ? QString()
                            : QString("…"))
              << (id == 0 ? QString() : workshop_.numbers().shortNumber(stop.seconds));
        QStringList did;
        for (const std::string& sentence : stop.record.sentences) did << QString::fromStdString(sentence);
        cells << did.join(' ');
        for (int i = 0; i < cells.size(); ++i) {
            auto* item = new QTableWidgetItem(cells[i]);
            item->setToolTip(cells[i]);
            item->setData(Qt::UserRole, QVariant::fromValue(id));
            if (i > 0 && i + 1 < cells.size()) item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            table_->setItem(row, i, item);
        }
    }
    table_->resizeColumnsToContents();
}

QString StepsWindow::asText() const {
    QStringList lines = {columns.join('\t')};
    for (int row = 0; row < table_->rowCount(); ++row) {
        QStringList cells;
        for (int i = 0; i < table_->columnCount(); ++i) cells << table_->item(row, i)->text();
        lines << cells.join('\t');
    }
    return lines.join('\n');
}

}  // namespace zither::desktop
