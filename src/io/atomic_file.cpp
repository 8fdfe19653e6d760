// mkstemp, fsync, rename; whatever takes memory comes before the file exists.
#include "io/atomic_file.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <cstring>
#include <optional>
#include <utility>
#include <vector>

namespace zither::io {

namespace fs = std::filesystem;
using mesh::environment;
using mesh::Outcome;

AtomicFile::AtomicFile(fs::path target, std::string pattern)
    : target_(std::move(target)), temporary_(std::move(pattern)) {}

AtomicFile::AtomicFile(AtomicFile&& other) noexcept
    : target_(std::move(other.target_)),
      temporary_(std::move(other.temporary_)),
      descriptor_(std::exchange(other.descriptor_, -1)) {}

AtomicFile::~AtomicFile() {
    if (descriptor_ < 0) return;
    ::close(descriptor_);
    ::unlink(temporary_.c_str());
}

tl::unexpected<mesh::Error> AtomicFile::failure(const char* doing) const {
    return environment(
        fmt::format("{}: could not {}: {}. The file was left as it was", target_.string(), doing, std::strerror(errno)),
        mesh::errorcode::environment, target_.string());
}

namespace {

// Nobody may write to it, or this user may not. Replacing it would need no permission of its own.
bool isWriteProtected(const fs::path& file) {
    struct stat about {};
    if (::stat(file.c_str(), &about) != 0) return false;
    return (about.st_mode & (S_IWUSR | S_IWGRP | S_IWOTH)) == 0 || ::access(file.c_str(), W_OK) != 0;
}

// What a link leads to in the end, which need not be there yet; none where that never ends.
std::optional<fs::path> behindLinks(fs::path path) {
    constexpr int most = 40;  // as the system follows
    for (int i = 0; i < most; ++i) {
        std::error_code none;
        if (!fs::is_symlink(path, none)) return path;
        path = path.parent_path() / fs::read_symlink(path, none);
    }
    return std::nullopt;
}

}  // namespace

Outcome<AtomicFile> AtomicFile::create(const fs::path& named) {
    std::error_code ignored;
    if (fs::is_directory(named, ignored))
        return environment(fmt::format("{}: this is a folder; name a file in it", named.string()),
                           mesh::errorcode::environment, named.string());
    // A link stays one: what it leads to is written.
    const std::optional<fs::path> target = behindLinks(named);
    if (!target)
        return environment(fmt::format("{}: this link leads round in a circle: name a file", named.string()),
                           mesh::errorcode::environment, named.string());
    return createPlain(*target);
}

Outcome<AtomicFile> AtomicFile::createPlain(const fs::path& target) {
    if (isWriteProtected(target))
        return environment(
            fmt::format("{}: this file is write-protected, and was left as it was: name another output, or "
                        "allow writing to it",
                        target.string()),
            mesh::errorcode::environment, target.string());
    const fs::path folder = target.has_parent_path() ? target.parent_path() : fs::path(".");
    // Everything that takes memory comes before the file: nothing may fail between making it and minding it.
    AtomicFile file(target, (folder / fmt::format(".{}.XXXXXX", target.filename().string())).string());
    file.descriptor_ = ::mkstemp(file.temporary_.data());
    if (file.descriptor_ < 0)
        return environment(fmt::format("{}: could not write in this folder: {}", folder.string(), std::strerror(errno)),
                           mesh::errorcode::environment, folder.string());
    // mkstemp makes the file private; a file that is replaced keeps its mode, a new one gets the usual one.
    struct stat existing {};
    const mode_t mask = ::umask(0);
    ::umask(mask);
    const mode_t mode = ::stat(target.c_str(), &existing) == 0 ? existing.st_mode & 07777 : 0666 & ~mask;
    ::fchmod(file.descriptor_, mode);
    return file;
}

Outcome<void> AtomicFile::write(std::string_view bytes) {
    while (!bytes.empty()) {
        const ssize_t written = ::write(descriptor_, bytes.data(), bytes.size());
        if (written < 0 && errno == EINTR) continue;
        if (written < 0) return failure("write");
        bytes.remove_prefix(static_cast<std::size_t>(written));
    }
    return {};
}

Outcome<void> AtomicFile::commit() {
    const fs::path folder = target_.has_parent_path() ? target_.parent_path() : fs::path(".");
    if (::fsync(descriptor_) != 0) return failure("flush to disk");
    if (::rename(temporary_.c_str(), target_.c_str()) != 0) return failure("rename into place");
    ::close(std::exchange(descriptor_, -1));
    // The rename itself is made durable; a failure here cannot undo it and is not an error of the content.
    if (const int d = ::open(folder.c_str(), O_RDONLY | O_DIRECTORY); d >= 0) {
        ::fsync(d);
        ::close(d);
    }
    return {};
}

Outcome<std::string> readBytes(const fs::path& path) {
    const int d = ::open(path.c_str(), O_RDONLY | O_CLOEXEC);
    const auto failed = [&](const char* doing) {
        return environment(fmt::format("{}: could not {}: {}", path.string(), doing, std::strerror(errno)),
                           mesh::errorcode::environment, path.string());
    };
    if (d < 0) return failed("open");
    struct stat info {};
    std::string bytes;
    if (::fstat(d, &info) == 0 && S_ISDIR(info.st_mode)) {
        ::close(d);
        return environment(fmt::format("{}: this is a folder, not a file; name the surface files in it", path.string()),
                           mesh::errorcode::environment, path.string());
    }
    std::size_t used = 0;
    bytes.resize(static_cast<std::size_t>(std::max<off_t>(info.st_size, 0)) + 1);
    for (;;) {
        const ssize_t got = ::read(d, bytes.data() + used, bytes.size() - used);
        if (got < 0 && errno == EINTR) continue;
        if (got < 0) {
            auto error = failed("read");
            ::close(d);
            return error;
        }
        if (got == 0) break;
        used += static_cast<std::size_t>(got);
        if (used == bytes.size()) bytes.resize(2 * used);
    }
    ::close(d);
    bytes.resize(used);
    return bytes;
}

Outcome<void> writeBytes(const fs::path& path, std::string_view bytes) {
    Outcome<AtomicFile> file = AtomicFile::create(path);
    if (!file) return mesh::errorOf(file);
    if (auto written = file->write(bytes); !written) return written;
    return file->commit();
}

}  // namespace zither::io
