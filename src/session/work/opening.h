// Bringing files in: read beside the window, shown as soon as they are read, then judged; at most two at once.
#pragma once

#include <QObject>
#include <QStringList>
#include <deque>
#include <memory>

#include "session/state/bench.h"
#include "session/state/looks.h"
#include "session/state/preferences.h"

class QSettings;

namespace zither::session {

class Opening : public QObject {
    Q_OBJECT
public:
    Opening(const Bench& bench, QSettings& settings, const Preferences& preferences);

    // The first of them that can be read comes to the front. Projects among them are for others to open.
    void open(const QStringList& files);
    [[nodiscard]] QStringList recentFiles() const;
    void remember(const QString& file);
    // Files that wait for their turn.
    [[nodiscard]] std::size_t waiting() const { return waiting_.size(); }
    void dropWaiting() { waiting_.clear(); }

Q_SIGNALS:
    void recentChanged();
    void projectWanted(const QString& file);

private:
    // Files that were opened together.
    struct Batch {
        std::size_t next = 0;  // the first that is not known yet: when it is there, it comes to the front
        bool shown = false;
        std::vector<std::uint64_t> ids;  // of the part of each file; 0: not yet
        std::vector<std::uint8_t> done;
    };
    struct Waiting {
        QString file;
        std::shared_ptr<Batch> batch;
        std::size_t number = 0;
    };
    struct Opened;

    void startSome();
    void start(const Waiting& next);
    void finished(const Waiting& which, mesh::Outcome<std::shared_ptr<Opened>> opened);
    std::uint64_t addPart(Opened& opened);

    QSettings& settings_;
    const Preferences& preferences_;
    Parts& parts_;
    Looks& looks_;
    Jobs& jobs_;
    Notice& notice_;
    std::deque<Waiting> waiting_;
    int running_ = 0;
};

}  // namespace zither::session
