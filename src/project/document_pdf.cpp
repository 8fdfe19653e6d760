// Cairo draws the pages and Pango sets the text: neither needs a display. Blocks flow down a page; what does not fit
// goes on at the next one, tables with their heads. Without tags for aids that read aloud: those of Cairo 1.16 end the
// program on some documents; the page of HTML is for that.
#include <cairo/cairo-pdf.h>
#include <fmt/format.h>
#include <pango/pangocairo.h>

#include <algorithm>
#include <cstring>
#include <memory>
#include <numeric>

#include "project/document.h"

namespace zither::project {
namespace {

// In points, of a 72nd of an inch.
namespace page {
constexpr double width = 595.28;  // A4
constexpr double height = 841.89;
constexpr double side = 56;
constexpr double top = 56;
constexpr double bottom = height - 64;
constexpr double inner = width - 2 * side;
constexpr double footer = height - 40;
}  // namespace page
constexpr double columnGap = 12;
constexpr double underBlock = 9;
constexpr double underRow = 3;
constexpr double barsHeight = 60;
constexpr double mostHeight = 360;   // of a picture
constexpr double afterHeading = 90;  // so much of what follows stands on its page

struct Ink {
    double red, green, blue;
};
constexpr Ink inkOfHex(unsigned rgb) {
    return {(rgb >> 16U & 0xFFU) / 255.0, (rgb >> 8U & 0xFFU) / 255.0, (rgb & 0xFFU) / 255.0};
}
constexpr Ink plain = inkOfHex(0x222B2E);
constexpr Ink muted = inkOfHex(0x757066);
constexpr Ink rule = inkOfHex(0xD9CBB4);
constexpr Ink bar = inkOfHex(0xB7824F);
constexpr Ink inkOf(Tone tone) {
    return tone == Tone::Good ? inkOfHex(0x3F5B4E) : tone == Tone::Bad ? inkOfHex(0xB3134E) : plain;
}

struct Style {
    double size = 9.5;
    bool bold = false;
    bool code = false;
    Ink ink = plain;
};
constexpr Style titleStyle{18, true};
constexpr Style headingStyle{12.5, true};
constexpr Style textStyle{};
constexpr Style smallStyle{8, false, false, muted};
constexpr Style codeStyle{7.5, false, true};

struct Unref {
    void operator()(void* object) const { g_object_unref(object); }
};
struct FreeFont {
    void operator()(PangoFontDescription* font) const { pango_font_description_free(font); }
};
struct FreeIterator {
    void operator()(PangoLayoutIter* iterator) const { pango_layout_iter_free(iterator); }
};
struct FreePen {
    void operator()(cairo_t* pen) const { cairo_destroy(pen); }
};
struct FreeSurface {
    void operator()(cairo_surface_t* surface) const { cairo_surface_destroy(surface); }
};
using Layout = std::unique_ptr<PangoLayout, Unref>;
using Surface = std::unique_ptr<cairo_surface_t, FreeSurface>;

constexpr double pango(int units) {
    return static_cast<double>(units) / PANGO_SCALE;
}
double heightOf(const Layout& layout) {
    int width = 0;
    int height = 0;
    pango_layout_get_size(layout.get(), &width, &height);
    return pango(height);
}
double widthOf(const Layout& layout) {
    int width = 0;
    int height = 0;
    pango_layout_get_size(layout.get(), &width, &height);
    return pango(width);
}
void setWidth(const Layout& layout, double width) {
    pango_layout_set_width(layout.get(), static_cast<int>(width * PANGO_SCALE));
}

// What is no text is shown as such, and not a reason to stop.
std::string valid(const std::string& text) {
    const std::unique_ptr<char, decltype(&g_free)> made(
        g_utf8_make_valid(text.data(), static_cast<gssize>(text.size())), &g_free);
    return made.get();
}

cairo_status_t gather(void* text, const unsigned char* bytes, unsigned length) {
    static_cast<std::string*>(text)->append(reinterpret_cast<const char*>(bytes), length);
    return CAIRO_STATUS_SUCCESS;
}

class Press {
public:
    explicit Press(const Document& document)
        : title_(valid(document.title)),
          surface_(cairo_pdf_surface_create_for_stream(gather, &bytes_, page::width, page::height)),
          pen_(cairo_create(surface_.get())),
          fonts_(pango_cairo_font_map_new()),
          context_(pango_font_map_create_context(fonts_.get())) {
        cairo_pdf_surface_set_metadata(surface_.get(), CAIRO_PDF_METADATA_TITLE, title_.c_str());
    }

