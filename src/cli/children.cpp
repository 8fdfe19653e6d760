// posix_spawn, with standard output and error in files without a name: however much is said, nobody waits for a reader.
#include "cli/children.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <signal.h>
#include <spawn.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <array>
#include <cerrno>
#include <cstring>
#include <filesystem>
#include <system_error>
#include <utility>

namespace zither::cli {
namespace {

int namelessFile() {
    std::error_code wrong;
    const std::filesystem::path folder = std::filesystem::temp_directory_path(wrong);
    if (wrong) {
        errno = wrong.value();
        return -1;
    }
    std::string name = folder / "zither.XXXXXX";
    const int descriptor = ::mkostemp(name.data(), O_CLOEXEC);
    if (descriptor >= 0) ::unlink(name.c_str());
    return descriptor;
}

std::string contentOf(int descriptor) {
    std::string content;
    std::array<char, 65536> block{};
    off_t at = 0;
    for (ssize_t got = 0; (got = ::pread(descriptor, block.data(), block.size(), at)) > 0; at += got)
        content.append(block.data(), static_cast<std::size_t>(got));
    return content;
}

mesh::Error couldNot(const std::string& program, int error) {
    return {mesh::ErrorKind::Environment, fmt::format("{}: could not be started: {}", program, std::strerror(error))};
}

}  // namespace

mesh::Outcome<Child> Child::start(const std::vector<std::string>& command, std::uint64_t memory) {
    Child child;
    child.out_ = namelessFile();
    child.err_ = namelessFile();
    if (child.out_ < 0 || child.err_ < 0) return tl::unexpected(couldNot(command.front(), errno));
    posix_spawn_file_actions_t files;
    posix_spawn_file_actions_init(&files);
    posix_spawn_file_actions_addopen(&files, STDIN_FILENO, "/dev/null", O_RDONLY, 0);
    posix_spawn_file_actions_adddup2(&files, child.out_, STDOUT_FILENO);
    posix_spawn_file_actions_adddup2(&files, child.err_, STDERR_FILENO);
    std::vector<std::string> words = command;
    std::vector<char*> arguments;
    arguments.reserve(words.size() + 1);
    for (std::string& word : words) arguments.push_back(word.data());
    arguments.push_back(nullptr);
    const int failed =
        ::posix_spawn(&child.process_, command.front().c_str(), &files, nullptr, arguments.data(), environ);
    posix_spawn_file_actions_destroy(&files);
    if (failed != 0) {
        child.process_ = -1;
        return tl::unexpected(couldNot(command.front(), failed));
    }
    if (memory > 0) {
        const rlimit limit{memory, memory};
        ::prlimit(child.process_, RLIMIT_AS, &limit, nullptr);
    }
    return child;
}

Child::Child(Child&& other) noexcept
    : process_(std::exchange(other.process_, -1)),
      out_(std::exchange(other.out_, -1)),
      err_(std::exchange(other.err_, -1)),
      end_(other.end_),
      begun_(other.begun_) {}

Child& Child::operator=(Child&& other) noexcept {
    std::swap(process_, other.process_);
    std::swap(out_, other.out_);
    std::swap(err_, other.err_);
    std::swap(end_, other.end_);
    std::swap(begun_, other.begun_);
    return *this;
}

Child::~Child() {
    if (process_ > 0 && !ended()) {
        kill();
        ::waitpid(process_, nullptr, 0);
    }
    for (const int descriptor : {out_, err_})
        if (descriptor >= 0) ::close(descriptor);
}

std::optional<Child::End> Child::ended() {
    if (end_ || process_ <= 0) return end_;
    int status = 0;
    if (::waitpid(process_, &status, WNOHANG) != process_) return std::nullopt;
    end_ = WIFSIGNALED(status) ? End{0, WTERMSIG(status)} : End{WEXITSTATUS(status), 0};
    return end_;
}

void Child::interrupt() {
    if (process_ > 0 && !end_) ::kill(process_, SIGINT);
}

void Child::kill() {
    if (process_ > 0 && !end_) ::kill(process_, SIGKILL);
}

double Child::seconds() const {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - begun_).count();
}

std::string Child::out() const {
    return contentOf(out_);
}

std::string Child::err() const {
    return contentOf(err_);
}

}  // namespace zither::cli
