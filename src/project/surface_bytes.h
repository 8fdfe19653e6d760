// A surface as bytes, and back: what a project file keeps of it, every bit (docs/file-formats.md).
#pragma once

#include <array>
#include <cstdint>
#include <string>
#include <string_view>

#include "mesh/mesh.h"
#include "mesh/outcome.h"

namespace zither::project {

// Vertices of 32-bit numbers take 32 bits a coordinate where most are. Little-endian.
std::string bytesOf(const mesh::Mesh& m);
// Error: they are not such bytes; nothing is allocated by what they claim.
mesh::Outcome<mesh::Mesh> surfaceFrom(std::string_view bytes);

// 128 bits of XXH3, which tell contents apart and find damage.
using ContentHash = std::array<std::uint8_t, 16>;
ContentHash hashOf(std::string_view bytes);

// zstd; where `base` is given what both have in common is only pointed at. Bytes of less than 64 GB.
mesh::Outcome<std::string> packed(std::string_view bytes, std::string_view base = {});
// `size`: that the bytes must have. Error: they are damaged, or there is not enough memory.
mesh::Outcome<std::string> unpacked(std::string_view packed, std::uint64_t size, std::string_view base = {});

}  // namespace zither::project
