// Surfaces are known by what they hold; each that is no import is packed against the import of its part.
#include "project/store.h"

#include <fmt/format.h>
#include <sqlite3.h>
#include <sys/stat.h>

#include <cmath>
#include <limits>
#include <nlohmann/json.hpp>
#include <set>
#include <utility>

#include "project/surface_bytes.h"
#include "steps/recipe.h"

namespace zither::project {

namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;
using mesh::Outcome;

namespace {

constexpr int formatVersion = 1;
constexpr int applicationId = 0x5A495448;  // "ZITH"

constexpr const char* tables = R"(
CREATE TABLE surfaces (
    id INTEGER PRIMARY KEY,
    hash BLOB NOT NULL UNIQUE,                -- of the bytes as they are unpacked
    size INTEGER NOT NULL,                    -- of them
    base INTEGER REFERENCES surfaces (id),    -- that it is packed against; NULL: by itself
    data BLOB NOT NULL
);
CREATE TABLE parts (
    place INTEGER PRIMARY KEY,                -- in the list
    about TEXT NOT NULL                       -- JSON
);
CREATE TABLE stops (
    part INTEGER NOT NULL REFERENCES parts (place),
    stop INTEGER NOT NULL,
    parent INTEGER NOT NULL,
    surface INTEGER NOT NULL REFERENCES surfaces (id),
    about TEXT NOT NULL,                      -- JSON
    PRIMARY KEY (part, stop)
);
CREATE TABLE window (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    about TEXT NOT NULL                       -- JSON
);
)";

mesh::Error errorOf(std::string message) {
    return {mesh::ErrorKind::Environment, std::move(message), mesh::errorcode::environment};
}

// One prepared statement.
class Statement {
public:
    Statement(sqlite3* db, const char* sql) { sqlite3_prepare_v2(db, sql, -1, &statement_, nullptr); }
    ~Statement() { sqlite3_finalize(statement_); }
    Statement(const Statement&) = delete;
    Statement& operator=(const Statement&) = delete;

