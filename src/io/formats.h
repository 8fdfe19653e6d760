// What the room's files share: one reader and writer a format, over bytes in memory.
#pragma once

#include <fmt/format.h>

#include <functional>
#include <iterator>
#include <span>
#include <string>
#include <string_view>

#include "io/atomic_file.h"
#include "io/surface_file.h"

namespace zither::io {

// A reader leaves vertices unjoined where the format is indexed; readSurface joins them.
Outcome<Surface> readStlBinary(std::string_view bytes, const std::string& name, Progress& progress);
Outcome<Surface> readStlAscii(std::string_view bytes, const std::string& name, Progress& progress);
Outcome<Surface> readObj(std::string_view bytes, const std::string& name, Progress& progress);
Outcome<Surface> readPly(std::string_view bytes, const std::string& name, Progress& progress);
Outcome<Surface> readOff(std::string_view bytes, const std::string& name, Progress& progress);
Outcome<Surface> readThreeMf(std::string_view bytes, const std::string& name, Progress& progress);

Outcome<void> writeStlBinary(const Mesh& m, AtomicFile& file, Progress& progress);
Outcome<void> writeStlAscii(const Mesh& m, AtomicFile& file, Progress& progress);
Outcome<void> writeObj(const Mesh& m, AtomicFile& file, Progress& progress);
Outcome<void> writePly(const Mesh& m, AtomicFile& file, Progress& progress);
Outcome<void> writeOff(const Mesh& m, AtomicFile& file, Progress& progress);
Outcome<void> writeThreeMf(const Mesh& m, std::string_view unit, AtomicFile& file, Progress& progress);

bool looksLikeStlAscii(std::string_view bytes);
bool looksLikeStlBinary(std::string_view bytes);
bool looksLikeObj(std::string_view bytes);
bool looksLikePly(std::string_view bytes);
bool looksLikeOff(std::string_view bytes);
bool looksLikeThreeMf(std::string_view bytes);

// Text on its way into a file, handed over in large pieces; each piece reports the share of the items that is done.
class TextWriter {
public:
    TextWriter(AtomicFile& file, Progress& progress, std::size_t items, std::string head)
        : file_(file), progress_(progress), items_(items), buffer_(std::move(head)) {}

    // One more item, in the terms of fmt. Error: not written, or cancelled.
    template <class... Values>
    Outcome<void> add(fmt::format_string<Values...> form, Values&&... values) {
        append(form, std::forward<Values>(values)...);
        ++done_;
        return buffer_.size() < flushAt ? Outcome<void>() : flush();
    }
    // Text that is no item of its own.
    template <class... Values>
    void append(fmt::format_string<Values...> form, Values&&... values) {
        fmt::format_to(std::back_inserter(buffer_), form, std::forward<Values>(values)...);
    }
    // What is left; must come last.
    Outcome<void> flush();

private:
    static constexpr std::size_t flushAt = 1U << 20;
    AtomicFile& file_;
    Progress& progress_;
    std::size_t items_;
    std::size_t done_ = 0;
    std::string buffer_;
};

// Splits a polygon into triangles over its corners' indices: ears of its projection along its mean normal, so that a
// concave polygon is not folded over itself; a fan where no ear is left. `use` is called with three indices.
void splitPolygon(std::span<const mesh::VertexId> polygon, const std::vector<mesh::Point>& positions,
                  const std::function<void(mesh::VertexId, mesh::VertexId, mesh::VertexId)>& use);

// The remark for left-out triangles.
std::string unusableRemark(std::size_t count);

}  // namespace zither::io
