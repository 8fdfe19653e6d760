// Descriptor of `absorb`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "repair/absorb.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

using repair::Buried;

const Choice<Buried> as({.name = "as",
                         .help = "What the buried bodies are: material, whose skin goes, or voids, which are turned "
                                 "inwards."},
                        {{"material", Buried::Material}, {"void", Buried::Void}});

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    auto result = repair::absorb(s, pick, a[as], progress);
    if (!result) return mesh::errorOf(result);
    const bool gone = a[as] == Buried::Material;
    Record record;
    record.add("shells_absorbed", gone ? result->shells.size() : 0);
    record.add("shells_turned", gone ? 0 : result->shells.size());
    record.add("volume_emptied", result->emptied);
    if (result->shells.empty()) return StepOutput{std::move(result->mesh), std::move(record)};
    record.headline = fmt::format("{} {}", result->shells.size(), gone ? "absorbed" : "made voids");
    record.sentences.push_back(gone
                                   ? fmt::format("{} within material went; what they enclosed stays full.",
                                                 counted(result->shells.size(), "shell"))
                                   : fmt::format("{} within material became voids: a volume of {} is empty now.",
                                                 counted(result->shells.size(), "shell"), lengthText(result->emptied)));
    for (const repair::AbsorbedShell& shell : result->shells)
        record.listed.push_back(
            {gone ? Listed::Within : Listed::Made, shell.position, shell.size,
             fmt::format("{} across at {}, {}, a volume of {}: {}.", lengthText(shell.size), placeText(shell.position),
                         counted(shell.triangles, "triangle"), lengthText(shell.volume),
                         gone ? "a body within a body, material" : "a void now")});
    return StepOutput{std::move(result->mesh), std::move(record)};
}

std::string reason(const Survey& s, const Arguments&, std::span<const double>) {
    if (s.counts.buriedShells == 0) return {};
    return fmt::format("{} within material: bodies within bodies, whose skin bounds nothing.",
                       counted(s.counts.buriedShells, "shell lies", "shells lie"));
}

}  // namespace

const Step& absorbStep() {
    static const Step step = {
        .name = "absorb",
        .title = "Remove internal shells",
        .summary = "Takes out the skins of bodies that lie within other bodies, or makes voids of them.",
        .family = &familyCutAway,
        .words = {"buried", "nested", "internal", "inside", "hidden", "bodies within bodies", "void", "cavity"},
        .parameters = {as},
        .helpsWith = {check::buriedShells},
        .run = run,
        .reason = reason};
    return step;
}

}  // namespace zither::steps
