// What the window shows and does, without widgets: parts with their tracks, the brief, what is chosen, the preview.
// Widgets send wishes here and redraw on its signals; they decide nothing.
#pragma once

#include <QObject>
#include <QString>
#include <QStringList>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>

#include "measure/section.h"
#include "project/delivery.h"
#include "project/track.h"
#include "session/display.h"
#include "session/jobs.h"
#include "steps/brief.h"

class QSettings;

namespace zither::session {

// A mesh with what is known of it.
struct Look {
    std::shared_ptr<const mesh::Mesh> mesh;
    std::shared_ptr<const check::Survey> survey;
    std::shared_ptr<const Display> display;
};

struct Unit {
    QString name = "mm";
    bool assumed = true;  // the format has none and nobody has said it yet
};

struct Part {
    std::uint64_t id = 0;  // never used again: results of work begun for a closed part find nothing
    QString name;
    std::filesystem::path file;
    std::string format;
    std::vector<std::string> remarks;
    Unit unit;
    project::Track track;
    std::map<project::StopId, std::vector<steps::Listed>>
        left;                               // what the automatic repair left for a person, by its stop
    std::map<project::StopId, Look> looks;  // surveys of visited stops; the display of the current one

    [[nodiscard]] const Look* look() const {
        const auto it = looks.find(track.current());
        return it == looks.end() || !it->second.display ? nullptr : &it->second;
    }
};

// A step tried out but not kept.
struct Preview {
    steps::StepCall call;
    steps::Arguments used;
    steps::Record record;
    Look look;
};

// A finished export: the file read back.
struct Delivered {
    QString file;
    check::Survey survey;
    steps::Verdict verdict;
    QString briefTitle;
    std::optional<steps::DoneStep> settled;  // before it was written
    std::size_t inputTriangles = 0;
    double inputVolume = 0;
};

// A slab of the part across the strings' axis, in the part's unit.
struct Slab {
    double low = 0;
    double high = 0;
};

class Workshop : public QObject {
    Q_OBJECT
public:
    explicit Workshop(QSettings& settings, QObject* parent = nullptr);

    [[nodiscard]] Jobs& jobs() { return jobs_; }

    // Parts
    void open(const QStringList& files);
    void closePart(std::size_t index);
    [[nodiscard]] const std::vector<std::unique_ptr<Part>>& parts() const { return parts_; }
    [[nodiscard]] std::optional<std::size_t> currentIndex() const { return current_; }
    [[nodiscard]] const Part* current() const { return current_ ? parts_[*current_].get() : nullptr; }
    void choosePart(std::size_t index);
    void setUnit(const QString& name);
    [[nodiscard]] QStringList recentFiles() const;

    // What is seen: the current stop, or the preview where there is one.
    [[nodiscard]] const Look* shown() const;
    [[nodiscard]] const Look* kept() const { return current() ? current()->look() : nullptr; }

    // Judging
    [[nodiscard]] const steps::Brief& brief() const { return brief_; }
    void setBrief(const steps::Brief& brief);
    [[nodiscard]] std::optional<steps::Verdict> verdict() const;  // of the current stop

    // Choosing a class, a place, a slab
    [[nodiscard]] std::optional<check::DefectClass> chosenClass() const { return chosenClass_; }
    void chooseClass(std::optional<check::DefectClass> defect);
    [[nodiscard]] std::optional<std::size_t> chosenFinding() const {
        return chosenFinding_;
    }  // index in the shown survey
    void chooseFinding(std::size_t index);
    // To the next or previous place of the chosen class (of any failing class where none is chosen), along the axis.
    void stepFinding(int direction);
    [[nodiscard]] int axis() const;         // 0, 1, 2: of the strings
    void setAxis(std::optional<int> axis);  // none: the longest
    [[nodiscard]] std::optional<Slab> slab() const { return slab_; }
    void setSlab(std::optional<Slab> slab);
    // Findings of a class in the order of the axis, within the slab; of the current stop.
    [[nodiscard]] std::vector<std::size_t> places(check::DefectClass defect) const;
    [[nodiscard]] std::vector<check::DefectClass> failingClasses() const;

