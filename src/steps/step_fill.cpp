// Descriptors of `fill` and `bridge`.
#include "check/catalogue.h"
#include "holes/bridge.h"
#include "holes/fill.h"

#include <fmt/format.h>

#include <map>

#include "steps/all_steps.h"

namespace zither::steps {
namespace {

using holes::FillWay;

double wholeSize(const Surveyed& s) {
    return mesh::boxOf(s.mesh()).diagonal();
}

const Choice<FillWay> way(
    {.name = "way",
     .help = "chosen: by each rim; flat, taut (the smallest), smooth (bent on), ruled (side to side), "
             "sharp (faces carried on until they meet)."},
    {{"chosen", FillWay::Chosen},
     {"flat", FillWay::Flat},
     {"taut", FillWay::Taut},
     {"smooth", FillWay::Smooth},
     {"ruled", FillWay::Ruled},
     {"sharp", FillWay::Sharp}});
const Number size(
    {.name = "size",
     .kind = ParameterKind::Length,
     .min = 0,
     .max = 1e300,
     .fallback = 0,
     .help = "Only holes up to this extent; larger openings are listed and left. Proposed: the whole part.",
     .propose = wholeSize});
enum class Meant { Close, Ask };
const Choice<Meant> meant(
    {.name = "meant",
     .help = "Openings that are likely meant (flat and round, or large): ask lists and leaves them.",
     .cautious = "ask"},
    {{"close", Meant::Close}, {"ask", Meant::Ask}});
const Place from({.name = "from", .help = "A place near one side of the rim."});
const Place to({.name = "to", .help = "A place near the other side."});

Record recordOf(const holes::FillResult& r) {
    Record record;
    std::map<FillWay, std::size_t> byWay;
    std::size_t crossing = 0;
    for (const holes::FilledHole& hole : r.filled) {
        ++byWay[hole.way];
        crossing += hole.crosses;
        if (hole.crosses)
            record.listed.push_back({Listed::Left, hole.position, hole.size,
                                     fmt::format("The patch {} across at {} crosses the surface: no other was found.",
                                                 lengthText(hole.size), placeText(hole.position))});
    }
    record.add("holes_filled", r.filled.size());
    for (const FillWay one : {FillWay::Flat, FillWay::Taut, FillWay::Smooth, FillWay::Ruled, FillWay::Sharp})
        record.add(fmt::format("{}_patches", holes::nameOf(one)), byWay[one]);
    record.add("crossing_patches", crossing);
    record.add("triangles_added", r.added);
    record.add("largest_filled", r.filled.empty() ? 0.0 : r.filled.front().size);
    record.add("openings_left", r.left.size());
    record.add("rims_not_closed", r.notClosed);
    if (!r.filled.empty())
        record.say(fmt::format("Filled {} with {}; the largest is {} across.", counted(r.filled.size(), "hole"),
                               counted(r.added, "triangle"), lengthText(r.filled.front().size)));
    constexpr std::size_t mostSaid = 12;
    for (std::size_t i = 0; i < std::min(mostSaid, r.filled.size()); ++i) {
        const holes::FilledHole& hole = r.filled[i];
        record.say(fmt::format("{} across, {}, at {}: {}, because: {}.", lengthText(hole.size),
                               counted(hole.edges, "edge"), placeText(hole.position), holes::nameOf(hole.way),
                               hole.why));
    }
    if (r.filled.size() > mostSaid) record.say(fmt::format("And {} smaller ones.", r.filled.size() - mostSaid));
    for (const holes::Opening& opening : r.left)
        record.listed.push_back(
            {Listed::LeftOpen, opening.position, opening.size,
             fmt::format("An opening {} across, {}, at {}: {}.", lengthText(opening.size),
                         counted(opening.edges, "edge"), placeText(opening.position), opening.why)});
    if (r.notClosed > 0)
        record.say(fmt::format("{} no closed way round, because neighbours face opposite ways: run orient first.",
                               counted(r.notClosed, "rim has", "rims have")));
    return record;
}

Outcome<StepOutput> run(const Surveyed& s, const Pick& pick, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    holes::FillOptions options;
    options.maxSize = a[size];
    options.precision = mesh::precisionOf(m);
    options.closeMeant = a[meant] == Meant::Close;
    options.way = a[way];
    auto result = holes::fill(s, pick, options, progress);
    if (!result) return mesh::errorOf(result);
    Record record = recordOf(*result);
    if (result->added > 0) {
        // Patches come last.
        std::vector<std::uint8_t> isPatch(result->mesh.triangles.size(), 0);
        std::fill(isPatch.end() - static_cast<std::ptrdiff_t>(result->added), isPatch.end(), 1);
        record.told =
            std::make_shared<const measure::Told>(measure::Told{.closing = mesh::keepTriangles(result->mesh, isPatch)});
    }
    return StepOutput{std::move(result->mesh), std::move(record)};
}

Outcome<StepOutput> runBridge(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    const auto start = a[from];
    const auto end = a[to];
    if (!start || !end) return StepOutput{m, {}};
    auto result = holes::bridge(s, *start, *end, progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    record.add("triangles_added", result->triangles.size() - m.triangles.size());
    record.say(fmt::format("Laid a bridge from {} to {}.", placeText(*start), placeText(*end)));
    return StepOutput{std::move(*result), std::move(record)};
}

std::string reason(const Survey& s, const Arguments&, std::span<const double>) {
    if (s.counts.holes == 0) return {};
    return fmt::format("{} open, {} around.", counted(s.counts.holes, "rim is", "rims are"),
                       counted(s.counts.boundaryEdges, "edge"));
}

}  // namespace

const Step& fillStep() {
    static const Step step = {
        .name = "fill",
        .title = "Fill the holes",
        .summary = "Closes each hole up to a size, in the way that suits its rim; nothing is made to cross.",
        .family = &familyClose,
        .words = {"hole", "close holes", "patch", "cap", "plug", "opening", "boundary", "watertight", "airtight"},
        .parameters = {way, size, meant},
        .helpsWith = {check::openEdges, check::smallHoles},
        .run = run,
        .reason = reason};
    return step;
}

const Step& bridgeStep() {
    static const Step step = {
        .name = "bridge",
        .title = "Bridge a hole",
        .summary = "Lays two triangles between the open edges nearest to two places, so that a long hole becomes two.",
        .family = &familyClose,
        .words = {"hole", "span", "connect", "gap", "long hole"},
        .parameters = {from, to},
        .helpsWith = {check::openEdges},
        .run = runBridge,
        .byHand = true,
        .wholeOnly = "it works on the two edges that places name"};
    return step;
}

}  // namespace zither::steps
