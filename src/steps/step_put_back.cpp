// Descriptor of `put-back`.
#include <fmt/format.h>

#include "io/surface_file.h"
#include "repair/places.h"
#include "steps/steps_list.h"

namespace zither::steps {
namespace {

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    // Checked when the value was parsed.
    const mesh::Point at = placeFromText(a.find("place")->second.text).value_or(mesh::Point(mesh::Point::Zero()));
    mesh::PartOfProgress reading(progress, 0, 0.4);
    const Outcome<io::Surface> before = io::readSurface(a.find("from")->second.text, reading);
    if (!before) return tl::unexpected(before.error());
    const repair::Places places(before->mesh, s.mesh());
    if (!progress.report(0.9)) return mesh::cancelled();
    Record record;
    const auto chosen = places.nearest(at);
    if (!chosen) {
        record.add("triangles_put_back", std::size_t{0});
        record.add("triangles_taken_away", std::size_t{0});
        record.say("Nothing differs from that file: there is nothing to put back.");
        return StepOutput{s.mesh(), std::move(record)};
    }
    std::vector<std::uint8_t> flags(places.list().size(), 0);
    flags[*chosen] = 1;
    const repair::Place& place = places.list()[*chosen];
    record.add("triangles_put_back", place.went);
    record.add("triangles_taken_away", place.came);
    record.say(fmt::format("Put {} back as they were, and took away {} that had come, at {}, {} across.",
                           counted(place.went, "triangle"), place.came, placeText(place.box.centre()),
                           lengthText(place.box.diagonal())));
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
        .parameters = {{.name = "from", .kind = ParameterKind::File, .help = "The surface as it was before."},
                       {.name = "place",
                        .kind = ParameterKind::Place,
                        .help = "A point of the place, or near it: what hangs together of triangles that went and came "
                                "is one."}},
        .helpsWith = {},
        .run = run,
        .byHand = true,
        .brings = "new",
        .wholeOnly = "what changed is told from the whole of both surfaces"};
    return step;
}

}  // namespace zither::steps
