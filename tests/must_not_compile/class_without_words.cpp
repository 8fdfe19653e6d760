// A class of defects that says nothing must not compile; with -DZITHER_COMPLETE it is complete and does.
#include "check/catalogue.h"
#include "check/survey.h"

namespace zither::check {

mesh::Outcome<Findings> run(const Surveyed&, const SurveyOptions&, Survey&, mesh::Progress&);
double value(const Survey&);

constinit const DefectDescriptor incomplete = {
    .key = "incomplete",
    .name = "Incomplete",
#ifdef ZITHER_COMPLETE
    .sentence = "Something that is not there.",
    .ink = 0x123456,
    .glyph = glyph::ring,
#elif defined(ZITHER_EMPTY_WORDS)
    .sentence = "",
    .ink = 0x123456,
    .glyph = glyph::ring,
#elif defined(ZITHER_WITHOUT_INK)
    .sentence = "Something that is not there.",
    .glyph = glyph::ring,
#elif defined(ZITHER_WITHOUT_GLYPH)
    .sentence = "Something that is not there.",
    .ink = 0x123456,
#endif
    .draw = drawNothing,
    .run = run,
    .limited = {.id = "incomplete", .title = "incomplete", .unit = "", .value = value},
};

}  // namespace zither::check
