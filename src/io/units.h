// Units of length: what a file's numbers stand for, and how those of one file become those of another.
#pragma once

#include <span>
#include <string_view>

#include "mesh/mesh.h"

namespace zither::io {

// All that are known: "mm", "cm", "m", "um", "in", "ft".
std::span<const std::string_view> unitNames();

// "in": 25.4; 0 for a unit that is not known.
double millimetresIn(std::string_view unit);

// What a length in `from` is multiplied by to be one in `to`: from "in" to "mm" 25.4. 0 where one of them is not known.
double unitFactor(std::string_view from, std::string_view to);

// Every coordinate multiplied by that, in 64 bits. Both units have to be known.
void convert(mesh::Mesh& m, std::string_view from, std::string_view to);

}  // namespace zither::io