    Statement& bind(std::int64_t value) { return after(sqlite3_bind_int64(statement_, ++bound_, value)); }
    Statement& bind(const std::string& text) {
        return after(
            sqlite3_bind_text64(statement_, ++bound_, text.data(), text.size(), SQLITE_TRANSIENT, SQLITE_UTF8));
    }
    // The bytes must stay until it has run.
    Statement& bindBytes(std::string_view bytes) {
        return after(sqlite3_bind_blob64(statement_, ++bound_, bytes.data(), bytes.size(), SQLITE_STATIC));
    }
    Statement& bindNull() { return after(sqlite3_bind_null(statement_, ++bound_)); }
    // True: there is a row.
    bool step() {
        if (failed_ == SQLITE_OK) last_ = sqlite3_step(statement_);
        return failed_ == SQLITE_OK && last_ == SQLITE_ROW;
    }
    // It ran, or has rows.
    [[nodiscard]] bool good() const { return failed_ == SQLITE_OK && (last_ == SQLITE_ROW || last_ == SQLITE_DONE); }
    [[nodiscard]] std::int64_t number(int column) const { return sqlite3_column_int64(statement_, column); }
    [[nodiscard]] bool isNull(int column) const { return sqlite3_column_type(statement_, column) == SQLITE_NULL; }
    // Until the next step.
    [[nodiscard]] std::string_view bytes(int column) const {
        const auto* data = static_cast<const char*>(sqlite3_column_blob(statement_, column));
        return {data ? data : "", static_cast<std::size_t>(sqlite3_column_bytes(statement_, column))};
    }

private:
    Statement& after(int result) {
        if (failed_ == SQLITE_OK) failed_ = result;
        return *this;
    }
    sqlite3_stmt* statement_ = nullptr;
    int bound_ = 0;
    int failed_ = SQLITE_OK;
    int last_ = SQLITE_ERROR;
};

constexpr const char* surfaceRow = "SELECT data, size, base, hash FROM surfaces WHERE id = ?";

// Of a surfaceRow: unpacked against its base, and what was written. Error: damaged.
Outcome<std::string> bytesOfRow(const Statement& row, std::string_view base) {
    auto bytes = unpacked(row.bytes(0), static_cast<std::uint64_t>(row.number(1)), base);
    if (!bytes) return bytes;
    const ContentHash hash = hashOf(*bytes);
    if (row.bytes(3) != std::string_view(reinterpret_cast<const char*>(hash.data()), hash.size()))
        return tl::unexpected(mesh::Error{mesh::ErrorKind::BadInput, "a surface of this project is damaged",
                                          mesh::errorcode::unreadable});
    return bytes;
}

struct Identity {
    dev_t device = 0;
    ino_t inode = 0;
    bool operator==(const Identity&) const = default;
};
std::optional<Identity> identityOf(const fs::path& file) {
    struct stat about {};
    if (::stat(file.c_str(), &about) != 0) return std::nullopt;
    return Identity{about.st_dev, about.st_ino};
}

// ---- JSON of stops

Json pointJson(const mesh::Point& p) {
    return {p.x(), p.y(), p.z()};
}

mesh::Point pointFrom(const Json& j) {
    return {j.at(0).get<double>(), j.at(1).get<double>(), j.at(2).get<double>()};
}

// What is not finite has no number in JSON.
Json numberOf(double value) {
    if (std::isfinite(value)) return value;
    return std::isnan(value) ? "nan" : value > 0 ? "inf" : "-inf";
}

double numberFrom(const Json& j) {
    if (j.is_number()) return j.get<double>();
    constexpr double infinity = std::numeric_limits<double>::infinity();
    const std::string text = j.get<std::string>();
    return text == "inf" ? infinity : text == "-inf" ? -infinity : std::numeric_limits<double>::quiet_NaN();
}

Json argumentsJson(const steps::Arguments& arguments) {
    Json j = Json::object();
    for (const auto& [name, value] : arguments)
        j[name] = value.isText() ? Json{0, value.text()} : Json{numberOf(value.number()), ""};
    return j;
}

steps::Arguments argumentsFrom(const steps::Step* step, const Json& j) {
    steps::Arguments arguments;
    for (const auto& [name, value] : j.items()) {
        const bool isText =
            step && std::any_of(step->parameters.begin(), step->parameters.end(),
                                [&key = name](const auto& p) { return p.name == key && steps::isText(p.kind); });
        arguments.insert_or_assign(
            name, isText ? steps::Value(value.at(1).get<std::string>()) : steps::Value(numberFrom(value.at(0))));
    }
    return arguments;
}

Json motionJson(const mesh::Motion& motion) {
    Json linear = Json::array();
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 3; ++c) linear.push_back(motion.linear(r, c));
    return {{"linear", linear},
            {"shift", pointJson(motion.shift)},
            {"bits", motion.precision == mesh::Precision::Single ? 32 : 64}};
}

mesh::Motion motionFrom(const Json& j) {
    mesh::Motion motion;
    for (int i = 0; i < 9; ++i)
        motion.linear(i / 3, i % 3) = j.at("linear").at(static_cast<std::size_t>(i)).get<double>();
    motion.shift = pointFrom(j.at("shift"));
    motion.precision = j.at("bits") == 32 ? mesh::Precision::Single : mesh::Precision::Double;
    return motion;
}

std::optional<steps::Listed::Kind> kindNamed(const std::string& name) {
    for (int i = steps::Listed::Goes; i <= steps::Listed::Made; ++i)
        if (const auto kind = static_cast<steps::Listed::Kind>(i); steps::nameOf(kind) == name) return kind;
    return std::nullopt;
}

}  // namespace

// ---- the file

