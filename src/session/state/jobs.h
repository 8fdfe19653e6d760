// Work beside the window: runs in another thread, reports progress, can be cancelled; the result comes back as a call
// in the window's thread. Nothing waits.
#pragma once

#include <QObject>
#include <QString>
#include <atomic>
#include <chrono>
#include <functional>
#include <memory>
#include <mutex>
#include <string>
#include <thread>
#include <vector>

#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::session {

// What a running job shares with its thread.
class JobProgress final : public mesh::Progress {
public:
    [[nodiscard]] bool report(double fraction) override {
        fraction_ = fraction;
        return !cancelled_;
    }
    [[nodiscard]] bool isLate() const override { return late_; }
    void offer(std::string_view result) override {
        const std::lock_guard lock(offering_);
        offer_ = result;
    }
    void cancel() { cancelled_ = true; }
    // The best that there is is enough.
    void takeBest() { late_ = true; }
    // What that would be; empty where there is none, or where it is being taken.
    [[nodiscard]] std::string offered() const {
        const std::lock_guard lock(offering_);
        return late_ ? std::string() : offer_;
    }
    [[nodiscard]] bool cancelled() const { return cancelled_; }
    [[nodiscard]] double fraction() const { return fraction_; }

private:
    std::atomic<double> fraction_ = 0;
    std::atomic<bool> cancelled_ = false;
    std::atomic<bool> late_ = false;
    mutable std::mutex offering_;  // held while offer_ is
    std::string offer_;
};

class Jobs : public QObject {
    Q_OBJECT
public:
    explicit Jobs(QObject* parent = nullptr);
    ~Jobs() override;
    // Cancels everything and waits for it; nothing comes back any more. Before what jobs report to goes away.
    void stop();

    enum class Lane {
        Work,      // runs to its end unless the user cancels
        Preview,   // a newer one cancels and replaces it
        Section,   // the same
        Colour,    // the same
        Count,     // the same
        Distance,  // the same
        Compare,   // the same
        Curve,     // the same
        Propose,   // the same
        Stops,     // the same
        Keep,      // what is written without being asked: neither told nor cancelled by the user
    };

    // Runs work(progress) in a thread of its own, then done(outcome) here. done is not called for a replaced preview.
    // An exception ends the work with an Error, never the program: what ran, and how much memory there was.
    template <class T>
    void start(const QString& title, Lane lane, std::function<mesh::Outcome<T>(mesh::Progress&)> work,
               std::function<void(mesh::Outcome<T>)> done) {
        auto result = std::make_shared<mesh::Outcome<T>>(mesh::cancelled());
        startRaw(
            title, lane,
            [work = std::move(work), result, title](mesh::Progress& p) {
                const auto begun = std::chrono::steady_clock::now();
                try {
                    *result = work(p);
                } catch (...) {
                    *result = tl::unexpected(errorOfException(title));
                }
                note(title, begun, *result ? nullptr : &result->error());
            },
            [done = std::move(done), result] { done(std::move(*result)); });
    }

    [[nodiscard]] bool busy() const { return shown() != nullptr; }
    [[nodiscard]] std::size_t count() const { return jobs_.size(); }
    // The oldest running job that is no preview, or the preview: title and fraction for the status line.
    [[nodiscard]] QString title() const;
    [[nodiscard]] double fraction() const;
    // What could be taken of it as it is by now; empty: nothing yet.
    [[nodiscard]] QString offered() const;
    // Its best by now is enough: it ends with that.
    void takeBest();
    void cancelAll();
    void cancel(Lane lane);

Q_SIGNALS:
    void changed();   // a job began or ended
    void progress();  // some job got on; at most every 100 ms

private:
    // Of the exception that is being handled.
    static mesh::Error errorOfException(const QString& title);
    // In the journal. `error`: nullptr where all went well.
    static void note(const QString& title, std::chrono::steady_clock::time_point begun, const mesh::Error* error);

    struct Job {
        QString title;
        Lane lane = Lane::Work;
        bool replaced = false;
        JobProgress progress;
        std::function<void()> done;
        std::thread thread;
        std::atomic<bool> ended = false;
    };

    void startRaw(const QString& title, Lane lane, std::function<void(mesh::Progress&)> work,
                  std::function<void()> done);
    // Called by name from a job's thread, so that nothing but the flag of the job passes from there to here.
    Q_INVOKABLE void finishEnded();
    void finish(const std::shared_ptr<Job>& job);
    [[nodiscard]] Job* shown() const;

    std::vector<std::shared_ptr<Job>> jobs_;
};

}  // namespace zither::session
