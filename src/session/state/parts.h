// The parts that are open, each with its track; which of them, and which stop of it, is in front.
#pragma once

#include <QObject>
#include <QString>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <vector>

#include "io/format.h"
#include "project/track.h"
#include "repair/places.h"
#include "session/state/camera.h"
#include "session/state/display.h"
#include "session/state/origin.h"
#include "session/state/proposals.h"
#include "steps/automatic_repair.h"
#include "steps/brief.h"

namespace zither::session {

// A surface with what is known of it and what is needed to show it.
struct Look {
    check::SurveyedPtr part;
    std::shared_ptr<const check::Survey> survey;
    std::shared_ptr<const Display> display;
    std::shared_ptr<const measure::Loss> loss = nullptr;   // since the import; nullptr: it is the import
    std::vector<repair::Place> changes = {};               // since the import, largest first
    std::shared_ptr<const Proposals> proposals = nullptr;  // what steps propose for it

    [[nodiscard]] const mesh::Mesh& mesh() const { return part->mesh(); }
};

struct Unit {
    QString name = "mm";
    bool assumed = true;  // the format has none and nobody has said it yet

    // As io knows it; empty where it is only assumed.
    [[nodiscard]] std::string known() const { return assumed ? std::string() : name.toStdString(); }
};

struct Part {
    std::uint64_t id = 0;  // never used again: results of work begun for a closed part find nothing
    QString name;
    std::filesystem::path file;  // empty: it was made of other parts
    const io::Format* format = nullptr;
    std::vector<std::string> remarks;
    std::vector<std::string> notKept;  // what the file held besides
    Unit importedUnit;                 // of its import
    project::Track track;
    std::shared_ptr<steps::SeenOfImport> seen;                        // of the import of the track
    std::map<project::StopId, std::vector<steps::Listed>> left = {};  // what the automatic repair left for a person
    std::map<project::StopId, std::vector<steps::TriedWayLog>> tried = {};  // ways of the repair that led there
    std::map<project::StopId, std::filesystem::path> written = {};    // the file that it was exported to last, here
    std::optional<Camera::Place> view = {};                           // from where it was looked at last
    std::optional<Look> shown = {};                                   // of the stop that was looked at last
    std::shared_ptr<const Display> glimpse = nullptr;                 // of the import, until it has been judged
    // What is seen of the import behind stops that moved the part; filled as they are asked for.
    mutable std::map<project::StopId, std::shared_ptr<steps::SeenOfImport>> seenMoved = {};

    // What the surface of a stop came from; nothing of the import's.
    [[nodiscard]] Origin originOf(project::StopId stop) const;
    // The same of what is made of that surface: a preview, a file.
    [[nodiscard]] Origin originBehind(project::StopId stop) const;
    // What the lengths of a stop are in: a step on the way to it may have brought them into another unit.
    [[nodiscard]] Unit unitAt(project::StopId stop) const;
    [[nodiscard]] Unit unit() const { return unitAt(track.current()); }
    // Some step on the way to a stop moved the part: its import stands elsewhere.
    [[nodiscard]] bool movedBefore(project::StopId stop) const;
    // Of the current stop; nullptr until it has been judged.
    [[nodiscard]] const Look* look() const {
        return shown && shown->part->shared() == track.part()->shared() ? &*shown : nullptr;
    }
};

class Parts : public QObject {
    Q_OBJECT
public:
    using QObject::QObject;

    [[nodiscard]] const std::vector<std::unique_ptr<Part>>& all() const { return parts_; }
    [[nodiscard]] std::optional<std::size_t> currentIndex() const { return current_; }
    [[nodiscard]] const Part* current() const { return current_ ? parts_[*current_].get() : nullptr; }
    [[nodiscard]] Part* current() { return current_ ? parts_[*current_].get() : nullptr; }
    [[nodiscard]] Part* withId(std::uint64_t id);  // nullptr where it was closed meanwhile

    // Parts stand by name, so that files opened together have an order that does not depend on which was read first,
    // until somebody orders them. The part in front stays there. Returns the part's id.
    std::uint64_t add(Part part);
    // The same behind all others, which stay in their order.
    std::uint64_t addLast(Part part);
    void close(std::size_t index);
    void choose(std::size_t index);
    void chooseId(std::uint64_t id);
    // What the numbers of the import are in; nothing is scaled. Stops behind a step that converts keep theirs.
    void setUnit(const QString& name);
    void rename(std::size_t index, const QString& name);
    // A part stands before another one; before none: last.
    void order(std::size_t index, std::size_t before);
    // Several at once: what is started for all that are chosen runs on them one after the other. The part in front is
    // always among them; choosing a part to be in front chooses it alone.
    void toggleChosen(std::size_t index);
    void chooseAll();
    [[nodiscard]] bool isChosen(std::size_t index) const;
    [[nodiscard]] std::vector<std::uint64_t> chosenIds() const;  // in their order
    // The first of them that is still open, for work that goes from one to the next: it and those before it are taken
    // off. nullptr: none is left.
    Part* takeNext(std::vector<std::uint64_t>& ids);
    // Adds a stop behind the current one of the part in front and goes there.
    void addStop(project::Stop stop, Look look);
    // Steps that were worked out meanwhile, behind the stop that they began from, wherever the user is by then. Nothing
    // is told until `showSteps`. nullptr where the part was closed.
    Part* addSteps(std::uint64_t id, project::StopId from, std::vector<steps::DoneStep> steps);
    // Goes to the last of them where the part is in front.
    void showSteps(const Part& part);
    void undo();
    void redo();
    void goTo(project::StopId stop);
    // Something about a part or its track became another: its names, stops, survey.
    void touched() { Q_EMIT changed(); }

Q_SIGNALS:
    void unitChanged();
    void changed();  // the list, its names or its tracks
    void leaving();  // another part is about to be in front
    // Another part or another stop is in front. Told before `changed`, whose listeners draw: what was picked and chosen
    // on the surface before is forgotten by then.
    void moved();

private:
    void arrived();
    // The same part is in front wherever it stands now.
    void stayAt(const Part* front);

    std::vector<std::unique_ptr<Part>> parts_;
    std::uint64_t nextId_ = 1;
    std::optional<std::size_t> current_;
    std::set<std::uint64_t> alsoChosen_;  // besides the one in front
    bool ordered_ = false;                // by hand
    QString unitBefore_;                  // of what was in front last
};

}  // namespace zither::session
