// Descriptor of `trim`.
#include <fmt/format.h>

#include "shape/trim.h"
#include "steps/handles.h"
#include "steps/steps_list.h"

namespace zither::steps {
namespace {

// The plane and the side that stays.
Outcome<shape::TrimOptions> planeOf(const Mesh& m, const Arguments& a) {
    shape::TrimOptions options;
    options.precision = mesh::precisionOf(m);
    options.cap = a.find("cut")->second.text != "open";
    const std::string& axis = a.find("axis")->second.text;
    options.towards = axis == "x" ? mesh::Point::UnitX() : axis == "y" ? mesh::Point::UnitY() : mesh::Point::UnitZ();
    options.through = a.find("at")->second.number * options.towards;
    const auto direction = directionAsked("trim", a, "normal");
    if (!direction) return tl::unexpected(direction.error());
    if (*direction) {
        options.through = a.find("at")->second.number * **direction;
        options.towards = **direction;
    }
    if (const std::string& three = a.find("points")->second.text; !three.empty()) {
        const auto points = placesFromText(three);
        if (!points) return tl::unexpected(points.error());
        const mesh::Point across = points->size() == 3
                                       ? mesh::Point(((*points)[1] - (*points)[0]).cross((*points)[2] - (*points)[0]))
                                       : mesh::Point(mesh::Point::Zero());
        if (!(across.norm() > 0))
            return mesh::badInput("step 'trim': points must be three that do not lie in a line",
                                  mesh::errorcode::badParameter);
        options.towards = across.normalized();
        options.through = points->front();
    }
    if (const std::string& through = a.find("through")->second.text; !through.empty()) {
        const auto place = placeFromText(through);
        if (!place) return tl::unexpected(place.error());
        options.through = *place;
    }
    if (a.find("keep")->second.text == "below") options.towards = -options.towards;
    return options;
}

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    const auto options = planeOf(m, a);
    if (!options) return tl::unexpected(options.error());
    auto result = shape::trim(s, pick, *options, progress);
    if (!result) return tl::unexpected(result.error());
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

// A thin slice off the lower end: what makes an uneven base flat.
double proposedHeight(const Surveyed& s) {
    constexpr double slice = 0.02;
    const mesh::Box box = mesh::boxOf(s.mesh());
    return box.empty() ? 0.0 : box.min.z() + slice * box.extent().z();
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
    const auto set = [&](const char* name, Value value) { values.insert_or_assign(name, std::move(value)); };
    const double size = boxOfPart(s).diagonal();
    set("through", Value(std::string()));
    set("points", Value(std::string()));
    const auto axis = alongAxis(to.direction);
    set("keep", Value(std::string(axis && !axis->forward ? "below" : "above")));
    if (axis) set("axis", Value(std::string(1, "xyz"[axis->axis])));
    set("normal", Value(axis ? std::string() : directionText(to.direction)));
    set("at", Value(neat(axis ? to.at[axis->axis] : to.direction.dot(to.at), size)));
    return values;
}

}  // namespace

const Step& trimStep() {
    static const Step step = {
        .name = "trim",
        .title = "Trim at a plane",
        .summary = "Cuts off what lies beyond a plane, and closes the cut flat.",
        .family = &familyCutAway,
        .words = {"cut", "clip", "slice", "plane", "split", "crop", "saw", "base", "shorten"},
        .parameters = {{.name = "axis",
                        .kind = ParameterKind::Choice,
                        .help = "The plane lies across this axis.",
                        .choices = {"z", "x", "y"}},
                       {.name = "at",
                        .kind = ParameterKind::Length,
                        .min = -1e300,
                        .max = 1e300,
                        .help = "Where along the axis, or the normal. Proposed: a fiftieth of the height, across z.",
                        .propose = proposedHeight},
                       {.name = "keep",
                        .kind = ParameterKind::Choice,
                        .help = "The side that stays: above, towards the axis or the normal, or below.",
                        .choices = {"above", "below"}},
                       {.name = "cut",
                        .kind = ParameterKind::Choice,
                        .help = "What was inside is closed flat, or left open.",
                        .choices = {"closed", "open"}},
                       {.name = "normal",
                        .kind = ParameterKind::Place,
                        .help = "A direction x,y,z that the plane lies across, instead of an axis.",
                        .optional = true,
                        .means = Parameter::Direction},
                       {.name = "through",
                        .kind = ParameterKind::Place,
                        .help = "A point that the plane passes through, instead of `at`.",
                        .optional = true},
                       {.name = "points",
                        .kind = ParameterKind::Places,
                        .help = "Three points that it passes through, instead of all these; above is where they are "
                                "seen to turn counter-clockwise.",
                        .optional = true}},
        .helpsWith = {},
        .run = run,
        .brings = "cut",
        .handles = handlesOf,
        .dragged = dragged};
    return step;
}

}  // namespace zither::steps
