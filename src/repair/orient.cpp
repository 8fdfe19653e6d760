// Consistent direction by propagation across manifold edges, as most of the area faces; then outward: by exact nesting
// where shells are closed, by rays from both sides where they are open and these tell anything.
#include "repair/orient.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <cmath>
#include <numbers>

#include "check/shell_list.h"
#include "measure/measure_tolerances.h"
#include "mesh/parallel.h"
#include "repair/repair_tolerances.h"
#include "space/ray_scene.h"
#include "space/winding.h"

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
    bool open = false;  // it has an edge without exactly one neighbour
    PatchEvidence evidence;

    // Only of such it takes rays to tell which side is the front.
    [[nodiscard]] bool needsEvidence() const { return open && !oneSided; }
};

class Orienting {
public:
    Orienting(const check::Surveyed& s, const Pick& pick)
        : before_(s.mesh()), edges_(s.edges()), chosen_(pick.mask(before_)), flipped_(before_.triangles.size(), 0) {
        result_.mesh = before_;
    }

    Outcome<OrientResult> run(Progress& progress) {
        std::vector<std::uint8_t> visited(before_.triangles.size(), 0);
        std::vector<Patch> patches;
        for (TriangleId t = 0; t < before_.triangles.size(); ++t)
            if (!visited[t] && !mesh::isCollapsed(before_.triangles[t])) patches.push_back(propagateFrom(t, visited));
        mesh::PartOfProgress looking(progress, 0, 0.4);
        if (!lookAtOpen(patches, looking)) return mesh::cancelled();
        for (const Patch& patch : patches) decide(patch);
        mesh::PartOfProgress part(progress, 0.4, 1.0);
        if (!turnShells(part)) return mesh::cancelled();
        for (std::uint8_t f : flipped_) result_.flipped += f;
        std::stable_sort(result_.open.begin(), result_.open.end(),
                         [](const auto& a, const auto& b) { return a.size > b.size; });
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
                patch.open |= other == mesh::noEdge;
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
        double area = 0;
        double flippedArea = 0;
        for (TriangleId t : patch.triangles) {
            const double twice = mesh::areaVector(result_.mesh, t).norm();
            area += twice;
            if (flipped_[t]) flippedArea += twice;
        }
        // A closed one may be a cavity: what it lies in tells, once all are in one piece.
        bool turn = 2 * flippedArea > area;
        if (!patch.oneSided && patch.open) {
            PatchEvidence evidence = patch.evidence;
            evidence.position = box.centre();
            evidence.size = box.diagonal();
            evidence.triangles = patch.triangles.size();
            evidence.byMajority = std::abs(evidence.frontSeen - evidence.backSeen) < tolerance::seenAlike;
            if (!evidence.byMajority) turn = evidence.backSeen > evidence.frontSeen;
            evidence.turned = turn;
            result_.open.push_back(evidence);
        }
        if (turn)
            for (TriangleId t : patch.triangles) flipTriangle(t);
        result_.patchesFlipped +=
            std::any_of(patch.triangles.begin(), patch.triangles.end(), [&](TriangleId t) { return flipped_[t] != 0; });
    }

    // False: cancelled.
    bool lookAtOpen(std::vector<Patch>& patches, Progress& progress) const {
        std::vector<Patch*> open;
        for (Patch& p : patches)
            if (p.needsEvidence() && chosen_[p.triangles.front()]) open.push_back(&p);
        if (open.empty()) return true;
        const space::RayScene surface(before_);
        const double hair = tolerance::hairOffSurface * mesh::boxOf(before_).diagonal();
        std::atomic<bool> stop = false;
        std::atomic<std::size_t> done = 0;
        mesh::parallelFor(open.size(), 1, [&](std::size_t i) {
            if (stop) return;
            open[i]->evidence = look(*open[i], surface, hair);
            constexpr std::size_t often = 64;
            const std::size_t n = ++done;
            if (n % often == 0 && !progress.report(static_cast<double>(n) / static_cast<double>(open.size())))
                stop = true;
        });
        return !stop;
    }

