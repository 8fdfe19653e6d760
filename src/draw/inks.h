// Colours of pictures, 0xRRGGBB: what no finding's descriptor says.
#pragma once

#include <cstdint>

namespace zither::draw::ink {

inline constexpr std::uint32_t sheet = 0xF6F1E6;  // where nothing is
inline constexpr std::uint32_t clay = 0xC4A084;
inline constexpr std::uint32_t hatched = 0xF2DEA8;  // insides, between the lines of the hatch
inline constexpr std::uint32_t edge = 0x3B291C;     // of triangles
inline constexpr std::uint32_t crease = 0x33261C;   // where the surface bends sharply, and its outline
inline constexpr std::uint32_t cap = 0xE9D9B4;      // where a section cuts material

}  // namespace zither::draw::ink
