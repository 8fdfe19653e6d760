// Descriptor of `drop-shells`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "measure/mass.h"
#include "repair/drop_shells.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

const Number size({.name = "size",
                   .kind = ParameterKind::Percent,
                   .min = 0,
                   .max = 100,
                   .fallback = 2,
                   .help = "Only shells whose extent is below this share of the whole part's."});
const Number triangles({.name = "triangles",
                        .kind = ParameterKind::Percent,
                        .min = 0,
                        .max = 100,
                        .fallback = 1,
                        .help = "Only shells with fewer than this share of all triangles."});
const Flag enclosedOnly({.name = "enclosed-only",
                         .help = "Only shells that lie inside a closed one; no: wherever they lie."});

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    auto result = repair::dropShells(
        s, pick,
        {.belowSizeShare = a[size] / 100, .belowTriangleShare = a[triangles] / 100, .enclosedOnly = a[enclosedOnly]},
        progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    std::size_t dropped = 0;
    double area = 0;
    double volume = 0;
    double lost = 0;
    for (const auto& shell : result->dropped) {
        dropped += shell.triangles;
        area += shell.area;
        // What lies inside another one is not seen.
        lost += shell.enclosed ? 0 : shell.area;
        volume += shell.closed ? shell.volume : 0;
    }
    record.add("shells_dropped", result->dropped.size());
    record.add("shells_kept", result->kept);
    record.add("triangles_dropped", dropped);
    record.add("area_dropped", area);
    record.add("volume_dropped", volume);
    const double whole = measure::massOf(s.mesh()).area;
    const Facts facts{.openShareDropped = whole > 0 ? lost / whole : 0.0};
    record.add("open_share_dropped", facts.openShareDropped);
    record.add("largest_dropped", result->dropped.empty() ? 0.0 : result->dropped.front().size);
    if (!result->dropped.empty())
        record.sentences.push_back(
            fmt::format("Dropped {} of {} in all, {} in area ({:.3g} % of the surface lies in none of the others); the "
                        "largest is {} across.",
                        counted(result->dropped.size(), "shell"), counted(dropped, "triangle"), lengthText(area),
                        whole > 0 ? 100 * lost / whole : 0.0, lengthText(result->dropped.front().size)));
    for (const auto& shell : result->dropped)
        record.listed.push_back(
            {Listed::Goes, shell.position, shell.size,
             fmt::format("{} across at {}, {}{}.", lengthText(shell.size), placeText(shell.position),
                         counted(shell.triangles, "triangle"), shell.enclosed ? ", inside another shell" : "")});
    return StepOutput{.mesh = std::move(result->mesh), .record = std::move(record), .facts = facts};
}

std::string reason(const Survey& s, const Arguments& a, std::span<const double>) {
    const double across = a[size] / 100 * s.mass.size.diagonal();
    const double share = a[triangles] / 100 * static_cast<double>(s.counts.triangles);
    std::size_t small = 0;
    std::uint64_t all = 0;
    for (const check::Shell& shell : s.shells) {
        if (!(shell.box.diagonal() < across && static_cast<double>(shell.triangles) < share)) continue;
        ++small;
        all += shell.triangles;
    }
    if (small == 0) return {};
    return fmt::format("{} of {} are small: {} in all. Look at what would go first.", small,
                       counted(s.counts.shells, "shell"), counted(all, "triangle"));
}

}  // namespace

const Step& dropShellsStep() {
    static const Step step = {
        .name = "drop-shells",
        .title = "Drop small shells",
        .summary = "Removes shells that are small both in extent and in triangles; each is listed with its size.",
        .family = &familyCutAway,
        .words = {"small parts", "debris", "islands", "fragments", "noise", "specks", "components", "floaters"},
        .parameters = {size, triangles, enclosedOnly},
        .helpsWith = {check::shells, check::smallComponents},
        .run = run,
        .reason = reason};
    return step;
}

}  // namespace zither::steps
