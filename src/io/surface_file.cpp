// Picks the format by content, reads, joins vertices; and writes through the temporary file.
#include "io/surface_file.h"

#include <fmt/format.h>

#include <algorithm>
#include <limits>

#include "io/formats.h"
#include "io/text.h"

namespace zither::io {

using mesh::badInput;

namespace {

struct FormatEntry {
    Format format;
    std::string_view name;
    bool floats;
    Outcome<void> (*write)(const Mesh&, AtomicFile&, Progress&);
};

constexpr FormatEntry entries[] = {
    {Format::StlBinary, "stl-binary", true, writeStlBinary},
    {Format::StlAscii, "stl-ascii", true, writeStlAscii},
    {Format::Obj, "obj", false, writeObj},
    {Format::PlyAscii, "ply-ascii", false, writePly},
    {Format::PlyBinaryLittle, "ply-binary-little-endian", false, writePly},
    {Format::PlyBinaryBig, "ply-binary-big-endian", false, writePly},
    {Format::Off, "off", false, writeOff},
    {Format::ThreeMf, "3mf", false, nullptr},  // with its unit
};

const FormatEntry& entryOf(Format format) {
    return entries[static_cast<std::size_t>(format)];
}

struct Reader {
    bool (*recognises)(std::string_view);
    Outcome<Surface> (*read)(std::string_view, const std::string&, Progress&);
    bool indexed;  // vertices still have to be joined
};

// In this order: the surest mark first.
constexpr Reader readers[] = {
    {looksLikeThreeMf, readThreeMf, true},    {looksLikePly, readPly, true}, {looksLikeOff, readOff, true},
    {looksLikeStlAscii, readStlAscii, false}, {looksLikeObj, readObj, true}, {looksLikeStlBinary, readStlBinary, false},
};

constexpr std::pair<std::string_view, Format> writable[] = {{".stl", Format::StlBinary},
                                                            {".obj", Format::Obj},
                                                            {".ply", Format::PlyBinaryLittle},
                                                            {".off", Format::Off},
                                                            {".3mf", Format::ThreeMf}};

std::string firstBytes(std::string_view bytes) {
    std::string shown;
    for (char c : bytes.substr(0, 12)) shown += c >= 32 && c < 127 ? c : '.';
    return shown;
}

}  // namespace

Outcome<void> TextWriter::flush() {
    if (auto written = file_.write(buffer_); !written) return written;
    buffer_.clear();
    if (!progress_.report(items_ > 0 ? static_cast<double>(done_) / static_cast<double>(items_) : 1))
        return mesh::cancelled();
    return {};
}

std::string_view formatName(Format format) {
    return entryOf(format).name;
}

bool storesFloats(Format format) {
    return entryOf(format).floats;
}

Outcome<Surface> readSurface(std::string_view bytes, const std::string& name, Progress& progress) {
    if (bytes.empty()) return badInput(fmt::format("{}: the file is empty (0 bytes)", name));
    for (const Reader& reader : readers) {
        if (!reader.recognises(bytes)) continue;
        Outcome<Surface> surface = reader.read(bytes, name, progress);
        if (!surface) return surface;
        if (surface->mesh.triangles.empty())
            return badInput(
                fmt::format("{}: none of its {} triangles has three finite corners", name, surface->unusableTriangles));
        if (reader.indexed) joinEqualVertices(surface->mesh);
        if (surface->unusableTriangles > 0)
            surface->remarks.insert(surface->remarks.begin(), unusableRemark(surface->unusableTriangles));
        return surface;
    }
    return badInput(fmt::format(
        "{}: not a surface file that can be read: byte 0 begins '{}', which is no STL, OBJ, PLY, OFF or 3MF. "
        "Export it again from where it came as one of these",
        name, firstBytes(bytes)));
}

Outcome<Surface> readSurface(const std::filesystem::path& path, Progress& progress) {
    Outcome<std::string> bytes = readBytes(path);
    if (!bytes) return tl::unexpected(bytes.error());
    if (!progress.report(0)) return mesh::cancelled();
    return readSurface(*bytes, path.string(), progress);
}

std::optional<Format> formatForWriting(const std::filesystem::path& path) {
    std::string extension = path.extension().string();
    std::transform(extension.begin(), extension.end(), extension.begin(), lower);
    for (const auto& [known, format] : writable)
        if (known == extension) return format;
    return std::nullopt;
}

std::vector<std::string> writableExtensions() {
    std::vector<std::string> patterns;
    for (const auto& [extension, format] : writable) patterns.push_back("*" + std::string(extension));
    return patterns;
}

Outcome<void> writeSurface(const Mesh& m, const std::filesystem::path& path, Format format, Progress& progress,
                           std::string_view unit) {
    if (storesFloats(format)) {
        constexpr double largest = std::numeric_limits<float>::max();
        for (const mesh::Point& p : m.positions)
            if (p.cwiseAbs().maxCoeff() > largest)
                return badInput(
                    fmt::format("{}: a coordinate of {} is beyond what this format can store; write OBJ or PLY instead",
                                path.string(), p.cwiseAbs().maxCoeff()));
    }
    Outcome<AtomicFile> file = AtomicFile::create(path);
    if (!file) return tl::unexpected(file.error());
    const auto write = entryOf(format).write;
    if (auto written = write ? write(m, *file, progress) : writeThreeMf(m, unit, *file, progress); !written)
        return written;
    return file->commit();
}

}  // namespace zither::io
