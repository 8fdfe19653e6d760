// The same numbers as the JSON, laid out for reading.
#include "cli/report_text.h"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

#include "check/worse.h"

namespace zither::cli {
namespace {

std::string_view yesNo(bool value) {
    return value ? "yes" : "no";
}

std::string lineOf(const steps::Judged& j) {
    return fmt::format(
        "  {:5} {:24} {:>12}   {}\n",
        !j.requirement.limit ? "noted"
        : !j.value           ? "-"
        : j.met              ? "ok"
                             : "FAILS",
        steps::titleOf(j.requirement), j.value ? fmt::format("{:.6g}", *j.value) : "-",
        j.requirement.limit
            ? fmt::format("{} {:.6g}", j.requirement.measure->atLeast ? "at least" : "at most", *j.requirement.limit)
            : "");
}

// The first twenty, a line each, and how many more there are.
template <class Item, class Line>
void addFirst(std::string& text, std::string_view indent, const std::vector<Item>& items, std::string_view more,
              const Line& line) {
    constexpr std::size_t most = 20;
    for (std::size_t i = 0; i < std::min(most, items.size()); ++i)
        fmt::format_to(std::back_inserter(text), "{}{}\n", indent, line(items[i]));
    if (items.size() > most)
        fmt::format_to(std::back_inserter(text), "{}... and {} more{}\n", indent, items.size() - most, more);
}

std::string lossLines(const measure::Loss& loss) {
    std::string text = fmt::format("  lost {:.3f} % of what can be seen, added {:.3f} % ({} points, within {:.4g})\n",
                                   100 * loss.lost, 100 * loss.added, loss.points, loss.tolerance);
    addFirst(text, "      ", loss.pieces, "", [](const measure::LostPiece& p) {
        return fmt::format("lost {}: shell {}, {:.3g} across, at {}",
                           p.mayGo   ? "as asked"
                           : p.speck ? "speck"
                                     : "piece",
                           p.shell, p.box.diagonal(), mesh::placeText(p.box.centre()));
    });
    return text;
}

std::string stepLines(const steps::DoneStep& s) {
    std::string text = fmt::format("  {}{}\n", s.call.step->name, s.why.empty() ? "" : " - " + s.why);
    for (const std::string& sentence : s.record.sentences)
        fmt::format_to(std::back_inserter(text), "      {}\n", sentence);
    addFirst(text, "      ", s.record.listed, "", [](const steps::Listed& listed) {
        std::string head(steps::nameOf(listed.kind));
        std::replace(head.begin(), head.end(), '-', ' ');
        return fmt::format("{}: {}", head, listed.text);
    });
    return text;
}

}  // namespace

std::string checkReport(const project::Judged& j, const steps::Brief& brief) {
    const auto& size = j.survey->mass.size;
    const mesh::Point extent = size.extent();
    std::string text = fmt::format("{}: {}, {} triangles, {} vertices\n", j.file, j.surface.format->name,
                                   j.survey->counts.triangles, j.survey->counts.vertices);
    for (const std::string& remark : j.surface.remarks)
        fmt::format_to(std::back_inserter(text), "  note: {}\n", remark);
    fmt::format_to(std::back_inserter(text),
                   "  size {:.6g} x {:.6g} x {:.6g}, area {:.6g}, volume {:.6g} (in the file's unit)\n", extent.x(),
                   extent.y(), extent.z(), j.survey->mass.area, j.survey->mass.volume);
    for (const check::CountKey& key : check::countKeys)
        fmt::format_to(std::back_inserter(text), "  {:30} {:>12}\n", key.key, j.survey->counts.*key.member);
    fmt::format_to(std::back_inserter(text), "  watertight {}, solid {}\n", yesNo(j.survey->watertight),
                   yesNo(j.survey->solid));
    fmt::format_to(std::back_inserter(text), "brief '{}': {} of {} in tune\n", brief.title, j.verdict.met(),
                   j.verdict.asked());
    for (const steps::Judged& judged : j.verdict.judged) text += lineOf(judged);
    return text;
}

std::string triedReport(const std::vector<steps::TriedWayLog>& tried) {
    std::string text = tried.empty()
                           ? "  nothing was tried: nothing is wrong\n"
                           : "  ways that were tried         fails        left    lost %  sheets %        s\n";
    for (const steps::TriedWayLog& t : tried) {
        const bool gone = t.why.empty() || t.failing > 0 || t.left > 0 || t.lost > 0 || t.mayBeTaken;
        fmt::format_to(std::back_inserter(text), "  {} {}\n", t.taken ? "*" : " ", t.way);
        if (gone)
            fmt::format_to(std::back_inserter(text), "  {:28} {:>5} {:>11.6g} {:>9.3f} {:>9.2f} {:>8.2f}\n", "",
                           t.failing, t.left, 100 * t.lost, 100 * t.sheets, t.seconds);
        else
            fmt::format_to(std::back_inserter(text), "  {:28} {:>46.2f}\n", "", t.seconds);
        if (!t.why.empty()) fmt::format_to(std::back_inserter(text), "      not taken: {}\n", t.why);
    }
    return text;
}

std::string processReport(const project::Judged& input, const project::Delivered& delivered,
                          const steps::RepairResult& changed, const std::vector<std::string>& warnings) {
    const project::Judged& output = delivered.file;
    const measure::Comparison& c = delivered.compared->distance;
    std::string text;
    for (const std::string& warning : warnings) fmt::format_to(std::back_inserter(text), "WARNING: {}\n", warning);
    fmt::format_to(std::back_inserter(text), "{} -> {}\n", input.file, output.file);
    for (const steps::DoneStep& s : changed.steps) text += stepLines(s);
    if (output.settled) text += stepLines(*output.settled);
    fmt::format_to(std::back_inserter(text), "  {:30} {:>12} {:>12}\n", "", "read", "written");
    for (const check::CountKey& key : check::countKeys)
        fmt::format_to(std::back_inserter(text), "  {:30} {:>12} {:>12}\n", key.key, input.survey->counts.*key.member,
                       output.survey->counts.*key.member);
    fmt::format_to(std::back_inserter(text), "  {:30} {:>12} {:>12}\n", "watertight", yesNo(input.survey->watertight),
                   yesNo(output.survey->watertight));
    fmt::format_to(std::back_inserter(text), "  {:30} {:>12} {:>12}\n", "solid", yesNo(input.survey->solid),
                   yesNo(output.survey->solid));
    fmt::format_to(std::back_inserter(text), "  {:30} {:>12.6g} {:>12.6g}\n", "volume", input.survey->mass.volume,
                   output.survey->mass.volume);
    fmt::format_to(std::back_inserter(text),
                   "  deviation: input to output at most {:.4g}, output to input at most {:.4g}, mean {:.4g} at {} "
                   "points; kept {:.2f} %\n",
                   c.aToB.max, c.bToA.max, c.mean, c.meanPoints, 100 * c.kept);
    text += lossLines(*delivered.loss);
    if (delivered.compared->lostUntold != delivered.loss->lost)
        fmt::format_to(
            std::back_inserter(text),
            "      what lies behind the patches that close openings is left out; with it {:.3f} % is lost, as compare "
            "tells it\n",
            100 * delivered.compared->lostUntold);
    if (const std::string worse = check::worseText(*input.survey, *output.survey); !worse.empty())
        text += fmt::format("  {}\n", worse);
    if (changed.timeWasUp) text += "  time was up: this is the best that there was by then; --time-limit gives more\n";
    for (const std::string& line : steps::leftInLines(changed.left))
        fmt::format_to(std::back_inserter(text), "  for you to decide: {}\n", line);
    std::vector<const steps::Question*> answerable;
    for (const steps::Question& q : changed.questions)
        if (!q.answers.empty()) answerable.push_back(&q);
    addFirst(text, "  ", answerable, " that can be answered; --json lists all", [](const steps::Question* q) {
        std::string words = "keep";
        for (const steps::Answer& a : q->answers) fmt::format_to(std::back_inserter(words), " or {}", a.word);
        return fmt::format("answer with --answer {}={}", q->id, words);
    });
    fmt::format_to(std::back_inserter(text), "  the file read back: {} of {} in tune\n", output.verdict.met(),
                   output.verdict.asked());
    for (const steps::Judged& judged : output.verdict.judged)
        if (!judged.met) text += lineOf(judged);
    return text;
}

std::string dryReport(const project::Judged& input, const steps::RepairResult& would) {
    std::string text = fmt::format("{}: would be changed by {} {}; nothing was written\n", input.file,
                                   would.steps.size(), would.steps.size() == 1 ? "step" : "steps");
    for (const steps::DoneStep& s : would.steps) text += stepLines(s);
    const std::size_t after =
        would.steps.empty() ? input.part->mesh().triangles.size() : would.steps.back().part->mesh().triangles.size();
    return text + fmt::format("  {} triangles, {} afterwards\n", input.part->mesh().triangles.size(), after);
}

std::string compareReport(const project::Compared& compared, const project::TwoSurfaces& two) {
    const measure::Comparison& c = compared.distance;
    std::string text = two.said.empty() ? std::string() : two.said + "\n";
    if (const auto& fit = compared.aligned)
        text += fmt::format("a was brought onto b: {:.6g} from it on average at {} points, {:.6g} as it lay\n",
                            fit->after, fit->points, fit->before);
    return text +
           fmt::format(
               "deviation: a to b at most {:.6g}, b to a at most {:.6g}, mean {:.6g} at {} points\n"
               "volume: a {:.9g}, b {:.9g}\narea: a {:.9g}, b {:.9g}\nkept {:.4f} %\n",
               c.aToB.max, c.bToA.max, c.mean, c.meanPoints, c.volumeA, c.volumeB, c.areaA, c.areaB, 100 * c.kept) +
           lossLines(compared.loss);
}

std::string numbersReport(const std::string& file, const measure::Numbers& n, const project::MassAsked& mass) {
    const auto place = [](const mesh::Point& p) {
        return fmt::format("({:.9g}, {:.9g}, {:.9g})", p.x(), p.y(), p.z());
    };
    const mesh::Point size = n.box.extent();
    std::string text = fmt::format("{}: {} triangles, {} vertices ({})\n", file, n.triangles, n.vertices,
                                   mass.unit.empty() ? "in the file's unit" : "in " + mass.unit);
    text += fmt::format("  {:26} {:.9g} x {:.9g} x {:.9g}, from {} to {}\n", "size", size.x(), size.y(), size.z(),
                        place(n.box.min), place(n.box.max));
    text += fmt::format("  {:26} {:.9g}\n", "area", n.area);
    text += n.volume ? fmt::format("  {:26} {:.9g}\n", "volume", *n.volume)
                     : fmt::format("  {:26} none: {}\n", "volume", "the surface is not closed");
    if (n.centreOfMass) text += fmt::format("  {:26} {}\n", "centre of mass", place(*n.centreOfMass));
    text += fmt::format("  {:26} {}\n", "centre of area", place(n.centreOfArea));
    if (const auto grams = mass.gramsOf(n))
        text += fmt::format("  {:26} {:.6g} g at {:.4g} g/cm3{}\n", "mass", *grams, mass.density,
                            mass.unit.empty() ? ", a unit taken for a millimetre" : "");
    text +=
        fmt::format("  {:26} {:.6g} to {:.6g}, {:.6g} on average\n", "edges", n.edges.min, n.edges.max, n.edges.mean);
    text += fmt::format("  {:26} {:.9g}\n", "border", n.borderLength);
    text += fmt::format("  {:39} {:>10} {:>10} {:>10}\n", "", "worst", "1 %", "mean");
    for (const measure::QualityKind& kind : measure::qualityKinds) {
        const measure::Spread& spread = n.quality.*kind.spread;
        text += fmt::format("  {:39} {:>10.4g} {:>10.4g} {:>10.4g}\n",
                            fmt::format("{}{}", kind.title, kind.unit == "deg" ? ", degrees" : ""), spread.worst,
                            spread.onePercent, spread.mean);
    }
    return text;
}

std::string stepsReport() {
    std::string text;
    for (const steps::Step& step : steps::catalogue()) {
        fmt::format_to(std::back_inserter(text), "{}: {}\n", step.name, step.summary);
        for (const steps::Parameter& p : step.parameters) {
            if (p.retired) continue;
            const std::string fallback = p.kind == steps::ParameterKind::Choice ? std::string(p.choices.front())
                                         : steps::isText(p.kind) ? std::string(p.optional ? "none" : "must be given")
                                         : p.propose             ? "proposed from the part"
                                         : p.kind == steps::ParameterKind::Flag
                                             ? std::string(p.fallback != 0 ? "yes" : "no")
                                             : fmt::format("{:g}", p.fallback);
            fmt::format_to(std::back_inserter(text), "    {:14} [{}] default {}: {}\n", p.name, steps::unitOf(p),
                           fallback, steps::helpOf(p));
        }
    }
    return text;
}

}  // namespace zither::cli
