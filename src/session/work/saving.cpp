// Snapshots share surfaces with the session: they cost nothing, and threads write them while the user goes on.
#include "session/work/saving.h"

#include <QCoreApplication>
#include <QDir>
#include <QFileInfo>
#include <algorithm>
#include <array>
#include <mutex>
#include <nlohmann/json.hpp>
#include <utility>

#include "io/format.h"
#include "session/reading/number_text.h"
#include "steps/recipe.h"

namespace zither::session {

using mesh::Outcome;
using mesh::Progress;
using project::Project;
using project::Store;
using project::StoredPart;
using Json = nlohmann::ordered_json;

namespace {

constexpr int keepDelayMs = 250;
const QString pattern = "*.zither";

void removeStore(const QString& file) {
    for (const char* tail : {"", "-wal", "-shm", "-journal"}) QFile::remove(file + tail);
}

Json jsonOf(const std::vector<Measured>& all) {
    Json list = Json::array();
    for (const Measured& m : all) {
        Json points = Json::array();
        for (const mesh::Point& p : m.points) points.push_back({p.x(), p.y(), p.z()});
        list.push_back({{"points", points}, {"wall", m.wall ? Json(*m.wall) : Json()}});
    }
    return list;
}

std::vector<Measured> measuredFrom(const Json& list) {
    std::vector<Measured> all;
    for (const auto& j : list) {
        Measured m;
        for (const auto& p : j.at("points"))
            m.points.emplace_back(p.at(0).get<double>(), p.at(1).get<double>(), p.at(2).get<double>());
        if (j.at("wall").is_number()) m.wall = j["wall"].get<double>();
        if (!m.points.empty()) all.push_back(std::move(m));
    }
    return all;
}

Json jsonOf(const Camera::Place& view) {
    const Eigen::Matrix3d& a = view.axes;
    return {{"centre", {view.centre.x(), view.centre.y(), view.centre.z()}},
            {"height", view.height},
            {"axes", {a(0, 0), a(0, 1), a(0, 2), a(1, 0), a(1, 1), a(1, 2), a(2, 0), a(2, 1), a(2, 2)}},
            {"y_up", view.yUp}};
}

// Of the i-th part; nothing where it is not there, or makes no sense.
std::optional<Camera::Place> viewFrom(const Json& views, std::size_t i) {
    if (!views.is_array() || i >= views.size()) return std::nullopt;
    try {
        Camera::Place view;
        const auto centre = views[i].at("centre").get<std::array<double, 3>>();
        const auto axes = views[i].at("axes").get<std::array<double, 9>>();
        view.centre = mesh::Point(centre[0], centre[1], centre[2]);
        view.height = views[i].at("height").get<double>();
        for (std::size_t k = 0; k < axes.size(); ++k)
            view.axes(static_cast<int>(k / 3), static_cast<int>(k % 3)) = axes[k];
        view.yUp = views[i].at("y_up").get<bool>();
        const bool turns = (view.axes * view.axes.transpose() - Eigen::Matrix3d::Identity()).norm() < 1e-6;
        return view.height > 0 && turns && view.centre.allFinite() ? std::optional(view) : std::nullopt;
    } catch (const nlohmann::json::exception&) {
        return std::nullopt;
    }
}

// Of its parts, where it has any.
std::size_t frontOf(const Project& project) {
    return std::min(project.front.value_or(0), project.parts.size() - 1);
}

Json jsonOf(const Recipes& recipes) {
    Json json = steps::recipeJson(recipes.recipe());
    json.erase("zither");
    json["name"] = recipes.name().toStdString();
    return json;
}

// Projects of before knew the micrometre by its sign.
QString unitFrom(const std::string& stored) {
    const QString unit = QString::fromStdString(stored);
    return unit == "µm" ? QString("um") : unit;
}

// What could not be read of it, in a sentence; empty: all could.
std::string bringRecipeBack(const Json& recipe, Recipes& recipes) {
    if (!recipe.is_object() || !recipe.contains("steps") || !recipe.contains("name") || !recipe["name"].is_string())
        return "Its recipe makes no sense";
    const auto name = recipe["name"].get<std::string>();
    Json text = recipe;
    text.erase("name");
    text["zither"] = 1;
    auto read = steps::parseRecipe(text.dump(), name);
    if (!read) return read.error().message;
    recipes.take(QString::fromStdString(name), std::move(*read));
    return {};
}

}  // namespace

struct Saving::Loaded {
    Project project;
    std::shared_ptr<const Display> glimpse;  // of the part in front
};

struct Saving::Holder {
    std::mutex mutex;
    std::optional<Store> store;
    bool closed = false;  // the session ends: nothing more is written
};

Saving::Saving(const Bench& bench, Judging& judging, Measuring& measuring, Picking& picking, Recipes& recipes,
               const QString& folder)
    : parts_(bench.parts),
      looks_(bench.looks),
      jobs_(bench.jobs),
      notice_(bench.notice),
      judging_(judging),
      measuring_(measuring),
      picking_(picking),
      recipes_(recipes),
      folder_(folder),
      project_(std::make_shared<Holder>()),
      recovery_(std::make_shared<Holder>()) {
    delay_.setSingleShot(true);
    delay_.setInterval(keepDelayMs);
    connect(&delay_, &QTimer::timeout, this, &Saving::keepNow);
    connect(&parts_, &Parts::changed, this, [this] {
        soon();
        Q_EMIT changed();
    });
    connect(&measuring_, &Measuring::changed, this, &Saving::soon);
    connect(&recipes_, &Recipes::changed, this, [this] {
        soon();
        Q_EMIT changed();
    });
    connect(&looks_, &Looks::changed, this, &Saving::bringPickBack);
    if (folder_.isEmpty()) return;
    QDir().mkpath(folder_);
    own_ = QString("%1/%2-%3.zither")
               .arg(folder_)
               .arg(QDateTime::currentDateTime().toString("yyyyMMdd-HHmmss-zzz"))
               .arg(QCoreApplication::applicationPid());
    look();
}

Saving::~Saving() = default;

// What another session has open is locked, and not left behind.
void Saving::look() {
    left_.clear();
    for (const QFileInfo& info : QDir(folder_).entryInfoList({pattern}, QDir::Files, QDir::Time)) {
        if (info.filePath() == own_) continue;
        auto store = Store::open(info.filePath().toStdString());
        if (!store) continue;
        if (!store->hasSteps()) {
            // It was only looked at.
            store = tl::unexpected(mesh::Error{});
            removeStore(info.filePath());
            continue;
        }
        const auto names = store->partNames();
        QStringList parts;
        if (names)
            for (const std::string& name : *names) parts << QString::fromStdString(name);
        if (!parts.isEmpty()) left_.push_back({info.filePath(), info.lastModified(), parts});
    }
}

Saving::Marks Saving::marks() const {
    Marks all;
    for (const auto& part : parts_.all()) {
        std::size_t measured = 0;
        for (const Measured& m : measuring_.of(part->id)) measured += m.points.size();
        all.parts.push_back(
            {part->id, part->track.stops().size(), part->track.current(), part->name, part->unit().name, measured});
    }
    if (!recipes_.calls().empty()) all.recipe = jsonOf(recipes_).dump();
    return all;
}

bool Saving::hasUnsaved() const {
    if (!file_.isEmpty()) return marks() != inProject_;
    return std::any_of(parts_.all().begin(), parts_.all().end(),
                       [](const auto& part) { return part->track.stops().size() > 1; });
}

Project Saving::snapshot() const {
    Project project;
    Json measured = Json::array();
    Json views = Json::array();
    for (const auto& part : parts_.all()) {
        StoredPart stored{part->name.toStdString(),
                          part->file.string(),
                          part->format ? std::string(part->format->name) : std::string(),
                          part->importedUnit.name.toStdString(),
                          part->importedUnit.assumed,
                          part->remarks,
                          part->notKept,
                          part->track,
                          part->left};
        project.parts.push_back(std::move(stored));
        measured.push_back(jsonOf(measuring_.of(part->id)));
        views.push_back(part->view ? jsonOf(*part->view) : Json());
    }
    project.front = parts_.currentIndex();
    Json window = {{"brief", judging_.chosen().id}, {"measured", measured}, {"views", views}};
    if (!picking_.pick().everything()) window["pick"] = picking_.text();
    if (!recipes_.calls().empty()) window["recipe"] = jsonOf(recipes_);
    project.window = window.dump();
    return project;
}

// ---- without being asked

void Saving::soon() {
    if (!folder_.isEmpty() && !delay_.isActive()) delay_.start();
}

void Saving::keepNow() {
    if (folder_.isEmpty()) return;
    if (saving_) return soon();
    if (parts_.all().empty()) return removeOwn();
    if (marks() == inRecovery_) return;
    saving_ = true;
    struct None {};
    jobs_.start<None>(
        "Saving the work", Jobs::Lane::Keep,
        [holder = recovery_, file = own_.toStdString(), project = snapshot()](Progress& progress) -> Outcome<None> {
            const std::lock_guard lock(holder->mutex);
            if (holder->closed) return None{};
            if (!holder->store) {
                auto store = Store::create(file);
                if (!store) return mesh::errorOf(store);
                holder->store = std::move(*store);
            }
            if (auto saved = holder->store->save(project, progress); !saved) return mesh::errorOf(saved);
            return None{};
        },
        [this, kept = marks()](Outcome<None> done) {
            saving_ = false;
            if (!done) {
                // Once: it would be the same at every step.
                if (!std::exchange(told_, true) && !done.error().cancelled())
                    notice_.failed({.kind = mesh::ErrorKind::Environment,
                                    .message = "Unsaved work cannot be kept safe: " + done.error().message,
                                    .code = mesh::errorcode::environment});
                return;
            }
            inRecovery_ = kept;
            for (const QString& file : std::exchange(removeOnceKept_, {})) removeStore(file);
            if (marks() != inRecovery_) soon();
        });
}

void Saving::removeOwn() {
    const std::lock_guard lock(recovery_->mutex);
    recovery_->store.reset();
    removeStore(own_);
    inRecovery_ = {};
}

void Saving::finish() {
    delay_.stop();
    if (folder_.isEmpty()) return;
    // Whatever writes now comes to its end first.
    {
        const std::lock_guard lock(recovery_->mutex);
        recovery_->closed = true;
    }
    if (!hasUnsaved()) return removeOwn();
    const std::lock_guard lock(recovery_->mutex);
    if (marks() != inRecovery_) {
        if (!recovery_->store)
            if (auto store = Store::create(own_.toStdString())) recovery_->store = std::move(*store);
        class Silent final : public Progress {
            bool report(double) override { return true; }
        } silent;
        if (recovery_->store) static_cast<void>(recovery_->store->save(snapshot(), silent));
    }
    recovery_->store.reset();
}

// ---- by the user

void Saving::bringBack() {
    for (const Left& left : left_) load(left.file, true);
    left_.clear();
    Q_EMIT changed();
}

void Saving::throwAway() {
    for (const Left& left : left_) removeStore(left.file);
    left_.clear();
    Q_EMIT changed();
}

void Saving::open(const QString& file) {
    load(file, false);
}

void Saving::load(const QString& file, bool isLeft) {
    using Result = std::shared_ptr<Loaded>;
    // Where something is open already the parts come to it, and the file is let go again.
    const bool becomesProject = !isLeft && parts_.all().empty();
    jobs_.start<Result>(
        QString("Opening %1").arg(isLeft ? QString("unsaved work") : QFileInfo(file).fileName()), Jobs::Lane::Work,
        [file = file.toStdString(),
         holder = becomesProject ? project_ : std::make_shared<Holder>()](Progress& progress) -> Outcome<Result> {
            const std::lock_guard lock(holder->mutex);
            holder->store.reset();
            auto store = Store::open(file);
            if (!store) return mesh::errorOf(store);
            holder->store = std::move(*store);
            auto project = holder->store->load(progress);
            if (!project) return mesh::errorOf(project);
            auto loaded = std::make_shared<Loaded>();
            loaded->project = std::move(*project);
            // The one that will be in front is seen before it has been judged.
            if (const auto& parts = loaded->project.parts; !parts.empty())
                loaded->glimpse = glimpseOf(parts[frontOf(loaded->project)].track.part());
            return loaded;
        },
        [this, file, isLeft, becomesProject](Outcome<Result> loaded) {
            if (!loaded) return notice_.failed(loaded.error());
            if (becomesProject) file_ = file;
            take(std::move(**loaded), file, isLeft);
        });
}

void Saving::take(Loaded loaded, const QString& file, bool isLeft) {
    Project& project = loaded.project;
    std::vector<std::uint64_t> ids;
    auto window = Json::parse(project.window, nullptr, false);
    if (!window.is_object()) window = Json::object();
    const auto measured = window.value("measured", Json::array());
    const auto views = window.value("views", Json::array());
    for (std::size_t i = 0; i < project.parts.size(); ++i) {
        StoredPart& stored = project.parts[i];
        const io::Format* format = &io::stlBinary;
        for (const io::Format& f : io::formats())
            if (f.name == stored.format) format = &f;
        auto seen = std::make_shared<steps::SeenOfImport>(stored.track.imported());
        Part part{0,
                  QString::fromStdString(stored.name),
                  stored.file,
                  format,
                  std::move(stored.remarks),
                  std::move(stored.notKept),
                  Unit{unitFrom(stored.unit), stored.unitAssumed},
                  std::move(stored.track),
                  std::move(seen),
                  std::move(stored.left),
                  {}};
        part.view = viewFrom(views, i);
        if (i == frontOf(project)) part.glimpse = loaded.glimpse;
        ids.push_back(parts_.addLast(std::move(part)));
        try {
            if (measured.is_array() && i < measured.size()) measuring_.restore(ids.back(), measuredFrom(measured[i]));
        } catch (const nlohmann::json::exception&) {
            project.damage.push_back(stored.name + ": its measurements could not be read");
        }
    }
    if (parts_.all().size() == ids.size() && window.contains("brief") && window["brief"].is_string())
        if (const auto brief = steps::loadBrief(window["brief"].get<std::string>());
            brief && brief->id != judging_.chosen().id)
            judging_.setBrief(*brief);
    if (!ids.empty()) {
        const std::uint64_t front = ids[frontOf(project)];
        parts_.chooseId(front);
        if (window.contains("pick") && window["pick"].is_string()) pick_ = {front, window["pick"].get<std::string>()};
        bringPickBack();
    }
    // What is edited already is not lost for it.
    if (recipes_.calls().empty() && window.contains("recipe"))
        if (auto damage = bringRecipeBack(window["recipe"], recipes_); !damage.empty())
            project.damage.push_back(std::move(damage));
    if (file == file_) inProject_ = marks();
    if (isLeft) removeOnceKept_ << file;
    if (!project.damage.empty())
        notice_.failed({.kind = mesh::ErrorKind::BadInput,
                        .message = "Not all could be read. " + project.damage.front() +
                                   (project.damage.size() > 1 ? " (and more)" : ""),
                        .code = mesh::errorcode::unreadable});
    else if (isLeft)
        notice_.say("The unsaved work is here again.");
    else if (file != file_)
        notice_.say(QString("The parts of %1 came to those that are open.").arg(QFileInfo(file).fileName()));
    Q_EMIT changed();
    if (!isLeft) Q_EMIT saved(file);
    soon();
}

void Saving::bringPickBack() {
    const Part* part = parts_.current();
    if (!pick_ || !part || part->id != pick_->part || !looks_.kept()) return;
    const std::string text = std::exchange(pick_, std::nullopt)->text;
    jobs_.start<mesh::Pick>(
        "Picking what was picked", Jobs::Lane::Work,
        [surface = looks_.kept()->part, text](mesh::Progress& progress) {
            return steps::pickFromText(text, *surface, progress);
        },
        [this, text, surface = looks_.kept()->part](mesh::Outcome<mesh::Pick> pick) {
            // What cannot be picked any more is no loss of work.
            if (pick && looks_.kept() && looks_.kept()->part == surface) picking_.bringBack(std::move(*pick), text);
        });
}

void Saving::save() {
    if (!file_.isEmpty()) saveTo(file_);
}

void Saving::saveTo(const QString& wanted) {
    if (parts_.all().empty()) return notice_.say("There is nothing to save yet.");
    const QString file = wanted.endsWith(".zither") ? wanted : wanted + ".zither";
    struct None {};
    jobs_.start<None>(
        QString("Saving %1").arg(QFileInfo(file).fileName()), Jobs::Lane::Work,
        [holder = project_, file = file.toStdString(), project = snapshot()](Progress& progress) -> Outcome<None> {
            const std::lock_guard lock(holder->mutex);
            if (!holder->store || holder->store->file() != std::filesystem::path(file)) {
                auto store = Store::create(file);
                if (!store) return mesh::errorOf(store);
                holder->store = std::move(*store);
            }
            if (auto saved = holder->store->save(project, progress); !saved) return mesh::errorOf(saved);
            return None{};
        },
        [this, file, now = marks()](Outcome<None> done) {
            if (!done) return notice_.failed(done.error());
            file_ = file;
            inProject_ = now;
            notice_.say(QString("Saved as %1.").arg(QFileInfo(file).fileName()));
            Q_EMIT changed();
            Q_EMIT saved(file);
        });
}

}  // namespace zither::session
