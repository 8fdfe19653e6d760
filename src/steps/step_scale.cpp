// Descriptor of `scale`.
#include <fmt/format.h>

#include <cmath>

#include "check/catalogue.h"
#include "io/surface_file.h"
#include "measure/mass.h"
#include "steps/moving.h"
#include "steps/steps_list.h"

namespace zither::steps {
namespace {

tl::unexpected<mesh::Error> wrong(const std::string& what) {
    return mesh::badInput("step 'scale': " + what, mesh::errorcode::badParameter, "scale");
}

Outcome<double> toVolume(const Surveyed& s, double volume, Progress& progress) {
    const auto survey = s.survey(s.knownOptions(), progress);
    if (!survey) return tl::unexpected(survey.error());
    if (!(*survey)->watertight || !((*survey)->mass.volume > 0))
        return wrong("only a closed surface that faces outward has a volume: repair it first, or scale to a size");
    return std::cbrt(volume / (*survey)->mass.volume);
}

Outcome<double> toFit(const mesh::Point& extent, const std::string& sizes) {
    const auto within = placeFromText(sizes);
    if (!within) return tl::unexpected(within.error());
    if (!(within->minCoeff() > 0)) return wrong("fit must be three lengths above 0");
    double factor = std::numeric_limits<double>::infinity();
    for (int k = 0; k < 3; ++k)
        if (extent[k] > 0) factor = std::min(factor, (*within)[k] / extent[k]);
    return factor;
}

// Of the ways to say it, the one that was used; an error that names them where it was none, or several.
Outcome<double> factorOf(const Surveyed& s, const Arguments& a, Progress& progress) {
    const double factor = a.find("factor")->second;
    const double size = a.find("size")->second;
    const double volume = a.find("volume")->second;
    const std::string& from = a.find("from")->second.text;
    const std::string& to = a.find("to")->second.text;
    const std::string& fit = a.find("fit")->second.text;
    const int said = (factor != 1 ? 1 : 0) + (size > 0 ? 1 : 0) + (volume > 0 ? 1 : 0) + (from != to ? 1 : 0) +
                     (fit.empty() ? 0 : 1);
    if (said > 1) return wrong("say one of factor, size, volume, from and to, fit");
    const mesh::Point extent = mesh::boxOf(s.mesh()).extent();
    if (size > 0) {
        const double now = extent[axisAsked(a)];
        if (!(now > 0)) return wrong("it has no extent along that axis: choose another, or scale by a factor");
        return size / now;
    }
    if (volume > 0) return toVolume(s, volume, progress);
    if (from != to) return io::millimetresIn(from) / io::millimetresIn(to);
    if (!fit.empty()) return toFit(extent, fit);
    return factor;
}

// No turn makes a part fit that is longer than a build volume is from corner to corner.
std::string reason(const Survey& s, const Arguments&, std::span<const double>) {
    double room = 0;
    for (const auto& sides : s.options.build) room = std::max(room, mesh::Point(sides[0], sides[1], sides[2]).norm());
    const double longest = s.mass.size.extent().maxCoeff();
    if (s.options.build.empty() || !(longest > room)) return {};
    return fmt::format("It is {} long; a build volume is {} from corner to corner: it fits at no angle.",
                       lengthText(longest), lengthText(room));
}

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    mesh::PartOfProgress asking(progress, 0, 0.3);
    const auto factor = factorOf(s, a, asking);
    if (!factor) return tl::unexpected(factor.error());
    if (!std::isfinite(*factor) || !(*factor > 0)) return wrong("there is nothing to measure, so nothing to scale");
    const mesh::Box box = mesh::boxOf(s.mesh());
    const mesh::Point fixed = a.find("about")->second.text == "middle" ? box.centre() : mesh::Point(0, 0, 0);
    const mesh::Motion motion = about(fixed, *factor * Eigen::Matrix3d::Identity());
    Record record;
    record.say(fmt::format("Scaled by {:.9g}: from {} to {}.", *factor, sizeText(box),
                           sizeText({*factor * box.min, *factor * box.max})));
    mesh::PartOfProgress moving(progress, 0.3, 1);
    return movePart(s, motion, std::move(record), moving);
}

}  // namespace

const Step& scaleStep() {
    static const std::vector<std::string_view> units = {"mm", "cm", "m", "um", "in", "ft"};
    static const Step step = {
        .name = "scale",
        .title = "Scale",
        .summary =
            "Brings a part to a size, a volume, another unit, or as large as a build volume holds; alike in all "
            "directions.",
        .family = &familyTurn,
        .words = {"resize", "size", "unit", "inch", "millimetre", "factor", "enlarge", "shrink", "convert"},
        .parameters = {{.name = "factor",
                        .kind = ParameterKind::Factor,
                        .min = 1e-12,
                        .max = 1e12,
                        .fallback = 1,
                        .help = "By this factor."},
                       {.name = "size",
                        .kind = ParameterKind::Length,
                        .min = 0,
                        .max = 1e30,
                        .help = "Or to this size along the axis.",
                        .zero = "not asked"},
                       {.name = "axis",
                        .kind = ParameterKind::Choice,
                        .help = "The axis that the size is measured along.",
                        .choices = {"z", "x", "y"}},
                       {.name = "volume",
                        .kind = ParameterKind::Volume,
                        .min = 0,
                        .max = 1e90,
                        .help = "Or to this volume.",
                        .zero = "not asked"},
                       {.name = "from",
                        .kind = ParameterKind::Choice,
                        .help = "Or from this unit, in which the numbers were meant ...",
                        .choices = units},
                       {.name = "to", .kind = ParameterKind::Choice, .help = "... to this one.", .choices = units},
                       {.name = "fit",
                        .kind = ParameterKind::Place,
                        .help = "Or so that it just fits, as it lies, in a box of these sizes.",
                        .optional = true,
                        .means = Parameter::Sizes},
                       {.name = "about",
                        .kind = ParameterKind::Choice,
                        .help = "What stays where it is: the origin, or the middle of the part.",
                        .choices = {"origin", "middle"}}},
        .helpsWith = {check::outsideBuild},
        .run = run,
        .brings = "moved",
        .reason = reason,
        .wholeOnly = movesAsOne};
    return step;
}

}  // namespace zither::steps
