// The plan is the session's; this shows it and hands on what is typed.
#include "desktop/export_window.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileInfo>
#include <QFormLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "desktop/theme.h"
#include "session/reading/number_text.h"
#include "session/reading/strings.h"

namespace zither::desktop {

using session::text;
using Which = session::Exporting::Which;

namespace {

constexpr qsizetype mostLines = 6;

QLabel* paragraph(const QString& name, const QColor& ink) {
    auto* made = new QLabel;
    made->setObjectName(name);
    made->setWordWrap(true);
    made->setFont(typeface(12));
    made->setStyleSheet(QString("color: %1;").arg(ink.name()));
    return made;
}

QString firstOf(const QStringList& lines) {
    QStringList shown = lines.mid(0, mostLines);
    if (lines.size() > mostLines) shown << QString("… and %1 more").arg(lines.size() - mostLines);
    return shown.join('\n');
}

}  // namespace

ExportWindow::ExportWindow(session::Workshop& workshop, Dialogs& dialogs, QWidget* parent)
    : QWidget(parent, Qt::Tool), workshop_(workshop), dialogs_(dialogs) {
    setObjectName("export");
    setWindowTitle("Export");
    setFixedWidth(520);
    auto* column = new QVBoxLayout(this);
    column->setSpacing(10);
    auto* form = new QFormLayout;
    buildWhat(form);
    buildWhere(form);
    column->addLayout(form);
    files_ = paragraph("export.files", workshop_.paper().ink);
    remarks_ = paragraph("export.remarks", workshop_.paper().wood);
    verdict_ = paragraph("export.verdict", workshop_.paper().fails);
    for (QLabel* label : {files_, remarks_, verdict_}) column->addWidget(label);
    buildButtons(column);
    connect(&plan(), &session::Exporting::changed, this, &ExportWindow::refresh);
    connect(&workshop_.parts(), &session::Parts::changed, this, &ExportWindow::refresh);
    connect(&workshop_.looks(), &session::Looks::changed, this, &ExportWindow::refresh);
    connect(&workshop_.judging(), &session::Judging::changed, this, &ExportWindow::refresh);
}

void ExportWindow::buildWhat(QFormLayout* form) {
    which_ = new QComboBox;
    which_->setObjectName("export.which");
    connect(which_, &QComboBox::activated, this, [this](int i) { plan().setWhich(static_cast<Which>(i)); });
    form->addRow("What", which_);
    format_ = new QComboBox;
    format_->setObjectName("export.format");
    for (const io::Format* f : io::writableFormats())
        format_->addItem(QString("%1, %2").arg(text(f->title), text(f->written)), text(f->name));
    connect(format_, &QComboBox::activated, this,
            [this](int i) { plan().setFormat(*io::writableFormats()[static_cast<std::size_t>(i)]); });
    form->addRow("As", format_);
    together_ = new QCheckBox("All in one file, each under its name");
    together_->setObjectName("export.together");
    connect(together_, &QCheckBox::toggled, this, [this](bool on) {
        if (on != plan().together()) plan().setTogether(on);
    });
    form->addRow(QString(), together_);
}

void ExportWindow::buildWhere(QFormLayout* form) {
    folder_ = new QLineEdit;
    folder_->setObjectName("export.folder");
    folder_->setPlaceholderText("beside what was read");
    connect(folder_, &QLineEdit::textChanged, this,
            [this](const QString& folder) { plan().setFolder(folder.trimmed()); });
    form->addRow("Folder", folder_);
    name_ = new QLineEdit;
    name_->setObjectName("export.name");
    name_->setToolTip("{name} stands for the part's name, {step} for its last step");
    connect(name_, &QLineEdit::textChanged, this, [this](const QString& name) { plan().setPattern(name); });
    form->addRow("Name", name_);
    for (const QLineEdit* line : {folder_, name_})
        connect(line, &QLineEdit::returnPressed, this, [this] {
            if (write_->isEnabled()) write();
        });
}

void ExportWindow::buildButtons(QVBoxLayout* column) {
    auto* row = new QHBoxLayout;
    auto* elsewhere = new QPushButton("Choose a file …");
    connect(elsewhere, &QPushButton::clicked, this, [this] {
        const auto files = plan().files();
        const QString file = dialogs_.fileToExport(this, files.empty() ? QString() : files.front().path);
        if (!file.isEmpty()) plan().setFile(file);
    });
    row->addWidget(elsewhere);
    row->addStretch(1);
    mend_ = new QPushButton("Mend first");
    connect(mend_, &QPushButton::clicked, this, [this] {
        hide();
        if (plan().which() == Which::All) workshop_.parts().chooseAll();
        workshop_.repair();
    });
    row->addWidget(mend_);
    write_ = new QPushButton;
    write_->setObjectName("main");
    connect(write_, &QPushButton::clicked, this, &ExportWindow::write);
    row->addWidget(write_);
    column->addLayout(row);
}

void ExportWindow::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    refresh();
    name_->setFocus();
    name_->selectAll();
}

void ExportWindow::write() {
    hide();
    plan().write();
}

void ExportWindow::refresh() {
    if (!isVisible()) return;
    const std::size_t all = workshop_.parts().all().size();
    const std::size_t chosen = workshop_.parts().chosenIds().size();
    const session::Part* front = workshop_.parts().current();
    which_->clear();
    which_->addItem(front ? front->name : QString("no part"));
    which_->addItem(QString("the %1 chosen parts").arg(chosen));
    which_->addItem(QString("all %1 parts").arg(all));
    which_->setCurrentIndex(static_cast<int>(plan().which()));
    format_->setCurrentIndex(format_->findData(text(plan().format().name)));
    together_->setEnabled(plan().canBeTogether());
    together_->setChecked(plan().together());
    if (folder_->text().trimmed() != plan().folder()) folder_->setText(plan().folder());
    if (name_->text() != plan().pattern()) name_->setText(plan().pattern());
    QStringList files;
    for (const auto& file : plan().files()) files << file.path;
    const QString problem = plan().problem();
    files_->setText(problem.isEmpty() ? firstOf(files) : problem);
    files_->setStyleSheet(
        QString("color: %1;").arg((problem.isEmpty() ? workshop_.paper().ink : workshop_.paper().fails).name()));
    remarks_->setText(firstOf(plan().remarks()));
    remarks_->setVisible(!remarks_->text().isEmpty());
    const QStringList failing = plan().failing();
    verdict_->setText(
        failing.isEmpty()
            ? QString("In tune with the brief %1.").arg(QString::fromStdString(workshop_.judging().chosen().title))
            : "Not in tune:\n" + firstOf(failing));
    verdict_->setStyleSheet(
        QString("color: %1;").arg((failing.isEmpty() ? workshop_.paper().spruce : workshop_.paper().fails).name()));
    mend_->setVisible(!failing.isEmpty());
    write_->setText(failing.isEmpty() ? "Write it" : "Write it as it is");
    write_->setEnabled(problem.isEmpty());
    adjustSize();
}

}  // namespace zither::desktop
