// Descriptor of `trim`.
#include <fmt/format.h>

#include "shape/trim.h"
#include "steps/all_steps.h"
#include "steps/step_handles.h"

namespace zither::steps {
namespace {

// A thin slice off the lower end: what makes an uneven base flat.
double proposedHeight(const Surveyed& s) {
    constexpr double slice = 0.02;
    const mesh::Box box = mesh::boxOf(s.mesh());
    return box.empty() ? 0.0 : box.min.z() + slice * box.extent().z();
}

const Choice<Eigen::Index> axis({.name = "axis", .help = "The plane lies across this axis."},
                                {{"z", 2}, {"x", 0}, {"y", 1}});
const Number at({.name = "at",
                 .kind = ParameterKind::Length,
                 .min = -1e300,
                 .max = 1e300,
                 .help = "Where along the axis, or the normal. Proposed: a fiftieth of the height, across z.",
                 .propose = proposedHeight});
enum class Keep { Above, Below };
const Choice<Keep> keep({.name = "keep",
                         .help = "The side that stays: above, towards the axis or the normal, or below."},
                        {{"above", Keep::Above}, {"below", Keep::Below}});
enum class Cut { Closed, Open };
const Choice<Cut> cut({.name = "cut", .help = "What was inside is closed flat, or left open."},
                      {{"closed", Cut::Closed}, {"open", Cut::Open}});
const Place normal({.name = "normal",
                    .help = "A direction x,y,z that the plane lies across, instead of an axis.",
                    .optional = true,
                    .means = Parameter::Direction});
const Place through({.name = "through",
                     .help = "A point that the plane passes through, instead of `at`.",
                     .optional = true});
const PlaceList points({.name = "points",
                        .help = "Three points that it passes through, instead of all these; above is where they are "
                                "seen to turn counter-clockwise.",
                        .optional = true});

// The plane and the side that stays.
Outcome<shape::TrimOptions> planeOf(const Mesh& m, const Arguments& a) {
    shape::TrimOptions options;
    options.precision = mesh::precisionOf(m);
    options.cap = a[cut] == Cut::Closed;
    options.towards = mesh::Point::Unit(a[axis]);
    options.through = a[at] * options.towards;
    const auto direction = directionAsked("trim", a, normal);
    if (!direction) return mesh::errorOf(direction);
    if (*direction) {
        options.through = a[at] * **direction;
        options.towards = **direction;
    }
    if (const std::vector<mesh::Point> three = a[points]; !three.empty()) {
        const mesh::Point across = three.size() == 3 ? mesh::Point((three[1] - three[0]).cross(three[2] - three[0]))
                                                     : mesh::Point(mesh::Point::Zero());
        if (!(across.norm() > 0))
            return mesh::badInput("step 'trim': points must be three that do not lie in a line",
                                  mesh::errorcode::badParameter);
        options.towards = across.normalized();
        options.through = three.front();
    }
    if (const auto place = a[through]) options.through = *place;
    if (a[keep] == Keep::Below) options.towards = -options.towards;
    return options;
}

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    const auto options = planeOf(m, a);
    if (!options) return mesh::errorOf(options);
    auto result = shape::trim(s, pick, *options, progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    if (result->mesh.triangles.empty()) {
        if (!m.triangles.empty()) record.say("Nothing lies on the side that stays, so nothing was done.");
        return StepOutput{m, std::move(record)};
    }
    record.add("triangles_cut", result->cutTriangles);
    record.add("cap_area", result->capArea);
    record.add("farthest_from_plane", result->farthestFromPlane);
    record.add("unsettled_places", result->unsound.size());
    if (result->cutTriangles == 0 && result->capArea == 0 && result->mesh.triangles.size() == m.triangles.size()) {
        record.say("The plane passes by the part, so nothing was done.");
        return StepOutput{m, std::move(record)};
    }
    record.say(fmt::format("Cut {}; {} of {} stay.", counted(result->cutTriangles, "triangle"),
                           result->mesh.triangles.size(), m.triangles.size()));
    if (result->capArea > 0)
        record.say(fmt::format(
            "{} an area of {} in the plane{}.", options->cap ? "Closed" : "Left open", lengthText(result->capArea),
            result->farthestFromPlane > 0
                ? fmt::format("; its corners are rounded to within {} of it", lengthText(result->farthestFromPlane))
                : ", in which every corner lies exactly"));
    listUnsettled(result->unsound, record);
    record.told = toldToGo(m, result->mesh);
    return StepOutput{std::move(result->mesh), std::move(record)};
}

std::vector<Handle> handlesOf(const Surveyed& s, const Arguments& a, const Record*) {
    const mesh::Box box = boxOfPart(s);
    const auto plane = planeOf(s.mesh(), a);
    if (!plane || box.empty()) return {};
    constexpr double half = 0.5;
    // The foot of the part's middle.
    const mesh::Point middle = box.centre();
    return {{.kind = Handle::Plane,
             .name = "stays",
             .at = middle + plane->towards.dot(plane->through - middle) * plane->towards,
             .direction = plane->towards,
             .length = half * box.diagonal(),
             .slides = true,
             .turns = true}};
}

Arguments dragged(const Surveyed& s, Arguments values, const Record*, std::size_t, const Handle& to) {
    const double size = boxOfPart(s).diagonal();
    values.set(through, Value(""));
    values.set(points, Value(""));
    const auto along = alongAxis(to.direction);
    values.set(keep, keep.wordFor(along && !along->forward ? Keep::Below : Keep::Above));
    if (along) values.set(axis, axis.wordFor(along->axis));
    values.set(normal, Value(along ? std::string() : directionText(to.direction)));
    values.set(at, neat(along ? to.at[along->axis] : to.direction.dot(to.at), size));
    return values;
}

}  // namespace

const Step& trimStep() {
    static const Step step = {.name = "trim",
                              .title = "Trim at a plane",
                              .summary = "Cuts off what lies beyond a plane, and closes the cut flat.",
                              .family = &familyCutAway,
                              .words = {"cut", "clip", "slice", "plane", "split", "crop", "saw", "base", "shorten"},
                              .parameters = {axis, at, keep, cut, normal, through, points},
                              .helpsWith = {},
                              .oneOf = {{"axis", "normal", "points"}, {"at", "through", "points"}},
                              .run = run,
                              .brings = "cut",
                              .handles = handlesOf,
                              .dragged = dragged};
    return step;
}

}  // namespace zither::steps
