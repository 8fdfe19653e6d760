// Descriptor of `hollow`.
#include <fmt/format.h>

#include <cmath>

#include "check/catalogue.h"
#include "mesh/disjoint_sets.h"
#include "shape/hollow.h"
#include "shape/wrap.h"
#include "steps/all_steps.h"
#include "steps/step_handles.h"

namespace zither::steps {
namespace {

// A twentieth of the shortest side; not thinner than the brief asks.
double proposedWall(const Surveyed& s) {
    if (s.mesh().triangles.empty()) return 0;
    constexpr double usual = 1.0 / 20;
    return std::max(usual * mesh::boxOf(s.mesh()).extent().minCoeff(), s.knownOptions().wall);
}

const Number wall({.name = "wall",
                   .kind = ParameterKind::Length,
                   .min = 0,
                   .max = 1e300,
                   .help = "At least so thick everywhere. Proposed: a twentieth of the shortest side.",
                   .propose = proposedWall});
const WholeNumber drains({.name = "drains",
                          .min = 0,
                          .max = 16,
                          .help = "Holes out of each void: at its lowest place, then along its floor. With a pick: one "
                                  "through each picked patch instead."});
const PlaceList at({.name = "at", .help = "Places on the surface where drains go instead.", .optional = true});
const Number diameter({.name = "diameter",
                       .kind = ParameterKind::Length,
                       .min = 0,
                       .max = 1e300,
                       .help = "Of the drains.",
                       .zero = "two walls"});
const Place up({.name = "up",
                .help = "A direction x,y,z, as built: what is inside runs down against it. Proposed: z.",
                .optional = true,
                .means = Parameter::Direction});
const Number cell({.name = "cell",
                   .kind = ParameterKind::Length,
                   .min = 0,
                   .max = 1e300,
                   .help = "Edge of a cell of the grid that the void is found on.",
                   .zero = "two fifths of the wall"});

double cellOf(const Arguments& a) {
    const double asked = a[cell];
    constexpr double usual = 0.4;  // of the wall
    return asked > 0 ? asked : usual * a[wall];
}

// One place for each group of picked triangles: their middle.
std::vector<mesh::Point> placesOf(const Surveyed& s, const Pick& pick) {
    std::vector<mesh::Point> places;
    if (pick.everything()) return places;
    const Mesh& m = s.mesh();
    const std::vector<std::uint8_t> chosen = pick.mask(m);
    mesh::DisjointSets groups(static_cast<std::uint32_t>(m.triangles.size()));
    for (mesh::HalfEdge h = 0; h < 3 * m.triangles.size(); ++h)
        if (const mesh::HalfEdge twin = s.edges().twin(h);
            twin != mesh::noEdge && chosen[mesh::triangleOf(h)] && chosen[mesh::triangleOf(twin)])
            groups.join(mesh::triangleOf(h), mesh::triangleOf(twin));
    struct Middle {
        mesh::Point sum = mesh::Point::Zero();
        double area = 0;
    };
    std::map<std::uint32_t, Middle> middles;
    for (mesh::TriangleId t : pick.triangles()) {
        const double area = mesh::areaVector(m, t).norm();
        Middle& middle = middles[groups.find(t)];
        middle.sum += area * mesh::centroid(m, t);
        middle.area += area;
    }
    for (const auto& [group, middle] : middles)
        if (middle.area > 0) places.emplace_back(middle.sum / middle.area);
    return places;
}

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    Record record;
    if (s.mesh().triangles.empty()) return StepOutput{s.mesh(), std::move(record)};
    shape::HollowOptions options;
    options.wall = a[wall];
    options.cell = cellOf(a);
    if (options.cell > 0.5 * options.wall)
        return mesh::badInput("step 'hollow': cell must be at most half the wall", mesh::errorcode::badParameter);
    options.drains = a[drains];
    options.drainDiameter = a[diameter];
    if (!(options.drainDiameter > 0)) options.drainDiameter = 2 * options.wall;
    const auto upward = directionAsked("hollow", a, up);
    if (!upward) return mesh::errorOf(upward);
    if (*upward) options.up = **upward;
    options.at = placesOf(s, pick);
    const std::vector<mesh::Point> places = a[at];
    options.at.insert(options.at.end(), places.begin(), places.end());
    options.precision = mesh::precisionOf(s.mesh());
    auto result = shape::hollow(s, options, progress);
    if (!result) return leftBecause(result.error(), s.mesh());
    if (result->made == 0)
        record.say(fmt::format("Nothing here is much thicker than two walls of {}: no void was made.",
                               lengthText(options.wall)));
    if (result->made == 0 && result->voids == 0) return StepOutput{s.mesh(), std::move(record)};
    const double volume = s.known() ? s.known()->mass.volume : measure::massOf(s.mesh()).volume;
    record.add("voids_made", result->made);
    record.add("voids", result->voids);
    record.add("voids_left_full", result->crumbs);
    record.add("wall", options.wall);
    record.add("thinnest", result->thinnest);
    record.add("thickest", result->thickest);
    record.add("points_measured", result->points);
    record.add("volume_saved", result->removed);
    record.add("drains", result->drains.size());
    record.add("drains_refused", result->undrilled.size());
    if (result->made > 0)
        record.say(fmt::format("{} behind a wall of {} at least ({} at most), at {} points; {} of the volume saved.",
                               counted(result->made, "void"), lengthText(result->thinnest),
                               lengthText(result->thickest), result->points,
                               fmt::format("{:.3g} %", 100 * result->removed / volume)));
    if (result->crumbs > 0)
        record.say(fmt::format("{} too small, and stay full.",
                               counted(result->crumbs, "further place is", "further places are")));
    for (const shape::Drain& d : result->drains)
        record.listed.push_back(
            {Listed::Made, d.to, options.drainDiameter,
             fmt::format("A drain of {} at {}.", lengthText(options.drainDiameter), placeText(d.to))});
    for (const mesh::Point& p : result->undrilled)
        record.listed.push_back({Listed::Left, p, options.drainDiameter,
                                 fmt::format("No drain at {}: it would not lead straight out of the void, or would "
                                             "break the surface.",
                                             placeText(p))});
    if (result->drains.empty()) record.say("Without drains: what is inside cannot leave.");
    record.told = toldShaped(s.mesh(), result->mesh);
    return StepOutput{std::move(result->mesh), std::move(record)};
}

std::string foresee(const Surveyed& s, const Arguments& a) {
    return cellOf(a) > 0 ? workText(shape::trianglesForCell(s.mesh(), cellOf(a))) : std::string();
}

double memoryOf(const Surveyed& s, const Arguments& a) {
    return memoryOfSkin(s.mesh(), cellOf(a));
}

// Where drains are, or were asked for.
std::vector<mesh::Point> drainsNow(const Arguments& a, const Record* tried) {
    std::vector<mesh::Point> places = a[at];
    if (places.empty() && tried)
        for (const Listed& l : tried->listed)
            if (l.kind == Listed::Made) places.push_back(l.position);
    return places;
}

// What is up, then the drains.
std::vector<Handle> handlesOf(const Surveyed& s, const Arguments& a, const Record* tried) {
    const mesh::Box box = boxOfPart(s);
    if (box.empty()) return {};
    constexpr double reach = 0.6;
    const auto upward = directionAsked("hollow", a, up).value_or(std::nullopt);
    std::vector<Handle> handles = {{.name = "up",
                                    .at = box.centre(),
                                    .direction = upward.value_or(mesh::Point(mesh::Point::UnitZ())),
                                    .length = reach * box.diagonal(),
                                    .turns = true}};
    for (const mesh::Point& p : drainsNow(a, tried))
        handles.push_back({.kind = Handle::Spot, .name = fmt::format("drain {}", handles.size()), .at = p});
    return handles;
}

Arguments dragged(const Surveyed& s, Arguments values, const Record* tried, std::size_t i, const Handle& to) {
    if (i == 0) {
        values.set(up, Value(directionText(to.direction)));
        return values;
    }
    std::vector<mesh::Point> places = drainsNow(values, tried);
    places.at(i - 1) = neat(to.at, boxOfPart(s).diagonal());
    values.set(at, Value(textOfPlaces(places)));
    return values;
}

}  // namespace

const Step& hollowStep() {
    static const Step step = {
        .name = "hollow",
        .title = "Hollow",
        .summary = "A solid becomes a shell of a wall, with drain holes if wanted; its surface stays as it is.",
        .family = &familyShape,
        .words = {"shell", "wall", "drain", "escape hole", "cavity", "save material", "lighten", "infill"},
        .parameters = {wall, drains, at, diameter, up, cell},
        .helpsWith = {},
        .run = run,
        .foresee = foresee,
        .memory = memoryOf,
        .handles = handlesOf,
        .dragged = dragged};
    return step;
}

}  // namespace zither::steps