    [[nodiscard]] bool hasFonts() const {
        PangoFontFamily** families = nullptr;
        int count = 0;
        pango_font_map_list_families(fonts_.get(), &families, &count);
        g_free(families);
        return count > 0;
    }

    mesh::Outcome<std::string> print(const Document& document) {
        flow(text(document.title, titleStyle), titleStyle.ink);
        y_ += underBlock;
        for (std::size_t i = 0; i < document.blocks.size();) {
            const std::size_t figures = figuresFrom(document, i);
            if (figures > 0)
                row(document, i, std::min<std::size_t>(2, figures));
            else
                std::visit([this](const auto& block) { put(block); }, document.blocks[i]);
            i += std::clamp<std::size_t>(figures, 1, 2);
        }
        endPage();
        cairo_surface_finish(surface_.get());
        if (const cairo_status_t status = cairo_surface_status(surface_.get()); status != CAIRO_STATUS_SUCCESS)
            return mesh::environment(fmt::format("the PDF could not be made: {}", cairo_status_to_string(status)));
        return std::move(bytes_);
    }

private:
    static bool isFigure(const Block& block) {
        return std::holds_alternative<Figure>(block) || std::holds_alternative<Bars>(block);
    }
    static std::size_t figuresFrom(const Document& document, std::size_t first) {
        std::size_t last = first;
        while (last < document.blocks.size() && isFigure(document.blocks[last])) ++last;
        return last - first;
    }

    // The first `bold` bytes in bold.
    Layout text(const std::string& words, const Style& style, double width = page::inner, std::size_t bold = 0) {
        Layout layout(pango_layout_new(context_.get()));
        const std::unique_ptr<PangoFontDescription, FreeFont> font(pango_font_description_new());
        pango_font_description_set_family(font.get(),
                                          style.code ? "DejaVu Sans Mono, Monospace" : "Inter, DejaVu Sans, Sans");
        pango_font_description_set_size(font.get(), static_cast<int>(style.size * PANGO_SCALE));
        pango_font_description_set_weight(font.get(), style.bold ? PANGO_WEIGHT_BOLD : PANGO_WEIGHT_NORMAL);
        pango_layout_set_font_description(layout.get(), font.get());
        pango_layout_set_wrap(layout.get(), style.code ? PANGO_WRAP_CHAR : PANGO_WRAP_WORD_CHAR);
        setWidth(layout, width);
        pango_layout_set_text(layout.get(), valid(words).c_str(), -1);
        PangoAttrList* attributes = pango_attr_list_new();
        // A hyphen where a line of code breaks would be read as a part of it.
        pango_attr_list_insert(attributes, pango_attr_insert_hyphens_new(FALSE));
        PangoAttribute* weight = pango_attr_weight_new(PANGO_WEIGHT_BOLD);
        weight->start_index = 0;
        weight->end_index = static_cast<guint>(bold);
        pango_attr_list_insert(attributes, weight);
        pango_layout_set_attributes(layout.get(), attributes);
        pango_attr_list_unref(attributes);
        return layout;
    }

    void use(const Ink& ink) { cairo_set_source_rgb(pen_.get(), ink.red, ink.green, ink.blue); }
    void show(const Layout& layout, double x, double y, const Ink& ink) {
        use(ink);
        cairo_move_to(pen_.get(), x, y);
        pango_cairo_show_layout(pen_.get(), layout.get());
    }
    void line(double y) {
        use(rule);
        cairo_set_line_width(pen_.get(), 0.6);
        cairo_move_to(pen_.get(), page::side, y);
        cairo_line_to(pen_.get(), page::width - page::side, y);
        cairo_stroke(pen_.get());
    }

    // A page takes at least one thing, however large that is.
    [[nodiscard]] bool fits(double height) const { return y_ + height <= page::bottom || y_ == page::top; }
    void need(double height) {
        if (!fits(height)) endPage();
    }
    void endPage() {
        show(text(fmt::format("{} – page {}", title_, number_), smallStyle), page::side, page::footer, muted);
        cairo_show_page(pen_.get());
        ++number_;
        y_ = page::top;
    }

    // Line by line, over as many pages as it takes.
    void flow(const Layout& layout, const Ink& ink, double indent = 0) {
        const std::unique_ptr<PangoLayoutIter, FreeIterator> at(pango_layout_get_iter(layout.get()));
        do {
            PangoRectangle box;
            pango_layout_iter_get_line_extents(at.get(), nullptr, &box);
            need(pango(box.height));
            use(ink);
            cairo_move_to(pen_.get(), page::side + indent,
                          y_ + pango(pango_layout_iter_get_baseline(at.get()) - box.y));
            pango_cairo_show_layout_line(pen_.get(), pango_layout_iter_get_line_readonly(at.get()));
            y_ += pango(box.height);
        } while (pango_layout_iter_next_line(at.get()));
    }

