// Descriptor of `align`.
#include <fmt/format.h>

#include "measure/align.h"
#include "steps/all_steps.h"
#include "steps/moving.h"
#include "steps/other_surface.h"

namespace zither::steps {
namespace {

const FilePath with({.name = "with", .help = "The surface to bring it onto. It is left as it is.", .optional = true});
enum class Way { Fit, Nearby, Box };
const Choice<Way> way({.name = "way",
                       .help = "However it lies; from nearly where it lies; or by the middles of the boxes alone."},
                      {{"fit", Way::Fit}, {"nearby", Way::Nearby}, {"box", Way::Box}});
const Number share({.name = "share",
                    .kind = ParameterKind::Percent,
                    .min = 10,
                    .max = 100,
                    .fallback = 90,
                    .help = "So much of it is there in the other as well; the rest is not minded."});

Place point(std::string_view name, std::string_view help) {
    return Place({.name = name, .help = help, .optional = true});
}
const Place from1 = point("from1", "A point of the part; three of them with their partners go before the fit.");
const Place to1 = point("to1", "Where it belongs.");
const Place from2 = point("from2", "A second one.");
const Place to2 = point("to2", "Where it belongs.");
const Place from3 = point("from3", "A third one.");
const Place to3 = point("to3", "Where it belongs.");

struct Side {
    std::string_view name;
    std::array<const Place*, 3> points;
};
const Side fromSide{"from", {&from1, &from2, &from3}};
const Side toSide{"to", {&to1, &to2, &to3}};

tl::unexpected<mesh::Error> wrong(std::string_view why) {
    return mesh::badInput(fmt::format("step 'align': {}", why), mesh::errorcode::badParameter);
}

// Three places of one side; none where none is given.
Outcome<std::optional<std::array<mesh::Point, 3>>> placesOf(const Arguments& a, const Side& side) {
    std::array<mesh::Point, 3> places;
    std::size_t given = 0;
    for (std::size_t i = 0; i < 3; ++i) {
        const auto place = a[*side.points[i]];
        if (!place) continue;
        places[i] = *place;
        ++given;
    }
    if (given == 0) return std::nullopt;
    if (given < 3) return wrong(fmt::format("say {0}1, {0}2 and {0}3, or none of them", side.name));
    const mesh::Point across = (places[1] - places[0]).cross(places[2] - places[0]);
    if (!(across.norm() > 0)) return wrong(fmt::format("{0}1, {0}2 and {0}3 must not lie on one line", side.name));
    return places;
}

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    const Mesh& m = s.mesh();
    Record record;
    const auto from = placesOf(a, fromSide);
    if (!from) return mesh::errorOf(from);
    const auto onto = placesOf(a, toSide);
    if (!onto) return mesh::errorOf(onto);
    if (from->has_value() != onto->has_value()) return wrong("points need their partners: from1 to from3, to1 to to3");
    const std::string& file = a[with];
    if (file.empty() && !*from)
        return wrong("say what to bring it onto: with=FILE, or three points and their partners");
    if (m.triangles.empty()) return StepOutput{m, std::move(record)};
    mesh::Motion motion;
    if (*from) {
        motion = measure::alignedByPoints(**from, **onto);
        double off = 0;
        for (std::size_t i = 0; i < 3; ++i) off = std::max(off, (motion.of((**from)[i]) - (**onto)[i]).norm());
        record.add("points_off", off);
        record.say(fmt::format("By three points, which come to lie within {} of their partners.", lengthText(off)));
    }
    if (!file.empty()) {
        mesh::PartOfProgress reading(progress, 0, 0.2);
        const Outcome<io::Surface> other = readOther(a, file, record, reading);
        if (!other) return mesh::errorOf(other);
        const Surveyed reference(other->mesh);
        if (reference.mesh().triangles.empty()) return wrong(fmt::format("{} has no triangles", file));
        if (a[way] == Way::Box) {
            motion.shift += mesh::boxOf(reference.mesh()).centre() - boxAfter(m, motion).centre();
            record.say("The middle of its box lies where that of the other does.");
        } else {
            mesh::PartOfProgress fitting(progress, 0.2, 0.6);
            const measure::AlignOptions how{.share = a[share] / 100, .fromAnywhere = a[way] == Way::Fit && !*from};
            const auto fit = measure::aligned(*from ? mesh::moved(m, motion) : m, reference.tree(), how, fitting);
            if (!fit) return mesh::errorOf(fit);
            motion = mesh::then(motion, fit->motion);
            record.add("distance_before", fit->before);
            record.add("distance_after", fit->after);
            record.add("points_counted", fit->points);
            record.say(
                fmt::format("{} on average from the other over the {:.3g} % that lie nearest, at {} points; it "
                            "was {}.",
                            lengthText(fit->after), 100 * how.share, fit->points, lengthText(fit->before)));
        }
    }
    motion.precision = mesh::precisionOf(m);
    mesh::PartOfProgress moving(progress, 0.6, 1);
    return movePart(s, motion, std::move(record), moving);
}

}  // namespace

const Step& alignStep() {
    static const Step step = {
        .name = "align",
        .title = "Align with another",
        .summary = "Turns and moves the part onto another surface, so that the two can be compared.",
        .family = &familyTurn,
        .words = {"register", "registration", "best fit", "match", "superimpose", "icp", "overlay"},
        .parameters = {with, way, share, from1, to1, from2, to2, from3, to3},
        .helpsWith = {},
        .run = run,
        .brings = "moved",
        .wholeOnly = movesAsOne};
    return step;
}

}  // namespace zither::steps
