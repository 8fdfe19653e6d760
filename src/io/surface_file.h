// Reading and writing triangle surfaces. Formats are told apart by content, never by extension; reading fixes nothing.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::io {

using mesh::Mesh;
using mesh::Outcome;
using mesh::Progress;

enum class Format { StlBinary, StlAscii, Obj, PlyAscii, PlyBinaryLittle, PlyBinaryBig, Off, ThreeMf };

// Short stable name, as in the JSON of the command line: "stl-binary", "obj" ...
std::string_view formatName(Format format);

// What was read, and what could not be used.
struct Surface {
    Mesh mesh;
    Format format = Format::StlBinary;
    // Triangles (after splitting polygons) left out: a corner was NaN, infinite or out of range.
    std::size_t unusableTriangles = 0;
    // "mm", "in" ...; empty where the format has none.
    std::string unit;
    // What a user should know about this file: sentences, most important first.
    std::vector<std::string> remarks;
};

// Reads any surface file. Errors: no such file, a folder, no permission, empty, unknown content, nothing usable; the
// message names the file, the place (byte or line) and the reason. Vertices are joined exactly (definitions.md).
Outcome<Surface> readSurface(const std::filesystem::path& path, Progress& progress);

// The same for bytes in memory; `name` stands for the file in messages.
Outcome<Surface> readSurface(std::string_view bytes, const std::string& name, Progress& progress);

// The format for a file name to write: by extension (.stl, .obj, .ply, .off, .3mf); nothing for any other.
std::optional<Format> formatForWriting(const std::filesystem::path& path);

// Extensions that formatForWriting knows, for messages and file dialogs: "*.stl" ...
std::vector<std::string> writableExtensions();

// True where the format stores coordinates as 32-bit floats, so that writing rounds.
bool storesFloats(Format format);

// Writes atomically: a temporary file beside the target, flushed to disk, then renamed. On any error the target is as
// it was and nothing is left behind. `unit` ("mm", "in" ...) is written where the format has one; mm where it is empty.
Outcome<void> writeSurface(const Mesh& m, const std::filesystem::path& path, Format format, Progress& progress,
                           std::string_view unit = {});

}  // namespace zither::io
