// Rows that are buttons; the line on top finds steps by what people call them.
#include "desktop/steps_list.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>
#include <functional>

#include "desktop/theme.h"
#include "session/reading/number_text.h"
#include "session/reading/word_search.h"

namespace zither::desktop {

using session::text;

namespace {
constexpr std::size_t mostFound = 8;
const int measureKey = 0;

QString rowStyle(bool open, const session::Paper& paper) {
    return QString(
               "QPushButton { border: none; border-bottom: 1px solid %1; border-radius: 0; background: transparent; "
               "text-align: left; padding: 5px 4px; font-weight: %2; }"
               "QPushButton:hover, QPushButton:focus { background: %3; }")
        .arg(paper.line.name(), open ? "600" : "400", paper.chosen.name());
}

}  // namespace

StepsList::StepsList(session::DeskModel& desk, const QList<QAction*>& measures, State& state)
    : desk_(desk), measures_(measures), state_(state) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(4);
    auto* head = new QHBoxLayout;
    auto* title = new QLabel("ALL STEPS");
    title->setFont(typeface(11, QFont::DemiBold));
    title->setStyleSheet(QString("color: %1;").arg(desk_.preferences().paper().quiet.name()));
    input_ = new QLineEdit(state_.typed);
    input_->setObjectName("find-step");
    input_->setPlaceholderText("decimate, weld, union …");
    input_->setAccessibleName("Find a step by any word for it");
    input_->setFont(typeface(11));
    input_->setClearButtonEnabled(true);
    head->addWidget(title);
    head->addWidget(input_, 1);
    column->addLayout(head);
    content_ = new QWidget;
    layout_ = new QVBoxLayout(content_);
    layout_->setContentsMargins(0, 0, 0, 0);
    layout_->setSpacing(0);
    column->addWidget(content_);
    connect(input_, &QLineEdit::textChanged, this, [this](const QString& typed) {
        state_.typed = typed;
        rebuild();
    });
    connect(input_, &QLineEdit::returnPressed, this, [this] {
        const auto found = session::findSteps(state_.typed);
        if (!state_.typed.trimmed().isEmpty() && !found.empty()) Q_EMIT stepWanted(*found.front().step);
    });
    rebuild();
}

void StepsList::rebuild() {
    while (QLayoutItem* item = layout_->takeAt(0)) {
        if (QWidget* old = item->widget()) {
            old->hide();
            old->deleteLater();
        }
        delete item;
    }
    state_.typed.trimmed().isEmpty() ? addFamilies() : addFound();
}

void StepsList::addStep(const steps::Step& step, const QString& through) {
    auto* button = new QPushButton(through.isEmpty() || through == text(step.name)
                                       ? text(step.title)
                                       : QString("%1  ·  %2").arg(text(step.title), through));
    button->setObjectName("open-" + text(step.name));
    button->setToolTip(text(step.summary));
    button->setAccessibleDescription(text(step.summary));
    button->setStyleSheet(rowStyle(false, desk_.preferences().paper()) + "QPushButton { padding-left: 14px; }");
    connect(button, &QPushButton::clicked, this, [this, &step] { Q_EMIT stepWanted(step); });
    layout_->addWidget(button);
}

void StepsList::addFound() {
    const auto found = session::findSteps(state_.typed);
    for (std::size_t i = 0; i < std::min(mostFound, found.size()); ++i) addStep(*found[i].step, found[i].through);
    if (!found.empty()) return;
    auto* none = new QLabel(QString("No step is known by \"%1\". Ctrl+K looks among all commands.").arg(state_.typed));
    none->setWordWrap(true);
    none->setObjectName("quiet");
    layout_->addWidget(none);
}

void StepsList::addFamily(const void* key, const QString& title, const QStringList& names,
                          const std::function<void()>& addContent) {
    const bool open = state_.open.contains(key);
    auto* row = new QPushButton;
    row->setObjectName("family-" + title.toLower().replace(' ', '-'));
    row->setAccessibleName(title);
    row->setAccessibleDescription(names.join(", "));
    row->setStyleSheet(rowStyle(open, desk_.preferences().paper()));
    row->setFixedHeight(29);
    // Two kinds of type in one row: labels over the button.
    auto* inner = new QHBoxLayout(row);
    inner->setContentsMargins(4, 0, 4, 1);
    auto* name = new QLabel(title);
    name->setFont(typeface(12, QFont::DemiBold));
    auto* holds = new QLabel;
    holds->setFont(typeface(11));
    holds->setStyleSheet(QString("color: %1;").arg(desk_.preferences().paper().quiet.name()));
    constexpr int roomForNames = 250;
    const int left = roomForNames - name->fontMetrics().horizontalAdvance(title) - 30;
    holds->setText(open ? QString() : holds->fontMetrics().elidedText(names.join(" · "), Qt::ElideRight, left));
    auto* sign = new QLabel(open ? "⌄" : "›");
    sign->setStyleSheet(QString("color: %1;").arg(desk_.preferences().paper().quiet.name()));
    for (QLabel* l : {name, holds, sign}) l->setAttribute(Qt::WA_TransparentForMouseEvents);
    inner->addWidget(name);
    inner->addWidget(holds, 1);
    inner->addWidget(sign);
    connect(row, &QPushButton::clicked, this, [this, key] {
        if (state_.open.erase(key) == 0) state_.open.insert(key);
        rebuild();
    });
    layout_->addWidget(row);
    if (open) addContent();
}

void StepsList::addFamilies() {
    for (const steps::Family& family : steps::families()) {
        QStringList names;
        for (const steps::Step& step : steps::catalogue())
            if (step.family == &family) names << text(step.name).replace('-', ' ');
        addFamily(&family, text(family.title), names, [&] {
            for (const steps::Step& step : steps::catalogue())
                if (step.family == &family) addStep(step, {});
        });
    }
    QStringList names;
    for (const QAction* measure : measures_) names << measure->property("short").toString();
    if (measures_.isEmpty()) return;
    addFamily(&measureKey, "Measure", names, [&] {
        for (QAction* measure : measures_) {
            auto* button = new QPushButton(measure->text());
            button->setStyleSheet(rowStyle(false, desk_.preferences().paper()) + "QPushButton { padding-left: 14px; }");
            connect(button, &QPushButton::clicked, measure, &QAction::trigger);
            layout_->addWidget(button);
        }
    });
}

}  // namespace zither::desktop
