// The work on disk: a project file where the user wants one, and, whatever the user does, a file that holds every kept
// step within a second. What a crash, a kill or a power cut left behind is offered at the next start.
#pragma once

#include <QDateTime>
#include <QObject>
#include <QStringList>
#include <QTimer>
#include <memory>
#include <optional>
#include <vector>

#include "project/store.h"
#include "session/state/bench.h"
#include "session/state/jobs.h"
#include "session/state/judging.h"
#include "session/state/looks.h"
#include "session/state/measuring.h"
#include "session/state/notice.h"
#include "session/state/picking.h"
#include "session/work/recipes.h"

namespace zither::session {

class Saving : public QObject {
    Q_OBJECT
public:
    // `folder`: where unsaved work is kept; empty: it is not.
    Saving(const Bench& bench, Judging& judging, Measuring& measuring, Picking& picking, Recipes& recipes,
           const QString& folder);
    ~Saving() override;

    // The parts of a project come to those that are open; where none was, it is the project that `save` writes.
    void open(const QString& file);
    void saveTo(const QString& file);
    void save();
    // Of the project; empty: there is none yet.
    [[nodiscard]] const QString& file() const { return file_; }
    // Something was kept that the project file does not hold; where there is none: anything was done.
    [[nodiscard]] bool hasUnsaved() const;

    // Work that was not saved when its session ended.
    struct Left {
        QString file;
        QDateTime when;
        QStringList parts;
    };
    [[nodiscard]] const std::vector<Left>& leftBehind() const { return left_; }
    // The newest first.
    void bringBack();
    void throwAway();
    // Nothing is on its way to the disk any more; before the session ends.
    void finish();

Q_SIGNALS:
    void changed();  // the file, or what is unsaved
    void saved(const QString& file);

private:
    // A store for the threads that write to it, one at a time.
    struct Holder;
    // By what a snapshot is told from another, part by part.
    struct Mark {
        std::uint64_t part = 0;
        std::size_t stops = 0;
        project::StopId current = 0;
        QString name;
        QString unit;
        std::size_t measured = 0;  // points
        bool operator==(const Mark&) const = default;
    };
    struct Marks {
        std::vector<Mark> parts;
        std::string recipe;  // the one that is edited
        bool operator==(const Marks&) const = default;
    };
    [[nodiscard]] Marks marks() const;
    [[nodiscard]] project::Project snapshot() const;
    void look();  // for what was left behind
    void soon();
    void keepNow();
    // Once the part that it is of has been judged.
    void bringPickBack();
    void load(const QString& file, bool isLeft);
    struct Loaded;
    void take(Loaded loaded, const QString& file, bool isLeft);
    void removeOwn();

    Parts& parts_;
    Looks& looks_;
    Jobs& jobs_;
    Notice& notice_;
    Judging& judging_;
    Measuring& measuring_;
    Picking& picking_;
    Recipes& recipes_;
    QString folder_;
    QString own_;  // the file that unsaved work is kept in
    QString file_;
    std::shared_ptr<Holder> project_;
    std::shared_ptr<Holder> recovery_;
    Marks inProject_;
    Marks inRecovery_;
    std::vector<Left> left_;
    QStringList removeOnceKept_;  // brought back: it is kept anew before it goes
    QTimer delay_;
    bool saving_ = false;
    bool told_ = false;  // that work cannot be kept
    struct KeptPick {
        std::uint64_t part = 0;
        std::string text;
    };
    std::optional<KeptPick> pick_;  // that waits for its part
};

}  // namespace zither::session
