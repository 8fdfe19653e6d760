// A queue of files; the first that can be read of those opened together comes to the front.
#include "session/work/opening.h"

#include <QFileInfo>
#include <QSettings>

#include "io/surface_file.h"

namespace zither::session {

using mesh::Outcome;
using mesh::Progress;

namespace {
// Each of them uses every core where that helps; more would only take memory.
constexpr int mostAtOnce = 2;
constexpr int mostRecent = 10;
}  // namespace

struct Opening::Opened {
    std::filesystem::path file;
    io::Surface surface;  // its mesh was moved into the part
    check::SurveyedPtr part;
    std::shared_ptr<const Display> glimpse;
};

Opening::Opening(const Bench& bench, QSettings& settings, const Preferences& preferences)
    : settings_(settings),
      preferences_(preferences),
      parts_(bench.parts),
      looks_(bench.looks),
      jobs_(bench.jobs),
      notice_(bench.notice) {}

void Opening::open(const QStringList& wanted) {
    QStringList files;
    for (const QString& file : wanted) {
        if (!file.endsWith(".zither", Qt::CaseInsensitive))
            files << file;
        else
            Q_EMIT projectWanted(file);
    }
    if (files.isEmpty()) return;
    // What was said of other files is over.
    notice_.dismiss();
    auto batch = std::make_shared<Batch>();
    batch->ids.resize(static_cast<std::size_t>(files.size()), 0);
    batch->done.resize(batch->ids.size(), 0);
    for (qsizetype i = 0; i < files.size(); ++i) waiting_.push_back({files[i], batch, static_cast<std::size_t>(i)});
    startSome();
}

void Opening::startSome() {
    while (running_ < mostAtOnce && !waiting_.empty()) {
        const Waiting next = waiting_.front();
        waiting_.pop_front();
        ++running_;
        start(next);
    }
}

void Opening::start(const Waiting& next) {
    using Result = std::shared_ptr<Opened>;
    jobs_.start<Result>(
        QString("Reading %1").arg(QFileInfo(next.file).fileName()), Jobs::Lane::Work,
        [file = next.file.toStdString()](Progress& progress) -> Outcome<Result> {
            mesh::PartOfProgress reading(progress, 0, 0.8);
            auto surface = io::readSurface(file, reading);
            if (!surface) return mesh::errorOf(surface);
            auto opened = std::make_shared<Opened>();
            opened->file = file;
            opened->part = std::make_shared<const check::Surveyed>(std::move(surface->mesh));
            opened->surface = std::move(*surface);
            opened->glimpse = glimpseOf(opened->part);
            return opened;
        },
        [this, next](Outcome<Result> opened) { finished(next, std::move(opened)); });
}

void Opening::finished(const Waiting& which, Outcome<std::shared_ptr<Opened>> opened) {
    Batch& batch = *which.batch;
    batch.done[which.number] = 1;
    const auto ended = [this] {
        --running_;
        startSome();
    };
    if (opened)
        batch.ids[which.number] = addPart(**opened);
    else
        notice_.failed(opened.error());
    // The first one that could be read, whichever was read first.
    while (!batch.shown && batch.next < batch.done.size() && batch.done[batch.next]) {
        if (const std::uint64_t id = batch.ids[batch.next]; id != 0) {
            batch.shown = true;
            parts_.chooseId(id);
        }
        ++batch.next;
    }
    if (const Part* part = parts_.withId(batch.ids[which.number]))
        looks_.judge(*part, ended);
    else
        ended();
}

std::uint64_t Opening::addPart(Opened& opened) {
    const QFileInfo info(QString::fromStdString(opened.file.string()));
    const io::Surface& surface = opened.surface;
    Part part{
        0,
        info.completeBaseName(),
        opened.file,
        surface.format,
        surface.remarks,
        surface.notKept,
        surface.unit.empty() ? Unit{preferences_.unitOfOthers()} : Unit{QString::fromStdString(surface.unit), false},
        project::Track(opened.part),
        std::make_shared<steps::SeenOfImport>(opened.part)};
    part.glimpse = opened.glimpse;
    const std::uint64_t id = parts_.add(std::move(part));
    remember(info.absoluteFilePath());
    if (!surface.remarks.empty())
        notice_.say(QString("%1: %2").arg(info.fileName(), QString::fromStdString(surface.remarks.front())));
    return id;
}

QStringList Opening::recentFiles() const {
    return settings_.value("recent").toStringList();
}

void Opening::remember(const QString& file) {
    QStringList recent = recentFiles();
    recent.removeAll(file);
    recent.prepend(file);
    settings_.setValue("recent", QStringList(recent.mid(0, mostRecent)));
    Q_EMIT recentChanged();
}

}  // namespace zither::session
