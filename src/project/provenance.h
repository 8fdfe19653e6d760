// Which step each triangle of a result came with.
#pragma once

#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "mesh/mesh.h"
#include "mesh/motion.h"

namespace zither::project {

struct PastSurface {
    std::shared_ptr<const mesh::Mesh> mesh;
    std::optional<mesh::Motion> motion = {};  // by which its step moved the part; none: it stayed where it was
};

// For each triangle of m the first of the stops that has it with bit-identical corners (0: the import), as later stops
// moved it; stops.size() where none has, as after rounding.
std::vector<std::uint32_t> firstStopWith(const mesh::Mesh& m, std::span<const PastSurface> stops);

}  // namespace zither::project
