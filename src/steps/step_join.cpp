// Descriptor of `join`.
#include <fmt/format.h>

#include <filesystem>

#include "measure/loss.h"
#include "steps/all_steps.h"
#include "steps/other_surface.h"

namespace zither::steps {
namespace {

const FilePath with({.name = "with", .help = "The surface that comes beside it. It is left as it is."});

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const std::string& file = a[with];
    Record record;
    Outcome<io::Surface> other = readOther(a, file, record, progress);
    if (!other) return mesh::errorOf(other);
    record.add("triangles_joined", other->mesh.triangles.size());
    record.say(fmt::format("{} of {} stand beside what was here; where they cross they cross.",
                           counted(other->mesh.triangles.size(), "triangle"),
                           std::filesystem::path(file).filename().string()));
    record.told = std::make_shared<const measure::Told>(measure::Told{.bodies = other->mesh});
    Mesh joined = s.mesh();
    mesh::append(joined, other->mesh);
    mesh::joinEqualVertices(joined);
    return StepOutput{std::move(joined), std::move(record)};
}

}  // namespace

const Step& joinStep() {
    static const Step step = {
        .name = "join",
        .title = "Join with another",
        .summary = "Another surface beside this one, as both stand; nothing is cut, names of regions stay.",
        .family = &familyJoin,
        .words = {"append", "assemble", "add", "combine", "group", "import into"},
        .parameters = {with},
        .helpsWith = {},
        .run = run,
        .wholeOnly = "it adds to the part and changes nothing of it"};
    return step;
}

}  // namespace zither::steps
