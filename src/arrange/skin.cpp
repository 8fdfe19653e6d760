// Linking, winding numbers and the skin, stage by stage.
#include "arrange/skin.h"

#include <algorithm>
#include <atomic>
#include <cmath>
#include <memory>
#include <optional>

#include "arrange/arrange_tolerances.h"
#include "arrange/cut_surface.h"
#include "arrange/cutting.h"
#include "arrange/exact_numbering.h"
#include "arrange/potentials.h"
#include "exact/projection.h"
#include "mesh/parallel.h"
#include "space/triangle_tree.h"
#include "space/winding.h"

namespace zither::arrange {
namespace {

constexpr mesh::NoIndex none;

// A point inside a piece, exact, for a ray.
struct RayStart {
    Point approximate;
    exact::Homogeneous exact;
};

class SkinFinder {
public:
    // `cut`: the prepared surface, or one with the same triangles.
    // `leastOnly`: see Cutting; afterwards isNegative() says whether that was wrong.
    SkinFinder(Prepared& prepared, const check::Surveyed& cut, const SkinOptions& options, bool leastOnly)
        : p_(prepared),
          s_(prepared.surface),
          m_(prepared.surface.mesh),
          options_(options),
          cut_(cut),
          edges_(cut.edges()),
          cutting_(prepared.surface, cut),
          points_(cutting_.points),
          blocks_(cutting_.blocks) {
        cutting_.leastOnly = leastOnly;
    }

    // There is a winding number below 0 beside what was cut.
    [[nodiscard]] bool isNegative() const { return negative_; }

    mesh::Outcome<Skin> run(const Mesh& input, mesh::Progress& progress) {
        if (auto cut = cutting_.run(progress); !cut) return mesh::errorOf(cut);
        linkSheets();
        if (!progress.report(0.8)) return mesh::cancelled();
        if (options_.around)
            start_.assign(cutting_.sheetCount, Windings{});
        else
            options_.soundElsewhere ? trustRim() : startSheets();
        if (!progress.report(0.85)) return mesh::cancelled();
        measureOpenShells();
        if (!progress.report(0.9)) return mesh::cancelled();
        Skin skin = assemble(input);
        if (!progress.report(1)) return mesh::cancelled();
        return skin;
    }

private:
    // Neighbours whose common edge nobody else touches, at one of its ends at least, have the same winding number in
    // front, or one's front is the other's back.
    void linkSheets() {
        rimOf_.assign(m_.triangles.size(), none);
        for (const Cutting::Block& block : blocks_)
            for (const auto& [t, rim] : block.rims) {
                rimOf_[t] = static_cast<std::uint32_t>(rims_.size());
                rims_.push_back(&rim);
            }
        potentials_ = std::make_unique<Potentials>(cutting_.sheetCount);
        for (mesh::EdgeId e = 0; e < edges_.count(); ++e) {
            const auto around = edges_.around(e);
            if (around.size() != 2) continue;
            const bool along = mesh::runsAlong(m_, around[0], around[1]);
            for (unsigned end = 0; end < 2; ++end) {
                const RimEnd a = rimEnd(around[0], end);
                const RimEnd b = rimEnd(around[1], along ? end : 1 - end);
                if (!a.alone || !b.alone) continue;
                const Windings& back = s_.exactWeight[mesh::triangleOf(around[1])];
                potentials_->link(a.sheet, a.front, b.sheet, along ? b.front + back : b.front);
                break;
            }
        }
    }

    [[nodiscard]] RimEnd rimEnd(mesh::HalfEdge h, unsigned end) const {
        const TriangleId t = mesh::triangleOf(h);
        if (rimOf_[t] == none) return {t, {}, true};
        return (*rims_[rimOf_[t]])[mesh::cornerOf(h)][end];
    }

