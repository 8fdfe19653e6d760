// The lengths that a value has to be chosen among, over a logarithmic scale, with the value marked.
#pragma once

#include <QWidget>
#include <vector>

#include "session/state/preferences.h"

namespace zither::desktop {

class GapHistogram : public QWidget {
    Q_OBJECT
public:
    GapHistogram(std::vector<double> samples, double value, QString unit, const session::Preferences& preferences);
    void setValue(double value);
    // Where a value stands; for tests.
    [[nodiscard]] double xOf(double value) const;

Q_SIGNALS:
    void chosen(double value);  // a click

protected:
    void paintEvent(QPaintEvent* event) override;
    void mousePressEvent(QMouseEvent* event) override;

private:
    const session::Preferences& preferences_;
    std::vector<std::uint32_t> bins_;
    double low_ = 0;  // logarithms of the ends
    double high_ = 1;
    double value_;
    QString unit_;
};

}  // namespace zither::desktop