struct Store::Open {
    sqlite3* db = nullptr;
    fs::path file;
    std::optional<Identity> identity;
    std::uint64_t written = 0;
    // Surfaces that are known to be there, as long as they live.
    struct Known {
        std::weak_ptr<const mesh::Mesh> mesh;
        std::int64_t id = 0;
    };
    std::map<const mesh::Mesh*, Known> known;

    ~Open() { sqlite3_close(db); }

    [[nodiscard]] mesh::Error failure(std::string_view doing) const {
        return errorOf(fmt::format("{}: could not {}: {}", file.string(), doing, sqlite3_errmsg(db)));
    }
    [[nodiscard]] bool run(const char* sql) const {
        return sqlite3_exec(db, sql, nullptr, nullptr, nullptr) == SQLITE_OK;
    }

    Outcome<void> connect(const fs::path& path, bool anew);

    // ---- writing
    Outcome<std::int64_t> keep(const std::shared_ptr<const mesh::Mesh>& m, std::optional<std::int64_t> base);
    Outcome<std::string> bytesOfSurface(std::int64_t id) const;
    Outcome<Json> listedJson(const steps::Listed& listed);
    Outcome<Json> recordJson(const steps::Record& record);
    Outcome<Json> stopJson(const Stop& stop);
    Outcome<void> savePart(std::size_t place, const StoredPart& part);
    std::set<std::int64_t> pieces;  // surfaces that are named in JSON

    // ---- reading
    Outcome<std::shared_ptr<const mesh::Mesh>> surface(std::int64_t id);
    Outcome<steps::Listed> listedFrom(const Json& j);
    Outcome<steps::Record> recordFrom(const Json& j);
    Outcome<StoredPart> loadPart(std::int64_t place, const Json& about, std::vector<std::string>& damage);
    std::map<std::int64_t, std::weak_ptr<const mesh::Mesh>> read;
    std::map<std::int64_t, std::shared_ptr<const std::string>> bases;  // unpacked, while a project is read
};

Outcome<void> Store::Open::connect(const fs::path& path, bool anew) {
    file = path;
    const int flags = SQLITE_OPEN_READWRITE | SQLITE_OPEN_NOMUTEX | (anew ? SQLITE_OPEN_CREATE : 0);
    if (!anew && !fs::exists(path))
        return tl::unexpected(errorOf(fmt::format("{}: there is no such file", path.string())));
    if (sqlite3_open_v2(path.c_str(), &db, flags, nullptr) != SQLITE_OK) return tl::unexpected(failure("open it"));
    sqlite3_busy_timeout(db, 0);
    // Locked for others as long as it is open; each commit is on disk before it returns.
    if (!run("PRAGMA locking_mode = EXCLUSIVE; PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL; PRAGMA "
             "foreign_keys = OFF; "
             "BEGIN IMMEDIATE; COMMIT;")) {
        if (sqlite3_errcode(db) == SQLITE_BUSY)
            return tl::unexpected(errorOf(
                fmt::format("{}: it is open elsewhere; close it there, or open a copy of the file", path.string())));
        if (sqlite3_errcode(db) == SQLITE_NOTADB)
            return tl::unexpected(mesh::Error{mesh::ErrorKind::BadInput,
                                              fmt::format("{}: this is no project of Zither", path.string()),
                                              mesh::errorcode::unreadable, path.string()});
        return tl::unexpected(failure("open it"));
    }
    if (anew) {
        const std::string head =
            fmt::format("PRAGMA application_id = {}; PRAGMA user_version = {};", applicationId, formatVersion);
        if (!run((std::string("BEGIN;") + tables + head + "COMMIT;").c_str()))
            return tl::unexpected(failure("begin a project"));
    } else {
        Statement application(db, "PRAGMA application_id");
        Statement version(db, "PRAGMA user_version");
        if (!application.step() || application.number(0) != applicationId || !version.step())
            return tl::unexpected(mesh::Error{mesh::ErrorKind::BadInput,
                                              fmt::format("{}: this is no project of Zither", path.string()),
                                              mesh::errorcode::unreadable, path.string()});
        if (version.number(0) > formatVersion)
            return tl::unexpected(mesh::Error{
                mesh::ErrorKind::BadInput,
                fmt::format("{}: a newer Zither made this project (version {} of the file; this one reads up to {}): "
                            "update Zither, or save it there for an older one",
                            path.string(), version.number(0), formatVersion),
                mesh::errorcode::unreadable, path.string()});
    }
    identity = identityOf(path);
    return {};
}

