// What there is to know of a class of defects, in one place: how it is found, what may limit it, how it is named, drawn
// and explained. Counting, briefs, strings, desk, view and help read it from here.
#pragma once

#include <cstdint>
#include <limits>
#include <optional>
#include <span>
#include <string_view>
#include <vector>

#include "check/glyph.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::check {

class Surveyed;
struct Survey;
struct SurveyOptions;
struct Findings;
struct DefectDescriptor;

// Words that must be there: an empty one does not compile, and neither does leaving one out.
class Words {
public:
    consteval Words(const char* text) : text_(text) {  // NOLINT: stands where a text would
        if (text_.empty()) throw "words must not be empty";
    }
    constexpr operator std::string_view() const { return text_; }  // NOLINT

private:
    std::string_view text_;
};

// A colour, 0xRRGGBB; it must be said.
struct Ink {
    consteval Ink(std::uint32_t value) : rgb(value) {}  // NOLINT
    std::uint32_t rgb;
};

// A class of defects; refers to its descriptor, of which there is one in the whole program.
class DefectClass {
public:
    constexpr DefectClass(const DefectDescriptor& descriptor) : descriptor_(&descriptor) {}  // NOLINT
    constexpr const DefectDescriptor* operator->() const { return descriptor_; }
    friend constexpr bool operator==(DefectClass, DefectClass) = default;

private:
    const DefectDescriptor* descriptor_;
};

// A number that a class tells beside its findings, kept in Survey::measured; there is one object of each in the
// program.
struct Measure {
    Words key;  // in JSON
};

// What a limited number depends on beside its limit: a length, an angle.
struct Setting {
    Words id;     // in a brief
    Words title;  // before its value
    std::string_view unit;
    double usual;
    double SurveyOptions::*option;
};

// A number of a survey that a brief can limit. NaN: it cannot be told of this surface, or was not asked for.
struct Limited {
    Words id;     // in JSON and on the command line
    Words title;  // on its string
    std::string_view unit;
    double (&value)(const Survey&);
    bool atLeast = false;     // values below the limit fail; otherwise values above it
    double harmless = 0;      // findings of values up to this are no defects: one shell is sound
    bool mendable = true;     // a repair can change it
    bool topological = true;  // it keeps the surface from being a solid
    // What the survey must be told so that it marks what is beyond the limit; nullptr: nothing.
    void (*listen)(SurveyOptions&, double limit) = nullptr;
    double (*listened)(const SurveyOptions&) = nullptr;  // the limit again; with listen
    // What a brief may set, beside the limit; that it names the measure at all turns it on.
    std::span<const Setting> settings = {};
};

// Line segments in the part's unit, for the view: two points each.
using Segments = std::vector<mesh::Point>;

// A part whose findings are drawn, and about how many segments there may be of a class.
struct Drawn {
    const mesh::Mesh& mesh;
    const Survey& survey;
    std::size_t most;
};

struct DefectDescriptor {
    Words key;       // stable, lower case with dashes
    Words name;      // "Open edges"
    Words sentence;  // what it is, for someone who meets it
    Ink ink;
    const Glyph& glyph;
    // Appends what shows its findings over the part.
    void (&draw)(const Drawn&, DefectClass, Segments&);
    // Gives the findings and writes its counts into the survey. It may use what the checks before it in the catalogue
    // found, if it says `afterOthers`; else it may run beside them.
    mesh::Outcome<Findings> (&run)(const Surveyed&, const SurveyOptions&, Survey&, mesh::Progress&);
    Limited limited;
    std::span<const Measure* const> measures = {};  // what `run` writes into Survey::measured
    bool afterOthers = false;
    bool byRays = false;          // it asks rays, with afterOthers: they take much memory
    bool byOptions = false;       // its findings depend on the survey's options
    bool onlyWhenChosen = false;  // its marks would cover a part that is in order
};

// Ways of drawing.
void drawEdges(const Drawn& drawn, DefectClass defect, Segments& out);
void drawOutlines(const Drawn& drawn, DefectClass defect, Segments& out);
void drawBorders(const Drawn& drawn, DefectClass defect, Segments& out);  // of large places
void drawCrossings(const Drawn& drawn, DefectClass defect, Segments& out);
void drawNothing(const Drawn& drawn, DefectClass defect, Segments& out);

}  // namespace zither::check
