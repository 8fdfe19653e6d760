// Every sentence of a report, and what its tables hold.
#include "project/report.h"

#include <fmt/format.h>
#include <openssl/evp.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <fstream>
#include <limits>

#include "draw/ramp.h"
#include "io/atomic_file.h"
#include "io/format.h"
#include "measure/deviation.h"
#include "project/portrait.h"

namespace zither::project {

using mesh::Outcome;
using mesh::Point;

namespace {

std::string numberText(double value) {
    if (!std::isfinite(value)) return "–";
    if (value == std::floor(value) && std::abs(value) < 1e15) return fmt::format("{:.0f}", value);
    // Without an exponent where people read it more easily.
    return std::abs(value) >= 1000 ? fmt::format("{:.1f}", value) : fmt::format("{:.4g}", value);
}

std::string placeOf(const Point& p) {
    return fmt::format("{}, {}, {}", numberText(p.x()), numberText(p.y()), numberText(p.z()));
}

Table verdictTable(const steps::Verdict& verdict) {
    Table table{"What the brief asks, and what the file holds",
                {"asked", "found", "verdict"},
                "requirement",
                {Table::Column::Text, Table::Column::Number, Table::Column::Text}};
    for (const steps::Judged& j : verdict.judged) {
        const bool share = j.requirement.measure->unit == "share";
        const auto told = [&](double value) { return share ? numberText(100 * value) + " %" : numberText(value); };
        const std::string asked = j.requirement.limit
                                      ? fmt::format("{} {}", j.requirement.measure->atLeast ? "at least" : "at most",
                                                    told(*j.requirement.limit))
                                      : "noted";
        const std::string_view found = !j.requirement.limit ? "noted"
                                       : !j.value           ? "cannot be told"
                                       : j.met              ? "met"
                                                            : "not met";
        table.rows.push_back({steps::titleOf(j.requirement),
                              {asked, j.value ? told(*j.value) : "–", std::string(found)},
                              j.met ? Tone::Plain : Tone::Bad});
    }
    return table;
}

std::string soundness(const check::Survey& s) {
    return s.solid ? "solid" : s.watertight ? "watertight" : "open or broken";
}

Table beforeAndAfter(const ReportSource& source) {
    const check::Survey& a = *source.input.survey;
    const check::Survey& b = *source.output.survey;
    Table table{"Counts and sizes, in the file's unit",
                {"came in", "the file"},
                "",
                {Table::Column::Number, Table::Column::Number}};
    const auto row = [&](std::string_view name, std::string before, std::string after, bool isWorse = false) {
        table.rows.push_back(
            {std::string(name), {std::move(before), std::move(after)}, isWorse ? Tone::Bad : Tone::Plain});
    };
    for (const check::CountKey& key : check::countKeys) {
        const std::uint64_t was = a.counts.*key.member;
        const std::uint64_t is = b.counts.*key.member;
        row(key.title, fmt::format("{}", was), fmt::format("{}", is), key.isWorse && is > was);
    }
    row("surface", soundness(a), soundness(b), a.solid && !b.solid);
    row("volume", numberText(a.mass.volume), numberText(b.mass.volume));
    row("area", numberText(a.mass.area), numberText(b.mass.area));
    const auto size = [](const mesh::Box& box) {
        const Point e = box.extent();
        return fmt::format("{} × {} × {}", numberText(e.x()), numberText(e.y()), numberText(e.z()));
    };
    row("size", size(a.mass.size), size(b.mass.size));
    row("shortest edge", numberText(a.edgeLength.min), numberText(b.edgeLength.min));
    row("mean edge", numberText(a.edgeLength.mean), numberText(b.edgeLength.mean));
    row("longest edge", numberText(a.edgeLength.max), numberText(b.edgeLength.max));
    return table;
}

// Heights by square roots, so that the few far ones are seen beside the many near ones.
Bars histogramOf(const std::vector<float>& values, float most) {
    constexpr std::size_t bins = 48;
    std::array<std::size_t, bins> counts{};
    for (const float v : values) ++counts[std::min(bins - 1, static_cast<std::size_t>(most > 0 ? v / most * bins : 0))];
    const double highest = std::sqrt(static_cast<double>(*std::max_element(counts.begin(), counts.end())));
    Bars bars;
    for (const std::size_t count : counts)
        bars.heights.push_back(highest > 0 ? std::sqrt(static_cast<double>(count)) / highest : 0);
    bars.words = fmt::format("Histogram of distances from 0 to {}", numberText(most));
    bars.caption =
        fmt::format("Distances of the vertices from what came in: 0 to {}; heights by square roots", numberText(most));
    return bars;
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

    Outcome<Document> write() {
        auto digestIn = digestOf(source_.input.file);
        if (!digestIn) return mesh::errorOf(digestIn);
        auto digestOut = digestOf(source_.output.file);
        if (!digestOut) return mesh::errorOf(digestOut);
        if (!progress_.report(0.05)) return mesh::cancelled();
        head(*digestIn, *digestOut);
        if (const auto drawn = portraits(); !drawn) return mesh::errorOf(drawn);
        done();
        add(Heading{"Before and after"});
        add(beforeAndAfter(source_));
        distances();
        if (!progress_.report(0.8)) return mesh::cancelled();
        losses();
        if (!source_.recipe.empty()) {
            add(Heading{"To repeat it"});
            add(Paragraph{"As a recipe: zither-cli run IN -o OUT --recipe FILE.json"});
            add(Verbatim{source_.recipe});
        }
        add(Paragraph{fmt::format("Made by {}. Every number is of the files as they were read back.", source_.madeBy)});
        if (!progress_.report(1)) return mesh::cancelled();
        return std::move(document_);
    }

private:
    template <class Part>
    void add(Part block) {
        document_.blocks.emplace_back(std::move(block));
    }

    void head(const std::string& digestIn, const std::string& digestOut) {
        document_.title = std::filesystem::path(source_.output.file).filename().string();
        const bool good = source_.output.verdict.allMet();
        add(Paragraph{fmt::format("{} of {} requirements of the brief {} are met; the surface is {}.",
                                  source_.output.verdict.met(), source_.output.verdict.asked(),
                                  source_.output.brief.title, soundness(*source_.output.survey)),
                      good ? Tone::Good : Tone::Bad, good ? "In tune" : "Not in tune"});
        Table files{"The files",
                    {"file", "format", "unit", "SHA-256"},
                    "",
                    {Table::Column::Text, Table::Column::Text, Table::Column::Text, Table::Column::Code}};
        const auto line = [&](const std::string& what, const Judged& j, const std::string& digest) {
            files.rows.push_back({what,
                                  {std::filesystem::path(j.file).filename().string(),
                                   j.surface.format ? std::string(j.surface.format->title) : "–",
                                   j.surface.unit.empty() ? "not said" : j.surface.unit, digest}});
        };
        line("came in", source_.input, digestIn);
        line("handed over", source_.output, digestOut);
        add(std::move(files));
        add(verdictTable(source_.output.verdict));
        for (const std::string& remark : source_.input.surface.remarks) add(Paragraph{remark + "."});
    }

    Outcome<void> portraits() {
        add(Heading{"How it looks"});
        for (const auto& [judged, how] : {std::pair{&source_.input, "came in"}, {&source_.output, "was handed over"}}) {
            auto picture = portraitOf(*judged->part, *judged->survey,
                                      {.from = draw::View::Iso, .width = 600, .height = 420}, progress_);
            if (!picture) return mesh::errorOf(picture);
            add(Figure{
                std::move(*picture),
                fmt::format("The part as it {}, seen from a corner; places with defects are marked in colour", how),
                fmt::format("As it {}", how)});
        }
        return {};
    }

    void done() {
        add(Heading{"What was done, and why"});
        if (source_.steps.empty()) return add(Paragraph{"The steps are not known: only the two files were compared."});
        Items items;
        for (const ReportStep& step : source_.steps) items.items.push_back({step.name, step.why, step.sentences});
        add(std::move(items));
    }

    void distances() {
        const measure::Comparison& c = source_.compared.distance;
        add(Heading{"How far it is from what came in"});
        add(Table{"Proven bounds, in the file's unit",
                  {},
                  "",
                  {Table::Column::Number},
                  {{"no point of the import is farther from the file than", {numberText(c.aToB.max)}},
                   {"no point of the file is farther from the import than", {numberText(c.bToA.max)}},
                   {"mean distance", {numberText(c.mean)}},
                   {"triangles kept bit for bit", {fmt::format("{:.2f} %", 100 * c.kept)}}}});
        const mesh::Mesh& m = source_.output.part->mesh();
        if (m.triangles.empty() || source_.import.mesh().triangles.empty()) return;
        mesh::SilentProgress silent;
        const auto distances = measure::distancesAtCorners(m, source_.import.tree(), silent);
        const std::vector<float> values(distances->begin(), distances->end());
        const float most = values.empty() ? 0 : *std::max_element(values.begin(), values.end());
        draw::Subject subject = plainSubject(*source_.output.part);
        const std::vector<std::uint32_t> coat(m.triangles.size(), 0);
        subject.coat = coat;
        subject.edges = false;
        subject.tint.values = values;
        subject.tint.high = most;
        for (std::size_t i = 0; i < subject.tint.ramp.size(); ++i)
            subject.tint.ramp[i] = draw::colourOf(draw::ink::ramp[i]);
        add(Figure{draw::paintSmooth(subject, draw::eyeOn(m, draw::View::Iso, 600, 420)),
                   "The file, each place in the colour of its distance from the import: light is near, dark is far",
                   fmt::format("Distance from the import: light 0, dark {}", numberText(most))});
        add(histogramOf(values, most));
        if (most > 0)
            closeUp(*source_.output.part, c.bToA.worst,
                    fmt::format("Where the file lies farthest from the import, at {}", placeOf(c.bToA.worst)),
                    40.0 * most);
    }

    void losses() {
        const measure::Loss& loss = source_.compared.loss;
        add(Heading{"What was lost and added"});
        add(Paragraph{
            fmt::format("Of what can be seen of the import {:.3f} % is lost (asked: at most 0.2 %), {:.3f} % of that "
                        "listed. {:.3f} % of the file is new, {:.3f} % listed. {} points were looked at; what moved "
                        "less than {} counts as kept.",
                        100 * loss.lost, 100 * loss.lostListed, 100 * loss.added, 100 * loss.addedListed, loss.points,
                        numberText(loss.tolerance))});
        constexpr std::size_t most = 3;
        for (std::size_t i = 0; i < std::min(most, loss.lostPlaces.size()); ++i)
            closeUp(source_.import, loss.lostPlaces[i].position,
                    fmt::format("Lost, at {}: as it came in", placeOf(loss.lostPlaces[i].position)),
                    4 * loss.lostPlaces[i].size);
        for (std::size_t i = 0; i < std::min(most, loss.addedPlaces.size()); ++i)
            closeUp(*source_.output.part, loss.addedPlaces[i].position,
                    fmt::format("Added, at {}", placeOf(loss.addedPlaces[i].position)), 4 * loss.addedPlaces[i].size);
    }

    static draw::Subject plainSubject(const check::Surveyed& of) {
        draw::Subject subject;
        subject.inks = pictureInks();
        subject.surface = &of.mesh();
        subject.rays = &of.rays();
        subject.box = mesh::boxOf(of.mesh());
        return subject;
    }

    void closeUp(const check::Surveyed& of, const Point& place, const std::string& caption, double across) {
        const draw::Subject subject = plainSubject(of);
        const double whole = subject.box.diagonal();
        const draw::Eye eye = eyeAt(of.mesh(), of.tree(), place, std::clamp(across, 1e-3 * whole, whole));
        add(Figure{draw::paintSmooth(subject, eye), caption + ", seen from near", caption});
    }

    const ReportSource& source_;
    mesh::Progress& progress_;
    Document document_;
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

Outcome<Document> reportOf(const ReportSource& source, mesh::Progress& progress) {
    return Writer(source, progress).write();
}

Outcome<void> isReportName(const std::filesystem::path& file) {
    if (file.extension() == ".html" || file.extension() == ".pdf") return {};
    return mesh::badInput(fmt::format("{}: reports are written as .html or .pdf", file.string()),
                          mesh::errorcode::badParameter, file.string());
}

Outcome<void> writeReport(const Document& report, const std::filesystem::path& file) {
    if (auto named = isReportName(file); !named) return named;
    if (file.extension() == ".html") return io::writeBytes(file, htmlOf(report));
    const auto bytes = pdfOf(report);
    if (!bytes) return mesh::errorOf(bytes);
    return io::writeBytes(file, *bytes);
}

}  // namespace zither::project