// ---- writing

Outcome<std::string> Store::Open::bytesOfSurface(std::int64_t id) const {
    Statement row(db, surfaceRow);
    if (!row.bind(id).step()) return tl::unexpected(failure("read a surface"));
    std::string base;
    if (!row.isNull(2)) {
        auto below = bytesOfSurface(row.number(2));
        if (!below) return below;
        base = std::move(*below);
    }
    return bytesOfRow(row, base);
}

Outcome<std::int64_t> Store::Open::keep(const std::shared_ptr<const mesh::Mesh>& m, std::optional<std::int64_t> base) {
    if (const auto it = known.find(m.get()); it != known.end() && it->second.mesh.lock() == m) return it->second.id;
    const std::string bytes = bytesOf(*m);
    const ContentHash hash = hashOf(bytes);
    const std::string_view hashBytes(reinterpret_cast<const char*>(hash.data()), hash.size());
    Statement there(db, "SELECT id FROM surfaces WHERE hash = ?");
    if (there.bindBytes(hashBytes).step()) {
        known[m.get()] = {m, there.number(0)};
        return there.number(0);
    }
    auto best = packed(bytes);
    if (!best) return mesh::errorOf(best);
    bool alone = true;
    if (base) {
        const auto below = bytesOfSurface(*base);
        if (!below) return mesh::errorOf(below);
        auto against = packed(bytes, *below);
        if (!against) return mesh::errorOf(against);
        if (against->size() < best->size()) {
            best = std::move(against);
            alone = false;
        }
    }
    Statement insert(db, "INSERT INTO surfaces (hash, size, base, data) VALUES (?, ?, ?, ?)");
    insert.bindBytes(hashBytes).bind(static_cast<std::int64_t>(bytes.size()));
    alone ? insert.bindNull() : insert.bind(*base);
    insert.bindBytes(*best).step();
    if (!insert.good()) return tl::unexpected(failure("write a surface"));
    written += best->size();
    const std::int64_t id = sqlite3_last_insert_rowid(db);
    known[m.get()] = {m, id};
    return id;
}

Outcome<Json> Store::Open::listedJson(const steps::Listed& listed) {
    Json j = {{"kind", steps::nameOf(listed.kind)},
              {"at", pointJson(listed.position)},
              {"size", numberOf(listed.size)},
              {"text", listed.text}};
    if (listed.piece) {
        const auto id = keep(listed.piece, std::nullopt);
        if (!id) return mesh::errorOf(id);
        pieces.insert(*id);
        j["piece"] = *id;
    }
    return j;
}

Outcome<Json> Store::Open::recordJson(const steps::Record& record) {
    Json numbers = Json::array();
    for (const steps::Record::Number& n : record.numbers) numbers.push_back({n.key, numberOf(n.value)});
    Json all = Json::array();
    for (const steps::Listed& l : record.listed) {
        auto one = listedJson(l);
        if (!one) return one;
        all.push_back(std::move(*one));
    }
    Json j = {{"numbers", numbers}, {"headline", record.headline}, {"sentences", record.sentences}, {"listed", all}};
    if (record.motion) j["motion"] = motionJson(*record.motion);
    if (!record.unit.empty()) j["unit"] = record.unit;
    if (record.told)
        for (const auto& [name, told] : {std::pair{"closing", &record.told->closing},
                                         {"may_go", &record.told->mayGo},
                                         {"reshaped", &record.told->reshaped},
                                         {"bodies", &record.told->bodies}}) {
            const auto id = keep(std::make_shared<const mesh::Mesh>(*told), std::nullopt);
            if (!id) return mesh::errorOf(id);
            pieces.insert(*id);
            j["told"][name] = *id;
        }
    return j;
}