    void put(const Heading& heading) {
        y_ += underBlock;
        need(afterHeading);
        cairo_pdf_surface_add_outline(surface_.get(), CAIRO_PDF_OUTLINE_ROOT, valid(heading.text).c_str(),
                                      fmt::format("page={} pos=[0 {:.1f}]", number_, y_).c_str(),
                                      static_cast<cairo_pdf_outline_flags_t>(0));
        flow(text(heading.text, headingStyle), headingStyle.ink);
        line(y_ + 2);
        y_ += underBlock;
    }

    void put(const Paragraph& paragraph) {
        const std::string& lead = paragraph.lead;
        const std::string words = lead.empty() ? paragraph.text : lead + ": " + paragraph.text;
        const Layout layout = text(words, textStyle, page::inner, lead.size());
        flow(layout, inkOf(paragraph.tone));
        y_ += underBlock;
    }

    void put(const Items& items) {
        std::size_t number = 0;
        constexpr double indent = 18;
        for (const Items::Item& item : items.items) {
            const std::string name = fmt::format("{}. {}", ++number, item.name);
            need(3 * textStyle.size);
            flow(text(item.why.empty() ? name : name + " – " + item.why, textStyle, page::inner, name.size()), plain);
            for (const std::string& sentence : item.sentences)
                flow(text(sentence, textStyle, page::inner - indent), plain, indent);
            y_ += underRow;
        }
        y_ += underBlock;
    }

    void put(const Verbatim& verbatim) {
        flow(text(verbatim.text, codeStyle), plain);
        y_ += underBlock;
    }

    // ---- tables

    static Style styleOf(const Table& table, std::size_t column, Tone tone) {
        Style style = column > 0 && table.columns[column - 1] == Table::Column::Code ? codeStyle : textStyle;
        style.bold = tone == Tone::Bad;
        style.ink = inkOf(tone);
        return style;
    }
    static const std::string& cell(const Table::Row& row, std::size_t column) {
        return column == 0 ? row.head : row.cells[column - 1];
    }

    // Each as wide as it wants to be; where that is too much for the page, the wide ones share what narrow ones leave.
    std::vector<double> widthsOf(const Table& table, const Table::Row& heads) {
        const std::size_t count = table.columns.size() + 1;
        std::vector<double> wished(count, 0);
        const auto wish = [&](std::size_t column, const std::string& words, const Style& style) {
            const Layout layout = text(words, style, page::inner);
            wished[column] = std::max(wished[column], widthOf(layout) + 1);
        };
        for (std::size_t c = 0; c < count; ++c) {
            if (!table.heads.empty()) wish(c, cell(heads, c), smallStyle);
            for (const Table::Row& row : table.rows) wish(c, cell(row, c), styleOf(table, c, Tone::Bad));
        }
        double room = page::inner - columnGap * static_cast<double>(count - 1);
        std::vector<std::size_t> order(count);
        std::iota(order.begin(), order.end(), 0U);
        std::stable_sort(order.begin(), order.end(),
                         [&](std::size_t a, std::size_t b) { return wished[a] < wished[b]; });
        std::vector<double> widths(count);
        for (std::size_t i = 0; i < count; ++i) {
            widths[order[i]] = std::min(wished[order[i]], room / static_cast<double>(count - i));
            room -= widths[order[i]];
        }
        return widths;
    }

    void tableRow(const Table& table, const std::vector<double>& widths, const Table::Row& row, bool isHead) {
        std::vector<Layout> cells;
        double height = 0;
        for (std::size_t c = 0; c < widths.size(); ++c) {
            cells.push_back(text(cell(row, c), isHead ? smallStyle : styleOf(table, c, row.tone), widths[c]));
            if (c > 0 && table.columns[c - 1] == Table::Column::Number)
                pango_layout_set_alignment(cells.back().get(), PANGO_ALIGN_RIGHT);
            height = std::max(height, heightOf(cells.back()));
        }
        double x = page::side;
        for (std::size_t c = 0; c < widths.size(); ++c) {
            show(cells[c], x, y_, isHead ? muted : inkOf(row.tone));
            x += widths[c] + columnGap;
        }
        y_ += height + underRow;
    }
    double heightOfRow(const Table& table, const std::vector<double>& widths, const Table::Row& row) {
        double height = 0;
        for (std::size_t c = 0; c < widths.size(); ++c)
            height = std::max(height, heightOf(text(cell(row, c), styleOf(table, c, row.tone), widths[c])));
        return height + underRow;
    }

