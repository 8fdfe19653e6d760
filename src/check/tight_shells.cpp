// By what the survey says of each shell, and by the pairs that cross.
#include "check/tight_shells.h"

namespace zither::check {

std::vector<std::int8_t> tightShells(const Surveyed& s) {
    const auto survey = s.known();
    if (!survey) return {};
    const mesh::Groups& shells = s.shells();
    std::vector<std::int8_t> tight(shells.count, 0);
    for (std::uint32_t i = 0; i < shells.count; ++i)
        if (survey->shells[i].closed) tight[i] = static_cast<std::int8_t>(survey->shells[i].volumeSign);
    for (const TrianglePair& pair : survey->crossingPairs) {
        const std::uint32_t shell = shells.of[pair.first];
        if (shell == shells.of[pair.second] && shell != mesh::noEdge) tight[shell] = 0;
    }
    std::vector<std::int8_t> of(shells.of.size(), 0);
    for (std::size_t t = 0; t < of.size(); ++t)
        if (shells.of[t] != mesh::noEdge) of[t] = tight[shells.of[t]];
    return of;
}

}  // namespace zither::check