Outcome<Json> Store::Open::stopJson(const Stop& stop) {
    auto record = recordJson(stop.record);
    if (!record) return record;
    Json j = {{"label", stop.label}, {"why", stop.why}, {"seconds", stop.seconds}, {"record", std::move(*record)}};
    if (stop.call) {
        j["call"] = {
            {"step", stop.call->step->name}, {"given", argumentsJson(stop.call->given)}, {"pick", stop.call->pick}};
        if (!stop.call->onlyIf.empty()) j["call"]["only_if"] = stop.call->onlyIf;
    }
    j["used"] = argumentsJson(stop.used);
    return j;
}

Outcome<void> Store::Open::savePart(std::size_t place, const StoredPart& part) {
    Json left = Json::object();
    for (const auto& [stop, all] : part.left)
        for (const steps::Listed& l : all) {
            auto one = listedJson(l);
            if (!one) return mesh::errorOf(one);
            left[std::to_string(stop)].push_back(std::move(*one));
        }
    const Json about = {{"name", part.name},
                        {"file", part.file},
                        {"format", part.format},
                        {"unit", part.unit},
                        {"unit_assumed", part.unitAssumed},
                        {"remarks", part.remarks},
                        {"not_kept", part.notKept},
                        {"current", part.track.current()},
                        {"left", left}};
    Statement insert(db, "INSERT INTO parts (place, about) VALUES (?, ?)");
    insert.bind(static_cast<std::int64_t>(place))
        .bind(about.dump(-1, ' ', false, Json::error_handler_t::replace))
        .step();
    if (!insert.good()) return tl::unexpected(failure("write a part"));
    std::optional<std::int64_t> base;
    for (StopId id = 0; id < part.track.stops().size(); ++id) {
        const Stop& stop = part.track.stop(id);
        const auto surface = keep(stop.part->shared(), base);
        if (!surface) return mesh::errorOf(surface);
        if (id == 0) base = *surface;
        auto j = stopJson(stop);
        if (!j) return mesh::errorOf(j);
        Statement row(db, "INSERT INTO stops (part, stop, parent, surface, about) VALUES (?, ?, ?, ?, ?)");
        row.bind(static_cast<std::int64_t>(place))
            .bind(std::int64_t{id})
            .bind(std::int64_t{stop.parent})
            .bind(*surface);
        row.bind(j->dump(-1, ' ', false, Json::error_handler_t::replace)).step();
        if (!row.good()) return tl::unexpected(failure("write a stop"));
    }
    return {};
}

