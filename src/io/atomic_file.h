// A file that appears whole or not at all.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

#include "mesh/outcome.h"

namespace zither::io {

// Writes to a temporary file in the target's folder; commit() flushes it to disk and renames it over the target. A link
// is followed, and stays; a file that is write-protected is refused.
// Without a commit, or on any error, the temporary file is removed and the target is as it was. Not thread-safe.
class AtomicFile {
public:
    static mesh::Outcome<AtomicFile> create(const std::filesystem::path& named);

    AtomicFile(AtomicFile&& other) noexcept;
    AtomicFile& operator=(AtomicFile&&) = delete;
    AtomicFile(const AtomicFile&) = delete;
    AtomicFile& operator=(const AtomicFile&) = delete;
    ~AtomicFile();

    mesh::Outcome<void> write(std::string_view bytes);
    // What was written so far can be read from here.
    [[nodiscard]] std::filesystem::path temporary() const { return temporary_; }
    [[nodiscard]] mesh::Outcome<void> commit();

private:
    static mesh::Outcome<AtomicFile> createPlain(const std::filesystem::path& target);  // no link
    AtomicFile(std::filesystem::path target, std::string pattern);
    [[nodiscard]] tl::unexpected<mesh::Error> failure(const char* doing) const;

    std::filesystem::path target_;
    std::string temporary_;
    int descriptor_ = -1;
};

// Whole content of a file.
mesh::Outcome<std::string> readBytes(const std::filesystem::path& path);

// Writes `bytes` atomically.
mesh::Outcome<void> writeBytes(const std::filesystem::path& path, std::string_view bytes);

}  // namespace zither::io
