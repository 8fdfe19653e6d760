// Shells that are small beside the part: crumbs, specks, lost screws.
#include "check/catalogue.h"
#include "check/shell_list.h"

namespace zither::check {
namespace {

constexpr Measure components = {.key = "small_components"};
constexpr const Measure* measures[] = {&components};

mesh::Outcome<Findings> run(const Surveyed& s, const SurveyOptions& options, Survey& survey, mesh::Progress&) {
    if (!(options.componentPercent > 0)) return Findings();
    const double limit = options.componentPercent / 100 * survey.mass.size.diagonal();
    std::vector<std::uint8_t> chosen;
    for (const Shell& shell : survey.shells) chosen.push_back(shell.box.diagonal() < limit);
    Findings result = findingsOfShells(s, smallComponents, survey.shells, chosen);
    survey.measured.set(components, static_cast<double>(result.list.size()));
    return result;
}

constexpr Setting settings[] = {
    {.id = "percent", .title = "shells below", .unit = "%", .usual = 2, .option = &SurveyOptions::componentPercent}};

}  // namespace

constinit const DefectDescriptor smallComponents = {
    .key = "small-components",
    .name = "Small components",
    .sentence = "Shells that are small beside the whole part: specks of a scan, crumbs of a cut, or small parts.",
    .ink = 0x2E7D32,
    .glyph = glyph::dots,
    .draw = drawOutlines,
    .run = run,
    .limited = {.id = "small_components",
                .title = "small components",
                .unit = "",
                .value = measuredOf<components>,
                .mendable = false,
                .topological = false,
                .settings = settings},
    .measures = measures,
    .afterOthers = true,
    .byOptions = true,
};

}  // namespace zither::check
