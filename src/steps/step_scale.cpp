// Descriptor of `scale`.
#include <fmt/format.h>

#include <cmath>

#include "check/catalogue.h"
#include "io/units.h"
#include "measure/mass.h"
#include "steps/all_steps.h"
#include "steps/moving.h"

namespace zither::steps {
namespace {

const Number factor({.name = "factor",
                     .kind = ParameterKind::Factor,
                     .min = 1e-12,
                     .max = 1e12,
                     .fallback = 1,
                     .help = "By this factor."});
const Number size({.name = "size",
                   .kind = ParameterKind::Length,
                   .min = 0,
                   .max = 1e30,
                   .help = "Or to this size along the axis.",
                   .zero = "not asked"});
const Choice<Eigen::Index> axis({.name = "axis", .help = "The axis that the size is measured along."},
                                {{"z", 2}, {"x", 0}, {"y", 1}});
const Number volume({.name = "volume",
                     .kind = ParameterKind::Volume,
                     .min = 0,
                     .max = 1e90,
                     .help = "Or to this volume.",
                     .zero = "not asked"});
// The names of the units as choices; the first stands for none.
std::vector<std::pair<std::string_view, std::string_view>> unitsOr(std::string_view none) {
    std::vector<std::pair<std::string_view, std::string_view>> units{{none, ""}};
    for (const std::string_view unit : io::unitNames()) units.emplace_back(unit, unit);
    return units;
}
const Choice<std::string_view> from({.name = "from",
                                     .help = "Or from this unit, in which the numbers are; as-it-is: the unit that the "
                                             "file says ..."},
                                    unitsOr("as-it-is"));
const Choice<std::string_view> to({.name = "to", .help = "... to this one."}, unitsOr("as-it-is"));
const Place fit({.name = "fit",
                 .help = "Or so that it just fits, as it lies, in a box of these sizes.",
                 .optional = true,
                 .means = Parameter::Sizes});
enum class About { Origin, Middle };
const Choice<About> aboutPoint({.name = "about",
                                .help = "What stays where it is: the origin, or the middle of the part."},
                               {{"origin", About::Origin}, {"middle", About::Middle}});

tl::unexpected<mesh::Error> wrong(const std::string& what) {
    return mesh::badInput("step 'scale': " + what, mesh::errorcode::badParameter, "scale");
}

Outcome<double> toVolume(const Surveyed& s, double wanted, Progress& progress) {
    const auto survey = s.survey(s.knownOptions(), progress);
    if (!survey) return mesh::errorOf(survey);
    if (!(*survey)->watertight || !((*survey)->mass.volume > 0))
        return wrong("only a closed surface that faces outward has a volume: repair it first, or scale to a size");
    return std::cbrt(wanted / (*survey)->mass.volume);
}

Outcome<double> toFit(const mesh::Point& extent, const mesh::Point& within) {
    if (!(within.minCoeff() > 0)) return wrong("fit must be three lengths above 0");
    double most = std::numeric_limits<double>::infinity();
    for (int k = 0; k < 3; ++k)
        if (extent[k] > 0) most = std::min(most, within[k] / extent[k]);
    return most;
}

// What the numbers are multiplied by to be in another unit; none where that is not asked.
Outcome<std::optional<double>> toUnit(const Arguments& a) {
    const std::string_view meant = a[from];
    const std::string_view wanted = a[to];
    if (wanted.empty() && !meant.empty()) return wrong(fmt::format("from={0} needs to=..., as from={0} to=mm", meant));
    if (wanted.empty()) return std::nullopt;
    if (!a.unit.empty() && !meant.empty() && meant != a.unit)
        return wrong(fmt::format("from={} contradicts the part, whose unit is {}: leave from out", meant, a.unit));
    const std::string_view now = meant.empty() ? std::string_view(a.unit) : meant;
    if (now.empty())
        return wrong(fmt::format("nobody has said which unit the part is in: say it, as from=in to={}", wanted));
    if (now == wanted) return std::nullopt;
    return io::unitFactor(now, wanted);
}

// Of the ways to say it, the one that was used; an error that names them where it was none, or several.
Outcome<double> factorOf(const Surveyed& s, const Arguments& a, std::optional<double> converted, Progress& progress) {
    const std::optional<mesh::Point> within = a[fit];
    const int said = (a[factor] != 1 ? 1 : 0) + (a[size] > 0 ? 1 : 0) + (a[volume] > 0 ? 1 : 0) + (converted ? 1 : 0) +
                     (within ? 1 : 0);
    if (said > 1) return wrong("say one of factor, size, volume, from and to, fit");
    const mesh::Point extent = mesh::boxOf(s.mesh()).extent();
    if (a[size] > 0) {
        const double now = extent[a[axis]];
        if (!(now > 0)) return wrong("it has no extent along that axis: choose another, or scale by a factor");
        return a[size] / now;
    }
    if (a[volume] > 0) return toVolume(s, a[volume], progress);
    if (converted) return *converted;
    if (within) return toFit(extent, *within);
    return a[factor];
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
    const auto converted = toUnit(a);
    if (!converted) return mesh::errorOf(converted);
    const auto by = factorOf(s, a, *converted, asking);
    if (!by) return mesh::errorOf(by);
    if (!std::isfinite(*by) || !(*by > 0)) return wrong("there is nothing to measure, so nothing to scale");
    const mesh::Box box = mesh::boxOf(s.mesh());
    const mesh::Point fixed = a[aboutPoint] == About::Middle ? box.centre() : mesh::Point(0, 0, 0);
    const mesh::Motion motion = about(fixed, *by * Eigen::Matrix3d::Identity());
    Record record;
    record.say(
        fmt::format("Scaled by {:.9g}: from {} to {}.", *by, sizeText(box), sizeText({*by * box.min, *by * box.max})));
    if (const std::string_view wanted = a[to]; !wanted.empty()) record.unit = wanted;
    mesh::PartOfProgress moving(progress, 0.3, 1);
    return movePart(s, motion, std::move(record), moving);
}

}  // namespace

const Step& scaleStep() {
    static const Step step = {
        .name = "scale",
        .title = "Scale",
        .summary =
            "Brings a part to a size, a volume, another unit, or as large as a build volume holds; alike in all "
            "directions.",
        .family = &familyTurn,
        .words = {"resize", "size", "unit", "inch", "millimetre", "factor", "enlarge", "shrink", "convert"},
        .parameters = {factor, size, axis, volume, from, to, fit, aboutPoint},
        .helpsWith = {check::outsideBuild},
        .oneOf = {{"factor", "size", "volume", "to", "fit"}},
        .needing = {{"from", "to"}},
        .run = run,
        .brings = "moved",
        .reason = reason,
        .wholeOnly = movesAsOne};
    return step;
}

}  // namespace zither::steps