    // The section: a plane across the strings' axis, in the part's unit; none: the part is whole.
    void setSection(std::optional<double> position);
    void moveSection(double by);  // within the part; nothing where there is no section
    [[nodiscard]] std::optional<double> sectionPosition() const { return sectionPosition_; }
    // The cut that was computed last; nullptr until the first is there.
    [[nodiscard]] std::shared_ptr<const measure::Section> section() const { return section_; }

    // The pick: triangles that steps work on; of the current stop. None: they work on everything.
    [[nodiscard]] const mesh::Pick& pick() const { return pick_; }
    // The place of the last triangle that was picked with the pointer.
    [[nodiscard]] std::optional<mesh::Point> pickedPlace() const { return pickedPlace_; }
    void setPick(mesh::Pick pick);
    void pickTriangle(mesh::TriangleId triangle, const mesh::Point& at, bool add);
    void pickShellOf(mesh::TriangleId triangle);
    void pickPlaces();  // the triangles of the chosen place, or of every place of the chosen class
    void growPick();
    void shrinkPick();
    // The colours to draw with: those of the lens with the pick over them.
    [[nodiscard]] const std::vector<std::uint32_t>& colours() const { return colours_; }

    // Steps
    void preview(const steps::StepCall& call);
    [[nodiscard]] const std::optional<Preview>& currentPreview() const { return preview_; }
    [[nodiscard]] bool previewRunning() const { return previewRunning_; }
    void keepPreview();
    void dropPreview();
    void repair();
    void undo();
    void redo();
    void goTo(project::StopId stop);

    // Handing over
    void exportTo(const QString& file);
    [[nodiscard]] const std::optional<Delivered>& delivered() const { return delivered_; }
    void dismissDelivered();
    void saveRecipe(const QString& file);

    // The lens
    [[nodiscard]] Lens lens() const { return lens_; }
    void setLens(Lens lens);
    [[nodiscard]] const Coat& coat() const { return coat_; }

    // The last thing to tell the user; errors until dismissed.
    [[nodiscard]] QString notice() const { return notice_; }
    [[nodiscard]] bool noticeIsError() const { return noticeIsError_; }
    void dismissNotice() { say({}, false); }
    // For errors that arise outside: shown as any other.
    void tell(const mesh::Error& error) { failed(error); }

Q_SIGNALS:
    void partsChanged();   // the list, its names or its tracks
    void lookChanged();    // another mesh is shown, or a survey has arrived
    void choiceChanged();  // class, place, slab, axis
    void placeChosen();    // the view should fly there
    void previewChanged();
    void briefChanged();
    void coatChanged();
    void pickChanged();
    void sectionChanged();  // moved, or computed
    void noticeChanged();
    void deliveredChanged();

private:
    struct Opened;
    void addPart(Opened opened);
    void judgeCurrent();
    void afterMove();
    Part* partWithId(std::uint64_t id);  // nullptr where it was closed meanwhile
    void refreshCoat();
    void refreshColours();
    void refreshSection();
    void say(const QString& text, bool error);
    void failed(const mesh::Error& error);
    void remember(const QString& file);
    [[nodiscard]] check::SurveyOptions surveyOptions() const { return brief_.surveyOptions(); }

    QSettings& settings_;
    std::vector<std::unique_ptr<Part>> parts_;
    std::uint64_t nextPartId_ = 1;
    std::optional<std::size_t> current_;
    steps::Brief brief_;
    std::optional<check::DefectClass> chosenClass_;
    std::optional<std::size_t> chosenFinding_;
    std::optional<int> axis_;
    std::optional<Slab> slab_;
    std::optional<double> sectionPosition_;
    std::shared_ptr<const measure::Section> section_;
    std::optional<Preview> preview_;
    bool previewRunning_ = false;
    std::optional<Delivered> delivered_;
    Lens lens_ = Lens::Plain;
    Coat coat_;
    mesh::Pick pick_;
    std::optional<mesh::Point> pickedPlace_;
    std::vector<std::uint32_t> colours_;
    QString notice_;
    bool noticeIsError_ = false;
    Jobs jobs_;  // last: its threads end before anything they use
};

}  // namespace zither::session
