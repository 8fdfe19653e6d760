// Colours of values, 0xRRGGBB.
#pragma once

#include <array>
#include <cstdint>

namespace zither::draw::ink {

// Little to much, read by lightness alone: paper over wood to ink; readable without telling hues apart.
inline constexpr std::array<std::uint32_t, 5> ramp = {0xF2E6C9, 0xE0B06A, 0xC46A3C, 0x8C2F4B, 0x3D1B45};

}  // namespace zither::draw::ink
