// Descriptor of `decimate`.
#include <fmt/format.h>

#include <cmath>

#include "check/catalogue.h"
#include "shape/decimate.h"
#include "shape/trade_off.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

const Number percent({.name = "percent",
                      .kind = ParameterKind::Percent,
                      .min = 0,
                      .max = 100,
                      .fallback = 25,
                      .help = "Share of the triangles to keep; not used where a count is given."});
const WholeNumber count({.name = "count",
                         .min = 0,
                         .max = 4e9,
                         .fallback = 0,
                         .help = "Number of triangles to keep.",
                         .zero = "by percent"});
const Number deviation({.name = "deviation",
                        .kind = ParameterKind::Length,
                        .min = 0,
                        .max = 1e300,
                        .fallback = 0,
                        .help = "Never farther than this from the input, measured both ways.",
                        .zero = "no limit"});
const Flag lockBorders({.name = "lock-borders",
                        .help = "Vertices on open edges and region borders do not move at all."});
enum class Goal { Faithful, Even };
const Choice<Goal> shape(
    {.name = "shape",
     .help = "What goes before at the same count: staying close, or keeping angles above 10 degrees "
             "(for analysis; it may end several times as far from the input)."},
    {{"faithful", Goal::Faithful}, {"even", Goal::Even}});

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    const std::size_t wanted = a[count];
    const double bound = a[deviation];
    shape::DecimateOptions options;
    options.targetTriangles =
        wanted > 0 ? wanted
                   : static_cast<std::size_t>(std::llround(a[percent] / 100 * static_cast<double>(m.triangles.size())));
    if (bound > 0) options.maxDeviation = bound;
    options.lockBorders = a[lockBorders];
    options.preferShape = a[shape] == Goal::Even;
    auto result = shape::decimate(s, pick, options, progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    record.add("triangles_removed", result->removed);
    record.add("triangles", result->mesh.triangles.size());
    record.add("edges_swapped", result->swapped);
    record.add("target", options.targetTriangles);
    if (bound > 0) record.add("measured_deviation", result->measuredDeviation);
    record.sentences.push_back(
        fmt::format("{} triangles became {}.", m.triangles.size(), result->mesh.triangles.size()));
    if (result->heldBack)
        record.sentences.push_back(fmt::format("Stopped above {}: with fewer triangles the surface would meet itself.",
                                               options.targetTriangles));
    else if (!result->reachedTarget)
        record.sentences.push_back(
            bound > 0 ? fmt::format("Stopped above {}: the next collapse would have gone beyond the deviation allowed.",
                                    options.targetTriangles)
                      : fmt::format(
                            "Stopped above {}: every further collapse would fold the surface or make it non-manifold.",
                            options.targetTriangles));
    return StepOutput{std::move(result->mesh), std::move(record)};
}

Outcome<std::vector<Step::CurvePoint>> curve(const Surveyed& s, Progress& progress) {
    const auto tradeOff = shape::tradeOffOf(s, progress);
    if (!tradeOff) return mesh::errorOf(tradeOff);
    std::vector<Step::CurvePoint> points;
    for (const shape::TradeOff& t : *tradeOff) {
        const auto left = static_cast<double>(t.triangles);
        points.push_back({100 * left / static_cast<double>(s.mesh().triangles.size()), left, t.distance});
    }
    return points;
}

}  // namespace

const Step& decimateStep() {
    static const Step step = {
        .name = "decimate",
        .title = "Bring the count down",
        .summary = "Collapses edges where that changes the surface least; borders keep their line.",
        .family = &familyTriangles,
        .words = {"reduce", "simplify", "fewer triangles", "polygon count", "optimise", "coarsen", "lighter",
                  "compress", "collapse", "resolution"},
        .parameters = {percent, count, deviation, lockBorders, shape},
        .helpsWith = {check::slivers},
        .oneOf = {{"percent", "count"}},
        .run = run,
        .brings = "cut",
        .curve = curve,
        .curveOf = "percent"};
    return step;
}

}  // namespace zither::steps
