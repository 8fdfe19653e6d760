// Reports as JSON; numbers that are not finite become null.
#include "project/json.h"

#include <cmath>

#include "check/catalogue.h"
#include "check/worse.h"
#include "io/units.h"
#include "steps/recipe.h"

namespace zither::project {

using steps::numberJson;

namespace {

Json point(const mesh::Point& p) {
    return Json::array({p.x(), p.y(), p.z()});
}

Json motionJson(const mesh::Motion& motion) {
    Json rows = Json::array();
    for (Eigen::Index k = 0; k < 3; ++k)
        rows.push_back({motion.linear(k, 0), motion.linear(k, 1), motion.linear(k, 2), motion.shift[k]});
    return rows;
}

}  // namespace

Json verdictJson(const steps::Verdict& verdict) {
    Json list = Json::array();
    for (const steps::Judged& j : verdict.judged)
        list.push_back({{"id", std::string_view(j.requirement.measure->id)},
                        {"met", j.met},
                        {"value", j.value ? numberJson(*j.value) : Json(nullptr)},
                        {"limit", j.requirement.limit ? numberJson(*j.requirement.limit) : Json(nullptr)}});
    return list;
}

Json fileJson(const Judged& judged) {
    const io::Surface& surface = judged.surface;
    const check::Survey& survey = *judged.survey;
    Json counts;
    for (const check::CountKey& key : check::countKeys) counts[std::string(key.key)] = survey.counts.*key.member;
    Json file = {{"file", judged.file},
                 {"format", surface.format->name},
                 {"unit", surface.unit.empty() ? Json(nullptr) : Json(surface.unit)},
                 {"counts", counts},
                 {"size", {{"min", point(survey.mass.size.min)}, {"max", point(survey.mass.size.max)}}},
                 {"area", survey.mass.area},
                 {"volume", survey.mass.volume},
                 {"edge_length",
                  {{"min", survey.edgeLength.min}, {"mean", survey.edgeLength.mean}, {"max", survey.edgeLength.max}}}};
    for (const check::DefectClass defect : check::catalogue())
        for (const check::Measure* measure : defect->measures)
            file[std::string(measure->key)] = numberJson(survey.measured[*measure]);
    file.update(Json{{"watertight", survey.watertight},
                     {"solid", survey.solid},
                     {"requirements", verdictJson(judged.verdict)},
                     {"unusable_triangles", surface.unusableTriangles},
                     {"remarks", surface.remarks},
                     {"seconds", judged.seconds}});
    return file;
}

Json stepJson(const steps::Step& step, const steps::Arguments& used, const steps::Record& record, double seconds) {
    Json parameters = Json::object();
    for (const steps::Parameter& p : step.parameters)
        if (const auto it = used.find(p.name); it != used.end() && !(p.retired && !steps::saysSomething(p, it->second)))
            parameters[std::string(p.name)] = steps::parameterJson(p, it->second);
    Json changed = Json::object();
    for (const auto& [key, value] : record.numbers) changed[key] = numberJson(value);
    Json listed = Json::array();
    for (const steps::Listed& l : record.listed)
        listed.push_back(
            {{"kind", nameOf(l.kind)}, {"position", point(l.position)}, {"size", l.size}, {"text", l.text}});
    Json json = {{"name", step.name},  {"parameters", parameters}, {"seconds", seconds},
                 {"changed", changed}, {"said", record.sentences}, {"listed", listed}};
    if (record.motion) json["motion"] = motionJson(*record.motion);
    if (!record.unit.empty()) json["unit"] = record.unit;
    return json;
}

Json triedJson(const std::vector<steps::TriedWayLog>& tried) {
    Json list = Json::array();
    for (const steps::TriedWayLog& t : tried)
        list.push_back({{"way", t.way},
                        {"taken", t.taken},
                        {"may_be_taken", t.mayBeTaken},
                        {"fails", t.failing},
                        {"left", numberJson(t.left)},
                        {"lost", t.lost},
                        {"sheets", t.sheets},
                        {"seconds", t.seconds},
                        {"why", t.why}});
    return list;
}

Json questionsJson(const std::vector<steps::Question>& questions) {
    Json list = Json::array();
    for (const steps::Question& q : questions) {
        if (q.answers.empty()) continue;
        Json answers = {{"keep", nullptr}};
        for (const steps::Answer& a : q.answers)
            answers[std::string(a.word)] = {{"step", a.call.step->name}, {"triangles", a.pick.triangles().size()}};
        list.push_back({{"id", q.id},
                        {"kind", q.kind->key},
                        {"position", q.position ? point(*q.position) : Json(nullptr)},
                        {"size", q.size},
                        {"why", q.why},
                        {"answers", answers}});
    }
    return list;
}

Json deviationJson(const measure::Comparison& c) {
    return {{"input_to_output_max", numberJson(c.aToB.max)},
            {"output_to_input_max", numberJson(c.bToA.max)},
            {"mean", numberJson(c.mean)},
            {"mean_sampled", true},
            {"mean_points", c.meanPoints},
            {"sampled", false}};
}

Json placesJson(const std::vector<measure::LossPlace>& places) {
    constexpr std::size_t most = 200;
    Json list = Json::array();
    for (std::size_t i = 0; i < std::min(most, places.size()); ++i)
        list.push_back({{"position", point(places[i].position)}, {"size", places[i].size}, {"area", places[i].area}});
    return list;
}

Json lossJson(const measure::Loss& loss) {
    Json pieces = Json::array();
    for (const measure::LostPiece& p : loss.pieces)
        pieces.push_back({{"shell", p.shell},
                          {"position", point(p.box.centre())},
                          {"size", p.box.diagonal()},
                          {"area", p.area},
                          {"speck", p.speck},
                          {"may_go", p.mayGo}});
    return {{"lost", loss.lost},
            {"lost_places", placesJson(loss.lostPlaces)},
            {"added_places", placesJson(loss.addedPlaces)},
            {"lost_listed", loss.lostListed},
            {"lost_pieces", pieces},
            {"added", loss.added},
            {"added_listed", loss.addedListed},
            {"loss_tolerance", loss.tolerance},
            {"loss_points", loss.points}};
}

Json worseJson(const check::Survey& was, const check::Survey& is) {
    Json worse = Json::object();
    for (const check::Worse& w : check::worseCounts(was.counts, is.counts)) worse[std::string(w.key)] = {w.was, w.is};
    if (was.solid && !is.solid) worse["solid"] = {true, false};
    return worse;
}

Json compareJson(const Compared& c, const TwoSurfaces& two) {
    const measure::Comparison& d = c.distance;
    Json json = {{"a_to_b_max", numberJson(d.aToB.max)},
                 {"b_to_a_max", numberJson(d.bToA.max)},
                 {"mean", numberJson(d.mean)},
                 {"mean_sampled", true},
                 {"mean_points", d.meanPoints},
                 {"volume_a", d.volumeA},
                 {"volume_b", d.volumeB},
                 {"area_a", d.areaA},
                 {"area_b", d.areaB},
                 {"kept", d.kept},
                 {"unit", two.unit.empty() ? Json(nullptr) : Json(two.unit)},
                 {"sampled", false}};
    if (!two.said.empty()) json["said"] = two.said;
    json.update(lossJson(c.loss));
    if (c.aligned)
        json["aligned"] = {{"motion", motionJson(c.aligned->motion)},
                           {"distance_before", numberJson(c.aligned->before)},
                           {"distance_after", numberJson(c.aligned->after)},
                           {"points", c.aligned->points}};
    return json;
}

std::optional<double> MassAsked::gramsOf(const measure::Numbers& n) const {
    if (!n.volume || !(density > 0)) return std::nullopt;
    const double known = io::millimetresIn(unit);
    const double centimetres = (known > 0 ? known : 1) / 10;
    return *n.volume * density * std::pow(centimetres, 3);
}

Json numbersJson(const std::string& file, const measure::Numbers& n, const MassAsked& mass) {
    const auto spread = [](const measure::Spread& s) {
        return Json{{"worst", numberJson(s.worst)},
                    {"one_percent", numberJson(s.onePercent)},
                    {"mean", numberJson(s.mean)},
                    {"count", s.count},
                    {"from", s.low},
                    {"to", s.high},
                    {"histogram", s.histogram}};
    };
    const auto grams = mass.gramsOf(n);
    Json json = {{"file", file},
                 {"unit", mass.unit.empty() ? Json(nullptr) : Json(mass.unit)},
                 {"triangles", n.triangles},
                 {"vertices", n.vertices},
                 {"size", {{"min", point(n.box.min)}, {"max", point(n.box.max)}}},
                 {"area", n.area},
                 {"volume", n.volume ? Json(*n.volume) : Json(nullptr)},
                 {"centre_of_mass", n.centreOfMass ? point(*n.centreOfMass) : Json(nullptr)},
                 {"centre_of_area", point(n.centreOfArea)},
                 {"mass_in_grams", grams ? Json(*grams) : Json(nullptr)},
                 {"edge_length", {{"min", n.edges.min}, {"mean", n.edges.mean}, {"max", n.edges.max}}},
                 {"border_length", n.borderLength}};
    for (const measure::QualityKind& kind : measure::qualityKinds)
        json[std::string(kind.key)] = spread(n.quality.*kind.spread);
    return json;
}

Json catalogueJson() {
    Json list = Json::array();
    for (const steps::Step& step : steps::catalogue()) {
        Json parameters = Json::array();
        for (const steps::Parameter& p : step.parameters) {
            if (p.retired) continue;
            Json one = {{"name", p.name},
                        {"unit", steps::unitOf(p)},
                        {"min", steps::isText(p.kind) ? Json(nullptr) : steps::parameterJson(p, p.min)},
                        {"max", steps::isText(p.kind) ? Json(nullptr) : steps::parameterJson(p, p.max)},
                        {"default", p.kind == steps::ParameterKind::Choice ? Json(p.choices.front())
                                    : steps::isText(p.kind)                ? Json(nullptr)
                                    : p.propose                            ? Json("proposed from the part")
                                                                           : steps::parameterJson(p, p.fallback)},
                        {"help", steps::helpOf(p)}};
            if (!p.choices.empty()) one["choices"] = p.choices;
            parameters.push_back(std::move(one));
        }
        Json retired = Json::array();
        for (const steps::Parameter& p : step.parameters)
            if (p.retired) retired.push_back(p.name);
        list.push_back({{"name", step.name},
                        {"title", step.title},
                        {"summary", step.summary},
                        {"family", step.family->key},
                        {"words", step.words},
                        {"parameters", parameters},
                        {"one_of", step.oneOf},
                        {"retired", retired}});
    }
    return list;
}

}  // namespace zither::project
