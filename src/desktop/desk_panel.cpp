// Lays out what the desk's model says; it is built anew when the page changes.
#include "desktop/desk_panel.h"

#include <QDoubleSpinBox>
#include <QFileInfo>
#include <QGridLayout>
#include <QLabel>
#include <QListWidget>
#include <QLocale>
#include <QPushButton>
#include <QToolButton>
#include <algorithm>
#include <cmath>

#include "check/worse.h"
#include "desktop/gap_histogram.h"
#include "desktop/theme.h"
#include "desktop/trade_off_curve.h"
#include "desktop/value_editor.h"
#include "measure/loss.h"
#include "session/reading/next_steps.h"
#include "session/reading/strings.h"

namespace zither::desktop {

using session::spaced;
using session::text;

namespace {

constexpr std::size_t mostPlaces = 400;

// A frame in which everything of one step stands.
QFrame* card(QVBoxLayout*& inner) {
    auto* frame = new QFrame;
    frame->setObjectName("card");
    inner = new QVBoxLayout(frame);
    inner->setContentsMargins(11, 9, 11, 10);
    inner->setSpacing(5);
    return frame;
}

QLabel* label(const QString& content, int pixels, QFont::Weight weight, const QColor& colour) {
    auto* l = new QLabel(content);
    l->setFont(typeface(pixels, weight));
    l->setWordWrap(true);
    l->setStyleSheet(QString("color: %1;").arg(colour.name()));
    l->setTextInteractionFlags(Qt::TextSelectableByMouse);
    return l;
}

// Each as many lines long as it needs.
QListWidget* listOfSentences(const QString& name) {
    auto* list = new QListWidget;
    list->setObjectName(name);
    list->setFont(typeface(11));
    list->setWordWrap(true);
    list->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    return list;
}

QString placesText(std::size_t count) {
    return QString("%1 %2").arg(spaced(count), count == 1 ? "place" : "places");
}

QString signedNumber(double value, const session::Numbers& numbers) {
    return value > 0 ? "+" + numbers.shortNumber(value) : numbers.shortNumber(value);
}

}  // namespace

DeskPanel::DeskPanel(session::Workshop& workshop, session::DeskModel& desk, Dialogs& dialogs, QWidget* parent)
    : QScrollArea(parent), workshop_(workshop), dialogs_(dialogs), desk_(desk) {
    setObjectName("desk");
    setFixedWidth(268);
    setWidgetResizable(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    connect(&desk_, &session::DeskModel::changed, this, &DeskPanel::rebuild);
    connect(&desk_, &session::DeskModel::figuresChanged, this, &DeskPanel::refreshFigures);
    connect(&workshop_.trial(), &session::Trial::measured, this, &DeskPanel::sayDeviation);
    connect(&desk_, &session::DeskModel::valuesChanged, this, [this] {
        if (foreseen_ && desk_.edited()) foreseen_->setText(desk_.foreseen(*desk_.edited()));
    });
    rebuild();
}

QLabel* DeskPanel::addText(const QString& content, int pixels, bool strong, bool quiet) {
    QLabel* l = label(content, pixels, strong ? QFont::DemiBold : QFont::Normal,
                      quiet ? workshop_.paper().quiet : workshop_.paper().ink);
    layout_->addWidget(l);
    return l;
}

void DeskPanel::rebuild() {
    auto* content = new QWidget;
    content->setObjectName("ground");
    figures_ = nullptr;
    deviation_ = nullptr;
    places_ = nullptr;
    foreseen_ = nullptr;
    layout_ = new QVBoxLayout(content);
    layout_->setContentsMargins(14, 12, 14, 14);
    layout_->setSpacing(8);
    addPage(desk_.page());
    layout_->addStretch(1);
    // A button of the old content may be the one that asked for this: it must live until its click is over.
    if (QWidget* old = takeWidget()) {
        old->hide();
        old->deleteLater();
    }
    setWidget(content);
    refreshFigures();
}

void DeskPanel::addPage(const session::DeskPage& page) {
    using session::DeskPage;
    if (page.kind == DeskPage::Delivered) return addDelivered();
    if (page.kind == DeskPage::Empty)
        addText("What is chosen, and what to do about it, will stand here.", 12, false, true);
    if (page.kind == DeskPage::Judging) addJudging();
    if (!workshop_.looks().kept() && page.kind != DeskPage::Step) return;
    if (!workshop_.picking().pick().everything()) addPickHead();
    if (page.kind == DeskPage::Step) addStepCard(*page.step, true);
    if (page.kind == DeskPage::Class) addClass(*page.defect);
    if (page.kind == DeskPage::Pick) {
        allSteps_.open.insert(&steps::familyByHand);
        addStepsList();
    }
    if (page.kind == DeskPage::Overview) addOverview();
}

// ---- nothing chosen

void DeskPanel::setMeasures(const QList<QAction*>& measures) {
    measures_ = measures;
    rebuild();
}

void DeskPanel::addHeading(const QString& heading, const QString& aside) {
    auto* row = new QHBoxLayout;
    row->addWidget(label(heading, 11, QFont::DemiBold, workshop_.paper().quiet), 1);
    if (!aside.isEmpty()) row->addWidget(label(aside, 11, QFont::Normal, workshop_.paper().quiet));
    layout_->addSpacing(4);
    layout_->addLayout(row);
}

// Work can begin meanwhile.
void DeskPanel::addJudging() {
    if (workshop_.looks().listening()) {
        addText("Judging …", 16, true, true);
        addText("Each string tells when its check is done. Steps can be tried meanwhile.", 12, false, true);
    } else {
        addText("Not judged", 16, true, true);
        auto* judge = new QPushButton("Judge this part");
        connect(judge, &QPushButton::clicked, &workshop_.looks(), &session::Looks::refresh);
        layout_->addWidget(judge);
    }
    addStepsList();
}

void DeskPanel::addOverview() {
    addVerdict();
    addUse();
    addNext();
    addQuestions();
    addStepsList();
}

void DeskPanel::addVerdict() {
    const session::Part& part = *workshop_.parts().current();
    const check::Survey& s = *workshop_.looks().kept()->survey;
    const QString verdict = s.solid ? "Solid" : s.watertight ? "Watertight, not solid" : "Not watertight";
    auto* row = new QHBoxLayout;
    QLabel* head = label(verdict, 16, QFont::DemiBold, s.solid ? workshop_.paper().spruce : workshop_.paper().fails);
    head->setObjectName("soundness");
    head->setWordWrap(false);
    row->addWidget(head, 1);
    QLabel* volume =
        label(s.watertight ? QString("%1 %2³").arg(workshop_.numbers().shortNumber(s.mass.volume), part.unit().name)
                           : QString(),
              12, QFont::Normal, workshop_.paper().quiet);
    volume->setToolTip("Volume. Ctrl+I tells all numbers of the part.");
    row->addWidget(volume);
    layout_->addLayout(row);
    if (part.unit().assumed)
        addText(QString("%1 carries no unit; %2 is assumed.").arg(text(part.format->title), part.unit().name), 11,
                false, true);
    for (const std::string& remark : part.remarks) addText(QString::fromStdString(remark) + ".", 11, false, true);
}

// What the surface is for, asked once; not to know is an answer.
void DeskPanel::addUse() {
    if (workshop_.judging().wasAsked()) return;
    QVBoxLayout* inner = nullptr;
    layout_->addWidget(card(inner));
    inner->addWidget(
        label("What is it for? Its brief says what has to be in tune.", 11, QFont::Normal, workshop_.paper().ink));
    auto* grid = new QGridLayout;
    grid->setSpacing(6);
    int i = 0;
    const auto add = [&](const QString& name, const std::function<void()>& answer) {
        auto* button = new QPushButton(name);
        button->setStyleSheet("padding: 4px 6px;");
        connect(button, &QPushButton::clicked, this, answer);
        grid->addWidget(button, i / 2, i % 2);
        ++i;
    };
    for (const steps::Brief& brief : steps::builtInBriefs())
        add(QString::fromStdString(brief.title), [this, &brief] { workshop_.judging().setBrief(brief); });
    add("Not sure", [this] {
        workshop_.judging().leaveAsItIs();
        rebuild();
    });
    inner->addLayout(grid);
}

// What this part calls for, each with its reason.
void DeskPanel::addNext() {
    const auto verdict = workshop_.judging().verdict();
    if (!verdict) return;
    const std::vector<session::NextStep> next = session::nextSteps(
        *workshop_.looks().kept(), *verdict, workshop_.numbers(), session::isRepaired(*workshop_.parts().current()));
    addHeading("NEXT");
    if (next.empty()) {
        const auto& waiting = desk_.questions();
        const bool decides =
            std::any_of(waiting.begin(), waiting.end(), [](const session::QuestionGroup& g) { return !g.done; });
        addText(verdict->allMet() ? "All that the brief asks for is in tune. Export writes the part and reads it back."
                : decides         ? "What is left is for you to decide: it stands below."
                                  : "No step of its own helps with what is out of tune; its string says more.",
                12, false);
        return;
    }
    for (const session::NextStep& n : next) {
        auto* button = new QPushButton;
        button->setObjectName("next-" + text(n.step->name));
        button->setAccessibleName(text(n.step->title));
        button->setAccessibleDescription(n.reason);
        button->setToolTip(text(n.step->summary));
        // Two lines of type on a button.
        auto* inner = new QVBoxLayout(button);
        inner->setContentsMargins(11, 7, 11, 8);
        inner->setSpacing(2);
        QLabel* title = label(text(n.step->title), 12, QFont::DemiBold, workshop_.paper().ink);
        QLabel* reason = label(n.reason, 11, QFont::Normal, workshop_.paper().quiet);
        for (QLabel* l : {title, reason}) {
            l->setTextInteractionFlags(Qt::NoTextInteraction);
            l->setAttribute(Qt::WA_TransparentForMouseEvents);
            inner->addWidget(l);
        }
        constexpr int room = 230;
        button->setFixedHeight(title->heightForWidth(room) + reason->heightForWidth(room) + 19);
        connect(button, &QPushButton::clicked, this, [this, step = n.step] { desk_.showStep(*step); });
        layout_->addWidget(button);
    }
}

void DeskPanel::addStepsList() {
    auto* list = new StepsList(desk_, measures_, allSteps_);
    connect(list, &StepsList::stepWanted, this, [this](const steps::Step& step) {
        allSteps_.typed.clear();
        desk_.showStep(step);
    });
    layout_->addSpacing(4);
    layout_->addWidget(list);
}

// What is picked; it stands above whatever else is on the desk.
void DeskPanel::addPickHead() {
    const std::size_t count = workshop_.picking().pick().triangles().size();
    QLabel* head = addText(QString("%1 %2 picked").arg(spaced(count), count == 1 ? "triangle" : "triangles"), 16, true);
    head->setObjectName("picked");
    head->setStyleSheet(QString("color: %1;").arg(workshop_.paper().picked.name()));
    addText("Every step works on them alone. Shift and click or drag adds; a double click takes the whole shell.", 11,
            false, true);
    auto* row = new QWidget;
    auto* buttons = new QHBoxLayout(row);
    buttons->setContentsMargins(0, 0, 0, 0);
    const auto add = [&](const char* name, const std::function<void()>& change) {
        auto* button = new QPushButton(name);
        connect(button, &QPushButton::clicked, &workshop_, change);
        buttons->addWidget(button);
    };
    add("Grow", [this] { workshop_.picking().grow(); });
    add("Shrink", [this] { workshop_.picking().shrink(); });
    add("None", [this] { workshop_.picking().set({}); });
    layout_->addWidget(row);
}

void DeskPanel::addQuestions() {
    const std::vector<session::QuestionGroup>& all = desk_.questions();
    for (const bool done : {false, true}) {
        if (std::none_of(all.begin(), all.end(), [&](const auto& group) { return group.done == done; })) continue;
        addHeading(done ? "WHAT WAS DONE" : "FOR YOU TO DECIDE");
        for (const session::QuestionGroup& group : all)
            if (group.done == done) addQuestionGroup(group);
    }
}

// A list of the questions, largest first; what can be answered to the one that is chosen, and to all alike.
void DeskPanel::addQuestionGroup(const session::QuestionGroup& group) {
    QVBoxLayout* inner = nullptr;
    layout_->addWidget(card(inner));
    inner->addWidget(label(QString("%1 (%2)").arg(group.title, spaced(group.questions.size())), 12, QFont::DemiBold,
                           workshop_.paper().ink));
    if (!group.hint.isEmpty()) inner->addWidget(label(group.hint, 11, QFont::Normal, workshop_.paper().quiet));
    QListWidget* list = listOfSentences("questions-" + group.key);
    const std::size_t shown = std::min(mostPlaces, group.questions.size());
    for (std::size_t i = 0; i < shown; ++i) list->addItem(group.questions[i].text);
    list->setCurrentRow(0);
    constexpr int mostRows = 4;
    list->setFixedHeight(38 * std::min(mostRows, list->count()) + 6);
    inner->addWidget(list);
    if (group.questions.size() > shown)
        inner->addWidget(label(QString("… and %1 smaller ones").arg(spaced(group.questions.size() - shown)), 11,
                               QFont::Normal, workshop_.paper().quiet));
    connect(list, &QListWidget::itemClicked, this, [this, list, questions = group.questions] {
        const session::Question& q = questions[static_cast<std::size_t>(list->currentRow())];
        if (q.position) workshop_.choice().lookAt(*q.position, q.size);
    });
    const auto addRow = [&](const std::vector<session::Answer>& answers, const auto& answerNow) {
        if (answers.empty()) return;
        constexpr int room = 216;  // of a card
        auto* row = new QBoxLayout(QBoxLayout::LeftToRight);
        int wide = 0;
        for (std::size_t i = 0; i < answers.size(); ++i) {
            auto* button = new QPushButton(answers[i].name);
            connect(button, &QPushButton::clicked, this, [answerNow, i] { answerNow(i); });
            wide += button->sizeHint().width() + (i > 0 ? row->spacing() : 0);
            row->addWidget(button);
        }
        if (wide > room) row->setDirection(QBoxLayout::TopToBottom);
        inner->addLayout(row);
    };
    addRow(group.questions.front().answers, [this, list, questions = group.questions](std::size_t i) {
        desk_.answer(questions[static_cast<std::size_t>(list->currentRow())].answers[i]);
    });
    addRow(group.forAll, [this, answers = group.forAll](std::size_t i) { desk_.answer(answers[i]); });
}

// ---- a class of defect

void DeskPanel::addClass(check::DefectClass defect) {
    const std::size_t count = workshop_.choice().places(defect).size();
    QLabel* head = addText(text(defect->name), 16, true);
    head->setStyleSheet(QString("color: %1;").arg(workshop_.paper().inkOf(defect).name()));
    addText(placesText(count) + (workshop_.choice().slab() ? " in the slab" : ""), 11, false, true);
    addText(text(defect->sentence), 12, false);
    const auto helpful = session::DeskModel::stepsFor(defect);
    if (count > 0)
        for (const steps::Step* step : helpful) {
            if (desk_.proposal(*step).nothing)
                addText(QString("%1: nothing found that it would change.").arg(text(step->title)), 11, false, true);
            else
                addStepCard(*step, false);
        }
    if (count > 0 && helpful.empty())
        addText("No step of this version mends these yet; they are shown so that you know.", 12, false, true);
    if (count > 0) {
        auto* pickThem = new QPushButton("Pick their triangles");
        connect(pickThem, &QPushButton::clicked, this, [this] {
            workshop_.picking().pickPlaces();
            workshop_.choice().chooseClass(std::nullopt);
        });
        layout_->addWidget(pickThem);
        addPlaces(defect);
    }
    auto* back = new QPushButton("Back to the whole part");
    connect(back, &QPushButton::clicked, &desk_, &session::DeskModel::backToWhole);
    layout_->addWidget(back);
}

void DeskPanel::addPlaces(check::DefectClass defect) {
    addText("Places", 13, true);
    places_ = new QListWidget;
    places_->setObjectName("places");
    places_->setFont(typeface(11));
    const std::vector<std::size_t> all = workshop_.choice().places(defect);
    for (std::size_t i = 0; i < std::min(mostPlaces, all.size()); ++i) {
        const check::Finding& f = workshop_.looks().kept()->survey->findings.list[all[i]];
        auto* item = new QListWidgetItem(QString("%1 %2   at %3")
                                             .arg(workshop_.numbers().shortNumber(f.size),
                                                  workshop_.parts().current()->unit().name,
                                                  workshop_.numbers().placeText(f.position)));
        item->setData(Qt::UserRole, static_cast<qulonglong>(all[i]));
        places_->addItem(item);
        if (workshop_.choice().chosenFinding() == all[i]) places_->setCurrentItem(item);
    }
    if (all.size() > mostPlaces) {
        auto* more = new QListWidgetItem(
            QString("… and %1 more; take a slab to see fewer").arg(spaced(all.size() - mostPlaces)));
        more->setFlags(Qt::NoItemFlags);
        places_->addItem(more);
    }
    places_->setFixedHeight(std::min(190, 26 * places_->count() + 6));
    connect(places_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
        if (item->data(Qt::UserRole).isValid())
            workshop_.choice().chooseFinding(item->data(Qt::UserRole).toULongLong());
    });
    layout_->addWidget(places_);
}

// ---- a step

void DeskPanel::addStepCard(const steps::Step& step, bool alone) {
    QVBoxLayout* inner = nullptr;
    layout_->addWidget(card(inner));
    auto* head = new QHBoxLayout;
    head->addWidget(label(text(step.title), 13, QFont::DemiBold, workshop_.paper().ink), 1);
    auto* help = new QToolButton;
    help->setText("?");
    help->setObjectName("help-" + text(step.name));
    help->setToolTip("What it does, and what each value means");
    help->setAccessibleName("Help for " + text(step.title));
    connect(help, &QToolButton::clicked, this, [this, &step] { Q_EMIT helpWanted(step); });
    head->addWidget(help);
    inner->addLayout(head);
    inner->addWidget(label(text(step.summary), 11, QFont::Normal, workshop_.paper().quiet));
    const steps::Arguments values = desk_.valuesFor(step);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(8);
    int row = 0;
    for (const steps::Parameter& p : step.parameters) {
        if (p.retired) continue;
        QString name = text(p.name);
        name.replace('-', ' ');
        grid->addWidget(label(name, 12, QFont::Normal, workshop_.paper().quiet), row, 0);
        const steps::Value& value = values.find(p.name)->second;
        const auto set = [this, &step, parameter = std::string(p.name)](const steps::Value& v) {
            desk_.setValue(step, parameter, v);
        };
        QWidget* editor = valueEditor({workshop_, dialogs_}, {step, p, value}, set);
        grid->addWidget(editor, row++, 1);
        const auto take = [this, &step, parameter = std::string(p.name)](const steps::Value& v) {
            desk_.takeFromPick(step, parameter, v);
        };
        if (QWidget* button = takePlaceButton({workshop_, dialogs_}, {step, p, value}, take))
            grid->addWidget(button, row++, 0, 1, 2);
        if (step.curveOf == p.name) {
            auto* curve =
                new TradeOffCurve(desk_, step, value.number(),
                                  {workshop_.parts().current()->unit().name,
                                   measure::lossTolerance(workshop_.parts().current()->track.part()->mesh())});
            curve->setObjectName(text(step.name) + ".curve");
            grid->addWidget(curve, row++, 0, 1, 2);
            if (auto* spin = qobject_cast<QDoubleSpinBox*>(editor)) {
                connect(spin, &QDoubleSpinBox::valueChanged, curve, &TradeOffCurve::setValue);
                connect(curve, &TradeOffCurve::chosen, spin, &QDoubleSpinBox::setValue);
            }
        }
        if (!p.samples) continue;
        auto* histogram = new GapHistogram(desk_.proposal(step).samples, value.number(),
                                           workshop_.parts().current()->unit().name, workshop_.preferences());
        histogram->setObjectName(text(step.name) + "." + text(p.name) + ".gaps");
        grid->addWidget(histogram, row++, 0, 1, 2);
        if (auto* spin = qobject_cast<QDoubleSpinBox*>(editor)) {
            connect(spin, &QDoubleSpinBox::valueChanged, histogram, &GapHistogram::setValue);
            connect(histogram, &GapHistogram::chosen, spin, &QDoubleSpinBox::setValue);
        }
    }
    inner->addLayout(grid);
    if (const QString expected = desk_.foreseen(step); !expected.isEmpty()) {
        foreseen_ = label(expected, 11, QFont::Normal, workshop_.paper().ink);
        foreseen_->setObjectName("foreseen");
        inner->addWidget(foreseen_);
    }
    if (const QString lacks = desk_.missing(step); !lacks.isEmpty())
        inner->addWidget(label(lacks, 11, QFont::Normal, workshop_.paper().wood));
    auto* preview = new QPushButton("Preview");
    preview->setObjectName(QString("preview-") + text(step.name));
    connect(preview, &QPushButton::clicked, this, [this, &step] { desk_.tryNow(step); });
    inner->addWidget(preview);
    if (desk_.edited() == &step || alone || !figures_) {
        figures_ = new QWidget;
        new QVBoxLayout(figures_);
        figures_->layout()->setContentsMargins(0, 2, 0, 0);
        figures_->setProperty("step", text(step.name));
        inner->addWidget(figures_);
    }
    if (!alone) return;
    auto* back = new QPushButton("Back to the whole part");
    connect(back, &QPushButton::clicked, &desk_, &session::DeskModel::backToWhole);
    layout_->addWidget(back);
}

// The rest of the figures stays, with a button that may be being pressed.
void DeskPanel::sayDeviation() {
    if (!deviation_ || !workshop_.trial().current()) return;
    const auto& deviation = workshop_.trial().current()->deviation;
    deviation_->setVisible(deviation || workshop_.trial().measuring());
    deviation_->setText(
        deviation ? QString("nowhere farther than %1 %2 from before")
                        .arg(workshop_.numbers().shortNumber(*deviation), workshop_.parts().current()->unit().name)
                  : QString("measuring how far it goes …"));
}

void DeskPanel::refreshFigures() {
    if (!figures_) return;
    auto* layout = static_cast<QVBoxLayout*>(figures_->layout());
    while (QLayoutItem* item = layout->takeAt(0)) {
        if (QWidget* old = item->widget()) {
            old->hide();
            old->deleteLater();
        }
        delete item;
    }
    if (workshop_.trial().current())
        addPreviewFigures(layout);
    else if (workshop_.trial().running())
        layout->addWidget(label("Trying it …", 11, QFont::Normal, workshop_.paper().quiet));
}

// What the previewed step lists stands in a list of its own, so that nobody misses it.
void DeskPanel::addListed(QVBoxLayout* layout, steps::Listed::Kind kind, const QString& heading, const QString& name) {
    QListWidget* list = nullptr;
    for (const steps::Listed& l : workshop_.trial().current()->record.listed) {
        if (l.kind != kind) continue;
        if (!list) {
            layout->addWidget(label(heading, 11, QFont::DemiBold,
                                    kind == steps::Listed::Made ? workshop_.paper().ink : workshop_.paper().fails));
            list = listOfSentences(name);
            layout->addWidget(list);
        }
        if (static_cast<std::size_t>(list->count()) < mostPlaces) list->addItem(QString::fromStdString(l.text));
    }
    if (list) list->setFixedHeight(std::min(120, 34 * list->count() + 6));
}

// Since the import, not since the last stop: that is what a colleague will see missing.
void DeskPanel::addLoss(QVBoxLayout* layout, const measure::Loss& loss) {
    const bool loses = !measure::losesNothing(loss);
    QString said =
        QString("lost %1\u00a0% of what is seen, added %2\u00a0%")
            .arg(workshop_.numbers().shortNumber(100 * loss.lost), workshop_.numbers().shortNumber(100 * loss.added));
    if (loss.lostListed + loss.addedListed > 0)
        said += QString(" (of that listed: %1\u00a0% and %2\u00a0%)")
                    .arg(workshop_.numbers().shortNumber(100 * loss.lostListed),
                         workshop_.numbers().shortNumber(100 * loss.addedListed));
    QLabel* line = label(said, 11, loses ? QFont::DemiBold : QFont::Normal,
                         loses ? workshop_.paper().fails : workshop_.paper().quiet);
    line->setObjectName("loss");
    line->setWordWrap(true);
    layout->addWidget(line);
    if (loss.pieces.empty()) return;
    QListWidget* list = listOfSentences("lost-pieces");
    for (std::size_t i = 0; i < std::min(mostPlaces, loss.pieces.size()); ++i) {
        const measure::LostPiece& p = loss.pieces[i];
        list->addItem(
            QString("%1 lost: shell %2, %3 across, at %4")
                .arg(p.mayGo   ? "As asked"
                     : p.speck ? "Speck"
                               : "Piece")
                .arg(p.shell)
                .arg(workshop_.numbers().shortNumber(p.box.diagonal()), workshop_.numbers().placeText(p.box.centre())));
    }
    list->setFixedHeight(std::min(120, 34 * list->count() + 6));
    layout->addWidget(list);
}

void DeskPanel::addPreviewFigures(QVBoxLayout* layout) {
    const session::Preview& p = *workshop_.trial().current();
    // Nothing while the part is still being judged.
    const session::Look* kept = workshop_.looks().kept();
    const check::Survey& after = *p.look.survey;
    const auto difference = static_cast<double>(after.counts.triangles) -
                            static_cast<double>(workshop_.parts().current()->track.part()->mesh().triangles.size());
    QString change = QString("after: %1 triangles").arg(signedNumber(difference, workshop_.numbers()));
    if (kept && kept->survey->mass.volume != 0) {
        const double was = kept->survey->mass.volume;
        change += QString(" · volume %1\u00a0%")
                      .arg(signedNumber(100 * (after.mass.volume - was) / std::abs(was), workshop_.numbers()));
    }
    layout->addWidget(label(change, 12, QFont::DemiBold, workshop_.paper().ink));
    deviation_ = label({}, 11, QFont::Normal, workshop_.paper().quiet);
    deviation_->setObjectName("preview-deviation");
    layout->addWidget(deviation_);
    sayDeviation();
    const auto& said = p.record.sentences;
    for (std::size_t i = 0; i < std::min<std::size_t>(5, said.size()); ++i)
        layout->addWidget(label(QString::fromStdString(said[i]), 11, QFont::Normal, workshop_.paper().ink));
    if (said.size() > 5)
        layout->addWidget(
            label(QString("… and %1 more").arg(said.size() - 5), 11, QFont::Normal, workshop_.paper().quiet));
    addListed(layout, steps::Listed::Goes, "These go, if you keep it:", "going");
    addListed(layout, steps::Listed::Within, "These go, hidden within others:", "within");
    addListed(layout, steps::Listed::LeftOpen, "These wait for your yes:", "left-open");
    addListed(layout, steps::Listed::Sheet, "These sheets wait for an answer:", "sheets");
    addListed(layout, steps::Listed::AsItCame, "These stay as they came:", "as-they-came");
    addListed(layout, steps::Listed::Left, "These are left:", "left");
    addListed(layout, steps::Listed::Made, "These are new:", "made");
    if (p.record.sentences.empty())
        layout->addWidget(label("Nothing to change here.", 11, QFont::Normal, workshop_.paper().quiet));
    if (p.look.loss) addLoss(layout, *p.look.loss);
    if (const std::string worse = kept ? check::worseText(*kept->survey, after) : std::string(); !worse.empty()) {
        auto* more = label(QString::fromStdString(worse), 11, QFont::Normal, workshop_.paper().fails);
        more->setObjectName("preview-worse");
        layout->addWidget(more);
    }
    const steps::Verdict then = workshop_.judging().verdictOf(p.look);
    const std::size_t now = kept ? workshop_.judging().verdictOf(*kept).met() : then.met();
    QString tune = QString("in tune: %1 of %2").arg(then.met()).arg(then.asked());
    if (kept) tune += QString(", was %1").arg(now);
    layout->addWidget(
        label(tune, 11, QFont::Normal, then.met() < now ? workshop_.paper().fails : workshop_.paper().spruce));
    auto* row = new QWidget;
    auto* buttons = new QHBoxLayout(row);
    buttons->setContentsMargins(0, 2, 0, 0);
    auto* keep = new QPushButton("Keep");
    keep->setObjectName("main");
    auto* drop = new QPushButton("Drop preview");
    buttons->addWidget(keep, 1);
    buttons->addWidget(drop, 1);
    connect(keep, &QPushButton::clicked, &desk_, &session::DeskModel::keep);
    connect(drop, &QPushButton::clicked, &desk_, &session::DeskModel::drop);
    layout->addWidget(row);
    // The answer must be seen without scrolling; its place is known once the layout has run.
    QTimer::singleShot(0, this, [this, row = QPointer<QWidget>(row)] {
        if (row) ensureWidgetVisible(row, 0, 14);
    });
}

// ---- after an export

void DeskPanel::addDelivered() {
    const session::Delivered& d = *workshop_.handingOver().delivered();
    QLabel* head = addText(d.verdict.allMet() ? "Written and in tune" : "Written, not yet in tune", 16, true);
    head->setObjectName("delivered");
    head->setStyleSheet(
        QString("color: %1;").arg((d.verdict.allMet() ? workshop_.paper().spruce : workshop_.paper().fails).name()));
    addText(QFileInfo(d.file).fileName(), 12, true);
    if (const std::string much = d.loss ? project::muchLostText(*d.loss) : std::string(); !much.empty()) {
        QLabel* warning = addText(QString::fromStdString(much) + ".", 13, true);
        warning->setObjectName("delivered.lost");
        warning->setStyleSheet(QString("color: %1;").arg(workshop_.paper().fails.name()));
    }
    addText("These are the numbers of the file on disk, read back after writing.", 11, false, true);
    QVBoxLayout* inner = nullptr;
    layout_->addWidget(card(inner));
    inner->addWidget(label(QString("%1 triangles, %2")
                               .arg(spaced(d.survey->counts.triangles), d.survey->solid        ? "solid"
                                                                        : d.survey->watertight ? "watertight"
                                                                                               : "not watertight"),
                           12, QFont::DemiBold, workshop_.paper().ink));
    inner->addWidget(label(QString("volume %1, was %2 before writing")
                               .arg(workshop_.numbers().shortNumber(d.survey->mass.volume),
                                    workshop_.numbers().shortNumber(d.inputVolume)),
                           11, QFont::Normal, workshop_.paper().quiet));
    const auto size = [](std::int64_t bytes) { return QLocale::c().formattedDataSize(bytes); };
    inner->addWidget(label(d.bytesBefore > 0
                               ? QString("%1 on disk, %2 as it came").arg(size(d.bytes), size(d.bytesBefore))
                               : QString("%1 on disk").arg(size(d.bytes)),
                           11, QFont::Normal, workshop_.paper().quiet));
    inner->addWidget(
        label(QString("brief %1: %2 of %3 in tune").arg(d.briefTitle).arg(d.verdict.met()).arg(d.verdict.asked()), 11,
              QFont::Normal, workshop_.paper().quiet));
    for (const std::string& loss : d.losses)
        inner->addWidget(label(QString("not held by the file: %1").arg(QString::fromStdString(loss)), 11, QFont::Normal,
                               workshop_.paper().wood));
    for (const std::string& sentence : d.settled ? d.settled->record.sentences : std::vector<std::string>())
        inner->addWidget(label(QString::fromStdString(sentence), 11, QFont::Normal, workshop_.paper().quiet));
    for (const steps::Judged& j : d.verdict.judged)
        if (!j.met)
            inner->addWidget(
                label(session::failureText(j, workshop_.numbers()), 12, QFont::Normal, workshop_.paper().fails));
    for (const QString& other : d.others) addText(other, 11, false, true);
    auto* report = new QPushButton("Report …");
    report->setToolTip("What came in, what was done and why, and the proof of the file, for whoever gets it");
    connect(report, &QPushButton::clicked, this, &DeskPanel::reportWanted);
    layout_->addWidget(report);
    auto* done = new QPushButton("Done");
    done->setObjectName("main");
    connect(done, &QPushButton::clicked, this, [this] { workshop_.handingOver().dismiss(); });
    layout_->addWidget(done);
}

}  // namespace zither::desktop
