// Which step each triangle of a result came with.
#pragma once

#include <memory>
#include <span>
#include <vector>

#include "mesh/mesh.h"

namespace zither::project {

// For each triangle of m the first of the stops that has it with bit-identical corners (0: the import); stops.size()
// where none has, as after rounding.
std::vector<std::uint32_t> firstStopWith(const mesh::Mesh& m, std::span<const std::shared_ptr<const mesh::Mesh>> stops);

}  // namespace zither::project
