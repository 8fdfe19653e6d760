// Descriptor of `brush`.
#include <fmt/format.h>

#include "shape/brush.h"
#include "steps/all_steps.h"
#include "steps/keep_solid.h"

namespace zither::steps {
namespace {

double proposedWidth(const Surveyed& s) {
    constexpr double usual = 0.08;
    return s.mesh().triangles.empty() ? 0 : usual * mesh::boxOf(s.mesh()).diagonal();
}

const Choice<shape::BrushOptions::Way> way({.name = "way", .help = "Smooth, push out, or push in."},
                                           {{"smooth", shape::BrushOptions::Smooth},
                                            {"out", shape::BrushOptions::Out},
                                            {"in", shape::BrushOptions::In}});
const Number width({.name = "width",
                    .kind = ParameterKind::Length,
                    .min = 0,
                    .max = 1e300,
                    .help = "Of the brush. Proposed: a twelfth of the part.",
                    .propose = proposedWidth});
const Number strength({.name = "strength",
                       .kind = ParameterKind::Percent,
                       .min = 0,
                       .max = 100,
                       .fallback = 50,
                       .help = "Of a dab: pushed by a twentieth of the width at most."});
const PlaceList path({.name = "path", .help = "Places on the surface that it is dabbed at, one after the other."});

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    Record record;
    if (s.mesh().triangles.empty()) return StepOutput{s.mesh(), std::move(record)};
    const std::vector<mesh::Point> places = a[path];
    shape::Stroke stroke(s, pick, brushOptions(s, a));
    for (std::size_t i = 0; i < places.size(); ++i) {
        if (!progress.report(0.4 * static_cast<double>(i) / static_cast<double>(places.size())))
            return mesh::cancelled();
        stroke.dab(places[i]);
    }
    const std::size_t back = stroke.takeBackCrossings();
    auto done = stroke.done();
    record.add("dabs", places.size());
    record.add("vertices_moved", done.moved);
    record.add("vertices_taken_back", back);
    record.add("farthest_moved", done.farthest);
    if (done.moved == 0) {
        record.say("Nothing under the brush could move.");
        return StepOutput{s.mesh(), std::move(record)};
    }
    record.say(fmt::format("{} moved, at most {}.", counted(done.moved, "vertex was", "vertices were"),
                           lengthText(done.farthest)));
    if (back > 0)
        record.say(fmt::format("{} moved back: the surface would have met itself.",
                               counted(back, "vertex was", "vertices were")));
    record.told = toldShaped(s.mesh(), done.mesh);
    mesh::PartOfProgress looking(progress, 0.5, 1);
    return unlessWorse(s, std::make_shared<const Surveyed>(std::move(done.mesh)), std::move(record), looking);
}

}  // namespace

shape::BrushOptions brushOptions(const Surveyed& s, const Arguments& a) {
    shape::BrushOptions options;
    options.way = a[way];
    options.width = a[width];
    options.strength = a[strength] / 100;
    options.precision = mesh::precisionOf(s.mesh());
    return options;
}

const Step& brushStep() {
    static const Step step = {.name = "brush",
                              .title = "Brush over it",
                              .summary = "Smooths, pushes out or pushes in what is drawn over; nothing else moves.",
                              .family = &familyByHand,
                              .words = {"sculpt", "paint", "push", "pull", "inflate", "smooth locally"},
                              .parameters = {way, width, strength, path},
                              .helpsWith = {},
                              .run = run,
                              .byHand = true,
                              .brings = "moved"};
    return step;
}

}  // namespace zither::steps
