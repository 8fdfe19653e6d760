// Measuring on the part: a point and the wall under it, a distance, an angle with the circle through three points. What
// was measured stays on the part until it is taken away.
#pragma once

#include <QObject>
#include <QString>
#include <vector>

#include "session/state/bench.h"
#include "session/state/looks.h"

namespace zither::session {

struct Measured {
    std::vector<mesh::Point> points;  // one to three
    std::optional<double> wall;       // at the first
};

class Measuring : public QObject {
    Q_OBJECT
public:
    explicit Measuring(const Bench& bench);

    // Clicks on the part set points.
    [[nodiscard]] bool on() const { return on_; }
    void setOn(bool on);
    // A point of a triangle, or the corner of it that was meant. The third point of a measurement ends it.
    void add(mesh::TriangleId triangle, const mesh::Point& at, const mesh::Point& meant);
    // The next point begins another one.
    void finish();
    void takeLast();
    void clear();
    // Of the part in front.
    [[nodiscard]] const std::vector<Measured>& all() const;
    // Of any part; and as it was kept.
    [[nodiscard]] const std::vector<Measured>& of(std::uint64_t part) const;
    void restore(std::uint64_t part, std::vector<Measured> measured);
    // "12.3 mm (x 1, y 2, z 3)".
    [[nodiscard]] QString text(const Measured& measured) const;
    // All of them, a line each.
    [[nodiscard]] QString text() const;

Q_SIGNALS:
    void changed();

private:
    const Parts& parts_;
    const Looks& looks_;
    const Preferences& preferences_;
    bool on_ = false;
    bool open_ = false;  // the last one takes more points
    std::map<std::uint64_t, std::vector<Measured>> ofPart_;
};

}  // namespace zither::session
