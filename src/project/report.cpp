// Tables with heads, pictures with words for those who cannot see them, a page that prints.
#include "project/report.h"

#include <fmt/format.h>
#include <openssl/evp.h>

#include <algorithm>
#include <array>
#include <boost/archive/iterators/base64_from_binary.hpp>
#include <boost/archive/iterators/transform_width.hpp>
#include <cmath>
#include <fstream>
#include <limits>

#include "draw/png.h"
#include "draw/ramp.h"
#include "io/format.h"
#include "measure/deviation.h"
#include "project/portrait.h"

namespace zither::project {

using mesh::Outcome;
using mesh::Point;

namespace {

constexpr std::string_view style = R"(
body { font: 15px/1.5 Inter, system-ui, sans-serif; color: #222b2e; background: #fbf7ef; max-width: 62em; margin: 2em auto; padding: 0 1.5em; }
h1 { font-size: 1.6em; margin-bottom: 0.2em; } h2 { font-size: 1.2em; margin-top: 2em; border-bottom: 1px solid #d9cbb4; }
table { border-collapse: collapse; margin: 0.8em 0; } caption { text-align: left; color: #757066; padding-bottom: 0.3em; }
th, td { text-align: left; padding: 0.2em 1.4em 0.2em 0; vertical-align: top; } td.n { text-align: right; font-variant-numeric: tabular-nums; }
tr.out td, tr.out th { color: #b3134e; font-weight: 600; } .met { color: #3f5b4e; } .out { color: #b3134e; }
figure { display: inline-block; margin: 0.4em 1em 0.4em 0; } figcaption { color: #757066; font-size: 0.9em; }
img { max-width: 100%; border: 1px solid #d9cbb4; border-radius: 4px; } code { font-size: 0.85em; word-break: break-all; }
pre { white-space: pre-wrap; background: #f6f1e6; border: 1px solid #d9cbb4; padding: 0.8em; }
@media print { body { background: white; margin: 0; } h2 { break-after: avoid; } figure, table { break-inside: avoid; } }
)";

std::string escaped(std::string_view text) {
    std::string safe;
    for (const char c : text) {
        switch (c) {
            case '&':
                safe += "&amp;";
                break;
            case '<':
                safe += "&lt;";
                break;
            case '>':
                safe += "&gt;";
                break;
            case '"':
                safe += "&quot;";
                break;
            default:
                safe += c;
        }
    }
    return safe;
}

std::string base64(const std::string& bytes) {
    using namespace boost::archive::iterators;
    using Coded = base64_from_binary<transform_width<std::string::const_iterator, 6, 8>>;
    std::string coded(Coded(bytes.begin()), Coded(bytes.end()));
    coded.append((3 - bytes.size() % 3) % 3, '=');
    return coded;
}

std::string numberText(double value) {
    if (!std::isfinite(value)) return "–";
    if (value == std::floor(value) && std::abs(value) < 1e15) return fmt::format("{:.0f}", value);
    // Without an exponent where people read it more easily.
    return std::abs(value) >= 1000 ? fmt::format("{:.1f}", value) : fmt::format("{:.4g}", value);
}

std::string placeOf(const Point& p) {
    return fmt::format("{}, {}, {}", numberText(p.x()), numberText(p.y()), numberText(p.z()));
}

std::string figure(const draw::Picture& picture, const std::string& alt, const std::string& caption) {
    return fmt::format(
        "<figure><img src=\"data:image/png;base64,{}\" alt=\"{}\" width=\"{}\" "
        "height=\"{}\"><figcaption>{}</figcaption></figure>\n",
        base64(draw::pngOf(picture)), escaped(alt), picture.width, picture.height, escaped(caption));
}

// A row of a table that shows a number of the input and of the output.
std::string row(std::string_view name, const std::string& before, const std::string& after, bool isWorse = false) {
    return fmt::format("<tr{}><th scope=\"row\">{}</th><td class=\"n\">{}</td><td class=\"n\">{}</td></tr>\n",
                       isWorse ? " class=\"out\"" : "", escaped(name), escaped(before), escaped(after));
}

std::string verdictTable(const steps::Verdict& verdict) {
    std::string html =
        "<table><caption>What the brief asks, and what the file holds</caption><thead><tr><th "
        "scope=\"col\">requirement</th>"
        "<th scope=\"col\">asked</th><th scope=\"col\">found</th><th scope=\"col\">verdict</th></tr></thead><tbody>\n";
    for (const steps::Judged& j : verdict.judged) {
        const bool share = j.requirement.measure->unit == "share";
        const auto told = [&](double value) { return share ? numberText(100 * value) + " %" : numberText(value); };
        html += fmt::format("<tr{}><th scope=\"row\">{}</th><td>{}</td><td class=\"n\">{}</td><td>{}</td></tr>\n",
                            j.met ? "" : " class=\"out\"", escaped(steps::titleOf(j.requirement)),
                            j.requirement.limit
                                ? fmt::format("{} {}", j.requirement.measure->atLeast ? "at least" : "at most",
                                              told(*j.requirement.limit))
                                : "noted",
                            j.value ? told(*j.value) : "–",
                            !j.requirement.limit ? "noted"
                            : !j.value           ? "cannot be told"
                            : j.met              ? "met"
                                                 : "not met");
    }
    return html + "</tbody></table>\n";
}

std::string soundness(const check::Survey& s) {
    return s.solid ? "solid" : s.watertight ? "watertight" : "open or broken";
}

std::string beforeAndAfter(const ReportSource& source) {
    const check::Survey& a = *source.input.survey;
    const check::Survey& b = *source.output.survey;
    std::string html =
        "<table><caption>Counts and sizes, in the file's unit</caption><thead><tr><th scope=\"col\"></th><th "
        "scope=\"col\">"
        "came in</th><th scope=\"col\">the file</th></tr></thead><tbody>\n";
    for (const check::CountKey& key : check::countKeys) {
        const std::uint64_t was = a.counts.*key.member;
        const std::uint64_t is = b.counts.*key.member;
        html += row(key.title, fmt::format("{}", was), fmt::format("{}", is), key.isWorse && is > was);
    }
    html += row("surface", soundness(a), soundness(b), a.solid && !b.solid);
    html += row("volume", numberText(a.mass.volume), numberText(b.mass.volume));
    html += row("area", numberText(a.mass.area), numberText(b.mass.area));
    const auto size = [](const mesh::Box& box) {
        const Point e = box.extent();
        return fmt::format("{} × {} × {}", numberText(e.x()), numberText(e.y()), numberText(e.z()));
    };
    html += row("size", size(a.mass.size), size(b.mass.size));
    html += row("shortest edge", numberText(a.edgeLength.min), numberText(b.edgeLength.min));
    html += row("mean edge", numberText(a.edgeLength.mean), numberText(b.edgeLength.mean));
    html += row("longest edge", numberText(a.edgeLength.max), numberText(b.edgeLength.max));
    return html + "</tbody></table>\n";
}

// ---- how far

std::string histogramSvg(const std::vector<float>& values, float most) {
    constexpr std::size_t bins = 48;
    constexpr int width = 480;
    constexpr int height = 90;
    std::array<std::size_t, bins> counts{};
    for (const float v : values) ++counts[std::min(bins - 1, static_cast<std::size_t>(most > 0 ? v / most * bins : 0))];
    const double highest = std::sqrt(static_cast<double>(*std::max_element(counts.begin(), counts.end())));
    std::string bars;
    for (std::size_t i = 0; i < bins; ++i) {
        const double h = highest > 0 ? height * std::sqrt(static_cast<double>(counts[i])) / highest : 0;
        bars += fmt::format("<rect x=\"{}\" y=\"{:.1f}\" width=\"8\" height=\"{:.1f}\"/>", 10 * i, height - h, h);
    }
    return fmt::format(
        "<figure><svg role=\"img\" aria-label=\"Histogram of distances from 0 to {0}\" width=\"{1}\" height=\"{2}\" "
        "viewBox=\"0 0 {1} {2}\" "
        "fill=\"#b7824f\">{3}</svg><figcaption>Distances of the vertices from what came in: 0 to {0}; heights by "
        "square "
        "roots</figcaption></figure>\n",
        numberText(most), width, height, bars);
}

// Looks at a place along its surface's normal, so much of it.
draw::Eye eyeAt(const mesh::Mesh& m, const space::TriangleTree& tree, const Point& place, double across) {
    constexpr int width = 480;
    constexpr int height = 320;
    Point towards = Point(1, -1, 0.7).normalized();
    if (const auto nearest = tree.nearest(place, std::numeric_limits<double>::infinity()))
        if (const Point n = mesh::areaVector(m, nearest->triangle); n.norm() > 0)
            towards = (n.normalized() + 0.4 * towards).normalized();
    const Eigen::Matrix3d axes = draw::axesTowards(towards, Point::UnitZ());
    draw::Eye eye;
    eye.right = axes.row(0);
    eye.up = axes.row(1);
    eye.pixel = across / width;
    eye.width = width;
    eye.height = height;
    eye.corner = place - 0.5 * eye.pixel * ((width - 1) * eye.right - (height - 1) * eye.up);
    return eye;
}

class Writer {
public:
    Writer(const ReportSource& source, mesh::Progress& progress) : source_(source), progress_(progress) {}

    Outcome<std::string> write() {
        auto digestIn = digestOf(source_.input.file);
        if (!digestIn) return digestIn;
        auto digestOut = digestOf(source_.output.file);
        if (!digestOut) return digestOut;
        if (!progress_.report(0.05)) return mesh::cancelled();
        head(*digestIn, *digestOut);
        if (const auto drawn = portraits(); !drawn) return tl::unexpected(drawn.error());
        done();
        html_ += "<h2>Before and after</h2>\n" + beforeAndAfter(source_);
        distances();
        if (!progress_.report(0.8)) return mesh::cancelled();
        losses();
        if (!source_.recipe.empty())
            html_ +=
                "<h2>To repeat it</h2>\n<p>As a recipe: <code>zither-cli run IN -o OUT --recipe "
                "FILE.json</code></p>\n<pre>" +
                escaped(source_.recipe) + "</pre>\n";
        html_ += fmt::format(
            "<p class=\"by\">Made by {}. Every number is of the files as they were read back.</p>\n</body></html>\n",
            escaped(source_.madeBy));
        if (!progress_.report(1)) return mesh::cancelled();
        return std::move(html_);
    }

private:
    void head(const std::string& digestIn, const std::string& digestOut) {
        const std::string name = std::filesystem::path(source_.output.file).filename().string();
        const bool good = source_.output.verdict.allMet();
        html_ = fmt::format(
            "<!DOCTYPE html>\n<html lang=\"en\"><head><meta "
            "charset=\"utf-8\"><title>{0}</title><style>{1}</style></head><body>\n"
            "<h1>{0}</h1>\n<p class=\"{2}\"><strong>{3}</strong>: {4} of {5} requirements of the brief <em>{6}</em> "
            "are met; the "
            "surface is {7}.</p>\n",
            escaped(name), style, good ? "met" : "out", good ? "In tune" : "Not in tune", source_.output.verdict.met(),
            source_.output.verdict.asked(), escaped(source_.output.brief.title), soundness(*source_.output.survey));
        html_ +=
            "<table><caption>The files</caption><thead><tr><th scope=\"col\"></th><th scope=\"col\">file</th><th "
            "scope=\"col\">"
            "format</th><th scope=\"col\">unit</th><th scope=\"col\">SHA-256</th></tr></thead><tbody>\n";
        const auto line = [&](std::string_view what, const Judged& j, const std::string& digest) {
            html_ += fmt::format(
                "<tr><th scope=\"row\">{}</th><td>{}</td><td>{}</td><td>{}</td><td><code>{}</code></td></tr>\n", what,
                escaped(std::filesystem::path(j.file).filename().string()),
                j.surface.format ? escaped(j.surface.format->title) : "–",
                j.surface.unit.empty() ? "not said" : escaped(j.surface.unit), digest);
        };
        line("came in", source_.input, digestIn);
        line("handed over", source_.output, digestOut);
        html_ += "</tbody></table>\n" + verdictTable(source_.output.verdict);
        for (const std::string& remark : source_.input.surface.remarks) html_ += "<p>" + escaped(remark) + ".</p>\n";
    }

    Outcome<void> portraits() {
        html_ += "<h2>How it looks</h2>\n";
        for (const auto& [judged, what] : {std::pair{&source_.input, "came in"}, {&source_.output, "handed over"}}) {
            const auto picture = portraitOf(*judged->part, *judged->survey,
                                            {.from = draw::View::Iso, .width = 600, .height = 420}, progress_);
            if (!picture) return tl::unexpected(picture.error());
            html_ +=
                figure(*picture,
                       fmt::format("The part as it {}, seen from a corner; places with defects are marked in colour",
                                   std::string_view(what) == "came in" ? "came in" : "was handed over"),
                       fmt::format("As it {}", std::string_view(what) == "came in" ? "came in" : "was handed over"));
        }
        return {};
    }

    void done() {
        html_ += "<h2>What was done, and why</h2>\n";
        if (source_.steps.empty()) {
            html_ += "<p>The steps are not known: only the two files were compared.</p>\n";
            return;
        }
        html_ += "<ol>\n";
        for (const ReportStep& step : source_.steps) {
            html_ += "<li><strong>" + escaped(step.name) + "</strong>";
            if (!step.why.empty()) html_ += " – " + escaped(step.why);
            for (const std::string& sentence : step.sentences) html_ += "<br>" + escaped(sentence);
            html_ += "</li>\n";
        }
        html_ += "</ol>\n";
    }

    void distances() {
        const measure::Comparison& c = source_.compared.distance;
        html_ += fmt::format(
            "<h2>How far it is from what came in</h2>\n<table><caption>Proven bounds, in the file's "
            "unit</caption><tbody>\n"
            "<tr><th scope=\"row\">no point of the import is farther from the file than</th><td "
            "class=\"n\">{}</td></tr>\n"
            "<tr><th scope=\"row\">no point of the file is farther from the import than</th><td "
            "class=\"n\">{}</td></tr>\n"
            "<tr><th scope=\"row\">mean distance</th><td class=\"n\">{}</td></tr>\n"
            "<tr><th scope=\"row\">triangles kept bit for bit</th><td class=\"n\">{:.2f} "
            "%</td></tr>\n</tbody></table>\n",
            numberText(c.aToB.max), numberText(c.bToA.max), numberText(c.mean), 100 * c.kept);
        const mesh::Mesh& m = source_.output.part->mesh();
        if (m.triangles.empty() || source_.input.part->mesh().triangles.empty()) return;
        mesh::SilentProgress silent;
        const auto distances = measure::distancesAtCorners(m, source_.input.part->tree(), silent);
        const std::vector<float> values(distances->begin(), distances->end());
        const float most = values.empty() ? 0 : *std::max_element(values.begin(), values.end());
        draw::Subject subject = plainSubject(source_.output);
        const std::vector<std::uint32_t> coat(m.triangles.size(), 0);
        subject.coat = coat;
        subject.edges = false;
        subject.tint.values = values;
        subject.tint.high = most;
        for (std::size_t i = 0; i < subject.tint.ramp.size(); ++i)
            subject.tint.ramp[i] = draw::colourOf(draw::ink::ramp[i]);
        html_ +=
            figure(draw::paintSmooth(subject, draw::eyeOn(m, draw::View::Iso, 600, 420)),
                   "The file, each place in the colour of its distance from the import: light is near, dark is far",
                   fmt::format("Distance from the import: light 0, dark {}", numberText(most)));
        html_ += histogramSvg(values, most);
        if (most > 0)
            closeUp(source_.output, c.bToA.worst,
                    fmt::format("Where the file lies farthest from the import, at {}", placeOf(c.bToA.worst)),
                    40.0 * most);
    }

    void losses() {
        const measure::Loss& loss = source_.compared.loss;
        html_ += fmt::format(
            "<h2>What was lost and added</h2>\n<p>Of what can be seen of the import {:.3f} % is lost (asked: at most "
            "0.2 %), {:.3f} % of "
            "that listed. {:.3f} % of the file is new, {:.3f} % listed. {} points were looked at; what moved less than "
            "{} "
            "counts as kept.</p>\n",
            100 * loss.lost, 100 * loss.lostListed, 100 * loss.added, 100 * loss.addedListed, loss.points,
            numberText(loss.tolerance));
        constexpr std::size_t most = 3;
        for (std::size_t i = 0; i < std::min(most, loss.lostPlaces.size()); ++i)
            closeUp(source_.input, loss.lostPlaces[i].position,
                    fmt::format("Lost, at {}: as it came in", placeOf(loss.lostPlaces[i].position)),
                    4 * loss.lostPlaces[i].size);
        for (std::size_t i = 0; i < std::min(most, loss.addedPlaces.size()); ++i)
            closeUp(source_.output, loss.addedPlaces[i].position,
                    fmt::format("Added, at {}", placeOf(loss.addedPlaces[i].position)), 4 * loss.addedPlaces[i].size);
    }

    static draw::Subject plainSubject(const Judged& of) {
        draw::Subject subject;
        subject.inks = pictureInks();
        subject.surface = &of.part->mesh();
        subject.rays = &of.part->rays();
        subject.box = of.survey->mass.size;
        return subject;
    }

    void closeUp(const Judged& of, const Point& place, const std::string& caption, double across) {
        const double whole = of.survey->mass.size.diagonal();
        const draw::Eye eye = eyeAt(of.part->mesh(), of.part->tree(), place, std::clamp(across, 1e-3 * whole, whole));
        html_ += figure(draw::paintSmooth(plainSubject(of), eye), caption + ", seen from near", caption);
    }

    const ReportSource& source_;
    mesh::Progress& progress_;
    std::string html_;
};

}  // namespace

Outcome<std::string> digestOf(const std::filesystem::path& file) {
    std::ifstream in(file, std::ios::binary);
    if (!in)
        return tl::unexpected(mesh::Error{mesh::ErrorKind::Environment,
                                          fmt::format("{}: could not be read", file.string()),
                                          mesh::errorcode::environment, file.string()});
    const std::unique_ptr<EVP_MD_CTX, decltype(&EVP_MD_CTX_free)> context(EVP_MD_CTX_new(), &EVP_MD_CTX_free);
    EVP_DigestInit_ex(context.get(), EVP_sha256(), nullptr);
    std::vector<char> block(1 << 16);
    while (in.read(block.data(), static_cast<std::streamsize>(block.size())) || in.gcount() > 0)
        EVP_DigestUpdate(context.get(), block.data(), static_cast<std::size_t>(in.gcount()));
    std::array<unsigned char, EVP_MAX_MD_SIZE> digest{};
    unsigned size = 0;
    EVP_DigestFinal_ex(context.get(), digest.data(), &size);
    std::string text;
    for (unsigned i = 0; i < size; ++i) text += fmt::format("{:02x}", digest[i]);
    return text;
}

Outcome<std::string> reportHtml(const ReportSource& source, mesh::Progress& progress) {
    return Writer(source, progress).write();
}

}  // namespace zither::project
