// Picks the format by content, reads, joins vertices; and writes through the temporary file.
#include "io/surface_file.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <limits>

#include "io/io_tolerances.h"
#include "io/reading.h"
#include "io/text.h"
#include "mesh/numbering.h"
#include "mesh/precision.h"

namespace zither::io {

namespace {

std::string firstBytes(std::string_view bytes) {
    std::string shown;
    for (char c : bytes.substr(0, 12)) shown += c >= 32 && c < 127 ? c : '.';
    return shown;
}

// So far from the origin that a file of 32-bit coordinates cannot hold its detail; empty where it can.
std::string farOutRemark(const Mesh& m) {
    const mesh::Box box = mesh::boxOf(m);
    if (box.empty() || !(box.diagonal() > 0)) return {};
    const double farthest = box.farthest();
    const double step = mesh::unitInLastPlace(mesh::Precision::Single, farthest);
    if (!(step > tolerance::coarseStep * box.diagonal())) return {};
    const mesh::Point shift = mesh::Point::Zero() - box.centre();
    return fmt::format(
        "Far from the origin: coordinates of 32 bits, as STL has them, come in steps of {:.3g} here, and the part is "
        "{:.3g} across. Shifted by ({:.6g}, {:.6g}, {:.6g}) where it was made, a file holds its detail",
        step, box.diagonal(), shift.x(), shift.y(), shift.z());
}

Outcome<Surface> finished(Surface&& surface, const std::string& name) {
    if (surface.mesh.triangles.empty())
        return cannotRead(name,
                          fmt::format("none of its {} triangles has three finite corners", surface.unusableTriangles));
    if (surface.mesh.triangles.size() > mostTriangles) return tooManyTriangles(name, surface.mesh.triangles.size());
    if (surface.format->indexed) joinEqualVertices(surface.mesh);
    const bool scattered = isScattered(surface.mesh);
    if (scattered) putInOrder(surface.mesh);
    if (surface.unusableTriangles > 0)
        surface.remarks.insert(surface.remarks.begin(), unusableRemark(surface.unusableTriangles));
    if (std::string remark = farOutRemark(surface.mesh); !remark.empty()) surface.remarks.push_back(std::move(remark));
    if (scattered)
        surface.remarks.emplace_back(
            "Its triangles lie in no order: they are numbered anew, neighbours beside each other, which every step is "
            "quicker with. Nothing else is changed by that");
    if (!surface.notKept.empty())
        surface.remarks.push_back(
            fmt::format("The file also holds {}: that is not kept", fmt::join(surface.notKept, ", ")));
    return std::move(surface);
}

}  // namespace

tl::unexpected<mesh::Error> tooManyTriangles(const std::string& file, std::size_t count) {
    return cannotRead(file,
                      fmt::format("{} triangles; Zither works with at most {}: split the part", count, mostTriangles));
}

Outcome<void> TextWriter::added() {
    ++done_;
    return buffer_.size() < flushAt ? Outcome<void>() : flush();
}

Outcome<void> TextWriter::addPoint(std::string_view head, const mesh::Point& p) {
    fmt::format_to(std::back_inserter(buffer_), "{}{} {} {}\n", head, p.x(), p.y(), p.z());
    return added();
}

Outcome<void> TextWriter::addNumbers(std::string_view head, const std::array<std::uint32_t, 3>& numbers) {
    fmt::format_to(std::back_inserter(buffer_), "{}{} {} {}\n", head, numbers[0], numbers[1], numbers[2]);
    return added();
}

Outcome<void> TextWriter::flush() {
    if (auto written = file_.write(buffer_); !written) return written;
    buffer_.clear();
    if (!progress_.report(items_ > 0 ? static_cast<double>(done_) / static_cast<double>(items_) : 1))
        return mesh::cancelled();
    return {};
}

Outcome<Surface> readSurface(std::string_view bytes, const std::string& name, Progress& progress) {
    if (bytes.empty()) return cannotRead(name, "the file is empty (0 bytes)");
    for (const Format& format : formats()) {
        if (!format.recognises || !format.recognises(bytes)) continue;
        Outcome<Surface> surface = format.read(bytes, name, progress);
        if (!surface) return surface;
        return finished(std::move(*surface), name);
    }
    return cannotRead(name, fmt::format("not a surface file that can be read: byte 0 begins '{}', which is no {}. "
                                        "Export it again from where it came as one of these",
                                        firstBytes(bytes), formatTitles()));
}

Outcome<Surface> readSurface(const std::filesystem::path& path, Progress& progress) {
    Outcome<std::string> bytes = readBytes(path);
    if (!bytes) return mesh::errorOf(bytes);
    if (!progress.report(0)) return mesh::cancelled();
    return readSurface(*bytes, path.string(), progress);
}

const Format* formatForWriting(const std::filesystem::path& path) {
    std::string extension = path.extension().string();
    std::transform(extension.begin(), extension.end(), extension.begin(), lower);
    for (const Format& f : formats())
        if (!extension.empty() && f.extension == extension) return &f;
    return nullptr;
}

std::vector<std::string> writableExtensions() {
    std::vector<std::string> extensions;
    for (const Format& f : formats())
        if (!f.extension.empty()) extensions.emplace_back(f.extension);
    return extensions;
}

namespace {

bool nameless(const Mesh& m) {
    return std::all_of(m.regionNames.begin(), m.regionNames.end(),
                       [](const std::string& name) { return name.empty(); });
}

}  // namespace

std::vector<std::string> lossesOf(const Mesh& m, const WriteOptions& options) {
    std::vector<std::string> losses;
    if (!m.regions.empty() && !options.format.keepsRegions)
        losses.push_back(nameless(m) ? fmt::format("that it is made of {} pieces without names", m.regionNames.size())
                                     : fmt::format("the names of its {} regions", m.regionNames.size()));
    if (!options.unit.empty() && !options.format.keepsUnit) losses.push_back(fmt::format("the unit {}", options.unit));
    return losses;
}

Outcome<AtomicFile> writeToTemporary(const Mesh& m, const std::filesystem::path& path, const WriteOptions& options,
                                     Progress& progress) {
    if (options.format.floats) {
        constexpr double largest = std::numeric_limits<float>::max();
        for (const mesh::Point& p : m.positions)
            if (p.cwiseAbs().maxCoeff() > largest)
                return cannotRead(
                    path.string(),
                    fmt::format("a coordinate of {} is beyond what this format can store; write OBJ or PLY instead",
                                p.cwiseAbs().maxCoeff()));
    }
    Outcome<AtomicFile> file = AtomicFile::create(path);
    if (!file) return file;
    if (auto written = options.format.write(m, options.unit, *file, progress); !written) return mesh::errorOf(written);
    return file;
}

Outcome<void> writeSurface(const Mesh& m, const std::filesystem::path& path, const WriteOptions& options,
                           Progress& progress) {
    Outcome<AtomicFile> file = writeToTemporary(m, path, options, progress);
    if (!file) return mesh::errorOf(file);
    return file->commit();
}

}  // namespace zither::io
