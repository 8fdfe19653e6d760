// Reading and writing triangle surfaces. Formats are told apart by content, never by extension; reading fixes nothing.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>
#include <vector>

#include "io/format.h"

namespace zither::io {

// Half-edges are numbered with 32 bits: no surface has more triangles.
inline constexpr std::uint64_t mostTriangles = 1'400'000'000;

// Reads any surface file. Errors: no such file, a folder, no permission, empty, unknown content, nothing usable; the
// message names the file, the place (byte or line) and the reason. Vertices are joined exactly (definitions.md). Memory
// is bounded by what the file holds (below 20 times its size, plus 64 MB), not by what it claims to hold.
Outcome<Surface> readSurface(const std::filesystem::path& path, Progress& progress);

// The same for bytes in memory; `name` stands for the file in messages.
Outcome<Surface> readSurface(std::string_view bytes, const std::string& name, Progress& progress);

// The format for a file name to write: by extension (.stl, .obj ...); nullptr for any other.
const Format* formatForWriting(const std::filesystem::path& path);

// Extensions that formatForWriting knows: ".stl" ...
std::vector<std::string> writableExtensions();

struct WriteOptions {
    const Format& format;
    std::string_view unit = {};  // "mm", "in" ...; written where the format has one, mm where it is empty
};

// What the format will not hold of this surface: "region names", "the unit in" ...; empty where it keeps everything but
// what reading left out.
std::vector<std::string> lossesOf(const Mesh& m, const WriteOptions& options);

// Writes to a temporary file beside the target; commit() puts it in its place. On any error the target is as it was and
// nothing is left behind.
Outcome<AtomicFile> writeToTemporary(const Mesh& m, const std::filesystem::path& path, const WriteOptions& options,
                                     Progress& progress);

// The same with the commit.
Outcome<void> writeSurface(const Mesh& m, const std::filesystem::path& path, const WriteOptions& options,
                           Progress& progress);

}  // namespace zither::io
