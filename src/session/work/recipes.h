// Recipes: taken from the track or from a file, edited, tried without keeping anything, run on the chosen parts, saved.
#pragma once

#include <QObject>
#include <QStringList>
#include <optional>
#include <vector>

#include "session/state/bench.h"
#include "session/state/jobs.h"
#include "session/state/judging.h"
#include "session/state/notice.h"
#include "session/state/parts.h"
#include "session/work/exporting.h"
#include "steps/recipe.h"

namespace zither::session {

class Recipes : public QObject {
    Q_OBJECT
public:
    Recipes(const Bench& bench, const Judging& judging, const Exporting& exporting);

    // The one that is edited.
    [[nodiscard]] const std::vector<steps::StepCall>& calls() const { return recipe_.steps; }
    [[nodiscard]] const steps::Recipe& recipe() const { return recipe_; }
    // The automatic repair goes before the steps, as an opened recipe said, or asking.
    void setRepairFirst(bool first);
    [[nodiscard]] const QString& name() const { return name_; }
    // The steps of the part in front, from the one behind `after` up to its current stop.
    void takeFromTrack(project::StopId after = 0);
    void open(const QString& file);
    // This one, as it stands.
    void take(const QString& name, steps::Recipe recipe);
    void saveTo(const QString& file);
    void add(const steps::Step& step);
    void remove(std::size_t i);
    // Before the one that stands `by` places on.
    void move(std::size_t i, int by);
    // None: as the part asks, each time that it runs.
    void set(std::size_t i, const steps::Parameter& parameter, const std::optional<steps::Value>& value);
    // "boundary_edges", as steps::conditionFromText; empty: always. Returns whether it can be read; else nothing is
    // changed, and why not is told.
    bool setOnlyIf(std::size_t i, const QString& condition);
    // Everything that is set of it, in words: "distance 0.01, only if there are open edges".
    [[nodiscard]] QString inWords(std::size_t i) const;
    // What it would be for the part in front.
    [[nodiscard]] steps::Value proposed(std::size_t i, const steps::Parameter& parameter) const;

    // On the chosen parts, one after the other, each from its current stop; each step becomes a stop.
    void run();
    // Does the same and keeps nothing, but what each step would do.
    void tryOut();
    struct Would {
        QString part;
        QStringList sentences;  // a step each
    };
    [[nodiscard]] const std::vector<Would>& would() const { return would_; }

    // Without editing it.
    void runFile(const QString& file);
    void saveTrackTo(const QString& file);
    // Does the last step of the part in front on the other chosen parts as well.
    void repeatLastStep();

Q_SIGNALS:
    void changed();
    void tried();

private:
    struct Run {
        QString name;
        steps::Recipe recipe;
        std::vector<std::uint64_t> ids;  // of the parts that are still to come
        bool keep = true;
    };
    void start(Run run);
    void done(const Run& run, std::uint64_t id, project::StopId from, steps::RepairResult result);
    void save(const steps::Recipe& recipe, const QString& file);
    void edited();

    Parts& parts_;
    Jobs& jobs_;
    Notice& notice_;
    const Judging& judging_;
    const Exporting& exporting_;
    const Preferences& preferences_;
    steps::Recipe recipe_;
    std::optional<steps::RepairAsked> repairFirst_;  // as it was said before it was taken out
    QString name_ = "new recipe";
    std::vector<Would> would_;
};

}  // namespace zither::session
