// Consistent direction by propagation across manifold edges, then outward: by exact nesting where shells are closed, by
// the sign of the enclosed volume where a patch is nearly closed, by majority elsewhere.
#include <Eigen/Geometry>
#include <algorithm>

#include "check/surroundings.h"
#include "mesh/tolerances.h"
#include "repair/repair.h"

namespace zither::repair {
namespace {

using mesh::HalfEdge;
using mesh::Point;
using mesh::TriangleId;

void flip(mesh::Triangle& t) {
    std::swap(t[1], t[2]);
}

// What propagation found of one patch.
struct Patch {
    std::vector<TriangleId> triangles;
    bool oneSided = false;
};

class Orienting {
public:
    Orienting(const Mesh& m, const Pick& pick)
        : before_(m), edges_(m), chosen_(pick.mask(m)), flipped_(m.triangles.size(), 0) {
        result_.mesh = m;
    }

    Outcome<OrientResult> run(Progress& progress) {
        std::vector<std::uint8_t> visited(before_.triangles.size(), 0);
        for (TriangleId t = 0; t < before_.triangles.size(); ++t) {
            if (visited[t] || mesh::isCollapsed(before_.triangles[t])) continue;
            Patch patch = propagateFrom(t, visited);
            decide(patch);
            if (t % 4096 == 0 && !progress.report(0.4 * t / static_cast<double>(before_.triangles.size())))
                return mesh::cancelled();
        }
        mesh::PartOfProgress part(progress, 0.4, 1.0);
        if (!turnShells(part)) return mesh::cancelled();
        for (std::uint8_t f : flipped_) result_.flipped += f;
        return std::move(result_);
    }

private:
    void flipTriangle(TriangleId t) {
        flip(result_.mesh.triangles[t]);
        flipped_[t] ^= 1;
    }

    // Makes the triangles linked to `start` face as it does. Unpicked triangles are neither flipped nor crossed.
    Patch propagateFrom(TriangleId start, std::vector<std::uint8_t>& visited) {
        Patch patch;
        patch.triangles.push_back(start);
        visited[start] = 1;
        if (!chosen_[start]) return patch;
        for (std::size_t i = 0; i < patch.triangles.size(); ++i) {
            const TriangleId t = patch.triangles[i];
            for (HalfEdge h = 3 * t; h < 3 * t + 3; ++h) {
                const HalfEdge other = edges_.twin(h);
                if (other == mesh::noEdge || !chosen_[mesh::triangleOf(other)]) continue;
                const TriangleId n = mesh::triangleOf(other);
                const bool disagree = mesh::runsAlong(before_, h, other) != (flipped_[t] != flipped_[n]);
                if (!visited[n]) {
                    visited[n] = 1;
                    patch.triangles.push_back(n);
                    if (disagree) flipTriangle(n);
                } else if (disagree) {
                    patch.oneSided = true;
                }
            }
        }
        return patch;
    }

    // Turns the whole patch where that is right.
    void decide(const Patch& patch) {
        if (!chosen_[patch.triangles.front()]) return;
        result_.oneSidedPatches += patch.oneSided;
        mesh::Box box;
        for (TriangleId t : patch.triangles) box.add(mesh::boxOf(result_.mesh, t));
        Point sum = Point::Zero();
        double area = 0;
        double volume = 0;
        double flippedArea = 0;
        for (TriangleId t : patch.triangles) {
            const Point n = mesh::areaVector(result_.mesh, t);
            sum += n;
            area += n.norm();
            volume += n.dot(result_.mesh.corner(t, 0) - box.centre());
            if (flipped_[t]) flippedArea += n.norm();
        }
        const bool enclosing = !patch.oneSided && sum.norm() < tolerance::nearlyClosed * area;
        if (!enclosing) ++result_.keptByMajority;
        if (enclosing ? volume < 0 : 2 * flippedArea > area)
            for (TriangleId t : patch.triangles) flipTriangle(t);
        result_.patchesFlipped +=
            std::any_of(patch.triangles.begin(), patch.triangles.end(), [&](TriangleId t) { return flipped_[t] != 0; });
    }

    // Closed shells whose direction disagrees with their nesting.
    bool turnShells(Progress& progress) {
        const check::Surroundings s(result_.mesh);
        if (s.shells.count < 2) return progress.report(1);
        const auto crossing = check::checkSelfIntersections(s, progress);
        if (!crossing) return false;
        const std::vector<check::Shell> shells = check::shellList(s, crossing->pairs);
        std::vector<std::uint8_t> turn(shells.size());
        for (std::size_t i = 0; i < shells.size(); ++i) turn[i] = shells[i].inward;
        for (TriangleId t = 0; t < before_.triangles.size(); ++t)
            if (s.shells.of[t] != mesh::noEdge && !chosen_[t]) turn[s.shells.of[t]] = 0;
        for (TriangleId t = 0; t < before_.triangles.size(); ++t)
            if (s.shells.of[t] != mesh::noEdge && turn[s.shells.of[t]]) flipTriangle(t);
        result_.shellsTurned = static_cast<std::size_t>(std::count(turn.begin(), turn.end(), 1));
        return true;
    }

    const Mesh& before_;
    mesh::Edges edges_;
    std::vector<std::uint8_t> chosen_;
    std::vector<std::uint8_t> flipped_;
    OrientResult result_;
};

}  // namespace

Outcome<OrientResult> orient(const Mesh& m, const Pick& pick, Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    return Orienting(m, pick).run(progress);
}

}  // namespace zither::repair
