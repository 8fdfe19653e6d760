// What of space is full and what is empty, and which pieces of the surface bound, wall or hang in it.
#pragma once

#include <cstdint>
#include <memory>
#include <vector>

#include "check/surveyed.h"
#include "enclose/volumes.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "mesh/traced.h"

namespace zither::enclose {

// The skin between full and empty as exact pieces, not yet settled; and sheets, as they came where no triangle of
// theirs is partly something else.
struct Surfaces {
    mesh::Traced skin;
    std::vector<std::uint8_t> skinMade;   // of each vertex: it was not given
    std::vector<std::uint8_t> skinWhole;  // of each triangle: one of the input that is not cut
    mesh::Traced rest;
};

class Decision {
public:
    // Keeps references to both. Error: cancelled.
    static mesh::Outcome<Decision> of(const check::Surveyed& s, const VolumesOptions& options,
                                      mesh::Progress& progress);
    Decision(Decision&&) noexcept;
    ~Decision();

    // Of each triangle of the input: it is a sheet, and no piece of it is skin.
    [[nodiscard]] std::vector<std::uint8_t> sheetTriangles() const;

    // The lists of what was found go to `result`.
    [[nodiscard]] Surfaces surfaces(Volumes& result) &&;

private:
    class Impl;
    explicit Decision(std::unique_ptr<Impl> impl);
    std::unique_ptr<Impl> impl_;
};

}  // namespace zither::enclose