    // Each group of linked sheets gets its absolute winding number by one ray, from a triangle that is not cut if it
    // has one.
    void startSheets() {
        struct Seed {
            std::uint32_t root = 0;
            Windings toRoot{};
            mesh::Triangle corner{};
            TriangleId source = none;
        };
        std::vector<std::uint32_t> seedOf(cutting_.sheetCount, none);
        std::vector<Seed> seeds;
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) {
            if (rimOf_[t] != none) continue;
            const auto [root, add] = potentials_->find(t);
            if (seedOf[root] != none) continue;
            seedOf[root] = static_cast<std::uint32_t>(seeds.size());
            seeds.push_back({root, add, m_.triangles[t], t});
        }
        std::uint32_t last = none;
        std::size_t left = 0;
        for (std::uint32_t sheet = 0; sheet < cutting_.sheetCount; ++sheet) {
            const std::uint32_t root = potentials_->find(sheet).first;
            left += root == sheet && seedOf[root] == none;
        }
        for (const Cutting::Block& block : blocks_)
            for (const Piece& piece : block.pieces) {
                if (left == 0) break;
                if (piece.sheet == last) continue;
                last = piece.sheet;
                const auto [root, add] = potentials_->find(piece.sheet);
                if (seedOf[root] != none) continue;
                seedOf[root] = static_cast<std::uint32_t>(seeds.size());
                seeds.push_back({root, add + piece.front, piece.corner, piece.source});
                --left;
            }
        start_.assign(cutting_.sheetCount, Windings{});
        mesh::parallelFor(seeds.size(), 1, [&](std::size_t i) {
            const Seed& seed = seeds[i];
            const Windings front = windingInFrontOf(seed.corner, seed.source);
            start_[seed.root] = front - seed.toRoot;
        });
    }

    // What is not cut has outside in front of it, at least at the rim of the cutting, farthest from what is broken.
    void trustRim() {
        start_.assign(cutting_.sheetCount, Windings{});
        std::vector<std::uint8_t> known(cutting_.sheetCount, 0);
        for (mesh::EdgeId e = 0; e < edges_.count(); ++e) {
            if (edges_.degree(e) != 1) continue;
            const TriangleId t = mesh::triangleOf(edges_.around(e).front());
            if (rimOf_[t] != none) continue;
            const auto [root, add] = potentials_->find(t);
            doubtful_ |= known[root] && start_[root] != Windings{} - add;
            start_[root] = Windings{} - add;
            known[root] = 1;
        }
        for (TriangleId t = 0; t < m_.triangles.size(); ++t)
            doubtful_ |= rimOf_[t] == none && !known[potentials_->find(t).first];
        for (const Cutting::Block& block : blocks_)
            for (const Piece& piece : block.pieces) doubtful_ |= !known[potentials_->find(piece.sheet).first];
    }

    // Closed shells around the middle of a piece, a little in front of it.
    [[nodiscard]] Windings windingInFrontOf(const mesh::Triangle& corner, TriangleId source) const {
        const exact::Corner3 plane = points_.planeOf(source);
        const int axis = exact::projectionOf(plane).axis;
        std::array<exact::Homogeneous, 3> c;
        for (unsigned k = 0; k < 3; ++k) c[k] = points_.exactPoint(corner[k]);
        // Counter-clockwise from the front: the front looks along the axis that has this sign.
        const int ahead = exact::orient2dDropping(axis, c[0], c[1], c[2]);
        RayStart start{
            Point((points_.approximate(corner[0]) + points_.approximate(corner[1]) + points_.approximate(corner[2])) /
                  3.0),
            exact::centroid(c[0], c[1], c[2])};
        const double error = 4 * std::min(points_.grid().approximationError(), points_.grid().greatest());
        mesh::Box line{start.approximate, start.approximate};
        line = line.widened(error);
        (ahead > 0 ? line.max : line.min)[axis] = ahead * std::numeric_limits<double>::infinity();
        Windings sum{};
        cut_.tree().overlapping(line, [&](TriangleId t) {
            if (s_.exactWeight[t] == Windings{}) return;
            const int turn = rayTurn(start, axis, t);
            if (turn == 0) return;
            const int side =
                exact::orient3d(points_.exactPoint(m_.triangles[t][0]), points_.exactPoint(m_.triangles[t][1]),
                                points_.exactPoint(m_.triangles[t][2]), start.exact);
            // Below the triangle's plane (side > 0) and looking along its normal, or above it and against.
            if (side * turn * ahead <= 0) return;
            sum = turn == ahead ? sum + s_.exactWeight[t] : sum - s_.exactWeight[t];
        });
        return sum;
    }

    // The turn of triangle t about the axis if the line along it through the point, moved by (e, e^2) for a vanishing
    // e, passes through t; else 0.
    [[nodiscard]] int rayTurn(const RayStart& start, int axis, TriangleId t) const {
        int turn = 0;
        for (unsigned k = 0; k < 3; ++k) {
            const std::uint32_t a = m_.triangles[t][k];
            const std::uint32_t b = m_.triangles[t][(k + 1) % 3];
            const int side = perturbedTurn(start, axis, a, b);
            if (side == 0 || (turn != 0 && side != turn)) return 0;
            turn = side;
        }
        return turn;
    }