    void put(const Table& table) {
        const Table::Row heads{table.corner, table.heads};
        const std::vector<double> widths = widthsOf(table, heads);
        const auto putHeads = [&] {
            if (!table.heads.empty()) tableRow(table, widths, heads, true);
        };
        need(6 * textStyle.size);
        flow(text(table.caption, smallStyle), muted);
        y_ += underRow;
        putHeads();
        for (const Table::Row& row : table.rows) {
            if (!fits(heightOfRow(table, widths, row))) {
                endPage();
                putHeads();
            }
            tableRow(table, widths, row, false);
        }
        y_ += underBlock;
    }

    // ---- pictures: always as rows
    static void put(const Figure& /*figure*/) {}
    static void put(const Bars& /*bars*/) {}

    void row(const Document& document, std::size_t first, std::size_t count) {
        constexpr double width = (page::inner - columnGap) / 2;
        double height = 0;
        std::vector<Layout> captions;
        for (std::size_t i = first; i < first + count; ++i) {
            const auto* figure = std::get_if<Figure>(&document.blocks[i]);
            captions.push_back(
                text(figure ? figure->caption : std::get<Bars>(document.blocks[i]).caption, smallStyle, width));
            height = std::max(height, pictureHeight(document.blocks[i], width) + underRow + heightOf(captions.back()));
        }
        need(height);
        double x = page::side;
        for (std::size_t i = first; i < first + count; ++i) {
            const double tall = pictureHeight(document.blocks[i], width);
            if (const auto* figure = std::get_if<Figure>(&document.blocks[i]))
                image(figure->picture, x, width);
            else
                bars(std::get<Bars>(document.blocks[i]), x, width);
            show(captions[i - first], x, y_ + tall + underRow, muted);
            x += width + columnGap;
        }
        y_ += height + underBlock;
    }

    static double scaleOf(const draw::Picture& picture, double width) {
        return std::min(width / picture.width, mostHeight / picture.height);
    }
    static double pictureHeight(const Block& block, double width) {
        const auto* figure = std::get_if<Figure>(&block);
        return figure ? figure->picture.height * scaleOf(figure->picture, width) : barsHeight;
    }

    void image(const draw::Picture& picture, double x, double width) {
        // Its own memory: the document draws it only once the page is full.
        const Surface image(cairo_image_surface_create(CAIRO_FORMAT_RGB24, picture.width, picture.height));
        const std::vector<std::uint32_t> pixels = picture.packed();
        const auto across = static_cast<std::size_t>(picture.width);
        for (int y = 0; y < picture.height; ++y)
            std::memcpy(cairo_image_surface_get_data(image.get()) +
                            static_cast<std::ptrdiff_t>(y) * cairo_image_surface_get_stride(image.get()),
                        pixels.data() + across * static_cast<std::size_t>(y), sizeof(std::uint32_t) * across);
        cairo_surface_mark_dirty(image.get());
        cairo_save(pen_.get());
        cairo_translate(pen_.get(), x, y_);
        cairo_scale(pen_.get(), scaleOf(picture, width), scaleOf(picture, width));
        cairo_set_source_surface(pen_.get(), image.get(), 0, 0);
        cairo_paint(pen_.get());
        cairo_restore(pen_.get());
    }

    void bars(const Bars& bars, double x, double width) {
        use(bar);
        const double step = width / static_cast<double>(std::max<std::size_t>(1, bars.heights.size()));
        for (std::size_t i = 0; i < bars.heights.size(); ++i) {
            const double h = barsHeight * bars.heights[i];
            cairo_rectangle(pen_.get(), x + step * static_cast<double>(i), y_ + barsHeight - h, 0.8 * step, h);
        }
        cairo_fill(pen_.get());
    }

    std::string title_;
    std::string bytes_;
    Surface surface_;
    std::unique_ptr<cairo_t, FreePen> pen_;
    std::unique_ptr<PangoFontMap, Unref> fonts_;
    std::unique_ptr<PangoContext, Unref> context_;
    double y_ = page::top;
    int number_ = 1;
};

}  // namespace

mesh::Outcome<std::string> pdfOf(const Document& document) {
    Press press(document);
    if (!press.hasFonts())
        return mesh::environment("no font is installed, which a PDF needs: install one, as Debian's fonts-inter");
    return press.print(document);
}

}  // namespace zither::project
