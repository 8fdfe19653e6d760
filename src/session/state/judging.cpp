// The brief is remembered in the settings.
#include "session/state/judging.h"

#include <QSettings>

#include "io/units.h"

namespace zither::session {

Judging::Judging(QSettings& settings, const Parts& parts, QObject* parent)
    : QObject(parent), settings_(settings), parts_(parts), brief_(steps::builtInBriefs().front()) {
    if (const auto named = steps::loadBrief(settings.value("brief", "print").toString().toStdString())) brief_ = *named;
}

void Judging::setBrief(const steps::Brief& brief) {
    brief_ = brief;
    settings_.setValue("brief", QString::fromStdString(brief.id));
    Q_EMIT changed();
}

bool Judging::wasAsked() const {
    return settings_.contains("brief");
}

void Judging::leaveAsItIs() {
    settings_.setValue("brief", QString::fromStdString(brief_.id));
}

void Judging::setBuildDirection(const mesh::Point& up) {
    brief_.up = {up.x(), up.y(), up.z()};
    Q_EMIT changed();
}

steps::Brief Judging::brief() const {
    const Part* part = parts_.current();
    return part ? briefFor(*part) : brief_;
}

steps::Brief Judging::briefFor(const Part& part) const {
    return brief_.inUnit(io::millimetresIn(part.unit().name.toStdString()));
}

project::Subject Judging::subjectOf(const Part& part) const {
    const bool isImport = part.track.part() == part.track.imported();
    return {part.track.part(), briefFor(part), part.unit().known(), isImport ? part.seen : nullptr};
}

check::SurveyOptions Judging::optionsFor(const Part& part) const {
    return briefFor(part).surveyOptions();
}

std::optional<steps::Verdict> Judging::verdict() const {
    const Look* look = parts_.current() ? parts_.current()->look() : nullptr;
    if (!look) return std::nullopt;
    return verdictOf(*look);
}

steps::Verdict Judging::verdictOf(const Look& look) const {
    return steps::judge(*look.survey, brief(), look.loss.get());
}

std::vector<check::DefectClass> Judging::failingClasses() const {
    std::vector<check::DefectClass> classes;
    if (const auto v = verdict())
        for (const steps::Judged& j : v->judged)
            if (!j.met && j.requirement.measure->marks) classes.push_back(*j.requirement.measure->marks);
    return classes;
}

}  // namespace zither::session
