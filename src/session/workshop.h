// What the window shows and does, without widgets: the pieces of a session, wired to each other. Widgets send wishes to
// a piece and redraw on its signals; they decide nothing.
#pragma once

#include <QObject>
#include <QStringList>

#include "session/bench.h"
#include "session/choice.h"
#include "session/coating.h"
#include "session/comparing.h"
#include "session/counting.h"
#include "session/exporting.h"
#include "session/handing_over.h"
#include "session/jobs.h"
#include "session/judging.h"
#include "session/keeping.h"
#include "session/looks.h"
#include "session/loupe.h"
#include "session/measuring.h"
#include "session/mending.h"
#include "session/notice.h"
#include "session/opening.h"
#include "session/parting.h"
#include "session/parts.h"
#include "session/picking.h"
#include "session/preferences.h"
#include "session/recipes.h"
#include "session/sectioning.h"
#include "session/stop_figures.h"
#include "session/trial.h"
#include "session/veil.h"

namespace zither::session {

class Workshop : public QObject {
    Q_OBJECT
public:
    // `keepIn`: the folder that unsaved work is kept in; empty: it is not.
    explicit Workshop(QSettings& settings, const QString& keepIn = {}, QObject* parent = nullptr);
    ~Workshop() override;

    [[nodiscard]] Preferences& preferences() { return preferences_; }
    [[nodiscard]] const Preferences& preferences() const { return preferences_; }
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
    [[nodiscard]] Comparing& comparing() { return comparing_; }
    [[nodiscard]] const Comparing& comparing() const { return comparing_; }
    [[nodiscard]] Loupe& loupe() { return loupe_; }
    [[nodiscard]] const Loupe& loupe() const { return loupe_; }
    [[nodiscard]] Measuring& measuring() { return measuring_; }
    [[nodiscard]] const Measuring& measuring() const { return measuring_; }
    [[nodiscard]] Mending& mending() { return mending_; }
    [[nodiscard]] Parting& parting() { return parting_; }
    [[nodiscard]] Counting& counting() { return counting_; }
    [[nodiscard]] StopFigures& stopFigures() { return stopFigures_; }
    [[nodiscard]] HandingOver& handingOver() { return handingOver_; }
    [[nodiscard]] Exporting& exporting() { return exporting_; }
    [[nodiscard]] Recipes& recipes() { return recipes_; }
    [[nodiscard]] Keeping& keeping() { return keeping_; }
    [[nodiscard]] const Keeping& keeping() const { return keeping_; }

    // What is tried out goes first; then the last change of the pick; then one stop back.
    void undo();
    void redo();
    // What undo would take back, and redo bring again; empty: nothing.
    [[nodiscard]] QString undoes() const;
    [[nodiscard]] QString redoes() const;
    void goTo(project::StopId stop);
    void repair();
    // The triangles that came with the last step: the seam of a fuse, the patches of a fill. Nothing at the import.
    void pickWhatCameLast();
    // Everything that runs or waits to run.
    void cancelAll();

private:
    [[nodiscard]] Bench bench() { return {parts_, looks_, jobs_, notice_}; }
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
    Comparing comparing_;
    Measuring measuring_;
    Sectioning sectioning_;
    Loupe loupe_;
    Opening opening_;
    Mending mending_;
    Parting parting_;
    Counting counting_;
    StopFigures stopFigures_;
    HandingOver handingOver_;
    Exporting exporting_;
    Recipes recipes_;
    Keeping keeping_;
};

}  // namespace zither::session
