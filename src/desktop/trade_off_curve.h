// How far the surface goes for how few triangles: a curve, with the value on it as a line to drag.
#pragma once

#include <QWidget>

#include "session/reading/desk_model.h"

namespace zither::desktop {

class TradeOffCurve : public QWidget {
    Q_OBJECT
public:
    struct Scale {
        QString unit;
        double limit = 0;  // a distance that the brief does not allow
    };
    TradeOffCurve(session::DeskModel& desk, const steps::Step& step, double value, Scale scale);
    void setValue(double value);
    // Where a value stands; for tests.
    [[nodiscard]] double xOf(double value) const;

Q_SIGNALS:
    void chosen(double value);  // pressed or dragged

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;

private:
    void refresh();
    void choose(double x);
    [[nodiscard]] double valueAt(double x) const;
    [[nodiscard]] steps::Step::CurvePoint at(double value) const;

    session::DeskModel& desk_;
    const steps::Step& step_;
    std::shared_ptr<const session::DeskModel::Curve> curve_;
    double value_;
    Scale scale_;
};

}  // namespace zither::desktop