    // Shares of rays that leave the part from the two sides, over places spread evenly over the area.
    [[nodiscard]] PatchEvidence look(const Patch& patch, const space::RayScene& surface, double hair) const {
        double area = 0;
        for (TriangleId t : patch.triangles) area += mesh::areaVector(result_.mesh, t).norm();
        // Fewer rays where there are many patches: a soup of a million triangles is not to take an hour.
        const std::size_t places = std::clamp<std::size_t>(patch.triangles.size(), 1, 48);
        const std::size_t rays = 8;
        PatchEvidence evidence;
        double passed = 0;
        double seen[2] = {0, 0};
        std::size_t next = 0;
        std::size_t asked = 0;
        for (TriangleId t : patch.triangles) {
            const Point n = mesh::areaVector(result_.mesh, t);
            passed += n.norm();
            while (next < places && passed >= (static_cast<double>(next) + 0.5) / static_cast<double>(places) * area) {
                ++next;
                if (n.norm() == 0) continue;
                ++asked;
                for (const bool back : {false, true})
                    for (std::size_t r = 0; r < rays; ++r) {
                        const Ray ray = rayFrom(t, n, back ? -hair : hair, asked * rays + r);
                        seen[back] += surface.blocks(ray.from, ray.direction) ? 0 : 1;
                    }
            }
        }
        if (asked > 0) {
            evidence.frontSeen = seen[0] / static_cast<double>(asked * rays);
            evidence.backSeen = seen[1] / static_cast<double>(asked * rays);
        }
        return evidence;
    }

    struct Ray {
        Point from;
        Point direction;
    };

    // From the middle of a triangle, so far off it to a side, in a direction from a sequence that covers the half
    // sphere evenly.
    [[nodiscard]] Ray rayFrom(TriangleId t, const Point& normal, double off, std::size_t number) const {
        constexpr double golden = 0.6180339887498949;
        constexpr double plastic = 0.7548776662466927;
        const double u = std::fmod(0.5 + golden * static_cast<double>(number), 1.0);
        const double v = 2 * std::numbers::pi * std::fmod(plastic * static_cast<double>(number), 1.0);
        const Point n = (off < 0 ? -1 : 1) * normal.normalized();
        const Point a = n.unitOrthogonal();
        const double z = std::sqrt(1 - 0.9 * u);
        const double r = std::sqrt(std::max(0.0, 1 - z * z));
        return {mesh::centroid(result_.mesh, t) + std::abs(off) * n,
                z * n + r * (std::cos(v) * a + std::sin(v) * n.cross(a))};
    }

    // Closed shells that face inward where nothing is full around them, each with all that it holds: what was a void in
    // it stays one. False: cancelled.
    bool turnShells(Progress& progress) {
        const check::Surveyed s(result_.mesh);
        const mesh::Groups& groups = s.shells();
        mesh::PartOfProgress searching(progress, 0, 0.8);
        std::vector<check::TrianglePair> crossing;
        if (groups.count > 1) {
            auto pairs = check::crossingPairs(s.tree(), searching, {.leftOut = s.degenerate()});
            if (!pairs) return false;
            crossing = std::move(*pairs);
        }
        mesh::PartOfProgress nesting(progress, 0.8, 1);
        const auto nested = check::nestedShells(s, crossing, nesting);
        if (!nested) return false;
        std::vector<std::uint8_t> mayTurn(groups.count, 1);
        for (TriangleId t = 0; t < before_.triangles.size(); ++t)
            if (groups.of[t] != mesh::noEdge && !chosen_[t]) mayTurn[groups.of[t]] = 0;
        const std::vector<std::uint8_t> turn =
            check::inwardWithAllTheyHold(*nested, mayTurn, aroundOpenShells(s, nested->shells));
        for (TriangleId t = 0; t < before_.triangles.size(); ++t)
            if (groups.of[t] != mesh::noEdge && turn[groups.of[t]]) flipTriangle(t);
        result_.shellsTurned = static_cast<std::size_t>(std::count(turn.begin(), turn.end(), 1));
        return true;
    }

    // How often open shells wind about each closed one: a cavity in a body with a hole is one already.
    static std::vector<int> aroundOpenShells(const check::Surveyed& s, const std::vector<check::Shell>& shells) {
        std::vector<int> around(shells.size(), 0);
        std::vector<TriangleId> open;
        for (TriangleId t = 0; t < s.mesh().triangles.size(); ++t)
            if (s.shells().of[t] != mesh::noEdge && !shells[s.shells().of[t]].closed) open.push_back(t);
        if (open.empty()) return around;
        const space::WindingTree winding(s.mesh(), open, std::vector<int>(s.mesh().triangles.size(), 1));
        mesh::parallelFor(shells.size(), 16, [&](std::size_t i) {
            if (shells[i].closed)
                around[i] = static_cast<int>(std::lround(winding.at(s.mesh().corner(shells[i].firstTriangle, 0))));
        });
        return around;
    }

    const Mesh& before_;
    const mesh::Edges& edges_;
    std::vector<std::uint8_t> chosen_;
    std::vector<std::uint8_t> flipped_;
    OrientResult result_;
};

}  // namespace

Outcome<OrientResult> orient(const check::Surveyed& s, const Pick& pick, Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    return Orienting(s, pick).run(progress);
}

}  // namespace zither::repair
