// An export before it is made: which parts, as what, where to and under which names; what will be lost by it, and
// whether what is exported is in tune.
#pragma once

#include <QObject>
#include <QStringList>
#include <optional>
#include <vector>

#include "session/state/bench.h"
#include "session/work/handing_over.h"

namespace zither::session {

class Exporting : public QObject {
    Q_OBJECT
public:
    enum class Which { Front, Chosen, All };
    Exporting(const Bench& bench, const Judging& judging, HandingOver& handingOver);

    [[nodiscard]] Which which() const { return which_; }
    void setWhich(Which which);
    [[nodiscard]] const io::Format& format() const { return *format_; }
    void setFormat(const io::Format& format);
    // Empty: beside what each part was read from.
    [[nodiscard]] const QString& folder() const { return folder_; }
    void setFolder(const QString& folder);
    // Of the files' names, without what they end in: "{name}" is the part's, "{step}" that of its last step.
    [[nodiscard]] const QString& pattern() const { return pattern_; }
    void setPattern(const QString& pattern);
    // Several parts as one file with their names, where the format keeps names.
    [[nodiscard]] bool together() const { return together_ && canBeTogether(); }
    void setTogether(bool together);
    [[nodiscard]] bool canBeTogether() const;
    // A whole path: folder, name and format of the part in front.
    void setFile(const QString& file);

    struct File {
        QString path;
        std::vector<std::uint64_t> parts;
        bool isThere = false;  // already: it will be replaced
    };
    [[nodiscard]] std::vector<File> files() const;
    // What keeps it from being made; empty: nothing.
    [[nodiscard]] QString problem() const;
    // What a person should know first: what the files will not hold, what rounding does, what is replaced, how large
    // what was read is.
    [[nodiscard]] QStringList remarks() const;
    // Which requirements the parts do not meet, as far as they were judged; empty: all are met.
    [[nodiscard]] QStringList failing() const;
    void write();

Q_SIGNALS:
    void changed();

private:
    [[nodiscard]] std::vector<const Part*> chosen() const;
    [[nodiscard]] QString pathOf(const Part& part) const;

    const Parts& parts_;
    const Judging& judging_;
    HandingOver& handingOver_;
    const Preferences& preferences_;
    Which which_ = Which::Front;
    const io::Format* format_;
    QString folder_;
    QString pattern_ = "{name}-mended";
    bool together_ = false;
};

}  // namespace zither::session
