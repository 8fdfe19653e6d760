// A line of the report is written as soon as its file is done, so that nothing is done twice after a power cut; in the
// end the lines are put in the order of the files.
#include "cli/batch.h"

#include <fmt/format.h>
#include <sys/stat.h>

#include <algorithm>
#include <deque>
#include <filesystem>
#include <fstream>
#include <map>
#include <nlohmann/json.hpp>
#include <optional>
#include <set>
#include <sstream>
#include <thread>

#include "cli/arguments.h"
#include "cli/children.h"
#include "io/atomic_file.h"
#include "io/surface_file.h"

namespace zither::cli {
namespace {

namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;
using mesh::Outcome;
using Clock = std::chrono::steady_clock;

constexpr std::chrono::milliseconds pause(20);
// A file that comes into a watched folder is read once it has not changed for so long.
constexpr std::chrono::seconds lookAgain(2);
// A process that was asked to stop has so long to put things back.
constexpr double patience = 5;

mesh::Error wrong(std::string message) {
    return {mesh::ErrorKind::BadInput, std::move(message)};
}

// What tells whether a file is the one that it was.
struct Stamp {
    std::uint64_t size = 0;
    std::int64_t modified = 0;  // nanoseconds
    bool operator==(const Stamp&) const = default;
};

std::optional<Stamp> stampOf(const fs::path& file) {
    struct stat about {};
    if (::stat(file.c_str(), &about) != 0) return std::nullopt;
    return Stamp{static_cast<std::uint64_t>(about.st_size),
                 about.st_mtim.tv_sec * 1'000'000'000LL + about.st_mtim.tv_nsec};
}

Json jsonOf(const Stamp& stamp) {
    return {{"size", stamp.size}, {"modified", stamp.modified}};
}

struct Shard {
    std::size_t which = 1;
    std::size_t of = 1;
};

Outcome<Shard> shardFrom(const std::string& text) {
    Shard shard;
    char slash = 0;
    std::istringstream in(text);
    if (!(in >> shard.which >> slash >> shard.of) || slash != '/' || in.peek() != EOF || shard.which < 1 ||
        shard.which > shard.of)
        return tl::unexpected(wrong(fmt::format("--shard {}: give it as i/n, as 2/8, with i from 1 to n", text)));
    return shard;
}

constexpr const char* reportName = "report.jsonl";

struct Found {
    std::vector<fs::path> files;
    std::map<fs::path, fs::path> below;  // of a file in a folder within a named one: the way from that to it
    std::set<fs::path> skipped;          // folders within folders
    std::vector<fs::path> reports;       // of earlier runs
};

bool isSurfaceName(const fs::path& file) {
    return io::formatForWriting(file) && !file.filename().string().starts_with('.');
}

// The surface files of a folder by their extensions; with those of the folders in it where `recursive`.
// `below`: the way to it from the folder that was named.
std::error_code addFolder(const fs::path& folder, const fs::path& below, bool recursive, Found& found) {
    std::error_code error;
    for (fs::directory_iterator it(folder, error), end; !error && it != end; it.increment(error)) {
        std::error_code none;
        if (it->is_directory(none)) {
            if (it->path().filename().string().starts_with('.')) continue;
            if (!recursive)
                found.skipped.insert(it->path());
            else if (const std::error_code within =
                         addFolder(it->path(), below / it->path().filename(), recursive, found))
                return within;
        } else if (it->path().filename() == reportName) {
            found.reports.push_back(it->path());
        } else if (isSurfaceName(it->path())) {
            found.files.push_back(it->path());
            if (!below.empty()) found.below[it->path()] = below;
        }
    }
    return error;
}

// Files as they are named, and those of folders; each once, by name.
Outcome<Found> filesOf(const std::vector<std::string>& inputs, bool recursive) {
    Found found;
    for (const std::string& input : inputs) {
        std::error_code error;
        if (!fs::is_directory(input, error))
            found.files.emplace_back(input);
        else if (const std::error_code failed = addFolder(input, {}, recursive, found))
            return tl::unexpected(wrong(fmt::format("{}: {}", input, failed.message())));
    }
    std::sort(found.files.begin(), found.files.end());
    found.files.erase(std::unique(found.files.begin(), found.files.end()), found.files.end());
    return found;
}

std::string replaced(std::string text, std::string_view what, const std::string& by) {
    for (std::size_t at = text.find(what); at != std::string::npos; at = text.find(what, at + by.size()))
        text.replace(at, what.size(), by);
    return text;
}

class Batch {
public:
    Batch(const BatchOptions& options, std::string program, const Console& console)
        : options_(options), program_(std::move(program)), console_(console), progress_(console) {
        reportFile_ = options.report.empty() ? fs::path(options.output) / reportName : fs::path(options.report);
    }

    int run() {
        if (const auto ready = prepare(); !ready) return fail(ready.error());
        const auto begun = Clock::now();
        while (true) {
            if (const auto found = look(); !found) return fail(found.error());
            work();
            if (stopped() || !options_.watch) break;
            std::this_thread::sleep_for(pause);
        }
        progress_.clear();
        if (const auto sorted = writeReport(); !sorted) return fail(sorted.error());
        const double seconds = std::chrono::duration<double>(Clock::now() - begun).count();
        console_.out << summary(seconds);
        if (stopped() && !options_.watch) {
            console_.err << "zither-cli: interrupted; finished files stay, and --resume goes on from there\n";
            return wasInterrupted;
        }
        return counts_["failed"] + counts_["stopped"] > 0 ? wrongCall : counts_["not-met"] > 0 ? notMet : metAll;
    }

private:
    struct Running {
        std::size_t number = 0;
        Child child;
        bool interrupted = false;
        std::string stoppedFor = {};  // "time"
    };

    int fail(const mesh::Error& error) {
        progress_.clear();
        console_.err << "zither-cli: " << error.message << "\n";
        return wrongCall;
    }

    [[nodiscard]] bool stopped() const { return console_.interrupted && *console_.interrupted; }

    Outcome<void> prepare() {
        auto shard = shardFrom(options_.shard);
        if (!shard) return mesh::errorOf(shard);
        shard_ = *shard;
        if (options_.names.find("{name}") == std::string::npos)
            return tl::unexpected(
                wrong(fmt::format("--names {}: it needs a {{name}}, so that files differ", options_.names)));
        std::error_code error;
        fs::create_directories(options_.output, error);
        if (error) return tl::unexpected(wrong(fmt::format("{}: {}", options_.output, error.message())));
        readOutputs(reportFile_);
        if (options_.resume) readReport();
        log_.open(reportFile_, options_.resume ? std::ios::app : std::ios::trunc);
        if (!log_)
            return tl::unexpected(wrong(fmt::format("{}: the report could not be written here", reportFile_.string())));
        return {};
    }

    // What an earlier run wrote, as its report tells.
    void readOutputs(const fs::path& report) {
        std::ifstream in(report, std::ios::binary);
        for (std::string line; std::getline(in, line);) {
            const Json j = Json::parse(line, nullptr, false);
            if (j.is_object() && j.contains("output") && j["output"].is_string())
                outputsBefore_.insert(fs::weakly_canonical(j["output"].get<std::string>()));
        }
    }

    // Lines that are whole: the last one may have been torn.
    void readReport() {
        std::ifstream in(reportFile_, std::ios::binary);
        std::streamoff at = 0;
        for (std::string line; std::getline(in, line); at += static_cast<std::streamoff>(line.size()) + 1) {
            Json j = Json::parse(line, nullptr, false);
            if (!j.is_object() || !j.contains("file")) continue;
            // What came of it is long, and stands in the report.
            j.erase("result");
            const std::string file = j["file"].get<std::string>();
            before_.insert_or_assign(file, Before{std::move(j), at});
        }
        std::error_code none;
        const auto bytes = fs::file_size(reportFile_, none);
        end_ = none ? 0 : static_cast<std::streamoff>(bytes);
        // A line that was torn must not swallow the next one.
        if (in.eof() && !before_.empty()) needsNewLine_ = true;
    }

    // The files of this shard that are not known yet; in a watched folder those that have come to rest.
    Outcome<void> look() {
        if (options_.watch && Clock::now() - looked_ < lookAgain && looked_ != Clock::time_point()) return {};
        looked_ = Clock::now();
        auto found = filesOf(options_.inputs, options_.recursive);
        if (!found) return mesh::errorOf(found);
        below_.merge(found->below);
        for (const fs::path& report : found->reports) readOutputs(report);
        saySkipped(found->skipped);
        std::vector<fs::path>& all = found->files;
        leaveOwnOutputsAlone(all);
        if (all.empty() && !options_.watch) return tl::unexpected(wrong("no surface file in what was named"));
        for (std::size_t i = 0; i < all.size(); ++i) {
            const fs::path& file = all[i];
            if (i % shard_.of != shard_.which - 1 || known_.contains(file)) continue;
            if (options_.watch && !restsNow(file)) continue;
            const fs::path target = targetOf(file);
            if (auto fine = checkTarget(target, all); !fine) return fine;
            const auto [other, fresh] = targets_.emplace(target, file);
            if (!fresh)
                return tl::unexpected(
                    wrong(fmt::format("{} and {} would both be written to {}: give --names a pattern, or "
                                      "mend them to different folders",
                                      other->second.string(), file.string(), target.string())));
            known_.insert(file);
            files_.push_back(file);
            lines_.emplace_back();
            if (isDone(file, target)) {
                const Before& before = before_[file.string()];
                lines_.back() = before.at;
                ++counts_[before.line["state"].get<std::string>()];
                ++done_;
                ++leftAlone_;
            } else {
                waiting_.push_back(files_.size() - 1);
            }
        }
        return {};
    }

    // `{name}` and `{ext}` stand for those of the file; what cannot be written is written as STL. Folders within
    // folders are made anew.
    [[nodiscard]] fs::path targetOf(const fs::path& file) const {
        std::string extension = io::formatForWriting(file) ? file.extension().string() : ".stl";
        if (!extension.empty()) extension.erase(0, 1);
        const auto way = below_.find(file);
        return fs::path(options_.output) / (way == below_.end() ? fs::path() : way->second) /
               replaced(replaced(options_.names, "{name}", file.stem().string()), "{ext}", extension);
    }

    // Once each: a watched folder is looked at again and again.
    void saySkipped(const std::set<fs::path>& folders) {
        for (const fs::path& folder : folders)
            if (skipped_.insert(folder).second) {
                progress_.clear();
                console_.err << fmt::format(
                    "zither-cli: note: {} is a folder and was left out; --recursive takes it along\n", folder.string());
            }
    }

    // What this batch wrote, now or in an earlier run, is nothing to be mended again.
    void leaveOwnOutputsAlone(std::vector<fs::path>& files) {
        std::set<fs::path> own = outputsBefore_;
        for (const auto& [target, file] : targets_) own.insert(fs::weakly_canonical(target));
        const auto gone = std::erase_if(files, [&](const fs::path& file) {
            const bool named =
                std::find(options_.inputs.begin(), options_.inputs.end(), file.string()) != options_.inputs.end();
            return !named && !known_.contains(file) && own.contains(fs::weakly_canonical(file));
        });
        if (gone > ownLeft_) {
            progress_.clear();
            console_.err << fmt::format("zither-cli: note: {} made by an earlier run and {} left alone\n",
                                        gone == 1 ? "1 file was" : fmt::format("{} files were", gone),
                                        gone == 1 ? "is" : "are");
        }
        ownLeft_ = std::max(ownLeft_, gone);
    }

    // An output that is an input would be lost.
    static Outcome<void> checkTarget(const fs::path& target, const std::vector<fs::path>& inputs) {
        std::error_code none;
        if (!fs::exists(target, none)) return {};
        for (const fs::path& input : inputs)
            if (fs::equivalent(target, input, none))
                return tl::unexpected(wrong(
                    fmt::format("{}: what is written would replace this input: name another folder with -o, or give "
                                "--names another pattern",
                                input.string())));
        return {};
    }

    bool restsNow(const fs::path& file) {
        const auto stamp = stampOf(file);
        const auto [it, fresh] = resting_.try_emplace(file, stamp);
        if (!fresh && it->second == stamp) return true;
        it->second = stamp;
        return false;
    }

    // By the report: the file is the one that was read, and what was made of it is there as it was written.
    bool isDone(const fs::path& file, const fs::path& target) const {
        const auto it = before_.find(file.string());
        if (it == before_.end()) return false;
        const Json& line = it->second.line;
        const auto same = [&](const char* key, const fs::path& path) {
            const auto now = stampOf(path);
            return now && line.contains(key) && line[key] == jsonOf(*now);
        };
        if (line.value("job", Json()) != jobJson() || !same("input", file)) return false;
        const std::string state = line.value("state", "");
        if (state == "failed") return true;
        return (state == "met" || state == "not-met") && line.value("output", "") == target.string() &&
               same("written", target);
    }

    // What is done to each file: of another job nothing is taken over.
    [[nodiscard]] Json jobJson() const {
        return {{"recipe", options_.recipe}, {"arguments", options_.repairArguments}, {"brief", options_.brief}};
    }

    [[nodiscard]] std::vector<std::string> commandFor(std::size_t number) const {
        std::vector<std::string> command = {program_,
                                            options_.recipe.empty() ? "repair" : "run",
                                            files_[number].string(),
                                            "-o",
                                            targetOf(files_[number]).string(),
                                            "--brief",
                                            options_.brief,
                                            "--json",
                                            "--quiet"};
        if (options_.jobs > 1 || options_.threads > 0)
            command.insert(command.end(), {"--threads", fmt::format("{}", threadsEach())});
        if (!options_.recipe.empty()) command.insert(command.end(), {"--recipe", options_.recipe});
        command.insert(command.end(), options_.repairArguments.begin(), options_.repairArguments.end());
        return command;
    }

    [[nodiscard]] unsigned threadsEach() const {
        const unsigned all = options_.threads > 0 ? options_.threads : std::thread::hardware_concurrency();
        return std::max(1U, all / std::max(1U, options_.jobs));
    }

    void work() {
        std::vector<Running> running;
        while (!waiting_.empty() || !running.empty()) {
            while (!stopped() && !waiting_.empty() && running.size() < std::max(1U, options_.jobs)) start(running);
            if (stopped()) {
                waiting_.clear();
                for (Running& r : running)
                    if (!std::exchange(r.interrupted, true)) r.child.interrupt();
            }
            for (std::size_t i = 0; i < running.size();) {
                mind(running[i]);
                if (const auto end = running[i].child.ended()) {
                    finish(running[i], *end);
                    running.erase(running.begin() + static_cast<std::ptrdiff_t>(i));
                } else {
                    ++i;
                }
            }
            progress_.item(fmt::format("{} of {} files", done_, files_.size()), done_, files_.size());
            static_cast<void>(progress_.report(0));
            if (!running.empty()) std::this_thread::sleep_for(pause);
        }
    }

    void start(std::vector<Running>& running) {
        const std::size_t number = waiting_.front();
        waiting_.pop_front();
        std::error_code error;
        fs::create_directories(targetOf(files_[number]).parent_path(), error);
        constexpr double gigabyte = 1e9;
        auto child = Child::start(commandFor(number), static_cast<std::uint64_t>(options_.gigabytesAFile * gigabyte));
        if (!child) {
            Json line = lineFor(number, "failed", 0);
            line["message"] = child.error().message;
            return take(number, line);
        }
        running.push_back({number, std::move(*child)});
    }

    // Asked to stop once its time is over; killed where it does not.
    void mind(Running& r) const {
        const double seconds = r.child.seconds();
        if (options_.secondsAFile <= 0 || seconds < options_.secondsAFile) return;
        if (!std::exchange(r.interrupted, true)) {
            r.stoppedFor = fmt::format("took longer than {:g} s", options_.secondsAFile);
            r.child.interrupt();
        }
        if (seconds > options_.secondsAFile + patience) r.child.kill();
    }

    Json lineFor(std::size_t number, const char* state, double seconds) const {
        Json line = {{"file", files_[number].string()}, {"state", state}, {"job", jobJson()}};
        if (const auto stamp = stampOf(files_[number])) line["input"] = jsonOf(*stamp);
        line["seconds"] = seconds;
        return line;
    }

    // What a call of one file said, without what stands before it here anyway.
    static std::string withoutNames(std::string_view said, const std::string& file) {
        while (said.ends_with('\n')) said.remove_suffix(1);
        for (const std::string& name : {std::string("zither-cli: "), file + ": "})
            if (said.starts_with(name)) said.remove_prefix(name.size());
        return std::string(said);
    }

    void finish(Running& r, const Child::End& end) {
        const std::string said = withoutNames(r.child.err(), files_[r.number].string());
        const double seconds = r.child.seconds();
        const bool worked = end.signal == 0 && (end.code == metAll || end.code == notMet);
        Json line;
        if (worked) {
            const fs::path target = targetOf(files_[r.number]);
            line = lineFor(r.number, end.code == metAll ? "met" : "not-met", seconds);
            line["output"] = target.string();
            if (const auto stamp = stampOf(target)) line["written"] = jsonOf(*stamp);
            const Json result = Json::parse(r.child.out(), nullptr, false);
            if (result.is_object()) line["result"] = result;
        } else if (!r.stoppedFor.empty() || (r.interrupted && stopped())) {
            // Not for ever: another run may have more time.
            line = lineFor(r.number, "stopped", seconds);
            line["message"] = r.stoppedFor.empty() ? "interrupted" : r.stoppedFor;
        } else {
            line = lineFor(r.number, "failed", seconds);
            line["message"] = end.signal != 0
                                  ? fmt::format("ended by signal {}{}", end.signal, said.empty() ? "" : ": " + said)
                                  : said;
        }
        take(r.number, line);
    }

    void take(std::size_t number, const Json& line) {
        const std::string state = line["state"];
        ++counts_[state];
        ++done_;
        const std::string text = (std::exchange(needsNewLine_, false) ? "\n" : "") + textOf(line) + "\n";
        lines_[number] = end_ + (text.front() == '\n' ? 1 : 0);
        end_ += static_cast<std::streamoff>(text.size());
        log_ << text << std::flush;
        if (state == "failed" || state == "stopped") {
            progress_.clear();
            console_.err << fmt::format("zither-cli: {}: {}\n", files_[number].string(), line.value("message", ""));
        }
    }

    static std::string textOf(const Json& line) { return line.dump(-1, ' ', false, Json::error_handler_t::replace); }

    // In the order of the files.
    Outcome<void> writeReport() {
        log_.close();
        std::vector<std::size_t> order(files_.size());
        for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
        std::sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) { return files_[a] < files_[b]; });
        std::ifstream in(reportFile_, std::ios::binary);
        auto sorted = io::AtomicFile::create(reportFile_);
        if (!sorted) return mesh::errorOf(sorted);
        for (const std::size_t i : order) {
            if (!lines_[i]) continue;
            std::string line;
            in.seekg(*lines_[i]);
            if (!std::getline(in, line))
                return mesh::environment(fmt::format("{}: it was changed by something else", reportFile_.string()));
            if (auto written = sorted->write(line + "\n"); !written) return written;
        }
        return sorted->commit();
    }

