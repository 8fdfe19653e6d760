// Calls that end in a moment: what steps propose is fine enough for a person, and too fine for hundreds of runs.
#pragma once

#include <tuple>

#include "steps/step.h"

namespace zither::tests {

// In place of what the step would propose for this mesh.
inline void makeCoarse(steps::StepCall& call, const mesh::Mesh& m) {
    const double size = mesh::boxOf(m).diagonal();
    if (call.step->name == "wrap") call.given.insert_or_assign("triangles", steps::Value(600.0));
    for (const auto& [name, key, share] : {std::tuple("hollow", "wall", 0.1), std::tuple("thicken", "thickness", 0.06),
                                           std::tuple("soften", "radius", 0.15), std::tuple("offset", "distance", 0.1)})
        if (call.step->name == name && size > 0) call.given.insert_or_assign(key, steps::Value(share * size));
}

}  // namespace zither::tests
