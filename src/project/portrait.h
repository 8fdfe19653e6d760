// A part in a picture: the surface with lines of what was found, for whoever draws it.
#pragma once

#include <optional>
#include <span>
#include <vector>

#include "check/surveyed.h"
#include "draw/paint.h"
#include "draw/view.h"
#include "measure/section.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::project {

// Line segments of the findings of a class: two points each, three floats a point, about an origin.
struct DefectLines {
    check::DefectClass defect;
    std::vector<float> points;
};
std::vector<DefectLines> linesOf(const mesh::Mesh& m, const check::Survey& survey, const mesh::Point& origin);
// The outline of a cut, as such segments.
std::vector<float> outlineAbout(const measure::Section& section, const mesh::Point& origin);

// How strongly lines of a class are drawn: in front of the surface, and through it.
struct LineStrength {
    float seen = 1;
    float through = 0;
    float width = 1;  // in pixels
};
LineStrength strengthOf(check::DefectClass defect, const std::optional<check::DefectClass>& chosen);

struct LinesAbout {
    std::span<const DefectLines> lines;
    mesh::Point origin;
};
// Borrows the lines. `scale`: pixels of the picture for one that widths are told in.
void addLines(const LinesAbout& all, const std::optional<check::DefectClass>& chosen, double scale,
              draw::Subject& subject);

draw::Inks pictureInks();

struct PortraitOptions {
    draw::View from = draw::View::Iso;
    int width = 1280;  // in pixels
    int height = 800;
    // Cut open across an axis, in the middle of the part: the half that is nearer to the eye is not there. None: whole.
    std::optional<int> cutAcross = {};
};

// The part with what the survey found, smooth. The same for any number of threads. Error: only cancelled.
mesh::Outcome<draw::Picture> portraitOf(const check::Surveyed& part, const check::Survey& survey,
                                        const PortraitOptions& options, mesh::Progress& progress);

}  // namespace zither::project
