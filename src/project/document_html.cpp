// Tables with heads, pictures with words for those who cannot see them, a page that prints.
#include <fmt/format.h>

#include <boost/archive/iterators/base64_from_binary.hpp>
#include <boost/archive/iterators/transform_width.hpp>

#include "draw/png.h"
#include "project/document.h"

namespace zither::project {
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

std::string_view classOf(Tone tone) {
    return tone == Tone::Good ? " class=\"met\"" : tone == Tone::Bad ? " class=\"out\"" : "";
}

struct HtmlOf {
    std::string operator()(const Heading& heading) const { return "<h2>" + escaped(heading.text) + "</h2>\n"; }

    std::string operator()(const Paragraph& paragraph) const {
        const std::string lead = paragraph.lead.empty() ? "" : "<strong>" + escaped(paragraph.lead) + "</strong>: ";
        return fmt::format("<p{}>{}{}</p>\n", classOf(paragraph.tone), lead, escaped(paragraph.text));
    }

    std::string operator()(const Table& table) const {
        std::string html = "<table><caption>" + escaped(table.caption) + "</caption>";
        if (!table.heads.empty()) {
            html += "<thead><tr><th scope=\"col\">" + escaped(table.corner) + "</th>";
            for (const std::string& head : table.heads) html += "<th scope=\"col\">" + escaped(head) + "</th>";
            html += "</tr></thead>";
        }
        html += "<tbody>\n";
        for (const Table::Row& row : table.rows) {
            html += fmt::format("<tr{}><th scope=\"row\">{}</th>", classOf(row.tone), escaped(row.head));
            for (std::size_t i = 0; i < row.cells.size(); ++i) {
                const std::string cell = escaped(row.cells[i]);
                html += table.columns[i] == Table::Column::Number ? "<td class=\"n\">" + cell + "</td>"
                        : table.columns[i] == Table::Column::Code ? "<td><code>" + cell + "</code></td>"
                                                                  : "<td>" + cell + "</td>";
            }
            html += "</tr>\n";
        }
        return html + "</tbody></table>\n";
    }

    std::string operator()(const Figure& figure) const {
        return fmt::format(
            "<figure><img src=\"data:image/png;base64,{}\" alt=\"{}\" width=\"{}\" "
            "height=\"{}\"><figcaption>{}</figcaption></figure>\n",
            base64(draw::pngOf(figure.picture)), escaped(figure.words), figure.picture.width, figure.picture.height,
            escaped(figure.caption));
    }

    std::string operator()(const Bars& bars) const {
        constexpr int height = 90;
        std::string drawn;
        for (std::size_t i = 0; i < bars.heights.size(); ++i) {
            const double h = height * bars.heights[i];
            drawn += fmt::format("<rect x=\"{}\" y=\"{:.1f}\" width=\"8\" height=\"{:.1f}\"/>", 10 * i, height - h, h);
        }
        return fmt::format(
            "<figure><svg role=\"img\" aria-label=\"{}\" width=\"{}\" height=\"{}\" viewBox=\"0 0 {} {}\" "
            "fill=\"#b7824f\">{}</svg><figcaption>{}</figcaption></figure>\n",
            escaped(bars.words), 10 * bars.heights.size(), height, 10 * bars.heights.size(), height, drawn,
            escaped(bars.caption));
    }

    std::string operator()(const Items& items) const {
        std::string html = "<ol>\n";
        for (const Items::Item& item : items.items) {
            html += "<li><strong>" + escaped(item.name) + "</strong>";
            if (!item.why.empty()) html += " – " + escaped(item.why);
            for (const std::string& sentence : item.sentences) html += "<br>" + escaped(sentence);
            html += "</li>\n";
        }
        return html + "</ol>\n";
    }

    std::string operator()(const Verbatim& verbatim) const { return "<pre>" + escaped(verbatim.text) + "</pre>\n"; }
};

}  // namespace

std::string htmlOf(const Document& document) {
    std::string html = fmt::format(
        "<!DOCTYPE html>\n<html lang=\"en\"><head><meta "
        "charset=\"utf-8\"><title>{0}</title><style>{1}</style></head><body>\n<h1>{0}</h1>\n",
        escaped(document.title), style);
    for (const Block& block : document.blocks) html += std::visit(HtmlOf(), block);
    return html + "</body></html>\n";
}

}  // namespace zither::project