    [[nodiscard]] int perturbedTurn(const RayStart& start, int axis, VertexId a, VertexId b) const {
        const Point& pa = m_.positions[a];
        const Point& pb = m_.positions[b];
        const double error = 4 * points_.grid().approximationError();
        int turn = exact::filteredOrient2dDropping(axis, start.approximate, pa, pb, error);
        if (turn == 0) turn = exact::orient2dDropping(axis, start.exact, points_.exactPoint(a), points_.exactPoint(b));
        return turn != 0 ? turn : exact::turnOfMovedPoint(axis, pa, pb);
    }

    // Open shells enclose nothing exactly: the generalised winding number says how much.
    void measureOpenShells() {
        if (options_.around) {
            openWinding_[0] = options_.around;
            return;
        }
        std::array<std::vector<TriangleId>, 2> open;
        std::array<std::vector<int>, 2> weight;
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) {
            const Windings w = s_.weight[t] - s_.exactWeight[t];
            for (unsigned o = 0; o < 2; ++o)
                if (w[o] != 0) {
                    open[o].push_back(t);
                    weight[o].resize(m_.triangles.size(), 0);
                    weight[o][t] = w[o];
                }
        }
        for (unsigned o = 0; o < 2; ++o)
            if (!open[o].empty()) openWinding_[o] = &ownWinding_[o].emplace(m_, open[o], weight[o]);
    }

    // What open shells wind about the middles of pieces, by operand; one a piece.
    using OpenMeans = std::array<std::vector<double>, 2>;
    [[nodiscard]] OpenMeans openMeans(std::size_t count, const auto& cornersOf) const {
        OpenMeans means;
        if (!openWinding_[0] && !openWinding_[1]) return means;
        std::vector<Point> middles;
        for (std::size_t i = 0; i < count; ++i) {
            const mesh::Triangle& corner = cornersOf(i);
            middles.push_back(
                (points_.approximate(corner[0]) + points_.approximate(corner[1]) + points_.approximate(corner[2])) /
                3.0);
        }
        for (unsigned o = 0; o < 2; ++o) {
            if (!openWinding_[o]) continue;
            means[o].resize(count);
            openWinding_[o]->at(middles, means[o], tolerance::skinFarAway);
        }
        return means;
    }

    // Winding numbers in front of a piece and behind it.
    struct Sides {
        std::array<int, 2> front{};
        std::array<int, 2> back{};
    };
    // `i`: of the means.
    [[nodiscard]] Sides sidesOf(std::uint32_t sheet, const Windings& front, const Weights& weight,
                                const OpenMeans& means, std::size_t i) const {
        // find() was called for every sheet when its start was stored.
        const Windings exactFront = sheetStart_[sheet] + front;
        Sides sides;
        for (unsigned o = 0; o < 2; ++o) {
            sides.front[o] = exactFront[o];
            sides.back[o] = exactFront[o] + weight.exact[o];
            if (!openWinding_[o]) continue;
            const int jump = weight.all[o] - weight.exact[o];
            const int openFront = static_cast<int>(std::lround(means[o][i] - 0.5 * jump - tolerance::windingTie));
            sides.front[o] += openFront;
            sides.back[o] += openFront + jump;
        }
        return sides;
    }

    [[nodiscard]] bool inside(const std::array<int, 2>& winding) const {
        switch (options_.solid) {
            case Solid::Union:
                return winding[0] > 0;
            case Solid::Difference:
                return winding[0] > 0 && winding[1] <= 0;
            case Solid::Intersection:
                return winding[0] > 0 && winding[1] > 0;
        }
        return false;
    }

    // 1: on the skin as it is; -1: on the skin, turned over; 0: not on the skin.
    [[nodiscard]] int onSkin(const Sides& sides, bool open) const {
        const bool front = inside(sides.front);
        const bool back = inside(sides.back);
        if (front != back) return back ? 1 : -1;
        // An open sheet need not enclose anything: it stays wherever it is not buried.
        return open && !front ? 1 : 0;
    }

    using KeptPieces = std::vector<std::vector<std::pair<Piece, int>>>;  // by block; -1: turned over
    using Signs = std::vector<std::int8_t>;  // of each triangle: 1 it is on the skin, -1 turned over, 0 it is not
    Skin assemble(const Mesh& input);
    [[nodiscard]] Signs signsOfUncut() const;
    KeptPieces keepPieces(Signs& keep, Skin& skin);
    void write(const Mesh& input, const Signs& keep, const KeptPieces& kept, Skin& skin);
    [[nodiscard]] bool isOpen(TriangleId t) const { return s_.exactWeight[t] == Windings{}; }
    void listShells(const Mesh& input, const std::vector<std::uint8_t>& shellLeft, Skin& skin) const;

