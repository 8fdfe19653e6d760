// A thread a job; exceptions become errors at this edge.
#include "session/state/jobs.h"

#include <fmt/format.h>

#include <QTimer>
#include <algorithm>
#include <exception>
#include <new>

#include "mesh/memory.h"
#include "project/journal.h"

namespace zither::session {

Jobs::Jobs(QObject* parent) : QObject(parent) {
    auto* timer = new QTimer(this);
    timer->setInterval(100);
    connect(timer, &QTimer::timeout, this, [this] {
        if (busy()) Q_EMIT progress();
    });
    timer->start();
}

Jobs::~Jobs() {
    stop();
}

void Jobs::stop() {
    for (const auto& job : jobs_) {
        if (job->lane != Lane::Keep) job->progress.cancel();
        job->thread.join();
    }
    jobs_.clear();
}

void Jobs::startRaw(const QString& title, Lane lane, std::function<void(mesh::Progress&)> work,
                    std::function<void()> done) {
    if (lane != Lane::Work && lane != Lane::Keep) cancel(lane);
    auto job = std::make_shared<Job>();
    job->title = title;
    job->lane = lane;
    job->done = std::move(done);
    jobs_.push_back(job);
    job->thread = std::thread([this, job, work = std::move(work)] {
        work(job->progress);
        job->ended = true;
        QMetaObject::invokeMethod(this, "finishEnded", Qt::QueuedConnection);
    });
    Q_EMIT changed();
}

mesh::Error Jobs::errorOfException(const QString& title) {
    const std::string what = title.toStdString();
    try {
        throw;
    } catch (const std::bad_alloc&) {
        return {mesh::ErrorKind::Environment,
                fmt::format("{}: there was not enough memory; {} are used and {} free. Everything is as it was: close "
                            "other parts, or work on a smaller one",
                            what, mesh::memoryText(mesh::usedMemory()), mesh::memoryText(mesh::availableMemory())),
                mesh::errorcode::memory, what};
    } catch (const std::exception& e) {
        return {mesh::ErrorKind::Environment,
                fmt::format("{}: a fault in the program ended it ({}). Everything is as it was", what, e.what()),
                mesh::errorcode::fault, what};
    } catch (...) {
        return {mesh::ErrorKind::Environment,
                fmt::format("{}: a fault in the program ended it. Everything is as it was", what),
                mesh::errorcode::fault, what};
    }
}

void Jobs::note(const QString& title, std::chrono::steady_clock::time_point begun, const mesh::Error* error) {
    if (error) return project::journal::failed(title.toStdString(), *error);
    project::journal::ended(title.toStdString(),
                            std::chrono::duration<double>(std::chrono::steady_clock::now() - begun).count());
}

void Jobs::finishEnded() {
    // One a call, as each job makes one call: what is done with it may start others, and the window must not wait for
    // those.
    const auto job = std::find_if(jobs_.begin(), jobs_.end(), [](const auto& j) { return j->ended.load(); });
    if (job != jobs_.end()) finish(std::shared_ptr<Job>(*job));
}

void Jobs::finish(const std::shared_ptr<Job>& job) {
    job->thread.join();
    std::erase(jobs_, job);
    if (!job->replaced) job->done();
    Q_EMIT changed();
}

Jobs::Job* Jobs::shown() const {
    const auto it = std::find_if(jobs_.begin(), jobs_.end(), [](const auto& j) { return j->lane == Lane::Work; });
    if (it != jobs_.end()) return it->get();
    const auto other = std::find_if(jobs_.begin(), jobs_.end(), [](const auto& j) { return j->lane != Lane::Keep; });
    return other != jobs_.end() ? other->get() : nullptr;
}

QString Jobs::title() const {
    return shown() ? shown()->title : QString();
}
double Jobs::fraction() const {
    return shown() ? shown()->progress.fraction() : 0;
}

QString Jobs::offered() const {
    return shown() ? QString::fromStdString(shown()->progress.offered()) : QString();
}

void Jobs::takeBest() {
    if (Job* job = shown()) job->progress.takeBest();
    Q_EMIT progress();
}

void Jobs::cancelAll() {
    for (const auto& job : jobs_)
        if (job->lane != Lane::Keep) job->progress.cancel();
}

void Jobs::cancel(Lane lane) {
    for (const auto& job : jobs_)
        if (job->lane == lane) {
            job->progress.cancel();
            job->replaced = lane != Lane::Work;
        }
}

}  // namespace zither::session
