// Every change goes to the session at once and the list is laid out anew; the chosen step stays chosen.
#include "desktop/recipe_window.h"

#include <QCheckBox>
#include <QComboBox>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "desktop/theme.h"
#include "desktop/value_editor.h"
#include "session/reading/strings.h"

namespace zither::desktop {

using session::text;

namespace {

QPushButton* button(QLayout* row, const QString& name, const QString& tip, QObject* context,
                    const std::function<void()>& press) {
    auto* made = new QPushButton(name);
    made->setToolTip(tip);
    QObject::connect(made, &QPushButton::clicked, context, press);
    row->addWidget(made);
    return made;
}

void clear(QLayout* layout) {
    while (QLayoutItem* item = layout->takeAt(0)) {
        if (QWidget* widget = item->widget()) {
            // Gone at once, but deleted later: it may be the one that was clicked.
            widget->hide();
            widget->setParent(nullptr);
            widget->deleteLater();
        }
        if (item->layout()) clear(item->layout());
        delete item;
    }
}

}  // namespace

RecipeWindow::RecipeWindow(session::Workshop& workshop, Dialogs& dialogs, QWidget* parent)
    : QWidget(parent, Qt::Tool), workshop_(workshop), dialogs_(dialogs) {
    setObjectName("recipe");
    setWindowTitle("Recipe");
    resize(720, 520);
    auto* column = new QVBoxLayout(this);
    buildHead(column);
    buildSteps(column);
    buildFoot(column);
    connect(&recipes(), &session::Recipes::changed, this, &RecipeWindow::refresh);
    connect(&recipes(), &session::Recipes::tried, this, &RecipeWindow::refreshWould);
    connect(&workshop_.parts(), &session::Parts::changed, this, &RecipeWindow::refreshSince);
    connect(list_, &QListWidget::currentRowChanged, this, &RecipeWindow::refreshChosen);
    refresh();
    refreshSince();
    refreshWould();
}

void RecipeWindow::open() {
    if (recipes().calls().empty()) recipes().takeFromTrack();
    show();
    raise();
}

void RecipeWindow::buildHead(QVBoxLayout* column) {
    head_ = new QLabel;
    head_->setFont(typeface(14, QFont::DemiBold));
    column->addWidget(head_);
    auto* row = new QHBoxLayout;
    button(row, "From the track", "The steps on the way to the stop in front, since the one that stands beside", this,
           [this] { recipes().takeFromTrack(since_->currentData().toUInt()); });
    since_ = new QComboBox;
    since_->setObjectName("recipe-since");
    since_->setAccessibleName("Since which stop of the track");
    row->addWidget(since_);
    button(row, "Open …", "A recipe from a file", this, [this] {
        if (const QString file = dialogs_.recipeToRun(this); !file.isEmpty()) recipes().open(file);
    });
    button(row, "Save …", "As a file that runs here, on the command line and in batches", this, [this] {
        const QString file =
            dialogs_.recipeToSave(this, QFileInfo(recipes().name()).completeBaseName() + "-recipe.json");
        if (!file.isEmpty()) recipes().saveTo(file);
    });
    row->addStretch(1);
    column->addLayout(row);
    repairFirst_ = new QCheckBox("Repair first");
    repairFirst_->setObjectName("recipe-repair-first");
    repairFirst_->setToolTip("The automatic repair goes before the steps, with the answers that the recipe has");
    connect(repairFirst_, &QCheckBox::toggled, this, [this](bool first) { recipes().setRepairFirst(first); });
    column->addWidget(repairFirst_);
}

// Of the part in front: the stops that a stretch of its track can begin behind.
void RecipeWindow::refreshSince() {
    const session::Part* part = workshop_.parts().current();
    const std::vector<project::StopId> path =
        part ? part->track.pathTo(part->track.current()) : std::vector<project::StopId>();
    const QVariant chosen = since_->currentData();
    since_->clear();
    since_->addItem("since the import", 0U);
    for (std::size_t i = 1; i + 1 < path.size(); ++i)
        since_->addItem(QString("since %1 (%2)").arg(text(part->track.stop(path[i]).label)).arg(i), path[i]);
    since_->setCurrentIndex(std::max(0, since_->findData(chosen)));
    since_->setEnabled(since_->count() > 1);
}

void RecipeWindow::buildSteps(QVBoxLayout* column) {
    auto* row = new QHBoxLayout;
    auto* left = new QVBoxLayout;
    list_ = new QListWidget;
    list_->setObjectName("recipe-steps");
    list_->setAccessibleName("Steps of the recipe, in their order");
    list_->setWordWrap(true);
    left->addWidget(list_, 1);
    auto* buttons = new QHBoxLayout;
    const auto chosen = [this] { return static_cast<std::size_t>(std::max(0, list_->currentRow())); };
    for (const auto& [name, tip, by] :
         {std::tuple{"Earlier", "Before the step above it", -1}, {"Later", "Behind the step below it", 1}})
        button(buttons, name, tip, this, [this, chosen, by = by] {
            const int to = list_->currentRow() + by;
            recipes().move(chosen(), by);
            if (to >= 0 && to < list_->count()) list_->setCurrentRow(to);
        });
    button(buttons, "Take out", "The step is not in the recipe any more", this,
           [this, chosen] { recipes().remove(chosen()); });
    auto* more = new QComboBox;
    more->setObjectName("recipe-add");
    more->setAccessibleName("Add a step");
    more->addItem("Add a step …");
    for (const steps::Step& step : steps::catalogue())
        if (!step.byHand) more->addItem(text(step.title), text(step.name));
    connect(more, &QComboBox::activated, this, [this, more](int i) {
        if (const steps::Step* step = steps::findStep(more->itemData(i).toString().toStdString())) {
            recipes().add(*step);
            list_->setCurrentRow(list_->count() - 1);
        }
        more->setCurrentIndex(0);
    });
    buttons->addWidget(more, 1);
    left->addLayout(buttons);
    row->addLayout(left, 1);
    auto* scroll = new QScrollArea;
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    chosen_ = new QWidget;
    values_ = new QVBoxLayout(chosen_);
    values_->setContentsMargins(14, 4, 4, 4);
    scroll->setWidget(chosen_);
    row->addWidget(scroll, 1);
    column->addLayout(row, 1);
}

void RecipeWindow::buildFoot(QVBoxLayout* column) {
    auto* row = new QHBoxLayout;
    button(row, "Say what it would do", "Runs it on the chosen parts and keeps nothing", this,
           [this] { recipes().tryOut(); });
    button(row, "Run it", "On the chosen parts; each step becomes a stop", this, [this] {
        recipes().run();
    })->setObjectName("main");
    row->addStretch(1);
    column->addLayout(row);
    would_ = new QPlainTextEdit;
    would_->setObjectName("recipe-would");
    would_->setAccessibleName("What the recipe would do");
    would_->setReadOnly(true);
    would_->setFixedHeight(110);
    column->addWidget(would_);
}

void RecipeWindow::refresh() {
    const auto& calls = recipes().calls();
    head_->setText(
        QString("%1 – %2 %3").arg(recipes().name()).arg(calls.size()).arg(calls.size() == 1 ? "step" : "steps"));
    {
        const QSignalBlocker quiet(repairFirst_);
        repairFirst_->setChecked(recipes().recipe().repair.has_value());
        const std::size_t answers = recipes().recipe().repair ? recipes().recipe().repair->answers.size() : 0;
        repairFirst_->setText(
            answers == 0 ? QString("Repair first")
                         : QString("Repair first, with %1 %2").arg(answers).arg(answers == 1 ? "answer" : "answers"));
    }
    const int row = list_->currentRow();
    {
        const QSignalBlocker quiet(list_);
        list_->clear();
        for (std::size_t i = 0; i < calls.size(); ++i)
            list_->addItem(QString("%1  %2\n%3").arg(i + 1).arg(text(calls[i].step->title), recipes().inWords(i)));
        list_->setCurrentRow(std::clamp(row, 0, std::max(0, list_->count() - 1)));
    }
    refreshChosen();
}

void RecipeWindow::refreshChosen() {
    clear(values_);
    const int row = list_->currentRow();
    if (row < 0 || static_cast<std::size_t>(row) >= recipes().calls().size()) {
        values_->addWidget(new QLabel("Take the steps from the track, open a recipe, or add a step."));
        values_->addStretch(1);
        return;
    }
    const auto i = static_cast<std::size_t>(row);
    const steps::StepCall& call = recipes().calls()[i];
    auto* title = new QLabel(text(call.step->title));
    title->setFont(typeface(13, QFont::DemiBold));
    values_->addWidget(title);
    auto* summary = new QLabel(text(call.step->summary));
    summary->setWordWrap(true);
    values_->addWidget(summary);
    if (!call.pick.empty()) {
        auto* pick = new QLabel(QString("Works on %1")
                                    .arg(call.isByHand() ? "triangles picked by hand: this part alone"
                                                         : QString::fromStdString(call.pick)));
        pick->setStyleSheet(
            QString("color: %1;").arg((call.isByHand() ? workshop_.paper().fails : workshop_.paper().quiet).name()));
        pick->setWordWrap(true);
        values_->addWidget(pick);
    }
    for (const steps::Parameter& parameter : call.step->parameters)
        if (!parameter.retired || call.given.contains(parameter.name)) addValue(i, parameter);
    addCondition(i);
    values_->addStretch(1);
}

void RecipeWindow::addValue(std::size_t i, const steps::Parameter& parameter) {
    const steps::StepCall& call = recipes().calls()[i];
    const auto given = call.given.find(parameter.name);
    auto* row = new QHBoxLayout;
    auto* fixed = new QCheckBox(text(parameter.name));
    fixed->setObjectName("recipe-fixed-" + text(parameter.name));
    fixed->setToolTip(QString("%1. Unticked: %2")
                          .arg(QString::fromStdString(steps::helpOf(parameter)),
                               parameter.propose ? "proposed from each part" : "as usual"));
    fixed->setChecked(given != call.given.end());
    const steps::Value value = given != call.given.end() ? given->second : recipes().proposed(i, parameter);
    connect(fixed, &QCheckBox::toggled, this, [this, i, p = &parameter, value](bool on) {
        recipes().set(i, *p, on ? std::optional(value) : std::nullopt);
    });
    row->addWidget(fixed);
    row->addStretch(1);
    if (given == call.given.end()) {
        auto* word = new QLabel(parameter.propose ? "as the part asks" : "as usual");
        word->setStyleSheet(QString("color: %1;").arg(workshop_.paper().quiet.name()));
        row->addWidget(word);
    } else {
        // Not at once: the editor that is typed in is gone once the values are laid out anew.
        row->addWidget(valueEditor({workshop_, dialogs_}, {*call.step, parameter, given->second},
                                   [this, i, p = &parameter](const steps::Value& v) {
                                       QMetaObject::invokeMethod(
                                           this, [this, i, p, v] { recipes().set(i, *p, v); }, Qt::QueuedConnection);
                                   }));
    }
    values_->addLayout(row);
}

void RecipeWindow::addCondition(std::size_t i) {
    auto* row = new QHBoxLayout;
    row->addWidget(new QLabel("Runs"));
    auto* box = new QComboBox;
    box->setObjectName("recipe-only-if");
    box->setEditable(true);
    box->setInsertPolicy(QComboBox::NoInsert);
    box->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
    box->setMinimumContentsLength(18);
    box->setToolTip(
        "Always, or only where the part as it stands then does not meet a requirement of a brief: its id, with a limit "
        "where it needs one (smallest_angle:5)");
    box->addItem("always", QString());
    for (const steps::Measure& measure : steps::measures())
        if (!measure.ofImport && !measure.atLeast && !measure.listen)
            box->addItem("only if " + text(measure.title), text(measure.id));
    const QString now = QString::fromStdString(recipes().calls()[i].onlyIf);
    if (box->findData(now) < 0) box->addItem("only if " + now, now);
    box->setCurrentIndex(box->findData(now));
    const auto set = [this, i, box, now](const QString& condition) {
        if (condition == now) return;
        QMetaObject::invokeMethod(
            this,
            [this, i, condition] {
                if (!recipes().setOnlyIf(i, condition)) refreshChosen();
            },
            Qt::QueuedConnection);
    };
    connect(box, &QComboBox::activated, this, [box, set](int k) { set(box->itemData(k).toString()); });
    connect(box->lineEdit(), &QLineEdit::editingFinished, this, [box, set] {
        // What was typed, where it is none of the list.
        if (box->findText(box->currentText()) < 0) set(box->currentText().remove("only if ").trimmed());
    });
    row->addWidget(box, 1);
    values_->addLayout(row);
}

void RecipeWindow::refreshWould() {
    QStringList lines;
    for (const session::Recipes::Would& would : recipes().would()) {
        lines << would.part;
        for (const QString& sentence : would.sentences) lines << "    " + sentence;
    }
    would_->setPlainText(lines.isEmpty() ? "What each step would do stands here, before anything is kept."
                                         : lines.join('\n'));
}

}  // namespace zither::desktop
