// Descriptor of `close-handles`.
#include <fmt/format.h>

#include <algorithm>

#include "check/catalogue.h"
#include "repair/close_handles.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

// Scanning leaves handles of a few triangles.
double proposedLoop(const Surveyed& s) {
    return shareOfPart(s, 0.03);
}

const Number loop(
    {.name = "loop",
     .kind = ParameterKind::Length,
     .min = 0,
     .max = 1e300,
     .help = "Only handles that lie within this length and have a loop no longer. Proposed: 3 % of the part.",
     .propose = proposedLoop});

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    auto result = repair::closeHandles(s, pick, a[loop], progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    const auto closed = static_cast<std::size_t>(std::count_if(result->handles.begin(), result->handles.end(),
                                                               [](const repair::Handle& h) { return h.closed; }));
    record.add("handles_found", result->handles.size());
    record.add("handles_closed", closed);
    record.add("triangles_removed", result->removed);
    record.add("triangles_added", result->added);
    if (closed > 0)
        record.say(fmt::format("Cut and closed {}; {} went, {} came.", counted(closed, "handle"),
                               counted(result->removed, "triangle"), counted(result->added, "triangle")));
    for (const repair::Handle& h : result->handles)
        record.listed.push_back(
            {h.closed ? Listed::Goes : Listed::Left, h.position, h.loop,
             fmt::format("A handle with a loop of {} at {}{}.", lengthText(h.loop), placeText(h.position),
                         h.closed ? "" : ": it cannot be closed without crossing")});
    return StepOutput{std::move(result->mesh), std::move(record)};
}

}  // namespace

const Step& closeHandlesStep() {
    static const Step step = {
        .name = "close-handles",
        .title = "Close small handles",
        .summary = "Finds small handles and tunnels, cuts each along its shortest loop, and closes both rims.",
        .family = &familyClose,
        .words = {"tunnel", "handle", "genus", "topology", "small hole", "topological noise"},
        .parameters = {loop},
        .helpsWith = {check::smallTunnels},
        .run = run};
    return step;
}

}  // namespace zither::steps
