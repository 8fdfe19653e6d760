// A report as what it consists of, whatever it is written as: HTML to be read on a screen and aloud, PDF to be printed
// and signed. Both hold the same words.
#pragma once

#include <string>
#include <variant>
#include <vector>

#include "draw/picture.h"
#include "mesh/outcome.h"

namespace zither::project {

// How something turned out; ink follows it.
enum class Tone { Plain, Good, Bad };

struct Heading {
    std::string text;
};

struct Paragraph {
    std::string text;
    Tone tone = Tone::Plain;
    std::string lead = {};  // in bold, before it
};

struct Table {
    struct Row {
        std::string head;
        std::vector<std::string> cells;
        Tone tone = Tone::Plain;
    };
    enum class Column { Text, Number, Code };  // numbers stand at the right, code may be broken anywhere

    std::string caption;
    std::vector<std::string> heads;  // of the cells; empty: columns that explain themselves
    std::string corner = {};         // above the heads of rows
    std::vector<Column> columns;     // of the cells
    std::vector<Row> rows = {};
};

struct Figure {
    draw::Picture picture;
    std::string words;  // for who cannot see it
    std::string caption;
};

struct Bars {
    std::vector<double> heights;  // from 0 to 1
    std::string words;
    std::string caption;
};

// Numbered, in their order.
struct Items {
    struct Item {
        std::string name;
        std::string why;
        std::vector<std::string> sentences;
    };
    std::vector<Item> items;
};

// Text as a machine reads it.
struct Verbatim {
    std::string text;
};

using Block = std::variant<Heading, Paragraph, Table, Figure, Bars, Items, Verbatim>;

struct Document {
    std::string title;
    std::vector<Block> blocks;
};

// Fetches nothing from elsewhere; pictures are in it.
std::string htmlOf(const Document& document);

// On A4, pages numbered, with an outline. Error: no font is there, or it could not be made.
mesh::Outcome<std::string> pdfOf(const Document& document);

}  // namespace zither::project
