// The brief that surfaces are held against, and the verdict on the one in front.
#pragma once

#include <QObject>
#include <optional>
#include <vector>

#include "project/job.h"
#include "session/state/parts.h"

class QSettings;

namespace zither::session {

class Judging : public QObject {
    Q_OBJECT
public:
    Judging(QSettings& settings, const Parts& parts, QObject* parent);

    // As it was chosen: its lengths are millimetres.
    [[nodiscard]] const steps::Brief& chosen() const { return brief_; }
    // In the unit of the part in front.
    [[nodiscard]] steps::Brief brief() const;
    [[nodiscard]] steps::Brief briefFor(const Part& part) const;
    // The part at its current stop, as a repair takes it.
    [[nodiscard]] project::Subject subjectOf(const Part& part) const;
    // What surveys have to be made with.
    [[nodiscard]] check::SurveyOptions options() const { return brief().surveyOptions(); }
    [[nodiscard]] check::SurveyOptions optionsFor(const Part& part) const;
    void setBrief(const steps::Brief& brief);
    // Somebody has said what surfaces are for; it need not be asked any more.
    [[nodiscard]] bool wasAsked() const;
    // Whoever does not know keeps the brief that there is.
    void leaveAsItIs();
    // Instead of the brief's, until another brief is chosen. Not 0.
    void setBuildDirection(const mesh::Point& up);
    [[nodiscard]] std::optional<steps::Verdict> verdict() const;  // of the current stop
    [[nodiscard]] steps::Verdict verdictOf(const Look& look) const;
    [[nodiscard]] std::vector<check::DefectClass> failingClasses() const;

Q_SIGNALS:
    void changed();

private:
    QSettings& settings_;
    const Parts& parts_;
    steps::Brief brief_;
};

}  // namespace zither::session
