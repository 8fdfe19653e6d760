// Descriptor of `place`.
#include <fmt/format.h>

#include <numbers>

#include "check/catalogue.h"
#include "measure/footprint.h"
#include "measure/upright.h"
#include "mesh/tolerances.h"
#include "steps/handles.h"
#include "steps/moving.h"
#include "steps/steps_list.h"

namespace zither::steps {
namespace {

using mesh::Motion;
using mesh::Point;

tl::unexpected<mesh::Error> wrong(const std::string& what) {
    return mesh::badInput("step 'place': " + what, mesh::errorcode::badParameter, "place");
}

// What was typed for a place; none where nothing was. It was checked when it was parsed.
std::optional<Point> typed(const Arguments& a, std::string_view name) {
    const std::string& text = a.find(name)->second.text;
    if (text.empty()) return std::nullopt;
    return placeFromText(text).value_or(Point(Point::Zero()));
}

class Placing {
public:
    Placing(const Mesh& m, const Arguments& a) : m_(m), a_(a), middle_(mesh::boxOf(m).centre()) {}

    Outcome<Motion> run(Record& record, Progress& progress) {
        if (auto lain = lie(record, progress); !lain) return tl::unexpected(lain.error());
        if (auto turned = turn(record); !turned) return tl::unexpected(turned.error());
        settle(record);
        return motion_;
    }

private:
    void rotate(const Eigen::Matrix3d& by) { motion_ = mesh::then(motion_, about(motion_.of(middle_), by)); }

    // Which way is up.
    Outcome<void> lie(Record& record, Progress& progress) {
        const std::string& how = a_.find("lie")->second.text;
        const auto up = typed(a_, "up");
        if (up && how != "as-is") return wrong("say one of up and lie");
        if (up) {
            if (!(up->norm() > 0)) return wrong("up must not be 0,0,0");
            rotate(measure::uprightFor(up->normalized()));
        } else if (how == "flat") {
            const auto base = measure::largestBase(m_);
            if (!base) {
                record.say("It has no flat face to stand on, and lies as it lay.");
                return {};
            }
            rotate(measure::uprightFor(-base->down));
            record.add("base_area", base->area);
            record.say(fmt::format("Stands on a flat face of {}{}.", lengthText(base->area),
                                   base->steady ? ", with its centre of mass over it"
                                                : "; no face has its centre of mass over it: it would tip over"));
        } else if (how == "least-overhang") {
            return leastOverhang(record, progress);
        }
        return {};
    }

    Outcome<void> leastOverhang(Record& record, Progress& progress) {
        const measure::UprightOptions options{a_.find("slope")->second, typed(a_, "fit")};
        const auto best = measure::leastOverhang(m_, options, progress);
        if (!best) return tl::unexpected(best.error());
        if (!*best) return wrong(fitsNowhere());
        const double before = (*best)->overhangNow;
        rotate(measure::uprightFor((*best)->up));
        rotate(measure::turnAbout(Point::UnitZ(), (*best)->turn * 180 / std::numbers::pi));
        isFitted_ = true;
        record.add("overhang_before", before);
        record.add("overhang_after", (*best)->overhang);
        record.say(fmt::format("An area of {} hangs over below {:.4g}\u00B0 as it stands now; it was {}: {} is saved.",
                               lengthText((*best)->overhang), options.slopeDeg, lengthText(before),
                               lengthText(std::max(0.0, before - (*best)->overhang))));
        return {};
    }

    // By hand, and then so that it fits.
    Outcome<void> turn(Record& record) {
        if (const double angle = a_.find("angle")->second; angle != 0) {
            rotate(measure::turnAbout(Point::Unit(axisAsked(a_)), angle));
            isFitted_ = false;
        }
        const auto within = typed(a_, "fit");
        if (!within || isFitted_) return {};
        if (!(within->minCoeff() > 0)) return wrong("fit must be three lengths above 0");
        const double height = boxAfter(m_, motion_).extent().z();
        const auto by = height <= within->z() * (1 + tolerance::justFits)
                            ? measure::turnToFit(measure::footprintOf(m_, motion_.linear), within->x(), within->y())
                            : std::nullopt;
        if (!by) return wrong(fitsNowhere());
        rotate(measure::turnAbout(Point::UnitZ(), *by * 180 / std::numbers::pi));
        if (*by != 0)
            record.say(fmt::format("Turned by {:.4g}\u00B0 about z, so that it fits.", *by * 180 / std::numbers::pi));
        return {};
    }

    [[nodiscard]] std::string fitsNowhere() const {
        return fmt::format("a part of {} does not fit in {}, however it is turned{}: scale it, or split it",
                           sizeText(mesh::boxOf(m_)), a_.find("fit")->second.text,
                           a_.find("lie")->second.text == "least-overhang" ? "" : " about z");
    }

    void settle(Record& record) {
        const mesh::Box box = boxAfter(m_, motion_);
        const std::string& to = a_.find("to")->second.text;
        Point shift = Point::Zero();
        if (to == "floor") shift.z() = -box.min.z();
        if (to == "origin") shift = -Point(box.centre().x(), box.centre().y(), box.min.z());
        if (const auto by = typed(a_, "move")) shift += *by;
        motion_.shift += shift;
        const mesh::Box placed{box.min + shift, box.max + shift};
        record.say(fmt::format("It is {} now, from {} to {}.", sizeText(placed), placeText(placed.min),
                               placeText(placed.max)));
    }

