// Descriptors of the steps, one file each.
#pragma once

#include "fit/fit.h"
#include "steps/step.h"

namespace zither::shape {
struct BrushOptions;
}

namespace zither::steps {

const Step& cleanStep();
const Step& stitchStep();
const Step& orientStep();
const Step& dropShellsStep();
const Step& absorbStep();
const Step& fillStep();
const Step& bridgeStep();
const Step& decimateStep();
const Step& fuseStep();
const Step& subtractStep();
const Step& intersectStep();
const Step& settleStep();
const Step& closeHandlesStep();
const Step& wrapStep();
const Step& removeStep();
const Step& putBackStep();
const Step& mendStep();
const Step& flipStep();
const Step& moveVertexStep();
const Step& collapseEdgeStep();
const Step& swapEdgeStep();
const Step& resolveStep();
const Step& refineSliversStep();
const Step& easeStep();
const Step& encloseStep();
const Step& thickenStep();
const Step& trimStep();
const Step& placeStep();
const Step& scaleStep();
const Step& mirrorStep();
const Step& remeshStep();
const Step& refineStep();
const Step& offsetStep();
const Step& hollowStep();
const Step& smoothStep();
const Step& alignStep();
const Step& joinStep();
const Step& softenStep();
const Step& flattenStep();
const Step& brushStep();

// A share of the diagonal of the part's box, for lengths that are proposed; 0 of nothing.
double shareOfPart(const Surveyed& s, double share);

// One flag a triangle: it is not picked, and must stay. Empty: all may change.
std::vector<std::uint8_t> besidePick(const Mesh& m, const Pick& pick);

// A direction that a parameter of a step names, of length 1; none where nothing is said. Error: it is none, or 0,0,0.
Outcome<std::optional<mesh::Point>> directionAsked(std::string_view step, const Arguments& a, const Place& which);

// The bits of a coordinate that a step was told: 32 or 64; an error that names the step for others.
Outcome<mesh::Precision> precisionAsked(std::string_view step, const Arguments& a, const WholeNumber& bits);

// Bytes at the peak of making a skin (shape/contour.h) about as large as the mesh: cells with their planes, the skin,
// and its survey; measured at 1.7 KB for each of its triangles.
double memoryOfSkin(const Mesh& m, double cell);

// About how much work so many triangles of a body by distance are, for people: "About 380 thousand triangles, in some
// 20 seconds." Measured at 55 microseconds each, from casings of 100 thousand, on two cores.
std::string workText(double triangles);

// What a step says that could not be done to this part, which stays as it is; passes on that it was cancelled.
Outcome<StepOutput> leftBecause(const mesh::Error& why, const Mesh& m);

// What the parameters of `brush` mean.
shape::BrushOptions brushOptions(const Surveyed& s, const Arguments& a);

// Lists places that rounding could not settle.
void listUnsettled(const std::vector<mesh::Point>& places, Record& record);

// The parameter `thickness` of sheets.
Number sheetThickness(std::string_view help);

// What is said of plates (fit/cover.h) of that height.
std::string platesText(std::size_t plates, double height);

// What was taken away on the user's word: triangles of which pieces at most are left, and no others, so that what a
// later step loses counts.
std::shared_ptr<const measure::Told> toldToGo(const Mesh& before, const Mesh& after);
// The same where what stands for it was asked for as well.
std::shared_ptr<const measure::Told> toldShaped(const Mesh& before, const Mesh& after);

// What settling did, as a record.
Record settleRecord(const fit::Fit& r);

// "3 holes", "1 hole": a count with its noun.
std::string counted(std::size_t count, std::string_view noun, std::string_view plural = {});

// Each with its count in words; those of which there are none are left out.
struct CountedWords {
    std::size_t count;
    std::string words;
};
std::string onlyThere(std::initializer_list<CountedWords> all, std::string_view between);

// "2 edges have more than two triangles, 1 vertex is pinched"; empty: neither.
std::string tiedInWords(const check::Counts& counts);

using mesh::placeText;

// A length as people read it: three significant digits.
std::string lengthText(double length);

}  // namespace zither::steps
