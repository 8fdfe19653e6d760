// Descriptor of `enclose`.
#include <fmt/format.h>

#include "check/catalogue.h"
#include "enclose/volumes.h"
#include "fit/fit_tolerances.h"
#include "steps/all_steps.h"

namespace zither::steps {
namespace {

const Choice<bool> openings(
    {.name = "openings",
     .help = "Openings that are likely meant: close them, or let them part inside from outside and "
             "stay open (ask).",
     .cautious = "ask"},
    {{"close", true}, {"ask", false}});
using Sheets = enclose::VolumesOptions::Sheets;
const Choice<Sheets> sheets({.name = "sheets",
                             .help = "What bounds no volume stays as it is, goes, or becomes a body behind its faces."},
                            {{"keep", Sheets::Keep}, {"drop", Sheets::Drop}, {"thicken", Sheets::Thicken}});
enum class Worse { Keep, PutBack };
const Number thickness = sheetThickness("Of sheets that become bodies. Proposed: nearly a thousandth of the part.");
const Choice<Worse> whereWorse({.name = "where-worse",
                                .help = "Places that would have more defects than they came with: keep them so, or put "
                                        "them back as they came."},
                               {{"keep", Worse::Keep}, {"put-back", Worse::PutBack}});
enum class For { AsItCame, Floats, Doubles };
const Choice<For> forFile({.name = "for-file",
                           .help = "The file that it is for: coordinates as they came, rounded to 32 bits (STL), or to "
                                   "64."},
                          {{"as-it-came", For::AsItCame}, {"32-bit", For::Floats}, {"64-bit", For::Doubles}});
const Choice<Worse> worse({.name = "worse", .help = "As where-worse.", .retired = true},
                          {{"keep", Worse::Keep}, {"put-back", Worse::PutBack}});
const WholeNumber cover({.name = "cover",
                         .max = 4e9,
                         .fallback = static_cast<double>(fit::usuallyCovered),
                         .help = "Where no rounding holds the skin, up to so many triangles are covered with plates "
                                 "thinner than a thousandth of the part.",
                         .retired = true});
const WholeNumber bits(
    {.name = "bits", .max = 64, .help = "As for-file.", .zero = "as for-file says", .retired = true});

// Of the coordinates that come out. Error: neither 32 nor 64 bits.
Outcome<mesh::Precision> precisionFor(const Mesh& m, const Arguments& a) {
    if (a[bits] != 0) return precisionAsked("enclose", a, bits);
    if (a[forFile] == For::AsItCame) return mesh::precisionOf(m);
    return a[forFile] == For::Floats ? mesh::Precision::Single : mesh::Precision::Double;
}

// `result`: that the pieces' members are triangles of.
void list(Record& record, Listed::Kind kind, std::string_view what, const std::vector<enclose::VolumesPiece>& pieces,
          const Mesh* result = nullptr) {
    for (const enclose::VolumesPiece& p : pieces) {
        record.listed.push_back(
            {kind, p.position, p.size,
             fmt::format("{}, {} across, {}, at {}{}.", what, lengthText(p.size), counted(p.triangles, "triangle"),
                         placeText(p.position), p.why.empty() ? std::string() : " (" + p.why + ")")});
        if (!result) continue;
        Mesh piece;
        for (const mesh::TriangleId t : p.members) {
            const std::size_t first = piece.positions.size();
            for (unsigned k = 0; k < 3; ++k) piece.positions.push_back(result->corner(t, k));
            piece.triangles.push_back({first, first + 1, first + 2});
        }
        mesh::joinEqualVertices(piece);
        record.listed.back().piece = std::make_shared<const Mesh>(std::move(piece));
    }
}

double areaOf(const std::vector<enclose::VolumesPiece>& pieces) {
    double area = 0;
    for (const enclose::VolumesPiece& p : pieces) area += p.area;
    return area;
}

void count(const enclose::Volumes& result, Record& record) {
    record.add("cells", result.cells);
    record.add("cells_full", result.full);
    record.add("holes_filled", result.closed.size());
    record.add("openings_left", result.open.size());
    record.add("walls_removed", result.walls.size());
    record.add("wall_area_removed", areaOf(result.walls));
    record.add("shreds_removed", result.shreds.size());
    record.add("shred_area_removed", areaOf(result.shreds));
    record.add("overhangs_trimmed", result.overhangs.size());
    record.add("overhang_area_trimmed", areaOf(result.overhangs));
    record.add("edges_collapsed", result.collapsed);
    record.add("edges_swapped", result.swapped);
    record.add("sheets", result.sheets.size());
    record.add("sheet_area", areaOf(result.sheets));
    record.add("triangles_flipped", result.turned);
    record.add("triangles_cut", result.cut);
    record.add("farthest_moved", result.farthestMoved);
    record.add("places_put_back", result.asTheyCame.size());
    record.add("unsound_places", result.unsound.size());
    record.add("coverable_triangles", result.coverable);
    record.add("small_angles", result.smallAngles);
    record.add("plates", result.plates);
    record.add("spots_patched", result.patched.size());
}

void say(const enclose::Volumes& result, const enclose::VolumesOptions& options, Record& record) {
    record.say(fmt::format("Of {} that the surface divides space into, {} are full; kept the skin between.",
                           counted(result.cells, "cell"), result.full));
    if (!result.closed.empty())
        record.say(fmt::format("Closed {}, {} in area.", counted(result.closed.size(), "hole"),
                               lengthText(areaOf(result.closed))));
    if (!result.walls.empty())
        record.say(fmt::format("Removed {} with material on both sides, {} in area.",
                               counted(result.walls.size(), "wall"), lengthText(areaOf(result.walls))));
    if (!result.shreds.empty())
        record.say(fmt::format("Removed {} too narrow to be seen, {} in area.", counted(result.shreds.size(), "shred"),
                               lengthText(areaOf(result.shreds))));
    if (!result.overhangs.empty())
        record.say(fmt::format("Trimmed {} that hung on the skin, {} in area.",
                               counted(result.overhangs.size(), "overhang"), lengthText(areaOf(result.overhangs))));
    if (!result.asTheyCame.empty())
        record.say(fmt::format("Put {} back as {} came: some count would have been worse there.",
                               counted(result.asTheyCame.size(), "place"),
                               result.asTheyCame.size() == 1 ? "it" : "they"));
    if (!result.patched.empty())
        record.say(fmt::format("Cut out {} that no file could hold, the largest {} across, and closed them anew.",
                               counted(result.patched.size(), "spot"), lengthText(result.largestPatch)));
    if (result.smallAngles > 0)
        record.say(fmt::format("{} below {:.1f} degrees, between edges that must stay.",
                               counted(result.smallAngles, "triangle that was made has an angle",
                                       "triangles that were made have an angle"),
                               tolerance::fitAngleDeg));
    if (result.plates > 0) record.say(platesText(result.plates, result.plateHeight));
    if (result.turned > 0)
        record.say(fmt::format("Turned {} to face what is empty.", counted(result.turned, "triangle")));
    if (!result.sheets.empty())
        record.say(fmt::format("{} no volume, {} in area{}.",
                               counted(result.sheets.size(), "sheet bounds", "sheets bound"),
                               lengthText(areaOf(result.sheets)),
                               options.sheets == enclose::VolumesOptions::Sheets::Keep ? "; they stay as they are"
                               : options.sheets == enclose::VolumesOptions::Sheets::Drop
                                   ? " and went, as asked"
                                   : fmt::format(" and became bodies, {} thick", lengthText(options.thickness))));
}

void listPlaces(const enclose::Volumes& result, const enclose::VolumesOptions& options, Record& record) {
    list(record, Listed::Within, "Wall inside", result.walls);
    list(record, Listed::Goes, "Overhang", result.overhangs);
    if (options.sheets == enclose::VolumesOptions::Sheets::Keep)
        list(record, Listed::Sheet, "Sheet", result.sheets, &result.mesh);
    if (options.sheets == enclose::VolumesOptions::Sheets::Drop) list(record, Listed::Goes, "Sheet", result.sheets);
    list(record, Listed::LeftOpen, "Opening", result.open);
    for (const repair::PlaceLeft& place : result.asTheyCame)
        record.listed.push_back(
            {Listed::AsItCame, place.box.centre(), place.box.diagonal(),
             fmt::format("Put back as it came: {} at {}, {} across ({}).", counted(place.triangles, "triangle"),
                         placeText(place.box.centre()), lengthText(place.box.diagonal()), place.why)});
    listUnsettled(result.unsound, record);
}

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    enclose::VolumesOptions options;
    options.closeMeant = a[openings];
    options.sheets = a[sheets];
    options.thickness = a[thickness];
    const auto precision = precisionFor(s.mesh(), a);
    if (!precision) return mesh::errorOf(precision);
    options.precision = *precision;
    options.mostCovered = a[cover];
    options.putBackWorse = a[whereWorse] == Worse::PutBack || a[worse] == Worse::PutBack;
    auto result = enclose::fullOrEmpty(s, options, progress);
    if (!result) return mesh::errorOf(result);
    Record record;
    count(*result, record);
    say(*result, options, record);
    listPlaces(*result, options, record);
    record.told = std::make_shared<const measure::Told>(std::move(result->told));
    const Facts facts{.unsoundPlaces = result->unsound.size(),
                      .coverableTriangles = result->coverable,
                      .placesPutBack = result->asTheyCame.size(),
                      .openingsLeft = result->open.size(),
                      .sheetArea = areaOf(result->sheets)};
    return StepOutput{.mesh = std::move(result->mesh), .record = std::move(record), .facts = facts};
}

std::string reason(const Survey& s, const Arguments&, std::span<const double>) {
    const auto& c = s.counts;
    if (c.selfIntersectingPairs == 0 || c.boundaryEdges + c.nonmanifoldEdges == 0) return {};
    return fmt::format("{} while {}: what is full has to be decided from all of space.",
                       counted(c.selfIntersectingTriangles, "triangle meets others", "triangles meet others"),
                       c.boundaryEdges > 0 ? counted(c.boundaryEdges, "edge is open", "edges are open")
                                           : counted(c.nonmanifoldEdges, "edge has more than two triangles",
                                                     "edges have more than two triangles"));
}

}  // namespace

const Step& encloseStep() {
    static const Step step = {
        .name = "enclose",
        .title = "Tell full from empty",
        .summary =
            "Cuts the surface where it meets itself, closes its rims, decides which cells of space are full, and keeps "
            "the skin around them.",
        .family = &familyClose,
        .words = {"watertight", "solid", "volume", "inside", "outside", "repair", "manifold", "make solid",
                  "polygon soup"},
        .parameters = {openings, sheets, thickness, whereWorse, forFile, worse, cover, bits},
        .helpsWith = {check::selfIntersections, check::nonmanifoldEdges, check::openEdges, check::duplicates},
        .run = run,
        .brings = "cut",
        .reason = reason,
        .wholeOnly = "what is full and what is empty is decided from the whole of space"};
    return step;
}

}  // namespace zither::steps