Outcome<void> Store::save(const Project& project, mesh::Progress& progress) {
    Open& o = *open_;
    if (identityOf(o.file) != o.identity)
        return tl::unexpected(errorOf(fmt::format(
            "{}: the file was moved, removed or replaced since it was opened; save the project under another name",
            o.file.string())));
    o.written = 0;
    o.pieces.clear();
    std::erase_if(o.known, [](const auto& entry) { return entry.second.mesh.expired(); });
    if (!o.run("BEGIN IMMEDIATE")) return tl::unexpected(o.failure("write"));
    const auto undo = [&](mesh::Error error) {
        static_cast<void>(o.run("ROLLBACK"));
        o.known.clear();
        return tl::unexpected(std::move(error));
    };
    if (!o.run("DELETE FROM stops; DELETE FROM parts; DELETE FROM window;")) return undo(o.failure("write"));
    for (std::size_t i = 0; i < project.parts.size(); ++i) {
        if (const auto saved = o.savePart(i, project.parts[i]); !saved) return undo(saved.error());
        if (!progress.report(static_cast<double>(i + 1) / static_cast<double>(project.parts.size() + 1)))
            return undo(mesh::cancelled().value());
    }
    const Json window = Json::parse(project.window, nullptr, false);
    Json pieces = Json::array();
    for (const std::int64_t id : o.pieces) pieces.push_back(id);
    const Json about = {
        {"front", project.front ? Json(*project.front) : Json()}, {"pieces", pieces}, {"window", window}};
    Statement row(o.db, "INSERT INTO window (id, about) VALUES (1, ?)");
    row.bind(about.dump(-1, ' ', false, Json::error_handler_t::replace)).step();
    if (!row.good()) return undo(o.failure("write"));
    // What nothing needs any more goes.
    if (!o.run(
            "DELETE FROM surfaces WHERE id NOT IN (SELECT surface FROM stops) "
            "AND id NOT IN (SELECT value FROM window, json_each(window.about, '$.pieces')) "
            "AND id NOT IN (SELECT base FROM surfaces WHERE base IS NOT NULL AND id IN (SELECT surface FROM stops));"))
        return undo(o.failure("tidy up"));
    if (!o.run("COMMIT")) return undo(o.failure("write"));
    static_cast<void>(progress.report(1));
    return {};
}

// ---- reading

Outcome<std::shared_ptr<const mesh::Mesh>> Store::Open::surface(std::int64_t id) {
    if (auto there = read[id].lock()) return there;
    Statement row(db, surfaceRow);
    if (!row.bind(id).step())
        return tl::unexpected(mesh::Error{mesh::ErrorKind::BadInput, "a surface of this project is missing",
                                          mesh::errorcode::unreadable});
    std::shared_ptr<const std::string> base;
    if (!row.isNull(2)) {
        base = bases[row.number(2)];
        if (!base) {
            auto below = bytesOfSurface(row.number(2));
            if (!below) return mesh::errorOf(below);
            base = bases[row.number(2)] = std::make_shared<const std::string>(std::move(*below));
        }
    }
    const auto bytes = bytesOfRow(row, base ? std::string_view(*base) : std::string_view());
    if (!bytes) return mesh::errorOf(bytes);
    auto mesh = surfaceFrom(*bytes);
    if (!mesh) return mesh::errorOf(mesh);
    auto shared = std::make_shared<const mesh::Mesh>(std::move(*mesh));
    read[id] = shared;
    known[shared.get()] = {shared, id};
    return shared;
}

Outcome<steps::Listed> Store::Open::listedFrom(const Json& j) {
    steps::Listed listed;
    listed.kind = kindNamed(j.at("kind").get<std::string>()).value_or(steps::Listed::Left);
    listed.position = pointFrom(j.at("at"));
    listed.size = numberFrom(j.at("size"));
    listed.text = j.at("text").get<std::string>();
    if (j.contains("piece")) {
        auto piece = surface(j["piece"].get<std::int64_t>());
        if (!piece) return mesh::errorOf(piece);
        listed.piece = std::move(*piece);
    }
    return listed;
}

Outcome<steps::Record> Store::Open::recordFrom(const Json& j) {
    steps::Record record;
    for (const Json& n : j.at("numbers")) record.add(n.at(0).get<std::string>(), numberFrom(n.at(1)));
    record.headline = j.at("headline").get<std::string>();
    record.sentences = j.at("sentences").get<std::vector<std::string>>();
    for (const Json& l : j.at("listed")) {
        auto one = listedFrom(l);
        if (!one) return mesh::errorOf(one);
        record.listed.push_back(std::move(*one));
    }
    if (j.contains("motion")) record.motion = motionFrom(j["motion"]);
    record.unit = j.value("unit", "");
    if (j.contains("told")) {
        auto told = std::make_shared<measure::Told>();
        for (const auto& [name, mesh] : {std::pair{"closing", &told->closing},
                                         {"may_go", &told->mayGo},
                                         {"reshaped", &told->reshaped},
                                         {"bodies", &told->bodies}}) {
            // Projects of before do not tell what was reshaped from what might go.
            if (!j["told"].contains(name)) continue;
            const auto of = surface(j["told"].at(name).get<std::int64_t>());
            if (!of) return mesh::errorOf(of);
            *mesh = **of;
        }
        record.told = std::move(told);
    }
    return record;
}

