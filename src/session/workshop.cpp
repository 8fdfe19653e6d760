#include "session/workshop.h"

#include <QFileInfo>
#include <QSettings>
#include <algorithm>

#include "io/atomic_file.h"
#include "session/inks.h"
#include "session/strings.h"
#include "steps/recipe.h"

namespace zither::session {

using mesh::Outcome;
using mesh::Progress;

struct Workshop::Opened {
    project::Judged judged;
    std::shared_ptr<const check::Survey> survey;
    std::shared_ptr<const Display> display;
};

namespace {

// Survey and display of a mesh: what must be known before it can be shown.
Outcome<Look> lookAt(std::shared_ptr<const mesh::Mesh> m, std::shared_ptr<const check::Survey> known,
                     const check::SurveyOptions& options, Progress& progress) {
    Look look{std::move(m), std::move(known), nullptr};
    if (!look.survey) {
        mesh::PartOfProgress judging(progress, 0, 0.7);
        auto survey = check::survey(*look.mesh, options, judging);
        if (!survey) return tl::unexpected(survey.error());
        look.survey = std::make_shared<const check::Survey>(std::move(*survey));
    }
    mesh::PartOfProgress preparing(progress, 0.7, 1);
    auto display = prepareDisplay(look.mesh, *look.survey, preparing);
    if (!display) return tl::unexpected(display.error());
    look.display = *display;
    return look;
}

}  // namespace

Workshop::Workshop(QSettings& settings, QObject* parent)
    : QObject(parent), settings_(settings), brief_(steps::builtInBriefs().front()) {
    connect(this, &Workshop::lookChanged, this, &Workshop::refreshSection);
    const auto named = steps::loadBrief(settings.value("brief", "print").toString().toStdString());
    if (named) brief_ = *named;
}

// ---- parts

void Workshop::open(const QStringList& files) {
    for (const QString& file : files) {
        const auto options = surveyOptions();
        const steps::Brief brief = brief_;
        jobs_.start<std::shared_ptr<Opened>>(
            QString("Reading %1").arg(QFileInfo(file).fileName()), Jobs::Lane::Work,
            [file, options, brief](Progress& progress) -> Outcome<std::shared_ptr<Opened>> {
                mesh::PartOfProgress reading(progress, 0, 0.8);
                auto judged = project::readAndJudge(file.toStdString(), brief, reading);
                if (!judged) return tl::unexpected(judged.error());
                auto opened = std::make_shared<Opened>();
                opened->survey = std::make_shared<const check::Survey>(std::move(judged->survey));
                opened->judged = std::move(*judged);
                mesh::PartOfProgress preparing(progress, 0.8, 1);
                auto look = lookAt(opened->judged.mesh, opened->survey, options, preparing);
                if (!look) return tl::unexpected(look.error());
                opened->display = look->display;
                return opened;
            },
            [this](Outcome<std::shared_ptr<Opened>> opened) {
                if (!opened)
                    failed(opened.error());
                else
                    addPart(std::move(**opened));
            });
    }
}

void Workshop::addPart(Opened opened) {
    const QFileInfo info(QString::fromStdString(opened.judged.file));
    auto part = std::make_unique<Part>(Part{
        nextPartId_++,
        info.completeBaseName(),
        opened.judged.file,
        std::string(io::formatName(opened.judged.surface.format)),
        opened.judged.surface.remarks,
        opened.judged.surface.unit.empty() ? Unit{} : Unit{QString::fromStdString(opened.judged.surface.unit), false},
        project::Track(opened.judged.mesh),
        {},
        {}});
    part->looks[0] = Look{opened.judged.mesh, opened.survey, opened.display};
    const QString first = part->remarks.empty() ? QString() : QString::fromStdString(part->remarks.front());
    parts_.push_back(std::move(part));
    // By name, so that files opened together stand in an order that does not depend on which was read first.
    const Part* shownBefore = current();
    std::sort(parts_.begin(), parts_.end(),
              [](const auto& a, const auto& b) { return QString::localeAwareCompare(a->name, b->name) < 0; });
    remember(info.absoluteFilePath());
    if (shownBefore)
        current_ = static_cast<std::size_t>(
            std::find_if(parts_.begin(), parts_.end(), [&](const auto& p) { return p.get() == shownBefore; }) -
            parts_.begin());
    Q_EMIT partsChanged();
    if (!shownBefore) choosePart(0);
    if (!first.isEmpty()) say(QString("%1: %2").arg(info.fileName(), first), false);
}

void Workshop::closePart(std::size_t index) {
    if (index >= parts_.size()) return;
    dropPreview();
    parts_.erase(parts_.begin() + static_cast<std::ptrdiff_t>(index));
    current_ = parts_.empty() ? std::optional<std::size_t>() : std::min(index, parts_.size() - 1);
    Q_EMIT partsChanged();
    afterMove();
}

void Workshop::choosePart(std::size_t index) {
    setSection(std::nullopt);
    if (index >= parts_.size()) return;
    dropPreview();
    current_ = index;
    slab_.reset();
    Q_EMIT partsChanged();
    afterMove();
}

void Workshop::setUnit(const QString& name) {
    if (!current_) return;
    parts_[*current_]->unit = {name, false};
    Q_EMIT partsChanged();
}

QStringList Workshop::recentFiles() const {
    return settings_.value("recent").toStringList();
}

void Workshop::remember(const QString& file) {
    QStringList recent = recentFiles();
    recent.removeAll(file);
    recent.prepend(file);
    constexpr int most = 10;
    settings_.setValue("recent", QStringList(recent.mid(0, most)));
}

const Look* Workshop::shown() const {
    if (preview_) return &preview_->look;
    return kept();
}

// ---- judging

void Workshop::setBrief(const steps::Brief& brief) {
    brief_ = brief;
    settings_.setValue("brief", QString::fromStdString(brief.id));
    // Which triangles count as slivers depends on the brief: every survey is out of date.
    dropPreview();
    for (const auto& part : parts_) part->looks.clear();
    Q_EMIT briefChanged();
    afterMove();
}

std::optional<steps::Verdict> Workshop::verdict() const {
    if (!kept()) return std::nullopt;
    return steps::judge(*kept()->survey, brief_);
}

// After the current mesh became another one: judge it if that was not done before.
void Workshop::afterMove() {
    chosenFinding_.reset();
    pickedPlace_.reset();
    setPick({});
    if (current() && !current()->look()) judgeCurrent();
    refreshCoat();
    Q_EMIT lookChanged();
    Q_EMIT choiceChanged();
}

Part* Workshop::partWithId(std::uint64_t id) {
    const auto it = std::find_if(parts_.begin(), parts_.end(), [&](const auto& p) { return p->id == id; });
    return it == parts_.end() ? nullptr : it->get();
}

void Workshop::judgeCurrent() {
    Part* part = parts_[*current_].get();
    const project::StopId stop = part->track.current();
    const auto known = part->looks.contains(stop) ? part->looks[stop].survey : nullptr;
    const auto m = part->track.mesh();
    jobs_.start<Look>(
        QString("Judging %1").arg(part->name), Jobs::Lane::Work,
        [m, known, options = surveyOptions()](Progress& p) { return lookAt(m, known, options, p); },
        [this, id = part->id, stop](Outcome<Look> look) {
            if (!look) return failed(look.error());
            Part* judged = partWithId(id);
            if (!judged) return;
            judged->looks[stop] = std::move(*look);
            // Only the current stop keeps its arrays for the view: surveys are small, displays are not.
            for (auto& [visited, other] : judged->looks)
                if (visited != judged->track.current()) other.display.reset();
            refreshCoat();
            Q_EMIT lookChanged();
            Q_EMIT partsChanged();
        });
}

// ---- choosing

void Workshop::chooseClass(std::optional<check::DefectClass> defect) {
    if (chosenClass_ != defect) dropPreview();
    chosenClass_ = defect;
    chosenFinding_.reset();
    Q_EMIT choiceChanged();
}

void Workshop::chooseFinding(std::size_t index) {
    if (!kept() || index >= kept()->survey->findings.list.size()) return;
    const auto defect = kept()->survey->findings.list[index].defect;
    if (chosenClass_ != defect) chooseClass(defect);
    chosenFinding_ = index;
    Q_EMIT choiceChanged();
    Q_EMIT placeChosen();
}

std::vector<check::DefectClass> Workshop::failingClasses() const {
    std::vector<check::DefectClass> classes;
    if (const auto v = verdict())
        for (const steps::Judged& j : v->judged)
            if (!j.met && j.requirement.measure->marks) classes.push_back(*j.requirement.measure->marks);
    return classes;
}

std::vector<std::size_t> Workshop::places(check::DefectClass defect) const {
    std::vector<std::size_t> result;
    if (!kept()) return result;
    const auto& list = kept()->survey->findings.list;
    const int a = axis();
    for (std::size_t i = 0; i < list.size(); ++i) {
        if (list[i].defect != defect) continue;
        if (slab_ && (list[i].position[a] < slab_->low || list[i].position[a] > slab_->high)) continue;
        result.push_back(i);
    }
    std::stable_sort(result.begin(), result.end(),
                     [&](std::size_t x, std::size_t y) { return list[x].position[a] < list[y].position[a]; });
    return result;
}

void Workshop::stepFinding(int direction) {
    std::vector<check::DefectClass> classes = chosenClass_ ? std::vector{*chosenClass_} : failingClasses();
    for (check::DefectClass defect : classes) {
        const std::vector<std::size_t> all = places(defect);
        if (all.empty()) continue;
        const auto at = chosenFinding_ ? std::find(all.begin(), all.end(), *chosenFinding_) : all.end();
        const auto count = static_cast<std::ptrdiff_t>(all.size());
        const std::ptrdiff_t index =
            at == all.end() ? (direction > 0 ? 0 : count - 1) : (at - all.begin() + direction + count) % count;
        return chooseFinding(all[static_cast<std::size_t>(index)]);
    }
}

int Workshop::axis() const {
    if (axis_ || !kept()) return axis_.value_or(0);
    int longest = 0;
    kept()->survey->mass.size.extent().maxCoeff(&longest);
    return longest;
}

void Workshop::setAxis(std::optional<int> axis) {
    axis_ = axis;
    slab_.reset();
    setSection(std::nullopt);
    Q_EMIT choiceChanged();
}

void Workshop::setSlab(std::optional<Slab> slab) {
    slab_ = slab;
    Q_EMIT choiceChanged();
}

// ---- the section

void Workshop::setSection(std::optional<double> position) {
    sectionPosition_ = position;
    if (!position) section_ = nullptr;
    Q_EMIT sectionChanged();
    refreshSection();
}

void Workshop::moveSection(double by) {
    if (!sectionPosition_ || !shown()) return;
    const mesh::Box& box = shown()->display->box;
    setSection(std::clamp(*sectionPosition_ + by, box.min[axis()], box.max[axis()]));
}

void Workshop::refreshSection() {
    if (!sectionPosition_ || !shown()) return;
    jobs_.start<std::shared_ptr<const measure::Section>>(
        "Section", Jobs::Lane::Section,
        [display = shown()->display, axis = axis(),
         at = *sectionPosition_](Progress& progress) -> Outcome<std::shared_ptr<const measure::Section>> {
            auto section = measure::sectionOf(*display->tree, axis, at, progress);
            if (!section) return tl::unexpected(section.error());
            return std::make_shared<const measure::Section>(std::move(*section));
        },
        [this](Outcome<std::shared_ptr<const measure::Section>> section) {
            if (!section || !sectionPosition_) return;
            section_ = std::move(*section);
            Q_EMIT sectionChanged();
        });
}

// ---- the pick

void Workshop::setPick(mesh::Pick pick) {
    if (pick.triangles() == pick_.triangles()) return;
    pick_ = std::move(pick);
    if (pick_.everything()) pickedPlace_.reset();
    refreshColours();
    Q_EMIT pickChanged();
}

void Workshop::pickTriangle(mesh::TriangleId triangle, const mesh::Point& at, bool add) {
    if (!kept() || preview_) return;
    std::vector<mesh::TriangleId> triangles = add ? pick_.triangles() : std::vector<mesh::TriangleId>();
    if (std::find(triangles.begin(), triangles.end(), triangle) == triangles.end()) triangles.push_back(triangle);
    pickedPlace_ = at;
    setPick(mesh::Pick(std::move(triangles)));
}

void Workshop::pickShellOf(mesh::TriangleId triangle) {
    if (!kept() || preview_) return;
    const std::vector<std::uint32_t>& shellOf = kept()->survey->shellOf;
    std::vector<mesh::TriangleId> triangles;
    for (mesh::TriangleId t = 0; t < shellOf.size(); ++t)
        if (shellOf[t] == shellOf[triangle]) triangles.push_back(t);
    setPick(mesh::Pick(std::move(triangles)));
}

void Workshop::pickPlaces() {
    if (!kept() || !chosenClass_) return;
    const check::Findings& findings = kept()->survey->findings;
    const std::vector<std::size_t> chosen = chosenFinding_ ? std::vector{*chosenFinding_} : places(*chosenClass_);
    std::vector<mesh::TriangleId> triangles;
    for (const std::size_t i : chosen) {
        const auto of = findings.trianglesOf(findings.list[i]);
        triangles.insert(triangles.end(), of.begin(), of.end());
    }
    std::sort(triangles.begin(), triangles.end());
    triangles.erase(std::unique(triangles.begin(), triangles.end()), triangles.end());
    if (!chosen.empty()) pickedPlace_ = findings.list[chosen.front()].position;
    setPick(mesh::Pick(std::move(triangles)));
}

void Workshop::growPick() {
    if (kept()) setPick(mesh::grown(*kept()->mesh, pick_, 1));
}

void Workshop::shrinkPick() {
    if (kept()) setPick(mesh::shrunk(*kept()->mesh, pick_, 1));
}

void Workshop::refreshColours() {
    colours_ = coat_.colours;
    if (shown() && !preview_) paintPick(colours_, *shown()->mesh, pick_);
    Q_EMIT coatChanged();
}

// ---- steps

void Workshop::preview(const steps::StepCall& wanted) {
    if (!current()) return;
    steps::StepCall call = wanted;
    if (call.pick.empty()) call.pick = steps::textOfPick(pick_);
    const auto m = current()->track.mesh();
    previewRunning_ = true;
    jobs_.start<std::shared_ptr<Preview>>(
        QString("Preview: %1").arg(text(call.step->title)), Jobs::Lane::Preview,
        [m, call, options = surveyOptions()](Progress& progress) -> Outcome<std::shared_ptr<Preview>> {
            auto result = std::make_shared<Preview>();
            result->call = call;
            mesh::PartOfProgress running(progress, 0, 0.5);
            auto output = steps::runStep(call, *m, mesh::Pick(), result->used, running);
            if (!output) return tl::unexpected(output.error());
            result->record = std::move(output->record);
            mesh::PartOfProgress looking(progress, 0.5, 1);
            auto look = lookAt(std::make_shared<const mesh::Mesh>(std::move(output->mesh)), nullptr, options, looking);
            if (!look) return tl::unexpected(look.error());
            result->look = std::move(*look);
            return result;
        },
        [this](Outcome<std::shared_ptr<Preview>> result) {
            previewRunning_ = false;
            if (!result)
                failed(result.error());
            else
                preview_ = std::move(**result);
            refreshCoat();
            Q_EMIT previewChanged();
            Q_EMIT lookChanged();
        });
    Q_EMIT previewChanged();
}

void Workshop::keepPreview() {
    if (!preview_ || !current_) return;
    Part& part = *parts_[*current_];
    project::Stop stop;
    stop.label = std::string(preview_->call.step->name);
    stop.call = steps::StepCall{preview_->call.step, preview_->used, preview_->call.pick};
    stop.record = preview_->record;
    stop.mesh = preview_->look.mesh;
    for (auto& [id, look] : part.looks) look.display.reset();
    part.looks[part.track.add(std::move(stop))] = preview_->look;
    preview_.reset();
    Q_EMIT previewChanged();
    Q_EMIT partsChanged();
    afterMove();
}

void Workshop::dropPreview() {
    jobs_.cancel(Jobs::Lane::Preview);
    previewRunning_ = false;
    if (!preview_) {
        Q_EMIT previewChanged();
        return;
    }
    preview_.reset();
    refreshCoat();
    Q_EMIT previewChanged();
    Q_EMIT lookChanged();
}

void Workshop::repair() {
    if (!current()) return;
    dropPreview();
    Part* part = parts_[*current_].get();
    jobs_.start<steps::RepairResult>(
        QString("Repairing %1").arg(part->name), Jobs::Lane::Work,
        [m = part->track.mesh(), brief = brief_](Progress& progress) {
            return steps::repairAutomatically(m, {.brief = brief}, progress);
        },
        [this, id = part->id, from = part->track.current()](Outcome<steps::RepairResult> result) {
            if (!result) return failed(result.error());
            Part* repaired = partWithId(id);
            if (!repaired) return;
            // The user may have gone to another stop meanwhile; the steps belong behind the one they began from.
            if (!result->steps.empty()) repaired->track.goTo(from);
            for (steps::DoneStep& done : result->steps) {
                project::Stop stop;
                stop.label = std::string(done.call.step->name);
                stop.call = steps::StepCall{done.call.step, done.used};
                stop.record = std::move(done.record);
                stop.why = done.why;
                stop.mesh = done.mesh;
                repaired->track.add(std::move(stop));
            }
            repaired->left[repaired->track.current()] = result->left;
            if (result->steps.empty())
                say("Repair found nothing that its steps can mend.", false);
            else
                say(QString("Repair took %1 steps; each is a stop on the track.").arg(result->steps.size()), false);
            Q_EMIT partsChanged();
            if (current() == repaired) afterMove();
        });
}

void Workshop::undo() {
    if (preview_) return dropPreview();
    if (!current() || !current()->track.canUndo()) return;
    parts_[*current_]->track.undo();
    Q_EMIT partsChanged();
    afterMove();
}

void Workshop::redo() {
    if (!current() || !current()->track.canRedo()) return;
    dropPreview();
    parts_[*current_]->track.redo();
    Q_EMIT partsChanged();
    afterMove();
}

void Workshop::goTo(project::StopId stop) {
    if (!current()) return;
    dropPreview();
    if (!parts_[*current_]->track.goTo(stop)) return;
    Q_EMIT partsChanged();
    afterMove();
}

// ---- handing over

void Workshop::exportTo(const QString& file) {
    if (!current() || !kept()) return;
    const Look look = *kept();
    jobs_.start<std::shared_ptr<project::Judged>>(
        QString("Writing and proving %1").arg(QFileInfo(file).fileName()), Jobs::Lane::Work,
        [m = look.mesh, file, brief = brief_,
         unit = current()->unit.name.toStdString()](Progress& progress) -> Outcome<std::shared_ptr<project::Judged>> {
            auto judged = project::writeAndProve(*m, file.toStdString(), brief, progress, unit);
            if (!judged) return tl::unexpected(judged.error());
            return std::make_shared<project::Judged>(std::move(*judged));
        },
        [this, look](Outcome<std::shared_ptr<project::Judged>> result) {
            if (!result) return failed(result.error());
            project::Judged& judged = **result;
            delivered_ = Delivered{QString::fromStdString(judged.file),
                                   std::move(judged.survey),
                                   judged.verdict,
                                   QString::fromStdString(brief_.title),
                                   std::move(judged.settled),
                                   look.mesh->triangles.size(),
                                   look.survey->mass.volume};
            remember(QFileInfo(delivered_->file).absoluteFilePath());
            Q_EMIT deliveredChanged();
        });
}

void Workshop::dismissDelivered() {
    delivered_.reset();
    Q_EMIT deliveredChanged();
}

void Workshop::saveRecipe(const QString& file) {
    if (!current()) return;
    const auto calls = current()->track.recipeTo(current()->track.current());
    const auto written = io::writeBytes(file.toStdString(), steps::recipeJson(calls).dump(2) + "\n");
    if (!written)
        failed(written.error());
    else
        say(QString("Recipe of %1 steps written to %2").arg(calls.size()).arg(QFileInfo(file).fileName()), false);
}

// ---- the lens

void Workshop::setLens(Lens lens) {
    lens_ = lens;
    refreshCoat();
}

void Workshop::refreshCoat() {
    coat_ = {};
    refreshColours();
    const Look* look = shown();
    if (!look || lens_ == Lens::Plain) return;
    std::vector<PastStop> past;
    const project::Track& track = current()->track;
    for (const project::StopId id : track.pathTo(track.current())) {
        const project::Stop& stop = track.stop(id);
        past.push_back({stop.label, stop.call ? stop.call->step->brings : std::string_view(), stop.mesh});
    }
    if (preview_) {
        const steps::Step& step = *preview_->call.step;
        past.push_back({std::string(step.name), step.brings, preview_->look.mesh});
    }
    jobs_.start<std::shared_ptr<Coat>>(
        "Colouring", Jobs::Lane::Work,
        [look = *look, lens = lens_, past = std::move(past)](Progress& progress) -> Outcome<std::shared_ptr<Coat>> {
            auto coat = coatFor(lens, *look.mesh, *look.survey, past, progress);
            if (!coat) return tl::unexpected(coat.error());
            return std::make_shared<Coat>(std::move(*coat));
        },
        [this, m = look->mesh, lens = lens_](Outcome<std::shared_ptr<Coat>> coat) {
            // Another mesh or lens may have been chosen meanwhile.
            if (!coat || !shown() || shown()->mesh != m || lens != lens_) return;
            coat_ = std::move(**coat);
            refreshColours();
        });
}

// ---- telling

void Workshop::say(const QString& text, bool error) {
    notice_ = text;
    noticeIsError_ = error;
    Q_EMIT noticeChanged();
}

void Workshop::failed(const mesh::Error& error) {
    if (error.cancelled())
        say("Cancelled; everything is as it was.", false);
    else
        say(QString::fromStdString(error.message), true);
}

}  // namespace zither::session
