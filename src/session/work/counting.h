// The numbers of what is looked at: of the part, or of the pick where there is one.
#pragma once

#include <QObject>
#include <QString>
#include <memory>
#include <vector>

#include "measure/numbers.h"
#include "session/state/bench.h"
#include "session/state/jobs.h"
#include "session/state/picking.h"

namespace zither::session {

class Counting : public QObject {
    Q_OBJECT
public:
    Counting(const Bench& bench, const Picking& picking);

    // Counted only while somebody wants to know.
    void setWanted(bool wanted);
    void setDensity(double gramsACubicCentimetre);
    void refresh();

    struct Row {
        QString name;
        QString value;
    };
    [[nodiscard]] QString title() const;  // "hub", "142 triangles of hub"
    [[nodiscard]] std::vector<Row> rows() const;

    // How fit the triangles are, one line each with its histogram.
    struct Quality {
        QString name;
        QString value;
        measure::Spread spread;
    };
    [[nodiscard]] std::vector<Quality> qualities() const;

Q_SIGNALS:
    void changed();

private:
    const Parts& parts_;
    const Looks& looks_;
    const Picking& picking_;
    Jobs& jobs_;
    const Preferences& preferences_;
    bool wanted_ = false;
    double density_ = 0;
    bool ofPick_ = false;
    QString part_;
    QString unit_;
    std::shared_ptr<const measure::Numbers> numbers_;
};

}  // namespace zither::session