namespace {

// Whatever a stop or part says that makes no sense is an error in words, never an exception.
template <class Read>
auto guarded(const Read& read) -> decltype(read()) {
    try {
        return read();
    } catch (const Json::exception& e) {
        return tl::unexpected(mesh::Error{mesh::ErrorKind::BadInput,
                                          fmt::format("what is written of it makes no sense ({})", e.what()),
                                          mesh::errorcode::unreadable});
    }
}

}  // namespace

Outcome<StoredPart> Store::Open::loadPart(std::int64_t place, const Json& about, std::vector<std::string>& damage) {
    const std::string name = about.at("name").get<std::string>();
    std::vector<Stop> stops;
    std::vector<std::optional<StopId>> numbers;  // of each stop of the file, here
    Statement rows(db, "SELECT stop, parent, surface, about FROM stops WHERE part = ? ORDER BY stop");
    rows.bind(place);
    while (rows.step()) {
        const auto number = static_cast<std::size_t>(rows.number(0));
        const auto parent = static_cast<std::size_t>(rows.number(1));
        if (numbers.size() <= number) numbers.resize(number + 1);
        const auto stop = guarded([&]() -> Outcome<Stop> {
            if (number > 0 && (parent >= number || !numbers[parent]))
                return tl::unexpected(mesh::Error{mesh::ErrorKind::BadInput, "the stop before it could not be read"});
            const Json j = Json::parse(rows.bytes(3));
            Stop made;
            made.parent = number > 0 ? *numbers[parent] : 0;
            made.label = j.at("label").get<std::string>();
            made.why = j.at("why").get<std::string>();
            made.seconds = j.at("seconds").get<double>();
            if (j.contains("call")) {
                const Json& call = j["call"];
                const steps::Step* step = steps::findStep(call.at("step").get<std::string>());
                if (!step)
                    return tl::unexpected(mesh::Error{
                        mesh::ErrorKind::BadInput, fmt::format("this Zither has no step {}", call.at("step").dump())});
                made.call = steps::StepCall{step, argumentsFrom(step, call.at("given")),
                                            call.at("pick").get<std::string>(), call.value("only_if", "")};
            }
            made.used = argumentsFrom(made.call ? made.call->step : nullptr, j.at("used"));
            auto record = recordFrom(j.at("record"));
            if (!record) return mesh::errorOf(record);
            made.record = std::move(*record);
            auto mesh = surface(rows.number(2));
            if (!mesh) return mesh::errorOf(mesh);
            made.part = std::make_shared<const check::Surveyed>(std::move(*mesh));
            return made;
        });
        if (!stop) {
            damage.push_back(fmt::format("{}: stop {} could not be read: {}", name, number, stop.error().message));
            continue;
        }
        numbers[number] = static_cast<StopId>(stops.size());
        stops.push_back(*stop);
    }
    if (!rows.good()) damage.push_back(fmt::format("{}: {}", name, sqlite3_errmsg(db)));
    if (stops.empty() || !numbers[0])
        return tl::unexpected(mesh::Error{mesh::ErrorKind::BadInput,
                                          fmt::format("{}: its import could not be read", name),
                                          mesh::errorcode::unreadable});
    // Where the stop in front is gone the last one before it that is there.
    auto current = about.at("current").get<std::size_t>();
    while (current > 0 && (current >= numbers.size() || !numbers[current])) --current;
    StoredPart part{name,
                    about.at("file").get<std::string>(),
                    about.at("format").get<std::string>(),
                    about.at("unit").get<std::string>(),
                    about.at("unit_assumed").get<bool>(),
                    about.at("remarks").get<std::vector<std::string>>(),
                    about.at("not_kept").get<std::vector<std::string>>(),
                    Track(std::move(stops), *numbers[current]),
                    {}};
    for (const auto& [stop, all] : about.at("left").items()) {
        const std::size_t number = std::stoul(stop);
        if (number >= numbers.size() || !numbers[number]) continue;
        for (const Json& l : all)
            if (auto one = listedFrom(l)) part.left[*numbers[number]].push_back(std::move(*one));
    }
    return part;
}