    Prepared& p_;
    const CutSurface& s_;
    const Mesh& m_;
    const SkinOptions& options_;
    const check::Surveyed& cut_;
    const mesh::Edges& edges_;
    Cutting cutting_;
    const ExactPoints& points_;
    std::vector<Cutting::Block>& blocks_;
    std::vector<std::uint32_t> rimOf_;
    std::vector<const Rim*> rims_;
    std::unique_ptr<Potentials> potentials_;
    bool doubtful_ = false;
    bool negative_ = false;
    std::vector<Windings> start_;       // of roots
    std::vector<Windings> sheetStart_;  // of all sheets
    std::array<std::optional<space::WindingTree>, 2> ownWinding_;
    std::array<const space::WindingTree*, 2> openWinding_{};
};

// Which shells of the input are gone, and what they were.
void SkinFinder::listShells(const Mesh& input, const std::vector<std::uint8_t>& shellLeft, Skin& skin) const {
    std::vector<GoneShell> shells(p_.shells);
    std::vector<double> volume(p_.shells, 0);
    for (TriangleId t = 0; t < input.triangles.size(); ++t) {
        const std::uint32_t shell = p_.shellOf[t];
        if (shell == none) continue;
        if (shells[shell].triangles++ == 0) shells[shell].first = t;
        shells[shell].box.add(mesh::boxOf(input, t));
        // About a point of the shell's own, so that volumes far from the origin keep their sign.
        volume[shell] += (input.corner(t, 0) - input.corner(shells[shell].first, 0)).dot(mesh::areaVector(input, t));
    }
    for (std::size_t i = 0; i < shells.size(); ++i) {
        skin.openShells += p_.shellOpen[i];
        shells[i].inward = !p_.shellOpen[i] && volume[i] < 0;
        skin.inwardShells += shells[i].inward;
        if (!shellLeft[i]) skin.gone.push_back(shells[i]);
    }
    std::stable_sort(skin.gone.begin(), skin.gone.end(),
                     [](const GoneShell& a, const GoneShell& b) { return a.box.diagonal() > b.box.diagonal(); });
}

Skin SkinFinder::assemble(const Mesh& input) {
    sheetStart_.resize(cutting_.sheetCount);
    for (std::uint32_t sheet = 0; sheet < cutting_.sheetCount; ++sheet) {
        const auto [root, add] = potentials_->find(sheet);
        sheetStart_[sheet] = start_[root] + add;
    }
    potentials_.reset();
    Skin skin;
    skin.crossingPairs = cutting_.pairs.size();
    skin.doubtful = doubtful_;
    skin.shellsIn = p_.shells;
    Signs keep = signsOfUncut();
    const KeptPieces kept = keepPieces(keep, skin);
    write(input, keep, kept, skin);
    return skin;
}

// Of triangles that nothing cuts; 0 for the others.
SkinFinder::Signs SkinFinder::signsOfUncut() const {
    Signs keep(m_.triangles.size(), 0);
    std::vector<TriangleId> uncut;
    for (TriangleId t = 0; t < m_.triangles.size(); ++t)
        if (rimOf_[t] == none) uncut.push_back(t);
    constexpr std::size_t atOnce = 256;
    mesh::parallelFor((uncut.size() + atOnce - 1) / atOnce, 16, [&](std::size_t run) {
        const std::span<const TriangleId> some =
            std::span(uncut).subspan(run * atOnce, std::min(atOnce, uncut.size() - run * atOnce));
        const OpenMeans means =
            openMeans(some.size(), [&](std::size_t i) -> const mesh::Triangle& { return m_.triangles[some[i]]; });
        for (std::size_t i = 0; i < some.size(); ++i) {
            const TriangleId t = some[i];
            keep[t] = static_cast<std::int8_t>(
                onSkin(sidesOf(t, {}, {s_.weight[t], s_.exactWeight[t]}, means, i), isOpen(t)));
        }
    });
    return keep;
}

