// Triangles without area: collapsed, or with their corners on one line in exact arithmetic; and slivers, which have
// area but an angle below a limit.
#include "check/surroundings.h"
#include "measure/mass.h"
#include "mesh/parallel.h"

namespace zither::check {
namespace {

CheckResult flagged(const Surroundings& s, DefectClass defect, const std::vector<std::uint8_t>& flags) {
    CheckResult result;
    for (TriangleId t = 0; t < flags.size(); ++t) {
        if (!flags[t]) continue;
        ++result.count;
        result.findings.add(defect, s.mesh, std::array{t}, {});
    }
    return result;
}

}  // namespace

CheckResult checkDegenerateTriangles(const Surroundings& s) {
    return flagged(s, DefectClass::Degenerate, s.degenerate);
}

CheckResult checkSlivers(const Surroundings& s, double limitDeg) {
    std::vector<std::uint8_t> sliver(s.mesh.triangles.size(), 0);
    mesh::parallelFor(sliver.size(), 4096, [&](std::size_t t) {
        sliver[t] = measure::smallestAngleDeg(s.mesh, static_cast<TriangleId>(t)) < limitDeg;
    });
    return flagged(s, DefectClass::Slivers, sliver);
}

}  // namespace zither::check
