// Who tells whom: the only place where the pieces of a session know of each other.
#include "session/workshop.h"

#include "project/provenance.h"

namespace zither::session {

Workshop::Workshop(QSettings& settings, const QString& keepIn, QObject* parent)
    : QObject(parent),
      preferences_(settings, nullptr),
      judging_(settings, parts_, nullptr),
      looks_(parts_, judging_, jobs_, notice_, nullptr),
      veil_(bench()),
      choice_(bench(), judging_),
      picking_(bench(), choice_),
      trial_(bench(), judging_, picking_),
      coating_(bench(), trial_, picking_),
      beforeAfter_(bench()),
      measuring_(bench()),
      sectioning_(bench(), choice_, picking_, measuring_),
      loupe_(bench(), choice_),
      opening_(bench(), settings, preferences_),
      repairing_(bench(), judging_, exporting_),
      partMaking_(bench(), judging_, picking_),
      counting_(bench(), picking_),
      stopFigures_(bench()),
      handingOver_(bench(), judging_),
      exporting_(bench(), judging_, handingOver_),
      recipes_(bench(), judging_, exporting_),
      saving_(bench(), judging_, measuring_, picking_, recipes_, keepIn) {
    // What is tried out belongs to the part, the class and the brief that it was begun with.
    connect(&parts_, &Parts::leaving, this, [this] {
        sectioning_.clear();
        trial_.drop();
        choice_.forgetSlab();
    });
    connect(&choice_, &Choice::classLeft, &trial_, &Trial::drop);
    connect(&judging_, &Judging::changed, this, [this] {
        trial_.drop();
        looks_.forget();
        handingOver_.judgeAgain();
        moved();
    });
    connect(&parts_, &Parts::unitChanged, &judging_, &Judging::changed);
    connect(&parts_, &Parts::moved, this, &Workshop::moved);
    connect(&looks_, &Looks::changed, &sectioning_, &Sectioning::refresh);
    connect(&beforeAfter_, &BeforeAfter::changed, &sectioning_, [this] {
        const auto other = beforeAfter_.display();
        sectioning_.setOther(other ? other->part : nullptr);
    });
    connect(&looks_, &Looks::changed, &coating_, &Coating::refresh);
    connect(&picking_, &Picking::changed, &coating_, &Coating::refreshPick);
    connect(&parts_, &Parts::moved, &beforeAfter_, &BeforeAfter::refresh);
    connect(&looks_, &Looks::changed, &counting_, &Counting::refresh);
    connect(&parts_, &Parts::changed, &stopFigures_, &StopFigures::refresh);
    connect(&picking_, &Picking::changed, &counting_, &Counting::refresh);
    connect(&handingOver_, &HandingOver::wrote, &opening_, &Opening::remember);
    connect(&opening_, &Opening::projectWanted, &saving_, &Saving::open);
    connect(&saving_, &Saving::saved, &opening_, &Opening::remember);
}

// Jobs tell pieces of the session what they hear.
Workshop::~Workshop() {
    saving_.finish();
    jobs_.stop();
}

// Another surface is in front: what was chosen on the one before means nothing on it.
void Workshop::moved() {
    choice_.forgetPlace();
    picking_.forget();
    looks_.refresh();
    Q_EMIT looks_.changed();
    Q_EMIT choice_.changed();
}

void Workshop::undo() {
    if (trial_.current()) return trial_.drop();
    if (picking_.canUndo()) return picking_.undo();
    parts_.undo();
}

QString Workshop::undoes() const {
    if (trial_.current()) return "preview";
    if (picking_.canUndo()) return "pick";
    const Part* part = parts_.current();
    return part && part->track.canUndo() ? QString::fromStdString(part->track.stop(part->track.current()).label)
                                         : QString();
}

QString Workshop::redoes() const {
    const Part* part = parts_.current();
    const auto next = part ? part->track.next() : std::nullopt;
    return next ? QString::fromStdString(part->track.stop(*next).label) : QString();
}

void Workshop::redo() {
    trial_.drop();
    parts_.redo();
}

void Workshop::goTo(project::StopId stop) {
    trial_.drop();
    parts_.goTo(stop);
}

void Workshop::pickWhatCameLast() {
    const Part* part = parts_.current();
    const Look* look = looks_.kept();
    if (!part || !look) return;
    const std::vector<project::StopId> path = part->track.pathTo(part->track.current());
    if (path.size() < 2) return notice_.say("Nothing was done to this part yet.");
    std::vector<project::PastSurface> stops;
    for (const project::StopId id : {path[path.size() - 2], path.back()})
        stops.push_back({part->track.stop(id).part->shared(), part->track.stop(id).record.motion});
    jobs_.start<mesh::Pick>(
        "Looking for what came last", Jobs::Lane::Work,
        [surface = look->part, stops](mesh::Progress&) -> mesh::Outcome<mesh::Pick> {
            const std::vector<std::uint32_t> first = project::firstStopWith(surface->mesh(), stops);
            std::vector<mesh::TriangleId> came;
            for (mesh::TriangleId t = 0; t < first.size(); ++t)
                if (first[t] != 0) came.push_back(t);
            return mesh::Pick(std::move(came));
        },
        [this, surface = look->part](mesh::Outcome<mesh::Pick> came) {
            if (!came) return notice_.failed(came.error());
            // Another surface may be in front meanwhile.
            if (!looks_.kept() || looks_.kept()->part != surface) return;
            if (came->everything()) return notice_.say("The last step only took away: there is nothing to pick.");
            picking_.set(std::move(*came));
        });
}

void Workshop::repair() {
    trial_.drop();
    // It is about the whole part, and so is what it leaves to be decided.
    choice_.chooseClass(std::nullopt);
    repairing_.start();
}

void Workshop::repairAgain(steps::BuriedWay buried) {
    const std::uint64_t part = parts_.current()->id;
    const project::Track& track = parts_.current()->track;
    project::StopId begin = track.current();
    while (begin != 0 && track.stop(begin).why.empty()) begin = track.stop(begin).parent;
    while (begin != 0 && !track.stop(begin).why.empty()) begin = track.stop(begin).parent;
    goTo(begin);
    trial_.drop();
    choice_.chooseClass(std::nullopt);
    repairing_.start(part, {.buried = buried});
}

void Workshop::cancelAll() {
    opening_.dropWaiting();
    jobs_.cancelAll();
}

}  // namespace zither::session
