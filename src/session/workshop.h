// What the window shows and does, without widgets: the pieces of a session, wired to each other. Widgets send wishes to
// a piece and redraw on its signals; they decide nothing.
#pragma once

#include <QObject>
#include <QStringList>

#include "session/state/before_after.h"
#include "session/state/bench.h"
#include "session/state/choice.h"
#include "session/state/coating.h"
#include "session/state/jobs.h"
#include "session/state/judging.h"
#include "session/state/looks.h"
#include "session/state/loupe.h"
#include "session/state/measuring.h"
#include "session/state/notice.h"
#include "session/state/parts.h"
#include "session/state/picking.h"
#include "session/state/preferences.h"
#include "session/state/sectioning.h"
#include "session/state/trial.h"
#include "session/state/veil.h"
#include "session/work/counting.h"
#include "session/work/exporting.h"
#include "session/work/handing_over.h"
#include "session/work/opening.h"
#include "session/work/part_making.h"
#include "session/work/recipes.h"
#include "session/work/repairing.h"
#include "session/work/saving.h"
#include "session/work/stop_figures.h"

namespace zither::session {

class Workshop : public QObject {
    Q_OBJECT
public:
    // `keepIn`: the folder that unsaved work is kept in; empty: it is not.
    explicit Workshop(QSettings& settings, const QString& keepIn = {}, QObject* parent = nullptr);
    ~Workshop() override;

    [[nodiscard]] Preferences& preferences() { return preferences_; }
    [[nodiscard]] const Preferences& preferences() const { return preferences_; }
    [[nodiscard]] const Paper& paper() const { return preferences_.paper(); }
    [[nodiscard]] const Numbers& numbers() const { return preferences_.numbers(); }
    [[nodiscard]] Jobs& jobs() { return jobs_; }
    [[nodiscard]] const Jobs& jobs() const { return jobs_; }
    [[nodiscard]] Notice& notice() { return notice_; }
    [[nodiscard]] Opening& opening() { return opening_; }
    [[nodiscard]] Parts& parts() { return parts_; }
    [[nodiscard]] const Parts& parts() const { return parts_; }
    [[nodiscard]] Judging& judging() { return judging_; }
    [[nodiscard]] const Judging& judging() const { return judging_; }
    [[nodiscard]] Looks& looks() { return looks_; }
    [[nodiscard]] const Looks& looks() const { return looks_; }
    [[nodiscard]] Choice& choice() { return choice_; }
    [[nodiscard]] const Choice& choice() const { return choice_; }
    [[nodiscard]] Veil& veil() { return veil_; }
    [[nodiscard]] const Veil& veil() const { return veil_; }
    [[nodiscard]] Sectioning& sectioning() { return sectioning_; }
    [[nodiscard]] const Sectioning& sectioning() const { return sectioning_; }
    [[nodiscard]] Picking& picking() { return picking_; }
    [[nodiscard]] const Picking& picking() const { return picking_; }
    [[nodiscard]] Trial& trial() { return trial_; }
    [[nodiscard]] const Trial& trial() const { return trial_; }
    [[nodiscard]] Coating& coating() { return coating_; }
    [[nodiscard]] BeforeAfter& beforeAfter() { return beforeAfter_; }
    [[nodiscard]] const BeforeAfter& beforeAfter() const { return beforeAfter_; }
    [[nodiscard]] Loupe& loupe() { return loupe_; }
    [[nodiscard]] const Loupe& loupe() const { return loupe_; }
    [[nodiscard]] Measuring& measuring() { return measuring_; }
    [[nodiscard]] const Measuring& measuring() const { return measuring_; }
    [[nodiscard]] Repairing& repairing() { return repairing_; }
    [[nodiscard]] PartMaking& partMaking() { return partMaking_; }
    [[nodiscard]] Counting& counting() { return counting_; }
    [[nodiscard]] StopFigures& stopFigures() { return stopFigures_; }
    [[nodiscard]] HandingOver& handingOver() { return handingOver_; }
    [[nodiscard]] Exporting& exporting() { return exporting_; }
    [[nodiscard]] Recipes& recipes() { return recipes_; }
    [[nodiscard]] Saving& saving() { return saving_; }
    [[nodiscard]] const Saving& saving() const { return saving_; }

    // What is tried out goes first; then the last change of the pick; then one stop back.
    void undo();
    void redo();
    // What undo would take back, and redo bring again; empty: nothing.
    [[nodiscard]] QString undoes() const;
    [[nodiscard]] QString redoes() const;
    void goTo(project::StopId stop);
    void repair();
    // From where the repair began that led here, with this said of bodies within bodies.
    void repairAgain(steps::BuriedWay buried);
    // The triangles that came with the last step: the seam of a fuse, the patches of a fill. Nothing at the import.
    void pickWhatCameLast();
    // Everything that runs or waits to run.
    void cancelAll();

private:
    [[nodiscard]] Bench bench() { return {parts_, looks_, jobs_, notice_, preferences_}; }
    void moved();

    Preferences preferences_;
    Notice notice_;
    Parts parts_;
    Judging judging_;
    Jobs jobs_;
    Looks looks_;
    Veil veil_;
    Choice choice_;
    Picking picking_;
    Trial trial_;
    Coating coating_;
    BeforeAfter beforeAfter_;
    Measuring measuring_;
    Sectioning sectioning_;
    Loupe loupe_;
    Opening opening_;
    Repairing repairing_;
    PartMaking partMaking_;
    Counting counting_;
    StopFigures stopFigures_;
    HandingOver handingOver_;
    Exporting exporting_;
    Recipes recipes_;
    Saving saving_;
};

}  // namespace zither::session
