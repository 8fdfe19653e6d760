// spdlog, with a file that rotates.
#include "project/journal.h"

#include <fmt/format.h>
#include <spdlog/sinks/rotating_file_sink.h>
#include <spdlog/sinks/stdout_sinks.h>
#include <spdlog/spdlog.h>
#include <sys/utsname.h>

#include <deque>
#include <fstream>
#include <mutex>
#include <thread>

#include "mesh/memory.h"

namespace zither::project::journal {
namespace {

constexpr std::size_t fileBytes = 1U << 20;
constexpr std::size_t files = 3;
constexpr std::size_t recentLines = 200;

// Nothing is written before somebody asks for it.
struct Desk {
    std::mutex guard;
    std::shared_ptr<spdlog::logger> logger;
    std::filesystem::path file;
};
Desk& desk() {
    static Desk only;
    return only;
}

void use(const std::shared_ptr<spdlog::sinks::sink>& sink) {
    const std::lock_guard lock(desk().guard);
    if (!desk().logger) {
        desk().logger = std::make_shared<spdlog::logger>("zither");
        // A line that was not written may be the one that tells why the program ended.
        desk().logger->flush_on(spdlog::level::info);
        // A full disk is no reason to end, nor to speak of the journal.
        desk().logger->set_error_handler([](const std::string&) {});
    }
    sink->set_pattern("%Y-%m-%d %H:%M:%S.%e %l %v");
    desk().logger->sinks().push_back(sink);
}

void write(spdlog::level::level_enum level, const std::string& line) {
    const std::lock_guard lock(desk().guard);
    if (desk().logger) desk().logger->log(level, line);
}

}  // namespace

void writeToStandardError() {
    static std::once_flag once;
    std::call_once(once, [] { use(std::make_shared<spdlog::sinks::stderr_sink_st>()); });
}

void writeTo(const std::filesystem::path& folder) {
    try {
        std::filesystem::create_directories(folder);
        const std::filesystem::path file = folder / "zither.log";
        use(std::make_shared<spdlog::sinks::rotating_file_sink_st>(file.string(), fileBytes, files));
        const std::lock_guard lock(desk().guard);
        desk().file = file;
    } catch (const std::exception&) {
        // No folder, no journal.
    }
}

void note(const std::string& what) {
    write(spdlog::level::info, what);
}

void ended(const std::string& what, double seconds) {
    write(spdlog::level::info,
          fmt::format("{}: {:.3f} s, {} in use", what, seconds, mesh::memoryText(mesh::usedMemory())));
}

void failed(const std::string& what, const mesh::Error& error) {
    write(error.cancelled() ? spdlog::level::info : spdlog::level::err,
          fmt::format("{}: {} ({})", what, error.message, error.code));
}

std::string recent(const std::string& program) {
    utsname system{};
    uname(&system);
    std::string text =
        fmt::format("{}\n{} {} {}, {} cores, {} free\n", program, system.sysname, system.release, system.machine,
                    std::thread::hardware_concurrency(), mesh::memoryText(mesh::availableMemory()));
    std::filesystem::path file;
    {
        const std::lock_guard lock(desk().guard);
        if (desk().logger) desk().logger->flush();
        file = desk().file;
    }
    std::ifstream in(file);
    std::deque<std::string> lines;
    for (std::string line; std::getline(in, line);) {
        lines.push_back(std::move(line));
        if (lines.size() > recentLines) lines.pop_front();
    }
    for (const std::string& line : lines) text += line + "\n";
    return text;
}

}  // namespace zither::project::journal
