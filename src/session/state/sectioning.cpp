// The newest position wins; the cut before it is cancelled.
#include "session/state/sectioning.h"

#include <Eigen/Geometry>
#include <algorithm>

namespace zither::session {

using mesh::Outcome;
using mesh::Point;

namespace {

QString acrossText(int axis) {
    return QString("across %1").arg(QChar("XYZ"[axis]));
}

}  // namespace

Sectioning::Sectioning(const Bench& bench, const Choice& choice, Picking& picking, const Measuring& measuring)
    : looks_(bench.looks),
      jobs_(bench.jobs),
      notice_(bench.notice),
      choice_(choice),
      picking_(picking),
      measuring_(measuring) {}

void Sectioning::setActive(std::size_t index) {
    if (index >= cuts_.size() || index == active_) return;
    active_ = index;
    Q_EMIT changed();
}

void Sectioning::begin() {
    clear();
    acrossAxis(choice_.axis());
}

void Sectioning::clear() {
    if (cuts_.empty()) return;
    cuts_.clear();
    active_ = 0;
    Q_EMIT changed();
}

void Sectioning::add() {
    if (cuts_.size() >= most || !looks_.shown()) return;
    // Across the next axis: a second cut in the first one's plane would show nothing.
    Eigen::Index axis = choice_.axis();
    if (const Cut* last = active()) last->plane.across.cwiseAbs().maxCoeff(&axis);
    cuts_.emplace_back();
    active_ = cuts_.size() - 1;
    acrossAxis(static_cast<int>((axis + 1) % 3));
}

void Sectioning::removeActive() {
    if (cuts_.empty()) return;
    cuts_.erase(cuts_.begin() + static_cast<std::ptrdiff_t>(active_));
    active_ = cuts_.empty() ? 0 : std::min(active_, cuts_.size() - 1);
    Q_EMIT changed();
}

void Sectioning::acrossAxis(int axis) {
    if (!looks_.shown()) return;
    lay({Point::Unit(axis), looks_.shown()->display->box.centre()[axis]}, acrossText(axis));
}

void Sectioning::lay(const measure::Plane& plane, const QString& lies) {
    if (!looks_.shown()) return;
    if (cuts_.empty()) cuts_.emplace_back();
    Cut& cut = cuts_[active_];
    cut.plane = plane;
    cut.lies = lies;
    cut.low.reset();
    Q_EMIT changed();
    refresh();
}

void Sectioning::layOnFace() {
    const auto normal = picking_.normal();
    const auto place = picking_.place();
    if (!normal || !place || !looks_.shown())
        return notice_.say("Click a face of the part first: the cut lies along it.");
    constexpr double hair = 1e-3;  // of the part: in the face itself there is nothing to see
    const double below = hair * looks_.shown()->display->box.diagonal();
    lay({*normal, normal->dot(*place) - below}, "along a face");
}

void Sectioning::layThroughMeasured() {
    const auto& all = measuring_.all();
    const auto three = std::find_if(all.rbegin(), all.rend(), [](const Measured& m) { return m.points.size() == 3; });
    if (three == all.rend() || !looks_.shown())
        return notice_.say("Measure three points first (M): the cut lies through the last three.");
    const std::vector<Point>& p = three->points;
    const Point across = (p[1] - p[0]).cross(p[2] - p[0]);
    if (!(across.norm() > 0)) return notice_.say("The last three points lie in a line: no cut is told by them.");
    const Point unit = across.normalized();
    lay({unit, unit.dot(p[0])}, "through three points");
}

Sectioning::Extent Sectioning::extent() const {
    if (cuts_.empty() || !looks_.shown()) return {};
    const mesh::Box& box = looks_.shown()->display->box;
    const Point& across = cuts_[active_].plane.across;
    const double middle = across.dot(box.centre());
    const double half = 0.5 * across.cwiseAbs().dot(box.extent());
    return {middle - half, middle + half};
}

void Sectioning::move(double by) {
    if (!cuts_.empty()) moveTo(cuts_[active_].plane.at + by);
}

void Sectioning::moveTo(double at) {
    if (cuts_.empty() || !looks_.shown()) return;
    const auto [low, high] = extent();
    cuts_[active_].plane.at = std::clamp(at, low, high);
    Q_EMIT changed();
    refresh();
}

void Sectioning::setThickness(double thickness) {
    if (cuts_.empty()) return;
    cuts_[active_].thickness = std::max(0.0, thickness);
    Q_EMIT changed();
    refresh();
}

void Sectioning::turnOver() {
    if (cuts_.empty()) return;
    cuts_[active_].low = !cuts_[active_].leavesLow(sight_);
    Q_EMIT changed();
    refresh();
}

void Sectioning::pickCut() {
    // Picks are of what is kept.
    const Look* look = looks_.kept();
    if (cuts_.empty() || !look || look != looks_.shown()) return;
    picking_.set(mesh::Pick(measure::trianglesAcross(look->mesh(), cuts_[active_].plane)));
}

void Sectioning::setSight(const Point& direction) {
    const bool turned = std::any_of(cuts_.begin(), cuts_.end(), [&](const Cut& cut) {
        return cut.thickness > 0 && cut.leavesLow(sight_) != cut.leavesLow(direction);
    });
    sight_ = direction;
    if (turned) refresh();
}

std::vector<SeenCut> Sectioning::seen() const {
    std::vector<SeenCut> all;
    for (const Cut& cut : cuts_) {
        const auto [low, high] = std::minmax({cut.plane.at, cut.end(sight_).at});
        SeenCut& seen = all.emplace_back(SeenCut{{cut.plane.across, {}}, cut.now.sections, {}});
        if (other_ && cut.other.of == other_) seen.others = cut.other.sections;
        if (cut.thickness > 0)
            seen.left.along = {low, high};
        else if (cut.leavesLow(sight_))
            seen.left.along.high = cut.plane.at;
        else
            seen.left.along.low = cut.plane.at;
        if (!(cut.thickness > 0)) seen.ends[1] = seen.others[1] = nullptr;
    }
    return all;
}

void Sectioning::setOther(const check::SurveyedPtr& other) {
    if (other == other_) return;
    other_ = other;
    refresh();
}

bool Sectioning::isStale(const Cut& cut, const Cut::Ends& ends, const check::SurveyedPtr& of) const {
    const auto isOf = [](const std::shared_ptr<const measure::Section>& section, const measure::Plane& plane) {
        return section && section->plane == plane;
    };
    return ends.of != of || !isOf(ends.sections[0], cut.plane) ||
           (cut.thickness > 0 && !isOf(ends.sections[1], cut.end(sight_)));
}

void Sectioning::refresh() {
    const Look* look = looks_.shown();
    if (!look) return;
    struct Wanted {
        check::SurveyedPtr part;
        measure::Plane plane;
    };
    std::vector<Wanted> wanted;
    const auto ask = [&](const Cut& cut, const Cut::Ends& ends, const check::SurveyedPtr& of) {
        if (!isStale(cut, ends, of)) return;
        wanted.push_back({of, cut.plane});
        if (cut.thickness > 0) wanted.push_back({of, cut.end(sight_)});
    };
    // What is in front first: it is what the numbers are of.
    for (const Cut& cut : cuts_) ask(cut, cut.now, look->part);
    if (other_)
        for (const Cut& cut : cuts_) ask(cut, cut.other, other_);
    if (wanted.empty()) return;
    struct Made {
        check::SurveyedPtr part;
        std::shared_ptr<const measure::Section> section;
    };
    using Sections = std::vector<Made>;
    jobs_.start<Sections>(
        "Section", Jobs::Lane::Section,
        [wanted](mesh::Progress& progress) -> Outcome<Sections> {
            Sections made;
            for (const auto& [part, plane] : wanted) {
                const double done = static_cast<double>(made.size());
                const auto all = static_cast<double>(wanted.size());
                mesh::PartOfProgress one(progress, done / all, (done + 1) / all);
                auto section = measure::sectionOf(part->mesh(), plane, one);
                if (!section) return mesh::errorOf(section);
                made.push_back({part, std::make_shared<const measure::Section>(std::move(*section))});
            }
            return made;
        },
        [this, of = look->part, other = other_](Outcome<Sections> made) {
            if (!made) return;
            const auto take = [&](const Cut& cut, Cut::Ends& ends, const Made& m) {
                const bool here = m.section->plane == cut.plane;
                if (!here && !(cut.thickness > 0 && m.section->plane == cut.end(sight_))) return;
                if (ends.of != m.part) ends.sections = {};
                ends.of = m.part;
                ends.sections[here ? 0 : 1] = m.section;
            };
            for (const Made& m : *made)
                for (Cut& cut : cuts_) {
                    if (m.part == of) take(cut, cut.now, m);
                    if (m.part == other) take(cut, cut.other, m);
                }
            Q_EMIT changed();
        });
}

}  // namespace zither::session
