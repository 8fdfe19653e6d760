// Descriptor of `put-back`.
#include <fmt/format.h>

#include "repair/places.h"
#include "steps/all_steps.h"
#include "steps/other_surface.h"

namespace zither::steps {
namespace {

const FilePath from({.name = "from", .help = "The surface as it was before."});
const Place place({.name = "place",
                   .help = "A point of the place, or near it: what hangs together of triangles that went and came "
                           "is one."});

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const mesh::Point at = a[place].value_or(mesh::Point(mesh::Point::Zero()));
    mesh::PartOfProgress reading(progress, 0, 0.4);
    Record record;
    const Outcome<io::Surface> before = readOther(a, a[from], record, reading);
    if (!before) return mesh::errorOf(before);
    const repair::Places places(before->mesh, s.mesh());
    if (!progress.report(0.9)) return mesh::cancelled();
    const auto chosen = places.nearest(at);
    if (!chosen) {
        record.add("triangles_put_back", std::size_t{0});
        record.add("triangles_taken_away", std::size_t{0});
        record.say("Nothing differs from that file: there is nothing to put back.");
        return StepOutput{s.mesh(), std::move(record)};
    }
    std::vector<std::uint8_t> flags(places.list().size(), 0);
    flags[*chosen] = 1;
    const repair::Place& changed = places.list()[*chosen];
    record.add("triangles_put_back", changed.went);
    record.add("triangles_taken_away", changed.came);
    record.say(fmt::format("Put {} back as they were, and took away {} that had come, at {}, {} across.",
                           counted(changed.went, "triangle"), changed.came, placeText(changed.box.centre()),
                           lengthText(changed.box.diagonal())));
    return StepOutput{places.putBack(flags).mesh, std::move(record)};
}

}  // namespace

const Step& putBackStep() {
    static const Step step = {
        .name = "put-back",
        .title = "Put a place back",
        .summary = "One changed place becomes again what it was in another file: that it came from, as a rule.",
        .family = &familyByHand,
        .words = {"revert", "restore", "original", "undo part", "as it came"},
        .parameters = {from, place},
        .helpsWith = {},
        .run = run,
        .byHand = true,
        .brings = "new",
        .wholeOnly = "what changed is told from the whole of both surfaces"};
    return step;
}

}  // namespace zither::steps
