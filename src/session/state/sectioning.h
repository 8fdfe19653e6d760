// Sections: planes that cut the part open, each across an axis, along a face or through three points; the cuts are
// computed beside the window.
#pragma once

#include <QObject>
#include <QString>
#include <array>
#include <memory>
#include <optional>
#include <vector>

#include "draw/paint.h"
#include "measure/section.h"
#include "session/state/bench.h"
#include "session/state/measuring.h"
#include "session/state/notice.h"
#include "session/state/picking.h"

namespace zither::session {

// What of a part is there beside a cut, and how its ends are closed.
struct SeenCut {
    draw::Left left;
    using Ends = std::array<std::shared_ptr<const measure::Section>, 2>;
    Ends ends;    // in the plane, and where a slab ends; nullptr: none
    Ends others;  // the same of what it is compared with

    [[nodiscard]] bool leaves(const mesh::Point& p) const {
        const double along = left.across.dot(p);
        return along >= left.along.low && along <= left.along.high;
    }
};

class Sectioning : public QObject {
    Q_OBJECT
public:
    struct Cut {
        measure::Plane plane;
        QString lies;             // "across X"
        double thickness = 0;     // of the slab that is left; 0: all that lies behind the plane
        std::optional<bool> low;  // what is left lies below the plane; none: what is nearer to the eye is taken off
        // In the plane, and at the other end of a slab: computed last; nullptr until the first is there.
        struct Ends {
            SeenCut::Ends sections = {};
            check::SurveyedPtr of = nullptr;  // the surface that they were computed of
        };
        Ends now = {};
        Ends other = {};  // of what it is compared with

        [[nodiscard]] bool leavesLow(const mesh::Point& sight) const {
            return low.value_or(sight.dot(plane.across) < 0);
        }
        // Where the other end of a slab lies.
        [[nodiscard]] measure::Plane end(const mesh::Point& sight) const {
            return {plane.across, plane.at + (leavesLow(sight) ? -thickness : thickness)};
        }
        // In the plane, as it lies now; nullptr until it is there.
        [[nodiscard]] const measure::Section* figures() const {
            return now.sections[0] && now.sections[0]->plane == plane ? now.sections[0].get() : nullptr;
        }
    };
    static constexpr std::size_t most = 4;

    Sectioning(const Bench& bench, const Choice& choice, Picking& picking, const Measuring& measuring);

    [[nodiscard]] const std::vector<Cut>& cuts() const { return cuts_; }
    // The one that keys, the handle and numbers move; nullptr: the part is whole.
    [[nodiscard]] const Cut* active() const { return cuts_.empty() ? nullptr : &cuts_[active_]; }
    [[nodiscard]] std::size_t activeIndex() const { return active_; }
    void setActive(std::size_t index);
    // One cut through the middle, across the strings' axis; or whole again.
    void begin();
    void clear();
    // Another one besides, across another axis; at most `most`.
    void add();
    void removeActive();
    // The active one lies elsewhere; where there is none it is the first. Nothing without a part.
    void acrossAxis(int axis);
    void lay(const measure::Plane& plane, const QString& lies);
    // Along the face that was picked last, a hair below it; through the last three measured points. Where there are
    // none the user is told how they come about.
    void layOnFace();
    void layThroughMeasured();
    // Within the part; nothing where there is no section.
    void move(double by);
    void moveTo(double at);
    void setThickness(double thickness);
    // What is left of the active one lies on the other side.
    void turnOver();
    // The triangles that the active one passes through.
    void pickCut();
    // How long the part is along the active one's direction, and where it begins.
    struct Extent {
        double low = 0;
        double high = 0;
    };
    [[nodiscard]] Extent extent() const;

    // Along which the part is looked at: slabs and sides that are not chosen follow.
    void setSight(const mesh::Point& direction);
    [[nodiscard]] std::vector<SeenCut> seen() const;
    // What the part is compared with; nullptr: nothing.
    void setOther(const check::SurveyedPtr& other);
    void refresh();

Q_SIGNALS:
    void changed();  // moved, or computed

private:
    [[nodiscard]] bool isStale(const Cut& cut, const Cut::Ends& ends, const check::SurveyedPtr& of) const;

    const Looks& looks_;
    Jobs& jobs_;
    Notice& notice_;
    const Choice& choice_;
    Picking& picking_;
    const Measuring& measuring_;
    std::vector<Cut> cuts_;
    std::size_t active_ = 0;
    check::SurveyedPtr other_;
    mesh::Point sight_ = -mesh::Point::UnitZ();
};

}  // namespace zither::session
