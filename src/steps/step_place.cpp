// Descriptor of `place`.
#include <fmt/format.h>

#include <numbers>

#include "check/catalogue.h"
#include "measure/footprint.h"
#include "measure/measure_tolerances.h"
#include "measure/upright.h"
#include "steps/all_steps.h"
#include "steps/moving.h"
#include "steps/step_handles.h"

namespace zither::steps {
namespace {

enum class Lie { AsIs, Flat, LeastOverhang };
const Choice<Lie> lie({.name = "lie",
                       .help = "First: as it is, on its largest flat face, or so that least of it hangs over."},
                      {{"as-is", Lie::AsIs}, {"flat", Lie::Flat}, {"least-overhang", Lie::LeastOverhang}});
const Place up({.name = "up",
                .help = "Or with this direction of the part upward.",
                .optional = true,
                .means = Parameter::Direction});
const Number slope({.name = "slope",
                    .kind = ParameterKind::Angle,
                    .min = 1,
                    .max = 89,
                    .fallback = 45,
                    .help = "What is flatter than this hangs over."});
const Choice<Eigen::Index> axis({.name = "axis", .help = "Then turned about this axis, through its middle ..."},
                                {{"z", 2}, {"x", 0}, {"y", 1}});
const Number angle({.name = "angle",
                    .kind = ParameterKind::Angle,
                    .min = -360,
                    .max = 360,
                    .help = "... by this angle, counter-clockwise."});
const Place fit({.name = "fit",
                 .help = "Then about z, so that it fits in a build volume of these sizes.",
                 .optional = true,
                 .means = Parameter::Sizes});
enum class To { Stay, Floor, Origin };
const Choice<To> to({.name = "to",
                     .help = "Then it stays in its place, sinks or rises to the floor (z = 0), or stands there over "
                             "the origin."},
                    {{"stay", To::Stay}, {"floor", To::Floor}, {"origin", To::Origin}});
const Place move({.name = "move", .help = "At last it moves by x,y,z.", .optional = true, .means = Parameter::Sizes});

using mesh::Motion;
using mesh::Point;

tl::unexpected<mesh::Error> wrong(const std::string& what) {
    return mesh::badInput("step 'place': " + what, mesh::errorcode::badParameter, "place");
}

class Placing {
public:
    Placing(const Mesh& m, const Arguments& a) : m_(m), a_(a), middle_(mesh::boxOf(m).centre()) {}

    Outcome<Motion> run(Record& record, Progress& progress) {
        if (auto lain = lay(record, progress); !lain) return mesh::errorOf(lain);
        if (auto turned = turn(record); !turned) return mesh::errorOf(turned);
        settle(record);
        motion_.precision = mesh::precisionOf(m_);
        return motion_;
    }

private:
    void rotate(const Eigen::Matrix3d& by) { motion_ = mesh::then(motion_, about(motion_.of(middle_), by)); }

    // Which way is up.
    Outcome<void> lay(Record& record, Progress& progress) {
        const Lie how = a_[lie];
        const auto upward = a_[up];
        if (upward && how != Lie::AsIs) return wrong("say one of up and lie");
        if (upward) {
            if (!(upward->norm() > 0)) return wrong("up must not be 0,0,0");
            rotate(measure::uprightFor(upward->normalized()));
        } else if (how == Lie::Flat) {
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
        } else if (how == Lie::LeastOverhang) {
            return leastOverhang(record, progress);
        }
        return {};
    }

    Outcome<void> leastOverhang(Record& record, Progress& progress) {
        const measure::UprightOptions options{a_[slope], a_[fit]};
        const auto best = measure::leastOverhang(m_, options, progress);
        if (!best) return mesh::errorOf(best);
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
        if (const double by = a_[angle]; by != 0) {
            rotate(measure::turnAbout(Point::Unit(a_[axis]), by));
            isFitted_ = false;
        }
        const auto within = a_[fit];
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
                           sizeText(mesh::boxOf(m_)), textOfPlace(a_[fit].value_or(Point(Point::Zero()))),
                           a_[lie] == Lie::LeastOverhang ? "" : " about z");
    }

    void settle(Record& record) {
        const mesh::Box box = boxAfter(m_, motion_);
        const To where = a_[to];
        Point shift = Point::Zero();
        if (where == To::Floor) shift.z() = -box.min.z();
        if (where == To::Origin) shift = -Point(box.centre().x(), box.centre().y(), box.min.z());
        if (const auto by = a_[move]) shift += *by;
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
    const Eigen::Index turned = a[axis];
    const double by = a[angle] * std::numbers::pi / 180;
    handles.push_back(
        {.name = fmt::format("about {}", "xyz"[turned]),
         .at = middle,
         .direction = std::cos(by) * Point::Unit((turned + 1) % 3) + std::sin(by) * Point::Unit((turned + 2) % 3),
         .length = turns * box.diagonal(),
         .turns = true,
         .about = Point::Unit(turned)});
    return handles;
}

Arguments dragged(const Surveyed& s, Arguments values, const Record* tried, std::size_t i, const Handle& dragTo) {
    const double size = boxOfPart(s).diagonal();
    if (i == Up) {
        values.set(up, Value(directionText(motionOf(tried).linear.transpose() * dragTo.direction)));
        values.set(lie, lie.wordFor(Lie::AsIs));
        values.set(angle, 0.0);
    } else if (i == Turn) {
        const Eigen::Index about = values[axis];
        const double by = std::atan2(dragTo.direction[(about + 2) % 3], dragTo.direction[(about + 1) % 3]);
        values.set(angle, Value(neat(by * 180 / std::numbers::pi, 100)));
    } else {
        const Point before = values[move].value_or(Point(Point::Zero()));
        const Point by = dragTo.at - handlesOf(s, values, tried)[i].at;
        values.set(move, Value(textOfPlace(neat(before + by, size))));
    }
    return values;
}

Outcome<StepOutput> run(const Surveyed& s, const Pick&, const Arguments& a, Progress& progress) {
    Record record;
    if (s.mesh().triangles.empty()) return StepOutput{s.mesh(), std::move(record)};
    mesh::PartOfProgress placing(progress, 0, 0.5);
    const auto motion = Placing(s.mesh(), a).run(record, placing);
    if (!motion) return mesh::errorOf(motion);
    mesh::PartOfProgress moving(progress, 0.5, 1);
    return movePart(s, *motion, std::move(record), moving);
}

}  // namespace

const Step& placeStep() {
    static const Step step = {
        .name = "place",
        .title = "Place",
        .summary = "Turns and moves a part: onto a face, to where least of it hangs over, to the floor, by hand.",
        .family = &familyTurn,
        .words = {"rotate", "move", "translate", "transform", "orientation", "build direction", "floor", "bed",
                  "origin", "lay flat", "upright"},
        .parameters = {lie, up, slope, axis, angle, fit, to, move},
        .helpsWith = {check::overhangs, check::outsideBuild},
        .oneOf = {{"lie", "up"}},
        .run = run,
        .brings = "moved",
        .wholeOnly = movesAsOne,
        .handles = handlesOf,
        .dragged = dragged};
    return step;
}

}  // namespace zither::steps
