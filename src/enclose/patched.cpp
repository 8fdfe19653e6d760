// Candidates for every rim, without those that would only invent a body.
#include "enclose/patched.h"

#include <Eigen/Geometry>
#include <algorithm>

#include "check/surplus_triangles.h"
#include "enclose/enclose_tolerances.h"
#include "measure/shell_mass.h"
#include "mesh/edges.h"
#include "space/triangle_tree.h"

namespace zither::enclose {

using holes::Candidate;
using mesh::Mesh;
using mesh::Point;
using mesh::TriangleId;

double thinnessOf(const Mesh& m) {
    const mesh::Box box = mesh::boxOf(m);
    if (box.empty()) return 0;
    const double farthest = box.farthest();
    return std::max(tolerance::thinCell * box.diagonal(), 2 * mesh::unitInLastPlace(mesh::Precision::Single, farthest));
}

std::vector<std::uint8_t> Patched::operands() const {
    std::vector<std::uint8_t> operands(mesh.triangles.size(), 0);
    std::fill(operands.begin() + static_cast<std::ptrdiff_t>(given), operands.end(), std::uint8_t{1});
    return operands;
}

mesh::Outcome<Patched> patchedAll(const check::Surveyed& s, mesh::Precision precision, mesh::Progress& progress) {
    const Mesh& input = s.mesh();
    // Of what lies twice the rims are those of one of them.
    std::vector<std::uint8_t> keep(input.triangles.size(), 1);
    for (const TriangleId t : check::surplusTriangles(s)) keep[t] = 0;
    Mesh once;
    once.positions = input.positions;
    std::vector<TriangleId> numberOf;
    for (TriangleId t = 0; t < keep.size(); ++t) {
        if (!keep[t]) continue;
        once.triangles.push_back(input.triangles[t]);
        numberOf.push_back(t);
    }
    auto found = holes::candidatePatches(check::Surveyed(once), precision, progress);
    if (!found) return mesh::errorOf(found);
    // A piece whose patches would be larger than itself is a sheet: they would only invent a body.
    const mesh::Groups shells = mesh::shellsOf(once, mesh::Edges(once));
    const std::vector<measure::ShellMass> own = measure::massOfShells(once, shells);
    std::vector<double> invented(shells.count, 0);
    // So is one whose patch lies on it in part: between them there is nothing, and rounding would take both away. A
    // large patch that lies on it for the most closes nothing, and says nothing of the piece; one over a crack closes
    // it.
    std::vector<double> doubled(shells.count, 0);
    if (!found->empty()) {
        const space::TriangleTree tree(once);
        const double thin = thinnessOf(input);
        std::erase_if(*found, [&](const Candidate& c) {
            double lying = 0;
            double whole = 0;
            for (const mesh::Triangle& t : c.patch.triangles) {
                const auto [a, b, d] = holes::cornersOf(c.patch, t, input.positions);
                const double area = 0.5 * (b - a).cross(d - a).norm();
                whole += area;
                const auto near = tree.nearest((a + b + d) / 3.0, thin);
                if (near && shells.of[near->triangle] == shells.of[c.beside]) lying += area;
            }
            const std::uint32_t shell = shells.of[c.beside];
            if (2 * lying > whole && lying > tolerance::doubledShare * own[shell].area) return true;
            doubled[shell] += lying;
            invented[shell] += c.least;
            return false;
        });
    }
    std::erase_if(*found, [&](const Candidate& c) {
        const std::uint32_t shell = shells.of[c.beside];
        return invented[shell] > own[shell].area || doubled[shell] > tolerance::doubledShare * own[shell].area;
    });
    for (Candidate& c : *found) c.beside = numberOf[c.beside];
    Patched patched{input.triangles.size(), input, std::move(*found), {}};
    Mesh& both = patched.mesh;
    for (std::uint32_t c = 0; c < patched.candidates.size(); ++c) {
        const holes::Patch& p = patched.candidates[c].patch;
        const std::size_t shift = both.positions.size() - input.positions.size();
        both.positions.insert(both.positions.end(), p.added.begin(), p.added.end());
        for (mesh::Triangle t : p.triangles) {
            for (mesh::VertexId& v : t)
                if (v >= input.positions.size()) v = v + shift;
            both.triangles.push_back(t);
            if (!both.regions.empty()) both.regions.push_back(input.regions[patched.candidates[c].beside]);
            patched.candidateOf.push_back(c);
        }
    }
    // A vertex that a patch adds may lie on another: cutting takes equal points for one.
    mesh::joinInPlace(both);
    return patched;
}

}  // namespace zither::enclose