Outcome<Project> Store::load(mesh::Progress& progress) {
    Open& o = *open_;
    if (!progress.report(0)) return mesh::cancelled();
    Project project;
    Statement count(o.db, "SELECT COUNT(*) FROM parts");
    const auto parts = count.step() ? static_cast<double>(count.number(0)) : 0.0;
    std::vector<std::optional<std::size_t>> places;
    Statement rows(o.db, "SELECT place, about FROM parts ORDER BY place");
    while (rows.step()) {
        const auto part =
            guarded([&] { return o.loadPart(rows.number(0), Json::parse(rows.bytes(1)), project.damage); });
        places.emplace_back();
        if (part) {
            places.back() = project.parts.size();
            project.parts.push_back(*part);
        } else {
            project.damage.push_back(part.error().message);
        }
        o.bases.clear();
        if (!progress.report(static_cast<double>(places.size()) / (parts + 1))) return mesh::cancelled();
    }
    if (!rows.good()) project.damage.emplace_back(fmt::format("parts could not be read: {}", sqlite3_errmsg(o.db)));
    Statement window(o.db, "SELECT about FROM window");
    if (window.step())
        if (const Json about = Json::parse(window.bytes(0), nullptr, false); about.is_object()) {
            if (about.contains("front") && about["front"].is_number_unsigned())
                if (const auto front = about["front"].get<std::size_t>(); front < places.size())
                    project.front = places[front];
            if (about.contains("window") && about["window"].is_object()) project.window = about["window"].dump();
        }
    if (!project.front && !project.parts.empty()) project.front = 0;
    if (!progress.report(1)) return mesh::cancelled();
    return project;
}

Outcome<std::vector<std::string>> Store::partNames() const {
    std::vector<std::string> names;
    Statement rows(open_->db, "SELECT about FROM parts ORDER BY place");
    while (rows.step())
        if (const Json about = Json::parse(rows.bytes(0), nullptr, false);
            about.is_object() && about.contains("name") && about["name"].is_string())
            names.push_back(about["name"].get<std::string>());
    if (!rows.good()) return tl::unexpected(open_->failure("read it"));
    return names;
}

bool Store::hasSteps() const {
    return Statement(open_->db, "SELECT 1 FROM stops WHERE stop > 0 LIMIT 1").step();
}

Outcome<Store> Store::create(const fs::path& file) {
    std::error_code ignored;
    if (fs::exists(file, ignored)) return open(file);
    auto made = std::make_unique<Open>();
    if (const auto connected = made->connect(file, true); !connected) return mesh::errorOf(connected);
    return Store(std::move(made));
}

Outcome<Store> Store::open(const fs::path& file) {
    auto made = std::make_unique<Open>();
    if (const auto connected = made->connect(file, false); !connected) return mesh::errorOf(connected);
    return Store(std::move(made));
}

Store::Store(std::unique_ptr<Open> open) : open_(std::move(open)) {}
Store::Store(Store&&) noexcept = default;
Store& Store::operator=(Store&&) noexcept = default;
Store::~Store() = default;

const fs::path& Store::file() const {
    return open_->file;
}

std::uint64_t Store::written() const {
    return open_->written;
}

}  // namespace zither::project
