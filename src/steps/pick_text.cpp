// Picks and places as they are typed.
#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>

#include "io/text.h"
#include "space/triangle_tree.h"
#include "steps/brief.h"
#include "steps/call.h"

namespace zither::steps {

using mesh::badInput;
using mesh::TriangleId;

namespace {

constexpr std::string_view forms =
    "give ball:x,y,z,r or box:x,y,z,x,y,z or shell:n or triangles:0-5,9 or the id of a requirement, then +n or -n to "
    "grow "
    "or shrink it";

// "1,2.5,3". Empty where a part is no number.
std::vector<double> numbersOf(std::string_view text) {
    std::vector<double> numbers;
    while (true) {
        const std::string_view part = text.substr(0, text.find(','));
        double value = 0;
        if (!io::TextCursor::parseNumber(part, value) || !std::isfinite(value)) return {};
        numbers.push_back(value);
        if (part.size() == text.size()) return numbers;
        text.remove_prefix(part.size() + 1);
    }
}

// "0-5,9". False where it is not of that form.
bool trianglesOf(std::string_view text, std::size_t count, std::vector<TriangleId>& out) {
    while (true) {
        const std::string_view part = text.substr(0, text.find(','));
        const std::size_t dash = part.find('-');
        std::size_t first = 0;
        std::size_t last = 0;
        if (!io::TextCursor::parseInteger(part.substr(0, dash), first)) return false;
        last = first;
        if (dash != std::string_view::npos && !io::TextCursor::parseInteger(part.substr(dash + 1), last)) return false;
        for (std::size_t t = first; t <= last && t < count; ++t) out.push_back(static_cast<TriangleId>(t));
        if (part.size() == text.size()) return true;
        text.remove_prefix(part.size() + 1);
    }
}

// Triangles that come within the radius of the centre.
void inBall(const Mesh& m, const mesh::Point& centre, double radius, std::vector<TriangleId>& out) {
    for (TriangleId t = 0; t < m.triangles.size(); ++t) {
        const mesh::Point nearest = space::nearestOnTriangle(centre, m.corner(t, 0), m.corner(t, 1), m.corner(t, 2));
        if ((nearest - centre).norm() <= radius) out.push_back(t);
    }
}

void inBox(const Mesh& m, const mesh::Box& box, std::vector<TriangleId>& out) {
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (box.contains(mesh::boxOf(m, t))) out.push_back(t);
}

Outcome<std::vector<TriangleId>> named(std::string_view text, const Surveyed& s, Progress& progress) {
    const Mesh& m = s.mesh();
    std::vector<TriangleId> out;
    const std::size_t colon = text.find(':');
    const std::string_view kind = text.substr(0, colon);
    const std::string_view rest = colon == std::string_view::npos ? std::string_view() : text.substr(colon + 1);
    const auto wrong = [&] {
        return badInput(fmt::format("'{}' is no pick; {}", text, forms), mesh::errorcode::badParameter);
    };
    if (kind == "ball" || kind == "box") {
        const std::vector<double> n = numbersOf(rest);
        if (n.size() != (kind == "ball" ? 4U : 6U)) return wrong();
        if (kind == "ball") {
            inBall(m, {n[0], n[1], n[2]}, n[3], out);
        } else {
            mesh::Box box;
            box.add(mesh::Point(n[0], n[1], n[2]));
            box.add(mesh::Point(n[3], n[4], n[5]));
            inBox(m, box, out);
        }
    } else if (kind == "triangles") {
        if (!trianglesOf(rest, m.triangles.size(), out)) return wrong();
    } else if (kind == "shell") {
        std::size_t shell = 0;
        if (!io::TextCursor::parseInteger(rest, shell)) return wrong();
        const mesh::Groups& shells = s.shells();
        for (TriangleId t = 0; t < m.triangles.size(); ++t)
            if (shells.of[t] == shell) out.push_back(t);
    } else {
        const Measure* measure = findMeasure(kind);
        if (!measure || !measure->marks) return wrong();
        check::SurveyOptions options = s.knownOptions();
        if (colon != std::string_view::npos) {
            const std::vector<double> limit = numbersOf(rest);
            if (limit.size() != 1 || !measure->listen) return wrong();
            measure->listen(options, limit.front());
        }
        const auto survey = s.survey(options, progress);
        if (!survey) return mesh::errorOf(survey);
        for (const check::Finding& f : (*survey)->findings.list)
            if (f.defect == *measure->marks) {
                const auto of = (*survey)->findings.trianglesOf(f);
                out.insert(out.end(), of.begin(), of.end());
            }
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

}  // namespace

Outcome<Pick> pickFromText(std::string_view text, const Surveyed& s, Progress& progress) {
    const Mesh& m = s.mesh();
    // The sign of a growth follows the last digit or letter; one of a coordinate follows ':' or ',', or an exponent.
    std::size_t sign = text.find_last_of("+-");
    std::size_t rings = 0;
    const bool growth = sign != std::string_view::npos && sign > 0 && text[sign - 1] != ':' && text[sign - 1] != ',' &&
                        !(text.starts_with("triangles:") && text[sign] == '-') &&
                        !(text[sign - 1] == 'e' && text.find(':') != std::string_view::npos) &&
                        io::TextCursor::parseInteger(text.substr(sign + 1), rings);
    Outcome<std::vector<TriangleId>> triangles = named(growth ? text.substr(0, sign) : text, s, progress);
    if (!triangles) return mesh::errorOf(triangles);
    Pick pick(std::move(*triangles));
    if (growth && !pick.everything())
        pick = text[sign] == '+' ? mesh::grown(m, pick, static_cast<unsigned>(rings))
                                 : mesh::shrunk(m, pick, static_cast<unsigned>(rings));
    if (pick.everything())
        return badInput(fmt::format("pick={} picks no triangle of this part", text), mesh::errorcode::badParameter);
    return pick;
}

std::string pickOfPlaces(check::DefectClass defect, const check::SurveyOptions& options) {
    const check::Limited& limited = defect->limited;
    const std::string_view id = limited.id;
    return limited.listened ? fmt::format("{}:{}", id, limited.listened(options)) : std::string(id);
}

std::string textOfPick(const Pick& pick) {
    std::vector<TriangleId> ids = pick.triangles();
    std::sort(ids.begin(), ids.end());
    std::string text;
    for (std::size_t i = 0; i < ids.size();) {
        std::size_t end = i + 1;
        while (end < ids.size() && ids[end] == ids[end - 1] + 1) ++end;
        text += text.empty() ? "triangles:" : ",";
        text += end - i > 1 ? fmt::format("{}-{}", ids[i], ids[end - 1]) : fmt::format("{}", ids[i]);
        i = end;
    }
    return text;
}

Outcome<mesh::Point> placeFromText(std::string_view text) {
    const std::vector<double> n = numbersOf(text);
    if (n.size() != 3)
        return badInput(fmt::format("'{}' is no place; give x,y,z", text), mesh::errorcode::badParameter);
    return mesh::Point(n[0], n[1], n[2]);
}

std::string textOfPlace(const mesh::Point& p) {
    return fmt::format("{},{},{}", p.x(), p.y(), p.z());
}

Outcome<std::vector<mesh::Point>> placesFromText(std::string_view text) {
    std::vector<mesh::Point> places;
    for (bool more = true; more;) {
        const std::size_t end = text.find(';');
        const auto place = placeFromText(text.substr(0, end));
        if (!place) return mesh::errorOf(place);
        places.push_back(*place);
        more = end != std::string_view::npos;
        if (more) text.remove_prefix(end + 1);
    }
    return places;
}

std::string textOfPlaces(std::span<const mesh::Point> places) {
    std::vector<std::string> texts;
    for (const mesh::Point& p : places) texts.push_back(textOfPlace(p));
    return fmt::format("{}", fmt::join(texts, ";"));
}

}  // namespace zither::steps