    std::string summary(double seconds) {
        std::string said = fmt::format("{} files in {:.1f} s: {} meet the brief, {} do not", done_, seconds,
                                       counts_["met"], counts_["not-met"]);
        if (counts_["failed"] > 0) said += fmt::format(", {} could not be done", counts_["failed"]);
        if (counts_["stopped"] > 0) said += fmt::format(", {} were stopped", counts_["stopped"]);
        if (leftAlone_ > 0) said += fmt::format("; {} were done before", leftAlone_);
        return said + fmt::format(". Each is a line in {}\n", reportFile_.string());
    }

    const BatchOptions& options_;
    std::string program_;
    const Console& console_;
    ProgressLine progress_;
    fs::path reportFile_;
    Shard shard_;
    std::ofstream log_;
    bool needsNewLine_ = false;
    // A line of an earlier run, without what came of it, and where it stands in the report.
    struct Before {
        Json line;
        std::streamoff at = 0;
    };
    std::map<std::string, Before> before_;  // by file
    std::streamoff end_ = 0;                // of the report
    std::set<fs::path> known_;
    std::map<fs::path, fs::path> below_;
    std::set<fs::path> skipped_;            // folders that were said to be left out
    std::set<fs::path> outputsBefore_;      // that earlier runs wrote
    std::size_t ownLeft_ = 0;               // of them, so many were found among the inputs
    std::map<fs::path, fs::path> targets_;  // which file is written to each
    std::map<fs::path, std::optional<Stamp>> resting_;
    Clock::time_point looked_;
    std::vector<fs::path> files_;
    std::vector<std::optional<std::streamoff>> lines_;  // where the line of each begins in the report
    std::deque<std::size_t> waiting_;
    std::map<std::string, std::size_t> counts_;
    std::size_t done_ = 0;
    std::size_t leftAlone_ = 0;
};

}  // namespace

int runBatch(const BatchOptions& options, const std::string& program, const Console& console) {
    return Batch(options, program, console).run();
}

}  // namespace zither::cli
