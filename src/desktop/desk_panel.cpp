#include "desktop/desk_panel.h"

#include <QDoubleSpinBox>
#include <QFileInfo>
#include <QGridLayout>
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <algorithm>
#include <cmath>

#include "desktop/gap_histogram.h"
#include "desktop/theme.h"
#include "desktop/value_editor.h"
#include "session/strings.h"

namespace zither::desktop {

namespace paper = session::paper;
using session::shortNumber;
using session::spaced;
using session::text;

namespace {

constexpr int previewDelayMs = 250;
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

QString placesText(std::size_t count) {
    return QString("%1 %2").arg(spaced(count), count == 1 ? "place" : "places");
}

QString signedNumber(double value) {
    return value > 0 ? "+" + shortNumber(value) : shortNumber(value);
}

// Every step that helps with one of the classes, each once, in catalogue order.
std::vector<const steps::Step*> stepsFor(check::DefectClass defect) {
    std::vector<const steps::Step*> result;
    for (const steps::Step& s : steps::catalogue())
        if (std::find(s.helpsWith.begin(), s.helpsWith.end(), defect) != s.helpsWith.end()) result.push_back(&s);
    return result;
}

// A proposed length of zero: the step looked and found nothing to do.
bool proposesNothing(const steps::Step& step, const steps::Arguments& proposed) {
    return std::any_of(step.parameters.begin(), step.parameters.end(), [&](const steps::Parameter& p) {
        return p.kind == steps::ParameterKind::Length && p.propose && proposed.find(p.name)->second == 0;
    });
}

}  // namespace

DeskPanel::DeskPanel(session::Workshop& workshop, Dialogs& dialogs, QWidget* parent)
    : QScrollArea(parent), workshop_(workshop), dialogs_(dialogs) {
    setObjectName("desk");
    setFixedWidth(286);
    setWidgetResizable(true);
    setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    previewTimer_.setSingleShot(true);
    previewTimer_.setInterval(previewDelayMs);
    connect(&previewTimer_, &QTimer::timeout, this, [this] {
        if (editedStep_) workshop_.preview({editedStep_, values_});
    });
    connect(&workshop_, &session::Workshop::choiceChanged, this, [this] {
        if (workshop_.chosenClass()) chosenStep_ = nullptr;
        rebuild();
    });
    connect(&workshop_, &session::Workshop::pickChanged, this, [this] {
        // Another pick is another proposal; what is being tried stays.
        if (workshop_.currentPreview()) return;
        editedStep_ = nullptr;
        rebuild();
    });
    connect(&workshop_, &session::Workshop::deliveredChanged, this, &DeskPanel::rebuild);
    connect(&workshop_, &session::Workshop::briefChanged, this, &DeskPanel::rebuild);
    connect(&workshop_, &session::Workshop::partsChanged, this, &DeskPanel::rebuild);
    connect(&workshop_, &session::Workshop::lookChanged, this, [this] {
        if (workshop_.currentPreview())
            refreshFigures();
        else
            rebuild();
    });
    connect(&workshop_, &session::Workshop::previewChanged, this, &DeskPanel::refreshFigures);
    rebuild();
}

void DeskPanel::showStep(const steps::Step* step) {
    workshop_.chooseClass(std::nullopt);
    chosenStep_ = step;
    rebuild();
    if (workshop_.current()) previewSoon(*step);
}

QLabel* DeskPanel::addText(const QString& content, int pixels, bool strong, bool quiet) {
    QLabel* l = label(content, pixels, strong ? QFont::DemiBold : QFont::Normal, quiet ? paper::quiet : paper::ink);
    layout_->addWidget(l);
    return l;
}

void DeskPanel::rebuild() {
    if (ofPart_ != workshop_.current()) {
        ofPart_ = workshop_.current();
        editedStep_ = nullptr;
    }
    auto* content = new QWidget;
    content->setObjectName("ground");
    figures_ = nullptr;
    places_ = nullptr;
    foreseen_ = nullptr;
    layout_ = new QVBoxLayout(content);
    layout_->setContentsMargins(14, 12, 14, 14);
    layout_->setSpacing(8);
    if (workshop_.kept() && !workshop_.pick().everything() && !workshop_.delivered()) addPickHead();
    if (workshop_.delivered())
        addDelivered();
    else if (!workshop_.kept())
        addText(workshop_.current() ? "Judging …" : "What is chosen, and what to do about it, will stand here.", 12,
                false, true);
    else if (chosenStep_)
        addStepCard(*chosenStep_);
    else if (workshop_.chosenClass())
        addClass(*workshop_.chosenClass());
    else
        addOverview();
    layout_->addStretch(1);
    // A button of the old content may be the one that asked for this: it must live until its click is over.
    if (QWidget* old = takeWidget()) {
        old->hide();
        old->deleteLater();
    }
    setWidget(content);
    refreshFigures();
}

// ---- nothing chosen

void DeskPanel::addOverview() {
    if (!workshop_.pick().everything()) return addPickSteps();
    const session::Part& part = *workshop_.current();
    const check::Survey& s = *workshop_.kept()->survey;
    const QString verdict = s.solid ? "Solid" : s.watertight ? "Watertight, not solid" : "Not watertight";
    QLabel* head = addText(verdict, 16, true);
    head->setObjectName("soundness");
    head->setStyleSheet(QString("color: %1;").arg((s.solid ? paper::spruce : paper::fails).name()));
    const QString unit = part.unit.name;
    addText(QString("Volume %1 %4³, area %2 %4², %3 vertices.")
                .arg(shortNumber(s.mass.volume), shortNumber(s.mass.area), spaced(s.counts.vertices), unit),
            12, false);
    if (part.unit.assumed)
        addText(
            QString("%1 files carry no unit; %2 is assumed. Choose another beside the part's name if that is wrong.")
                .arg(QString::fromStdString(part.format).section('-', 0, 0).toUpper(), unit),
            11, false, true);
    for (const std::string& remark : part.remarks) addText(QString::fromStdString(remark) + ".", 11, false, true);
    addDecisions();
    const auto failing = workshop_.failingClasses();
    addText(failing.empty() ? "Every string that can be marked is in tune." : "Out of tune", 13, true);
    for (check::DefectClass defect : failing) {
        auto* button = new QPushButton(
            QString("%1   %2").arg(session::inkOf(defect).name, placesText(workshop_.places(defect).size())));
        button->setStyleSheet(QString("text-align: left; color: %1;").arg(session::inkOf(defect).colour.name()));
        connect(button, &QPushButton::clicked, this, [this, defect] { workshop_.chooseClass(defect); });
        layout_->addWidget(button);
    }
    addText("Steps", 13, true);
    for (const steps::Step& step : steps::catalogue())
        if (!step.byHand) addStepButton(step);
}

void DeskPanel::addStepButton(const steps::Step& step) {
    auto* button = new QPushButton(text(step.title));
    button->setObjectName(QString("open-") + text(step.name));
    button->setToolTip(text(step.summary));
    button->setStyleSheet("text-align: left;");
    connect(button, &QPushButton::clicked, this, [this, &step] { showStep(&step); });
    layout_->addWidget(button);
}

// What is picked; it stands above whatever else is on the desk.
void DeskPanel::addPickHead() {
    const std::size_t count = workshop_.pick().triangles().size();
    QLabel* head = addText(QString("%1 %2 picked").arg(spaced(count), count == 1 ? "triangle" : "triangles"), 16, true);
    head->setObjectName("picked");
    head->setStyleSheet(QString("color: %1;").arg(paper::picked.name()));
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
    add("Grow", [this] { workshop_.growPick(); });
    add("Shrink", [this] { workshop_.shrinkPick(); });
    add("None", [this] { workshop_.setPick({}); });
    layout_->addWidget(row);
}

// What can be done with the pick: by hand first.
void DeskPanel::addPickSteps() {
    for (const bool hand : {true, false}) {
        addText(hand ? "By hand" : "On the pick alone", 13, true);
        for (const steps::Step& step : steps::catalogue())
            if (step.byHand == hand) addStepButton(step);
    }
}

// What steps left for a person: openings that wait for a yes, and what the automatic repair could not do.
void DeskPanel::addDecisions() {
    const session::Part& part = *workshop_.current();
    const auto left = part.left.find(part.track.current());
    std::vector<steps::Listed> openings;
    for (project::StopId id : part.track.pathTo(part.track.current()))
        for (const steps::Listed& l : part.track.stop(id).record.listed)
            if (l.kind == steps::Listed::LeftOpen) openings.push_back(l);
    // A later fill may have closed them.
    if (workshop_.kept()->survey->counts.boundaryEdges == 0) openings.clear();
    std::vector<steps::Listed> all = openings;
    if (left != part.left.end())
        std::copy_if(left->second.begin(), left->second.end(), std::back_inserter(all),
                     [](const steps::Listed& l) { return l.kind != steps::Listed::LeftOpen; });
    if (all.empty()) return;
    addText("For you to decide", 13, true);
    for (const steps::Listed& l : all) addDecision(l);
}

void DeskPanel::addDecision(const steps::Listed& listed) {
    QVBoxLayout* inner = nullptr;
    layout_->addWidget(card(inner));
    inner->addWidget(label(QString::fromStdString(listed.text), 11, QFont::Normal, paper::ink));
    const auto offer = [&](const QString& name, const steps::StepCall& call) {
        auto* button = new QPushButton(name);
        connect(button, &QPushButton::clicked, this, [this, call] {
            showStep(call.step);
            for (const auto& [key, value] : call.given) setValue(*call.step, key, value);
        });
        inner->addWidget(button);
    };
    if (listed.kind == steps::Listed::LeftOpen)
        offer("Close it", {steps::findStep("fill"), {{"meant", steps::Value("close")}}});
    if (listed.kind == steps::Listed::NeedsSkin) offer("Wrap it", {steps::findStep("wrap")});
}

// ---- a class of defect

void DeskPanel::addClass(check::DefectClass defect) {
    const session::Ink& ink = session::inkOf(defect);
    const std::size_t count = workshop_.places(defect).size();
    QLabel* head = addText(QString("%1").arg(ink.name), 16, true);
    head->setStyleSheet(QString("color: %1;").arg(ink.colour.name()));
    addText(placesText(count) + (workshop_.slab() ? " in the slab" : ""), 11, false, true);
    addText(ink.sentence, 12, false);
    const auto helpful = stepsFor(defect);
    if (count > 0)
        for (const steps::Step* step : helpful) {
            if (proposesNothing(*step, proposal(*step).values))
                addText(QString("%1: nothing found that it would change.").arg(text(step->title)), 11, false, true);
            else
                addStepCard(*step);
        }
    if (count > 0 && helpful.empty())
        addText("No step of this version mends these yet; they are shown so that you know.", 12, false, true);
    if (count > 0) {
        auto* pickThem = new QPushButton("Pick their triangles");
        connect(pickThem, &QPushButton::clicked, this, [this] {
            workshop_.pickPlaces();
            workshop_.chooseClass(std::nullopt);
        });
        layout_->addWidget(pickThem);
        addPlaces(defect);
    }
    auto* back = new QPushButton("Back to the whole part");
    connect(back, &QPushButton::clicked, this, [this] { workshop_.chooseClass(std::nullopt); });
    layout_->addWidget(back);
}

void DeskPanel::addPlaces(check::DefectClass defect) {
    addText("Places", 13, true);
    places_ = new QListWidget;
    places_->setObjectName("places");
    places_->setFont(typeface(11));
    const std::vector<std::size_t> all = workshop_.places(defect);
    for (std::size_t i = 0; i < std::min(mostPlaces, all.size()); ++i) {
        const check::Finding& f = workshop_.kept()->survey->findings.list[all[i]];
        auto* item = new QListWidgetItem(QString("%1 %2   at %3, %4, %5")
                                             .arg(shortNumber(f.size), workshop_.current()->unit.name,
                                                  shortNumber(f.position.x()), shortNumber(f.position.y()),
                                                  shortNumber(f.position.z())));
        item->setData(Qt::UserRole, static_cast<qulonglong>(all[i]));
        places_->addItem(item);
        if (workshop_.chosenFinding() == all[i]) places_->setCurrentItem(item);
    }
    if (all.size() > mostPlaces) {
        auto* more = new QListWidgetItem(
            QString("… and %1 more; take a slab to see fewer").arg(spaced(all.size() - mostPlaces)));
        more->setFlags(Qt::NoItemFlags);
        places_->addItem(more);
    }
    places_->setFixedHeight(std::min(190, 26 * places_->count() + 6));
    connect(places_, &QListWidget::itemClicked, this, [this](QListWidgetItem* item) {
        if (item->data(Qt::UserRole).isValid()) workshop_.chooseFinding(item->data(Qt::UserRole).toULongLong());
    });
    layout_->addWidget(places_);
}

// ---- a step

void DeskPanel::addStepCard(const steps::Step& step) {
    QVBoxLayout* inner = nullptr;
    layout_->addWidget(card(inner));
    inner->addWidget(label(text(step.title), 13, QFont::DemiBold, paper::ink));
    inner->addWidget(label(text(step.summary), 11, QFont::Normal, paper::quiet));
    const steps::Arguments values = valuesFor(step);
    auto* grid = new QGridLayout;
    grid->setHorizontalSpacing(8);
    int row = 0;
    for (const steps::Parameter& p : step.parameters) {
        QString name = text(p.name);
        name.replace('-', ' ');
        grid->addWidget(label(name, 12, QFont::Normal, paper::quiet), row, 0);
        const steps::Value& value = values.find(p.name)->second;
        const auto set = [this, &step, parameter = std::string(p.name)](const steps::Value& v) {
            setValue(step, parameter, v);
        };
        QWidget* editor = valueEditor({workshop_, dialogs_}, step, p, value, set);
        grid->addWidget(editor, row++, 1);
        if (!p.samples) continue;
        auto* histogram = new GapHistogram(proposal(step).samples, value, workshop_.current()->unit.name);
        histogram->setObjectName(text(step.name) + "." + text(p.name) + ".gaps");
        grid->addWidget(histogram, row++, 0, 1, 2);
        if (auto* spin = qobject_cast<QDoubleSpinBox*>(editor)) {
            connect(spin, &QDoubleSpinBox::valueChanged, histogram, &GapHistogram::setValue);
            connect(histogram, &GapHistogram::chosen, spin, &QDoubleSpinBox::setValue);
        }
    }
    inner->addLayout(grid);
    if (step.foresee) {
        foreseen_ = label(QString::fromStdString(step.foresee(*workshop_.current()->track.mesh(), values)), 11,
                          QFont::Normal, paper::ink);
        foreseen_->setObjectName("foreseen");
        inner->addWidget(foreseen_);
    }
    if (const QString lacks = missing(step, values); !lacks.isEmpty())
        inner->addWidget(label(lacks, 11, QFont::Normal, paper::wood));
    auto* preview = new QPushButton("Preview");
    preview->setObjectName(QString("preview-") + text(step.name));
    connect(preview, &QPushButton::clicked, this, [this, &step] {
        edit(step);
        previewTimer_.stop();
        if (missing(step, values_).isEmpty()) workshop_.preview({editedStep_, values_});
    });
    inner->addWidget(preview);
    if (editedStep_ == &step || chosenStep_ == &step || !figures_) {
        figures_ = new QWidget;
        new QVBoxLayout(figures_);
        figures_->layout()->setContentsMargins(0, 2, 0, 0);
        figures_->setProperty("step", text(step.name));
        inner->addWidget(figures_);
    }
    if (chosenStep_ != &step) return;
    auto* back = new QPushButton("Back to the whole part");
    connect(back, &QPushButton::clicked, this, [this] {
        chosenStep_ = nullptr;
        workshop_.dropPreview();
        rebuild();
    });
    layout_->addWidget(back);
}

// What a step proposes for the part as it stands, worked out once: some look at every open edge of it.
const DeskPanel::Proposal& DeskPanel::proposal(const steps::Step& step) {
    const auto& m = workshop_.current()->track.mesh();
    if (proposedFor_ != m) proposals_.clear();
    proposedFor_ = m;
    const auto [it, fresh] = proposals_.try_emplace(&step);
    if (fresh) {
        it->second.values = steps::proposedArguments(step, *m);
        for (const steps::Parameter& p : step.parameters)
            if (p.samples) it->second.samples = p.samples(*m);
    }
    return it->second;
}

// Makes the step the one whose values are being set.
void DeskPanel::edit(const steps::Step& step) {
    if (editedStep_ != &step) values_ = valuesFor(step);
    editedStep_ = &step;
}

// What the step proposes, with the picked place where one is asked for.
steps::Arguments DeskPanel::valuesFor(const steps::Step& step) {
    if (editedStep_ == &step) return values_;
    steps::Arguments values = proposal(step).values;
    for (const steps::Parameter& p : step.parameters)
        if (!p.cautious.empty()) values.insert_or_assign(std::string(p.name), steps::Value(std::string(p.cautious)));
    if (const auto place = workshop_.pickedPlace())
        for (const steps::Parameter& p : step.parameters)
            if (p.kind == steps::ParameterKind::Place)
                values.insert_or_assign(std::string(p.name), steps::Value(steps::textOfPlace(*place)));
    return values;
}

// What has to be there before the step can be tried; empty where nothing is missing.
QString DeskPanel::missing(const steps::Step& step, const steps::Arguments& values) const {
    if (step.needsPick && workshop_.pick().everything()) return "Pick triangles first: click on the part, Shift adds.";
    for (const steps::Parameter& p : step.parameters)
        if (steps::isText(p.kind) && !p.optional && values.find(p.name)->second.text.empty())
            return p.kind == steps::ParameterKind::File ? "Choose a surface first."
                                                        : "Click on the part where it is, or type the place.";
    return {};
}

void DeskPanel::setValue(const steps::Step& step, const std::string& name, const steps::Value& value) {
    edit(step);
    values_.insert_or_assign(name, value);
    if (foreseen_ && step.foresee)
        foreseen_->setText(QString::fromStdString(step.foresee(*workshop_.current()->track.mesh(), values_)));
    previewSoon(step);
}

void DeskPanel::previewSoon(const steps::Step& step) {
    edit(step);
    if (missing(step, values_).isEmpty()) previewTimer_.start();
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
    if (workshop_.currentPreview())
        addPreviewFigures(layout);
    else if (workshop_.previewRunning())
        layout->addWidget(label("Trying it …", 11, QFont::Normal, paper::quiet));
}

// What the previewed step lists stands in a list of its own, so that nobody misses it.
void DeskPanel::addListed(QVBoxLayout* layout, steps::Listed::Kind kind, const QString& heading, const QString& name) {
    QListWidget* list = nullptr;
    for (const steps::Listed& l : workshop_.currentPreview()->record.listed) {
        if (l.kind != kind) continue;
        if (!list) {
            layout->addWidget(label(heading, 11, QFont::DemiBold, paper::fails));
            list = new QListWidget;
            list->setObjectName(name);
            list->setFont(typeface(11));
            list->setWordWrap(true);
            layout->addWidget(list);
        }
        if (static_cast<std::size_t>(list->count()) < mostPlaces) list->addItem(QString::fromStdString(l.text));
    }
    if (list) list->setFixedHeight(std::min(120, 34 * list->count() + 6));
}

void DeskPanel::addPreviewFigures(QVBoxLayout* layout) {
    const session::Preview& p = *workshop_.currentPreview();
    const check::Survey& before = *workshop_.kept()->survey;
    const check::Survey& after = *p.look.survey;
    const auto difference = static_cast<double>(after.counts.triangles) - static_cast<double>(before.counts.triangles);
    const double volume =
        before.mass.volume != 0 ? 100 * (after.mass.volume - before.mass.volume) / std::abs(before.mass.volume) : 0;
    layout->addWidget(
        label(QString("after: %1 triangles · volume %2\u00a0%").arg(signedNumber(difference), signedNumber(volume)), 12,
              QFont::DemiBold, paper::ink));
    const auto& said = p.record.sentences;
    for (std::size_t i = 0; i < std::min<std::size_t>(5, said.size()); ++i)
        layout->addWidget(label(QString::fromStdString(said[i]), 11, QFont::Normal, paper::ink));
    if (said.size() > 5)
        layout->addWidget(label(QString("… and %1 more").arg(said.size() - 5), 11, QFont::Normal, paper::quiet));
    addListed(layout, steps::Listed::Goes, "These go, if you keep it:", "going");
    addListed(layout, steps::Listed::LeftOpen, "These wait for your yes:", "left-open");
    addListed(layout, steps::Listed::Left, "These are left:", "left");
    if (p.record.sentences.empty())
        layout->addWidget(label("Nothing to change here.", 11, QFont::Normal, paper::quiet));
    const steps::Verdict now = steps::judge(before, workshop_.brief());
    const steps::Verdict then = steps::judge(after, workshop_.brief());
    layout->addWidget(label(QString("in tune: %1 of %3, was %2").arg(then.met()).arg(now.met()).arg(then.asked()), 11,
                            QFont::Normal, then.met() < now.met() ? paper::fails : paper::spruce));
    auto* row = new QWidget;
    auto* buttons = new QHBoxLayout(row);
    buttons->setContentsMargins(0, 2, 0, 0);
    auto* keep = new QPushButton("Keep");
    keep->setObjectName("main");
    auto* drop = new QPushButton("Drop preview");
    buttons->addWidget(keep, 1);
    buttons->addWidget(drop, 1);
    connect(keep, &QPushButton::clicked, this, [this] {
        editedStep_ = nullptr;
        chosenStep_ = nullptr;
        workshop_.keepPreview();
    });
    connect(drop, &QPushButton::clicked, this, [this] {
        editedStep_ = nullptr;
        workshop_.dropPreview();
        rebuild();
    });
    layout->addWidget(row);
    // The answer must be seen without scrolling; its place is known once the layout has run.
    QTimer::singleShot(0, row, [this, row] { ensureWidgetVisible(row, 0, 14); });
}

// ---- after an export

void DeskPanel::addDelivered() {
    const session::Delivered& d = *workshop_.delivered();
    QLabel* head = addText(d.verdict.allMet() ? "Written and in tune" : "Written, not yet in tune", 16, true);
    head->setObjectName("delivered");
    head->setStyleSheet(QString("color: %1;").arg((d.verdict.allMet() ? paper::spruce : paper::fails).name()));
    addText(QFileInfo(d.file).fileName(), 12, true);
    addText("These are the numbers of the file on disk, read back after writing.", 11, false, true);
    QVBoxLayout* inner = nullptr;
    layout_->addWidget(card(inner));
    inner->addWidget(label(QString("%1 triangles, %2")
                               .arg(spaced(d.survey.counts.triangles), d.survey.solid        ? "solid"
                                                                       : d.survey.watertight ? "watertight"
                                                                                             : "not watertight"),
                           12, QFont::DemiBold, paper::ink));
    inner->addWidget(label(
        QString("volume %1, was %2 before writing").arg(shortNumber(d.survey.mass.volume), shortNumber(d.inputVolume)),
        11, QFont::Normal, paper::quiet));
    inner->addWidget(
        label(QString("brief %1: %2 of %3 in tune").arg(d.briefTitle).arg(d.verdict.met()).arg(d.verdict.asked()), 11,
              QFont::Normal, paper::quiet));
    for (const std::string& sentence : d.settled ? d.settled->record.sentences : std::vector<std::string>())
        inner->addWidget(label(QString::fromStdString(sentence), 11, QFont::Normal, paper::quiet));
    for (const steps::Judged& j : d.verdict.judged)
        if (!j.met)
            inner->addWidget(label(
                QString("%1: %2, limit %3")
                    .arg(text(j.requirement.measure->title), shortNumber(j.value), shortNumber(*j.requirement.limit)),
                12, QFont::Normal, paper::fails));
    auto* done = new QPushButton("Done");
    done->setObjectName("main");
    connect(done, &QPushButton::clicked, this, [this] { workshop_.dismissDelivered(); });
    layout_->addWidget(done);
}

}  // namespace zither::desktop
