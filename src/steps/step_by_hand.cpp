// The steps that work on a few triangles, as a person asks for them.
#include <fmt/format.h>

#include "repair/by_hand.h"
#include "steps/all_steps.h"
#include "steps/step_handles.h"

namespace zither::steps {
namespace {

const Choice<holes::FillWay> way({.name = "way", .help = "How the spot is closed; chosen: by its rim."},
                                 {{"chosen", holes::FillWay::Chosen},
                                  {"flat", holes::FillWay::Flat},
                                  {"taut", holes::FillWay::Taut},
                                  {"smooth", holes::FillWay::Smooth}});
const Number most({.name = "most",
                   .kind = ParameterKind::Percent,
                   .min = 0,
                   .max = 100,
                   .fallback = 5,
                   .help = "Share of the surface that may go; where more would have to, nothing is done."});

Place place(std::string_view name, std::string_view help) {
    return Place({.name = name, .help = help});
}
const Place vertex = place("vertex", "A place near the vertex.");
const Place to = place("to", "Where it goes.");
const Place edge = place("edge", "A place near the middle of the edge.");

WholeNumber rings(double fallback) {
    return WholeNumber({.name = "rings",
                        .max = 20,
                        .fallback = fallback,
                        .help = "Rings of neighbours around the pick that go with it."});
}
const WholeNumber ringsRemoved = rings(0);
const WholeNumber ringsMended = rings(1);

// Steps that work at a place must be given one.
mesh::Point placeOf(const Arguments& a, const Place& which) {
    return a[which].value_or(mesh::Point(mesh::Point::Zero()));
}

Outcome<StepOutput> saying(const Mesh& before, Outcome<Mesh>&& after, std::string sentence) {
    if (!after) return mesh::errorOf(after);
    Record record;
    record.add("triangles_before", before.triangles.size());
    record.add("triangles_after", after->triangles.size());
    record.say(std::move(sentence));
    return StepOutput{std::move(*after), std::move(record)};
}

Outcome<StepOutput> runRemove(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    auto result = repair::removePick(m, pick, static_cast<unsigned>(a[ringsRemoved]), progress);
    if (!result) return mesh::errorOf(result);
    const std::size_t gone = m.triangles.size() - result->triangles.size();
    auto output = saying(m, std::move(result), fmt::format("Removed {}.", counted(gone, "triangle")));
    output->record.add("triangles_removed", gone);
    return output;
}

Outcome<StepOutput> runMend(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    const double mayGo = a[most] / 100;
    auto result = repair::mend(m, pick, {static_cast<unsigned>(a[ringsMended]), a[way], mayGo}, progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    record.add("share_removed", result->tooMuch ? 0 : result->share);
    if (result->tooMuch) {
        record.add("triangles_removed", std::size_t{0});
        const std::string text =
            fmt::format("Nothing was done: {}, {:.3g} % of the surface, would go, and {:.3g} % may (most).",
                        counted(result->removed, "triangle"), 100 * result->share, 100 * mayGo);
        record.say(text);
        record.listed.push_back({Listed::Left, mesh::boxOf(m).centre(), mesh::boxOf(m).diagonal(), text});
        return StepOutput{std::move(result->mesh), std::move(record)};
    }
    record.add("triangles_removed", result->removed);
    record.add("rings", static_cast<double>(result->rings));
    record.add("holes_filled", result->filled.filled.size());
    record.add("triangles_added", result->filled.added);
    if (result->removed > 0)
        record.say(fmt::format("Took away {} with {} around the spot, and closed {} with {}.",
                               counted(result->removed, "triangle"), counted(result->rings, "ring"),
                               counted(result->filled.filled.size(), "hole"),
                               counted(result->filled.added, "triangle")));
    for (const holes::FilledHole& hole : result->filled.filled)
        if (hole.crosses)
            record.listed.push_back({Listed::Left, hole.position, hole.size,
                                     fmt::format("The patch {} across at {} crosses the surface.",
                                                 lengthText(hole.size), placeText(hole.position))});
    for (const holes::Opening& opening : result->filled.left)
        record.listed.push_back(
            {Listed::Left, opening.position, opening.size,
             fmt::format("Not closed: {} across at {}.", lengthText(opening.size), placeText(opening.position))});
    return StepOutput{std::move(result->mesh), std::move(record)};
}

Outcome<StepOutput> runFlip(const Surveyed& s, const Pick& pick, const Arguments&, Progress& progress) {
    const Mesh& m = s.mesh();
    if (!progress.report(0)) return mesh::cancelled();
    const std::size_t count = pick.everything() ? m.triangles.size() : pick.triangles().size();
    return saying(m, repair::flipPick(m, pick), fmt::format("Turned {}.", counted(count, "triangle")));
}

Outcome<StepOutput> runMove(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    return saying(m, repair::moveVertex(m, placeOf(a, vertex), placeOf(a, to), progress),
                  fmt::format("Moved a vertex to {}.", placeText(placeOf(a, to))));
}

// Which vertex is meant, and where it goes; none while no place is given.
std::vector<Handle> vertexHandles(const Surveyed& s, const Arguments& a, const Record*) {
    const auto from = a[vertex];
    const auto nearest = from ? repair::nearestVertex(s.mesh(), *from) : std::nullopt;
    if (!nearest) return {};
    const mesh::Point& at = s.mesh().positions[*nearest];
    return {{.kind = Handle::Spot, .name = "vertex", .at = at},
            {.kind = Handle::Free, .name = "to", .at = a[to].value_or(at)}};
}

// Another vertex stays where it is until its place is dragged.
Arguments vertexDragged(const Surveyed& s, Arguments values, const Record*, std::size_t i, const Handle& dragTo) {
    mesh::Point at = neat(dragTo.at, boxOfPart(s).diagonal());
    if (i == 0) {
        if (const auto nearest = repair::nearestVertex(s.mesh(), dragTo.at)) at = s.mesh().positions[*nearest];
        values.set(vertex, Value(textOfPlace(at)));
    }
    values.set(to, Value(textOfPlace(at)));
    return values;
}

Outcome<StepOutput> runCollapse(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    return saying(m, repair::collapseEdge(s, placeOf(a, edge), progress),
                  fmt::format("Collapsed the edge at {}.", placeText(placeOf(a, edge))));
}

Outcome<StepOutput> runSwap(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    return saying(m, repair::swapEdge(s, placeOf(a, edge), progress),
                  fmt::format("Swapped the edge at {}.", placeText(placeOf(a, edge))));
}

}  // namespace

const Step& removeStep() {
    static const Step step = {.name = "remove",
                              .title = "Remove the pick",
                              .summary = "Takes the picked triangles away and leaves the hole open.",
                              .family = &familyCutAway,
                              .words = {"delete", "erase", "take away", "delete faces", "cut out"},
                              .parameters = {ringsRemoved},
                              .helpsWith = {},
                              .run = runRemove,
                              .needsPick = true,
                              .byHand = true};
    return step;
}

const Step& mendStep() {
    static const Step step = {
        .name = "mend",
        .title = "Mend the pick",
        .summary = "Takes the picked triangles away with a ring around them, and closes the spot anew.",
        .family = &familyCutAway,
        .words = {"redo", "patch", "retriangulate", "heal", "fix spot", "replace faces"},
        .parameters = {ringsMended, way, most},
        .helpsWith = {},
        .run = runMend,
        .needsPick = true,
        .byHand = true};
    return step;
}

const Step& flipStep() {
    static const Step step = {.name = "flip",
                              .title = "Flip by hand",
                              .summary = "Turns the picked triangles over; the whole part where nothing is picked.",
                              .family = &familyTurn,
                              .words = {"normals", "reverse", "invert", "inside out"},
                              .parameters = {},
                              .helpsWith = {},
                              .run = runFlip,
                              .byHand = true};
    return step;
}

const Step& moveVertexStep() {
    static const Step step = {.name = "move-vertex",
                              .title = "Move a vertex",
                              .summary = "Moves the vertex nearest to a place, if nothing around it folds or crosses.",
                              .family = &familyByHand,
                              .words = {"drag point", "point", "node", "nudge", "translate vertex"},
                              .parameters = {vertex, to},
                              .helpsWith = {},
                              .run = runMove,
                              .byHand = true,
                              .brings = "moved",
                              .wholeOnly = "it moves the one vertex that a place names",
                              .handles = vertexHandles,
                              .dragged = vertexDragged};
    return step;
}

const Step& collapseEdgeStep() {
    static const Step step = {
        .name = "collapse-edge",
        .title = "Collapse an edge",
        .summary = "Makes the edge nearest to a place its middle, if nothing folds, crosses or is pinched.",
        .family = &familyByHand,
        .words = {"merge vertices", "weld", "remove edge", "contract"},
        .parameters = {edge},
        .helpsWith = {},
        .run = runCollapse,
        .byHand = true,
        .brings = "cut",
        .wholeOnly = "it works on the one edge that a place names"};
    return step;
}

const Step& swapEdgeStep() {
    static const Step step = {
        .name = "swap-edge",
        .title = "Swap an edge",
        .summary = "Turns the edge nearest to a place into the other diagonal, if nothing folds or crosses.",
        .family = &familyByHand,
        .words = {"flip edge", "rotate edge", "diagonal", "turn edge"},
        .parameters = {edge},
        .helpsWith = {},
        .run = runSwap,
        .byHand = true,
        .brings = "cut",
        .wholeOnly = "it works on the one edge that a place names"};
    return step;
}

}  // namespace zither::steps