    const Mesh& m_;
    const Arguments& a_;
    Point middle_;
    Motion motion_;
    bool isFitted_ = false;
};

// Arrows that move it along the axes; then what is up, and the turn by hand.
enum PlaceHandle : std::size_t { MoveX, MoveY, MoveZ, Up, Turn };

Motion motionOf(const Record* tried) {
    return tried && tried->motion ? *tried->motion : Motion();
}

std::vector<Handle> handlesOf(const Surveyed& s, const Arguments& a, const Record* tried) {
    const mesh::Box box = boxOfPart(s);
    if (box.empty()) return {};
    const Point middle = motionOf(tried).of(box.centre());
    constexpr double moves = 0.35;  // of the diagonal
    constexpr double turns = 0.5;
    constexpr double stands = 0.65;
    std::vector<Handle> handles;
    for (Eigen::Index i = 0; i < 3; ++i)
        handles.push_back({.name = std::string(1, "xyz"[i]),
                           .at = middle,
                           .direction = Point::Unit(i),
                           .length = moves * box.diagonal(),
                           .slides = true});
    handles.push_back(
        {.name = "up", .at = middle, .direction = Point::UnitZ(), .length = stands * box.diagonal(), .turns = true});
    const Eigen::Index axis = axisAsked(a);
    const double angle = a.find("angle")->second.number * std::numbers::pi / 180;
    handles.push_back(
        {.name = fmt::format("about {}", "xyz"[axis]),
         .at = middle,
         .direction = std::cos(angle) * Point::Unit((axis + 1) % 3) + std::sin(angle) * Point::Unit((axis + 2) % 3),
         .length = turns * box.diagonal(),
         .turns = true,
         .about = Point::Unit(axis)});
    return handles;
}

Arguments dragged(const Surveyed& s, Arguments values, const Record* tried, std::size_t i, const Handle& to) {
    const double size = boxOfPart(s).diagonal();
    if (i == Up) {
        values.insert_or_assign("up", Value(directionText(motionOf(tried).linear.transpose() * to.direction)));
        values.insert_or_assign("lie", Value(std::string("as-is")));
        values.insert_or_assign("angle", Value(0.0));
    } else if (i == Turn) {
        const Eigen::Index axis = axisAsked(values);
        const double angle = std::atan2(to.direction[(axis + 2) % 3], to.direction[(axis + 1) % 3]);
        values.insert_or_assign("angle", Value(neat(angle * 180 / std::numbers::pi, 100)));
    } else {
        const Point before = typed(values, "move").value_or(Point(Point::Zero()));
        const Point by = to.at - handlesOf(s, values, tried)[i].at;
        values.insert_or_assign("move", Value(textOfPlace(neat(before + by, size))));
    }
    return values;
}

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    Record record;
    if (s.mesh().triangles.empty()) return StepOutput{s.mesh(), std::move(record)};
    mesh::PartOfProgress placing(progress, 0, 0.5);
    const auto motion = Placing(s.mesh(), a).run(record, placing);
    if (!motion) return tl::unexpected(motion.error());
    mesh::PartOfProgress moving(progress, 0.5, 1);
    return movePart(s, *motion, std::move(record), moving);
}

}  // namespace

Eigen::Index axisAsked(const Arguments& a) {
    return a.find("axis")->second.text.front() - 'x';
}

const Step& placeStep() {
    static const Step step = {
        .name = "place",
        .title = "Place",
        .summary = "Turns and moves a part: onto a face, to where least of it hangs over, to the floor, by hand.",
        .family = &familyTurn,
        .words = {"rotate", "move", "translate", "transform", "orientation", "build direction", "floor", "bed",
                  "origin", "lay flat", "upright"},
        .parameters = {{.name = "lie",
                        .kind = ParameterKind::Choice,
                        .help = "First: as it is, on its largest flat face, or so that least of it hangs over.",
                        .choices = {"as-is", "flat", "least-overhang"}},
                       {.name = "up",
                        .kind = ParameterKind::Place,
                        .help = "Or with this direction of the part upward.",
                        .optional = true,
                        .means = Parameter::Direction},
                       {.name = "slope",
                        .kind = ParameterKind::Angle,
                        .min = 1,
                        .max = 89,
                        .fallback = 45,
                        .help = "What is flatter than this hangs over."},
                       {.name = "axis",
                        .kind = ParameterKind::Choice,
                        .help = "Then turned about this axis, through its middle ...",
                        .choices = {"z", "x", "y"}},
                       {.name = "angle",
                        .kind = ParameterKind::Angle,
                        .min = -360,
                        .max = 360,
                        .help = "... by this angle, counter-clockwise."},
                       {.name = "fit",
                        .kind = ParameterKind::Place,
                        .help = "Then about z, so that it fits in a build volume of these sizes.",
                        .optional = true,
                        .means = Parameter::Sizes},
                       {.name = "to",
                        .kind = ParameterKind::Choice,
                        .help = "Then it stays in its place, sinks or rises to the floor (z = 0), or stands there over "
                                "the origin.",
                        .choices = {"stay", "floor", "origin"}},
                       {.name = "move",
                        .kind = ParameterKind::Place,
                        .help = "At last it moves by x,y,z.",
                        .optional = true,
                        .means = Parameter::Sizes}},
        .helpsWith = {check::overhangs, check::outsideBuild},
        .run = run,
        .brings = "moved",
        .wholeOnly = movesAsOne,
        .handles = handlesOf,
        .dragged = dragged};
    return step;
}

}  // namespace zither::steps
