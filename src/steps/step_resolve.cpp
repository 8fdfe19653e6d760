// Descriptor of `resolve`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "fit/resolve.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

const Choice<fit::Touching> bodies({.name = "bodies",
                                    .help = "Bodies that share an edge or a corner: part or join them, by a hair."},
                                   {{"part", fit::Touching::Part}, {"join", fit::Touching::Join}});
enum class DoubleSheets { Remove, Keep };
const Choice<DoubleSheets> sheets({.name = "sheets",
                                   .help = "Pairs of triangles that lie on each other and enclose nothing."},
                                  {{"remove", DoubleSheets::Remove}, {"keep", DoubleSheets::Keep}});
const Number largestFin({.name = "largest-fin",
                         .kind = ParameterKind::Percent,
                         .min = 0,
                         .max = 100,
                         .fallback = 5,
                         .help = "A fin above this share of its shell's area stays and is listed."});

std::string_view nameOf(fit::RemovedSheet::Kind kind) {
    return kind == fit::RemovedSheet::Wall ? "Wall inside" : kind == fit::RemovedSheet::Fin ? "Fin" : "Double sheet";
}

Listed listedOf(Listed::Kind kind, const fit::RemovedSheet& sheet) {
    return {kind, sheet.position, sheet.size,
            fmt::format("{}, {} across, {}, at {}.", nameOf(sheet.kind), lengthText(sheet.size),
                        counted(sheet.triangles, "triangle"), placeText(sheet.position))};
}

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    fit::ResolveOptions options;
    options.touching = a[bodies];
    options.removeSheets = a[sheets] == DoubleSheets::Remove;
    options.largestFin = a[largestFin] / 100;
    options.precision = mesh::precisionOf(m);
    auto result = fit::resolve(m, pick, options, progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    std::size_t counts[3] = {};
    double area = 0;
    for (const fit::RemovedSheet& sheet : result->removed) {
        ++counts[sheet.kind];
        area += sheet.area;
        record.listed.push_back(listedOf(Listed::Goes, sheet));
    }
    for (const fit::RemovedSheet& fin : result->leftFins) record.listed.push_back(listedOf(Listed::Left, fin));
    record.add("walls_removed", counts[fit::RemovedSheet::Wall]);
    record.add("fins_removed", counts[fit::RemovedSheet::Fin]);
    record.add("double_sheets_removed", counts[fit::RemovedSheet::Double]);
    record.add("area_removed", area);
    record.add("surplus_removed", result->surplus);
    record.add("triangles_flipped", result->flipped);
    record.add("vertices_parted", result->parted);
    record.add("farthest_moved", result->farthestMoved);
    record.add("nonmanifold_edges_left", result->edgesLeft);
    if (!result->removed.empty())
        record.say(fmt::format("Removed {}, {} and {}, {} in area.",
                               counted(counts[fit::RemovedSheet::Wall], "wall with material on both sides",
                                       "walls with material on both sides"),
                               counted(counts[fit::RemovedSheet::Fin], "fin"),
                               counted(counts[fit::RemovedSheet::Double], "double sheet"), lengthText(area)));
    if (result->surplus > 0) record.say(fmt::format("Removed {}.", counted(result->surplus, "surplus triangle")));
    if (result->flipped > 0)
        record.say(fmt::format("Turned {} to face what is empty.", counted(result->flipped, "triangle")));
    if (result->parted > 0)
        record.say(fmt::format("{} what only touched at {}; nothing moved farther than {}.",
                               options.touching == fit::Touching::Join ? "Joined" : "Parted",
                               counted(result->parted, "vertex", "vertices"), lengthText(result->farthestMoved)));
    if (result->edgesLeft > 0)
        record.say(fmt::format("{} left: the surfaces there bound no solid that could be told from the rest.",
                               counted(result->edgesLeft, "non-manifold edge is", "non-manifold edges are")));
    return StepOutput{std::move(result->mesh), std::move(record)};
}

std::string reason(const Survey& s, const Arguments&, std::span<const double>) {
    const std::string tied = tiedInWords(s.counts);
    return tied.empty() ? tied : tied + ".";
}

}  // namespace

const Step& resolveStep() {
    static const Step step = {
        .name = "resolve",
        .title = "Untie non-manifold edges",
        .summary =
            "Removes walls with material on both sides, fins and double sheets; parts or joins bodies that only touch.",
        .family = &familyCutAway,
        .words = {"inner wall", "internal faces", "interior", "fin", "double sheet", "non-manifold", "touching bodies",
                  "baffle"},
        .parameters = {bodies, sheets, largestFin},
        .helpsWith = {check::nonmanifoldEdges, check::nonmanifoldVertices, check::duplicates},
        .run = run,
        .brings = "moved",
        .reason = reason};
    return step;
}

}  // namespace zither::steps
