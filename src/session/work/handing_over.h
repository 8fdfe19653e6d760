// Handing over: exporting, with the proof of the file, and a report of it for whoever gets it.
#pragma once

#include <QObject>
#include <optional>

#include "project/job.h"
#include "session/state/bench.h"
#include "session/state/looks.h"

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
    std::int64_t bytes = 0;           // on disk
    std::int64_t bytesBefore = 0;     // of what was read; 0: there is no file
    QStringList others;               // written in the same go, with their verdict
};

class HandingOver : public QObject {
    Q_OBJECT
public:
    HandingOver(const Bench& bench, const Judging& judging);

    // Writes the current stop and reads the file back; what the format will not hold is told first.
    void exportTo(const QString& file);
    // Several, one after the other. One that cannot be written does not keep the others from it.
    struct Wanted {
        std::vector<std::uint64_t> parts;  // several: they become one file, as regions of their names
        QString file;
        const io::Format* format = nullptr;  // nullptr: by the file's extension
    };
    void exportThese(std::vector<Wanted> wanted);
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
    struct Round {
        std::vector<Wanted> wanted;
        QStringList done;  // what was written so far
    };
    void exportNext(Round round);

    Parts& parts_;
    Looks& looks_;
    const Judging& judging_;
    Jobs& jobs_;
    Notice& notice_;
    std::optional<Delivered> delivered_;
};

}  // namespace zither::session