// The pieces that stay; a triangle that was only touched may come out in one piece, and gets its sign.
SkinFinder::KeptPieces SkinFinder::keepPieces(Signs& keep, Skin& skin) {
    std::vector<std::uint8_t> isCut(m_.triangles.size(), 0);
    KeptPieces kept(blocks_.size());
    std::atomic<std::size_t> buried = 0;
    std::atomic<bool> negative = false;
    mesh::parallelFor(blocks_.size(), 1, [&](std::size_t b) {
        const OpenMeans means = openMeans(blocks_[b].pieces.size(), [&](std::size_t i) -> const mesh::Triangle& {
            return blocks_[b].pieces[i].corner;
        });
        for (std::size_t i = 0; i < blocks_[b].pieces.size(); ++i) {
            const Piece& piece = blocks_[b].pieces[i];
            const Weights weight = blocks_[b].weights.empty()
                                       ? Weights{s_.weight[piece.source], s_.exactWeight[piece.source]}
                                       : blocks_[b].weights[i];
            const int front = sheetStart_[piece.sheet][0] + piece.front[0];
            if (std::min(front, front + weight.exact[0]) < 0) negative = true;
            if (weight.all == Windings{} && weight.exact == Windings{}) continue;
            const bool open = isOpen(piece.source);
            const int sign = onSkin(sidesOf(piece.sheet, piece.front, weight, means, i), open);
            if (mesh::sameCorners(piece.corner, m_.triangles[piece.source]) && weight.all == s_.weight[piece.source]) {
                keep[piece.source] = static_cast<std::int8_t>(sign);
                continue;
            }
            isCut[piece.source] = 1;
            if (sign != 0)
                kept[b].emplace_back(piece, sign);
            else if (open)
                ++buried;
        }
        blocks_[b].pieces = {};
    });
    skin.buriedPieces = buried;
    negative_ = negative;
    for (TriangleId t = 0; t < m_.triangles.size(); ++t) skin.cut += isCut[t];
    return kept;
}

void SkinFinder::write(const Mesh& input, const Signs& keep, const KeptPieces& kept, Skin& skin) {
    std::vector<std::uint32_t> used;
    for (TriangleId t = 0; t < m_.triangles.size(); ++t)
        if (keep[t] != 0) used.insert(used.end(), m_.triangles[t].begin(), m_.triangles[t].end());
    for (const auto& block : kept)
        for (const auto& [piece, sign] : block) used.insert(used.end(), piece.corner.begin(), piece.corner.end());
    const std::vector<VertexId> slot = numberPoints(points_, std::move(used), skin.mesh, skin.givenVertex);
    std::vector<std::uint8_t> shellLeft(p_.shells, 0);
    const auto emit = [&](const mesh::Triangle& corner, TriangleId source, int sign) {
        mesh::Triangle t{slot[corner[0]], slot[corner[1]], slot[corner[2]]};
        if (sign < 0) std::swap(t[1], t[2]);
        const TriangleId original = p_.original[source];
        skin.mesh.triangles.push_back(t);
        skin.sourceOf.push_back(original);
        if (!input.regions.empty()) skin.mesh.regions.push_back(input.regions[original]);
        shellLeft[p_.shellOf[original]] = 1;
    };
    for (TriangleId t = 0; t < m_.triangles.size(); ++t)
        if (keep[t] != 0) emit(m_.triangles[t], t, keep[t]);
    skin.whole = skin.mesh.triangles.size();
    for (const auto& block : kept)
        for (const auto& [piece, sign] : block) emit(piece.corner, piece.source, sign);
    skin.mesh.regionNames = input.regionNames;
    skin.mesh.regionsAre = input.regionsAre;
    listShells(input, shellLeft, skin);
}

}  // namespace

namespace {

// Of what is cut nearly all is buried, and nothing seems to be inside out.
bool hidesMost(const Prepared& prepared, const check::Surveyed& s, const SkinOptions& options) {
    const auto known = s.known();
    return options.solid == Solid::Union && !options.soundElsewhere && !options.around &&
           std::find(prepared.shellOpen.begin(), prepared.shellOpen.end(), 1) == prepared.shellOpen.end() &&
           (!known || known->counts.inwardShells == 0);
}

}  // namespace

mesh::Outcome<Skin> skinOf(const check::Surveyed& s, const SkinOptions& options, mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    Prepared prepared = prepare(s, options);
    if (!progress.report(0.1)) return mesh::cancelled();
    // Where nothing was left out, what is known of the surface holds for what is cut.
    std::optional<check::Surveyed> rest;
    if (prepared.surface.mesh.triangles.size() != s.mesh().triangles.size()) rest.emplace(prepared.surface.mesh);
    const check::Surveyed& cut = rest ? *rest : s;
    const auto find = [&](bool leastOnly, bool& negative) {
        SkinFinder finder(prepared, cut, options, leastOnly);
        auto skin = finder.run(s.mesh(), progress);
        negative = finder.isNegative();
        return skin;
    };
    const bool leastOnly = hidesMost(prepared, s, options);
    bool negative = false;
    auto skin = find(leastOnly, negative);
    // Seldom: a shell that crosses itself so that it turns around something the wrong way.
    if (skin && negative && leastOnly) skin = find(false, negative);
    return skin;
}

}  // namespace zither::arrange
