// Handing over: exporting, with the proof of the file, and a report of it for whoever gets it.
#pragma once

#include <QObject>
#include <optional>

#include "project/delivery.h"
#include "session/looks.h"

namespace zither::session {

// A finished export: the file read back.
struct Delivered {
    QString file;
    check::SurveyedPtr part;
    std::shared_ptr<const check::Survey> survey;
    std::shared_ptr<const measure::Loss> loss;  // of the file since the import
    steps::Verdict verdict;
    QString briefTitle;
    std::string unit;                        // of its lengths
    std::optional<steps::DoneStep> settled;  // before it was written
    double inputVolume = 0;
    std::vector<std::string> losses;  // what the file does not hold
};

class HandingOver : public QObject {
    Q_OBJECT
public:
    HandingOver(Parts& parts, Looks& looks, const Judging& judging, Jobs& jobs, Notice& notice, QObject* parent);

    // Writes the current stop and reads the file back; what the format will not hold is told first.
    void exportTo(const QString& file);
    [[nodiscard]] const std::optional<Delivered>& delivered() const { return delivered_; }
    void dismiss();
    // Another brief judges the file as well.
    void judgeAgain();

    // Of the file that the current stop was exported to last, as it lies on disk, beside what came in: .html or .pdf.
    void report(const QString& file);

Q_SIGNALS:
    void changed();
    void wrote(const QString& file);

private:
    Parts& parts_;
    Looks& looks_;
    const Judging& judging_;
    Jobs& jobs_;
    Notice& notice_;
    std::optional<Delivered> delivered_;
};

}  // namespace zither::session
