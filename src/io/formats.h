// What the room's files share: one reader and writer a format, over bytes in memory.
#pragma once

#include <functional>
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

// Splits a polygon into triangles over its corners' indices: ears of its projection along its mean normal, so that a
// concave polygon is not folded over itself; a fan where no ear is left. `use` is called with three indices.
void splitPolygon(std::span<const mesh::VertexId> polygon, const std::vector<mesh::Point>& positions,
                  const std::function<void(mesh::VertexId, mesh::VertexId, mesh::VertexId)>& use);

// The remark for left-out triangles.
std::string unusableRemark(std::size_t count);

}  // namespace zither::io
