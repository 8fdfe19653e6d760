// Cutting, linking, winding numbers and the skin, stage by stage; blocks of triangles are cut in parallel.
#include "arrange/arrangement.h"

#include <tbb/parallel_sort.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <cmath>
#include <map>
#include <memory>

#include "arrange/cut_surface.h"
#include "arrange/edge_order.h"
#include "arrange/pieces.h"
#include "arrange/potentials.h"
#include "arrange/triangle_cutter.h"
#include "exact/projection.h"
#include "mesh/disjoint_sets.h"
#include "mesh/parallel.h"
#include "mesh/tolerances.h"
#include "space/triangle_tree.h"
#include "space/winding.h"

namespace zither::arrange {
namespace {

constexpr mesh::NoIndex none;

// 1 where q lies less than half a turn counter-clockwise of p about the direction from u to v, -1 beyond; 0 where
// errors of that size in each coordinate could change it.
int filteredTurn(const Point& u, const Point& v, const Point& p, const Point& q, double error) {
    const Point along = v - u;
    const Point a = p - u;
    const Point b = q - u;
    const double turn = along.cross(a).dot(b);
    const double size =
        std::max({along.cwiseAbs().maxCoeff(), a.cwiseAbs().maxCoeff(), b.cwiseAbs().maxCoeff()}) + error;
    // Each difference is off by 3 errors at most; of three factors one is off, in six products, and each product is
    // rounded.
    const double bound = 18 * 3 * error * size * size + 0x1p-46 * size * size * size;
    return turn > bound ? 1 : turn < -bound ? -1 : 0;
}

// A point inside a piece, exact, for a ray.
struct RayStart {
    Point approximate;
    exact::Homogeneous exact;
};

class Arrangement {
public:
    // `cut`: the prepared surface, or one with the same triangles.
    Arrangement(Prepared& prepared, const check::Surveyed& cut, const SkinOptions& options)
        : p_(prepared),
          s_(prepared.surface),
          m_(prepared.surface.mesh),
          options_(options),
          cut_(cut),
          edges_(cut.edges()),
          points_(m_) {}

    mesh::Outcome<Pieces> runForPieces(const Mesh& input, mesh::Progress& progress) {
        if (auto cut = cutWhereTheyMeet(progress); !cut) return tl::unexpected(cut.error());
        Pieces pieces = gather(input);
        if (!progress.report(0.9)) return mesh::cancelled();
        orderEdges(pieces);
        if (!progress.report(1)) return mesh::cancelled();
        return pieces;
    }

    mesh::Outcome<Skin> run(const Mesh& input, mesh::Progress& progress) {
        if (auto cut = cutWhereTheyMeet(progress); !cut) return tl::unexpected(cut.error());
        linkSheets();
        if (!progress.report(0.8)) return mesh::cancelled();
        options_.soundElsewhere ? trustRim() : startSheets();
        if (!progress.report(0.85)) return mesh::cancelled();
        measureOpenShells();
        if (!progress.report(0.9)) return mesh::cancelled();
        Skin skin = assemble(input);
        if (!progress.report(1)) return mesh::cancelled();
        return skin;
    }

private:
    mesh::Outcome<void> cutWhereTheyMeet(mesh::Progress& progress) {
        mesh::PartOfProgress searching(progress, 0.1, 0.4);
        if (auto found = findPairs(searching); !found) return found;
        partners_ = std::make_unique<Partners>(m_.triangles.size(), pairs_);
        figures_ = figuresOf(edges_, pairs_, *partners_, points_);
        if (!progress.report(0.5)) return mesh::cancelled();
        if (!cutAll(progress)) return mesh::cancelled();
        numberWhatWasMade();
        return {};
    }

    mesh::Outcome<void> findPairs(mesh::Progress& progress) {
        if (const auto known = cut_.known()) {
            pairs_ = known->crossingPairs;
            return {};
        }
        auto pairs = check::crossingPairs(cut_.tree(), progress);
        if (!pairs) return tl::unexpected(pairs.error());
        pairs_ = std::move(*pairs);
        tbb::parallel_sort(pairs_.begin(), pairs_.end());
        return {};
    }

    struct Block {
        std::vector<Piece> pieces;
        std::vector<Weights> weights;  // of pieces that are cut together; else those of the source
        std::vector<Generator> made;
        std::vector<Point> madeAt;
        std::vector<std::pair<TriangleId, Rim>> rims;
        std::uint32_t sheets = 0;
        std::uint32_t firstPoint = 0;
        std::uint32_t firstSheet = 0;
    };

    bool cutAll(mesh::Progress& progress) {
        // Triangles to cut, alone or with those that they overlap in one plane.
        mesh::DisjointSets planes(m_.triangles.size());
        std::vector<std::uint8_t> overlaps(m_.triangles.size(), 0);
        for (std::size_t i = 0; i < pairs_.size(); ++i)
            if (figures_[i].coplanar) {
                planes.join(pairs_[i].first, pairs_[i].second);
                overlaps[pairs_[i].first] = overlaps[pairs_[i].second] = 1;
            }
        std::map<std::uint32_t, std::vector<TriangleId>> together;
        std::vector<TriangleId> alone;
        for (TriangleId t = 0; t < m_.triangles.size(); ++t) {
            if (partners_->of(t).empty()) continue;
            if (overlaps[t])
                together[planes.find(t)].push_back(t);
            else
                alone.push_back(t);
        }
        std::vector<std::vector<TriangleId>> groups;
        for (auto& [root, members] : together) groups.push_back(std::move(members));
        together.clear();

        constexpr std::size_t aloneABlock = 2048;
        constexpr std::size_t groupsABlock = 64;
        const std::size_t aloneBlocks = (alone.size() + aloneABlock - 1) / aloneABlock;
        const std::size_t groupBlocks = (groups.size() + groupsABlock - 1) / groupsABlock;
        blocks_.resize(aloneBlocks + groupBlocks);
        std::atomic<bool> stop = false;
        std::atomic<std::size_t> done = 0;
        mesh::parallelFor(blocks_.size(), 1, [&](std::size_t b) {
            if (stop) return;
            Block& block = blocks_[b];
            TriangleCutter cutter(s_, edges_, pairs_, figures_, *partners_, points_);
            if (b < aloneBlocks) {
                for (std::size_t i = b * aloneABlock; i < std::min(alone.size(), (b + 1) * aloneABlock); ++i) {
                    block.rims.push_back({alone[i], {}});
                    cutter.cut(alone[i], block.rims.back().second);
                }
            } else {
                const std::size_t first = (b - aloneBlocks) * groupsABlock;
                for (std::size_t i = first; i < std::min(groups.size(), first + groupsABlock); ++i) {
                    std::vector<Rim> rims(groups[i].size());
                    cutter.cutTogether(groups[i], rims);
                    for (std::size_t n = 0; n < rims.size(); ++n) block.rims.emplace_back(groups[i][n], rims[n]);
                }
            }
            block.pieces = std::move(cutter.pieces);
            block.weights = std::move(cutter.weights);
            block.made = std::move(cutter.made);
            block.madeAt = std::move(cutter.madeAt);
            block.sheets = cutter.sheetsMade;
            if (!progress.report(0.5 + 0.25 * static_cast<double>(++done) / static_cast<double>(blocks_.size())))
                stop = true;
        });
        return !stop;
    }

    // Points and sheets made in blocks get numbers of their own.
    void numberWhatWasMade() {
        std::size_t made = points_.count() - points_.givenCount();
        auto sheets = static_cast<std::uint32_t>(m_.triangles.size());
        for (Block& block : blocks_) {
            block.firstPoint = static_cast<std::uint32_t>(made);
            block.firstSheet = sheets;
            made += block.made.size();
            sheets += block.sheets;
        }
        sheetCount_ = sheets;
        points_.resize(made);
        mesh::parallelFor(blocks_.size(), 1, [&](std::size_t b) {
            Block& block = blocks_[b];
            for (std::size_t i = 0; i < block.made.size(); ++i)
                points_.set(block.firstPoint + i, block.made[i], block.madeAt[i]);
            const auto pointNumber = [&](std::uint32_t name) {
                return name < TriangleCutter::madeFlag
                           ? name
                           : points_.givenCount() + block.firstPoint + (name - TriangleCutter::madeFlag);
            };
            const auto sheetNumber = [&](std::uint32_t sheet) {
                return sheet < TriangleCutter::madeFlag ? sheet : block.firstSheet + (sheet - TriangleCutter::madeFlag);
            };
            for (Piece& piece : block.pieces) {
                for (VertexId& c : piece.corner) c = pointNumber(c);
                piece.sheet = sheetNumber(piece.sheet);
            }
            for (auto& [t, rim] : block.rims)
                for (auto& edge : rim)
                    for (RimEnd& end : edge) end.sheet = sheetNumber(end.sheet);
            block.made = {};
            block.madeAt = {};
        });
    }

    // Neighbours whose common edge nobody else touches, at one of its ends at least, have the same winding number in
    // front, or one's front is the other's back.
    void linkSheets() {
        rimOf_.assign(m_.triangles.size(), none);
        for (const Block& block : blocks_)
            for (const auto& [t, rim] : block.rims) {
                rimOf_[t] = static_cast<std::uint32_t>(rims_.size());
                rims_.push_back(&rim);
            }
        potentials_ = std::make_unique<Potentials>(sheetCount_);
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
        std::vector<std::uint32_t> seedOf(sheetCount_, none);
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
        for (std::uint32_t sheet = 0; sheet < sheetCount_; ++sheet) {
            const std::uint32_t root = potentials_->find(sheet).first;
            left += root == sheet && seedOf[root] == none;
        }
        for (const Block& block : blocks_)
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
        start_.assign(sheetCount_, Windings{});
        mesh::parallelFor(seeds.size(), 1, [&](std::size_t i) {
            const Seed& seed = seeds[i];
            const Windings front = windingInFrontOf(seed.corner, seed.source);
            start_[seed.root] = front - seed.toRoot;
        });
    }

    // What is not cut has outside in front of it, at least at the rim of the cutting, farthest from what is broken.
    void trustRim() {
        start_.assign(sheetCount_, Windings{});
        std::vector<std::uint8_t> known(sheetCount_, 0);
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
        for (const Block& block : blocks_)
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
        mesh::Box line;
        const double error = 4 * std::min(points_.grid().approximationError(), points_.grid().greatest());
        line.min = start.approximate - Point::Constant(error);
        line.max = start.approximate + Point::Constant(error);
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
            if (!open[o].empty())
                openWinding_[o] = std::make_unique<space::WindingTree>(m_, std::move(open[o]), weight[o]);
    }

    // Winding numbers in front of a piece and behind it.
    struct Sides {
        std::array<int, 2> front{};
        std::array<int, 2> back{};
    };
    [[nodiscard]] Sides sidesOf(std::uint32_t sheet, const Windings& front, const Windings& weight,
                                const Windings& exactWeight, const mesh::Triangle& corner) const {
        // find() was called for every sheet when its start was stored.
        const Windings exactFront = sheetStart_[sheet] + front;
        Sides sides;
        for (unsigned o = 0; o < 2; ++o) {
            sides.front[o] = exactFront[o];
            sides.back[o] = exactFront[o] + exactWeight[o];
            if (!openWinding_[o]) continue;
            const Point middle =
                (points_.approximate(corner[0]) + points_.approximate(corner[1]) + points_.approximate(corner[2])) /
                3.0;
            const double mean = openWinding_[o]->at(middle, tolerance::skinFarAway);
            const int jump = weight[o] - exactWeight[o];
            const int openFront = static_cast<int>(std::lround(mean - 0.5 * jump - tolerance::windingTie));
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

    [[nodiscard]] Pieces gather(const Mesh& input);
    void orderEdges(Pieces& pieces) const;

    using KeptPieces = std::vector<std::vector<std::pair<Piece, int>>>;  // by block; -1: turned over
    Skin assemble(const Mesh& input);
    std::vector<VertexId> numberPoints(std::vector<std::uint32_t> used, Mesh& out,
                                       std::vector<VertexId>& givenVertex) const;
    void listShells(const Mesh& input, const std::vector<std::uint8_t>& shellLeft, Skin& skin) const;
    void mergePoints(std::vector<std::uint32_t>& used, std::vector<std::uint32_t>& same) const;

    Prepared& p_;
    const CutSurface& s_;
    const Mesh& m_;
    const SkinOptions& options_;
    const check::Surveyed& cut_;
    const mesh::Edges& edges_;
    ExactPoints points_;
    std::vector<check::TrianglePair> pairs_;
    std::unique_ptr<Partners> partners_;
    std::vector<Figure> figures_;
    std::vector<Block> blocks_;
    std::uint32_t sheetCount_ = 0;
    std::vector<std::uint32_t> rimOf_;
    std::vector<const Rim*> rims_;
    std::unique_ptr<Potentials> potentials_;
    bool doubtful_ = false;
    std::vector<Windings> start_;       // of roots
    std::vector<Windings> sheetStart_;  // of all sheets
    std::array<std::unique_ptr<space::WindingTree>, 2> openWinding_;
    std::vector<std::uint32_t> exactOf_;  // of each vertex of the pieces: a point
};

// Points of equal exact coordinates get one number: same[i] is the place in `used` of the first that equals used[i].
// Cells far larger than the error of approximations bring equals together; only those in one cell are compared exactly.
void Arrangement::mergePoints(std::vector<std::uint32_t>& used, std::vector<std::uint32_t>& same) const {
    struct Cell {
        std::array<std::int64_t, 3> at;
        std::uint32_t place;
        bool operator<(const Cell& o) const { return at != o.at ? at < o.at : place < o.place; }
    };
    const double error = points_.grid().approximationError();
    const double size = points_.grid().greatest() * 0x1p-40;
    constexpr double offset = 0.37;  // round coordinates should not lie on the rims of cells
    std::vector<Cell> cells(used.size());
    mesh::parallelFor(used.size(), 1024, [&](std::size_t i) {
        const Point& p = points_.approximate(used[i]);
        cells[i].place = static_cast<std::uint32_t>(i);
        std::optional<exact::Homogeneous> exactly;
        for (int k = 0; k < 3; ++k) {
            double x = p[k];
            const auto cellOf = [&](double c) { return std::floor(c / size + offset); };
            // Where rounding could have moved the point across the rim of a cell, its nearest double decides, which is
            // the same for all points there.
            if (!points_.isGiven(used[i]) && cellOf(x - 2 * error) != cellOf(x + 2 * error)) {
                if (!exactly) exactly = points_.exactPoint(used[i]);
                x = points_.grid().nearestDouble(*exactly, k);
            }
            cells[i].at[static_cast<unsigned>(k)] = size > 0 ? static_cast<std::int64_t>(cellOf(x)) : 0;
        }
    });
    tbb::parallel_sort(cells.begin(), cells.end());
    same.resize(used.size());
    for (std::uint32_t i = 0; i < same.size(); ++i) same[i] = i;
    for (std::size_t i = 0; i < cells.size();) {
        std::size_t end = i + 1;
        while (end < cells.size() && cells[end].at == cells[i].at) ++end;
        if (end - i > 1) {
            std::vector<std::pair<std::uint32_t, std::optional<exact::Homogeneous>>> firsts;
            const auto exactOf = [&](auto& entry) -> const exact::Homogeneous& {
                if (!entry.second) entry.second = points_.exactPoint(used[entry.first]);
                return *entry.second;
            };
            for (; i < end; ++i) {
                std::pair<std::uint32_t, std::optional<exact::Homogeneous>> entry{cells[i].place, std::nullopt};
                const std::uint32_t point = used[entry.first];
                bool found = false;
                for (auto& first : firsts) {
                    const std::uint32_t other = used[first.first];
                    const bool bothGiven = points_.isGiven(point) && points_.isGiven(other);
                    const bool bothMade = !points_.isGiven(point) && !points_.isGiven(other);
                    const bool alike = bothMade && points_.generator(point).kind == points_.generator(other).kind &&
                                       points_.generator(point).from == points_.generator(other).from;
                    if (bothGiven || (!alike && !exact::equal(exactOf(entry), exactOf(first)))) continue;
                    same[entry.first] = first.first;
                    found = true;
                    break;
                }
                if (!found) firsts.push_back(std::move(entry));
            }
        }
        i = end;
    }
}

// Which shells of the input are gone, and what they were.
void Arrangement::listShells(const Mesh& input, const std::vector<std::uint8_t>& shellLeft, Skin& skin) const {
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

// Gives points (each may be there more than once) their places in a mesh: equal ones the same. The number of each, by
// point; noIndex for those that are not used.
std::vector<VertexId> Arrangement::numberPoints(std::vector<std::uint32_t> used, Mesh& out,
                                                std::vector<VertexId>& givenVertex) const {
    // The order of the input for its own vertices, then the constructed ones.
    tbb::parallel_sort(used.begin(), used.end());
    used.erase(std::unique(used.begin(), used.end()), used.end());
    std::vector<std::uint32_t> same;
    mergePoints(used, same);
    std::vector<VertexId> slot(points_.count(), none);
    for (std::size_t i = 0; i < used.size(); ++i) {
        if (same[i] == i) {
            slot[used[i]] = out.positions.size();
            out.positions.push_back(points_.approximate(used[i]));
            givenVertex.push_back(points_.isGiven(used[i]) ? VertexId(used[i]) : VertexId(none));
        } else {
            slot[used[i]] = slot[used[same[i]]];
        }
    }
    return slot;
}

// All triangles and pieces, those that lie on each other once.
Pieces Arrangement::gather(const Mesh& input) {
    struct Kept {
        mesh::Triangle corner{};
        TriangleId source = 0;
        Windings weight{};
    };
    std::vector<Kept> wholes;
    std::vector<Kept> cut;
    for (TriangleId t = 0; t < m_.triangles.size(); ++t)
        if (partners_->of(t).empty()) wholes.push_back({m_.triangles[t], t, s_.weight[t]});
    for (Block& block : blocks_) {
        for (std::size_t i = 0; i < block.pieces.size(); ++i) {
            const Piece& piece = block.pieces[i];
            Windings weight = block.weights.empty() ? s_.weight[piece.source] : block.weights[i].all;
            const mesh::Triangle& source = m_.triangles[piece.source];
            if (!mesh::sameCorners(piece.corner, source)) {
                cut.push_back({piece.corner, piece.source, weight});
                continue;
            }
            if (sameTurn(piece.corner, source) < 0) weight = Windings{} - weight;
            wholes.push_back({source, piece.source, weight});
        }
        block.pieces = {};
    }
    std::sort(wholes.begin(), wholes.end(), [](const Kept& a, const Kept& b) { return a.source < b.source; });
    std::vector<std::uint32_t> used;
    for (const auto* list : {&wholes, &cut})
        for (const Kept& k : *list) used.insert(used.end(), k.corner.begin(), k.corner.end());
    Pieces out;
    const std::vector<VertexId> slot = numberPoints(std::move(used), out.mesh, out.givenVertex);
    out.whole = wholes.size();
    for (const auto* list : {&wholes, &cut})
        for (const Kept& k : *list) {
            const TriangleId original = p_.original[k.source];
            out.mesh.triangles.push_back({slot[k.corner[0]], slot[k.corner[1]], slot[k.corner[2]]});
            out.sourceOf.push_back(original);
            out.weight.push_back(k.weight);
            if (!input.regions.empty()) out.mesh.regions.push_back(input.regions[original]);
        }
    out.mesh.regionNames = input.regionNames;
    exactOf_.assign(out.mesh.positions.size(), none);
    for (std::uint32_t p = 0; p < slot.size(); ++p)
        if (slot[p] != none && exactOf_[slot[p]] == none) exactOf_[slot[p]] = p;
    return out;
}

// The angular order about edges of three and more pieces: by approximations where their errors cannot change it.
void Arrangement::orderEdges(Pieces& pieces) const {
    const Mesh& m = pieces.mesh;
    const mesh::Edges edges(m);
    std::vector<mesh::EdgeId> crowded;
    for (mesh::EdgeId e = 0; e < edges.count(); ++e)
        if (edges.degree(e) > 2) crowded.push_back(e);
    pieces.fans.resize(crowded.size());
    const double error = points_.grid().approximationError();
    mesh::parallelFor(crowded.size(), 64, [&](std::size_t i) {
        const auto around = edges.around(crowded[i]);
        const auto [u, v] = std::minmax({mesh::fromVertex(m, around[0]), mesh::toVertex(m, around[0])});
        std::map<std::uint32_t, exact::Homogeneous> known;
        const auto exactly = [&, u = u, v = v](std::uint32_t vertex) -> const exact::Homogeneous& {
            const auto [it, fresh] = known.try_emplace(vertex);
            if (fresh) it->second = points_.exactPoint(exactOf_[vertex]);
            return it->second;
        };
        pieces.fans[i] = byAngle(around, [&, u = u, v = v](mesh::HalfEdge a, mesh::HalfEdge b) {
            const VertexId p = mesh::oppositeVertex(m, a);
            const VertexId q = mesh::oppositeVertex(m, b);
            if (p == q) return 0;
            const int near = filteredTurn(m.positions[u], m.positions[v], m.positions[p], m.positions[q], error);
            return near != 0 ? near : -exact::orient3d(exactly(u), exactly(v), exactly(p), exactly(q));
        });
    });
}

Skin Arrangement::assemble(const Mesh& input) {
    sheetStart_.resize(sheetCount_);
    for (std::uint32_t sheet = 0; sheet < sheetCount_; ++sheet) {
        const auto [root, add] = potentials_->find(sheet);
        sheetStart_[sheet] = start_[root] + add;
    }
    potentials_.reset();
    Skin skin;
    skin.crossingPairs = pairs_.size();
    skin.doubtful = doubtful_;
    skin.shellsIn = p_.shells;
    std::vector<std::uint8_t> shellLeft(p_.shells, 0);

    const auto isOpen = [&](TriangleId t) { return s_.exactWeight[t] == Windings{}; };
    // Triangles that nothing cuts.
    std::vector<std::int8_t> keep(m_.triangles.size(), 0);
    mesh::parallelFor(m_.triangles.size(), 4096, [&](std::size_t i) {
        const auto t = static_cast<TriangleId>(i);
        if (rimOf_[t] != none) return;
        keep[t] = static_cast<std::int8_t>(
            onSkin(sidesOf(t, {}, s_.weight[t], s_.exactWeight[t], m_.triangles[t]), isOpen(t)));
    });
    std::vector<std::uint8_t> isCut(m_.triangles.size(), 0);
    KeptPieces kept(blocks_.size());
    std::atomic<std::size_t> buried = 0;
    mesh::parallelFor(blocks_.size(), 1, [&](std::size_t b) {
        for (std::size_t i = 0; i < blocks_[b].pieces.size(); ++i) {
            const Piece& piece = blocks_[b].pieces[i];
            const Weights weight = blocks_[b].weights.empty()
                                       ? Weights{s_.weight[piece.source], s_.exactWeight[piece.source]}
                                       : blocks_[b].weights[i];
            if (weight.all == Windings{} && weight.exact == Windings{}) continue;
            const bool open = isOpen(piece.source);
            const int sign = onSkin(sidesOf(piece.sheet, piece.front, weight.all, weight.exact, piece.corner), open);
            // A triangle that was only touched may come out in one piece.
            const bool whole =
                mesh::sameCorners(piece.corner, m_.triangles[piece.source]) && weight.all == s_.weight[piece.source];
            if (whole)
                keep[piece.source] = static_cast<std::int8_t>(sign);
            else
                isCut[piece.source] = 1;
            if (whole) continue;
            if (sign != 0)
                kept[b].emplace_back(piece, sign);
            else if (open)
                ++buried;
        }
        blocks_[b].pieces = {};
    });
    skin.buriedPieces = buried;
    for (TriangleId t = 0; t < m_.triangles.size(); ++t) skin.cut += isCut[t];

    std::vector<std::uint32_t> used;
    for (TriangleId t = 0; t < m_.triangles.size(); ++t)
        if (keep[t] != 0) used.insert(used.end(), m_.triangles[t].begin(), m_.triangles[t].end());
    for (const auto& block : kept)
        for (const auto& [piece, sign] : block) used.insert(used.end(), piece.corner.begin(), piece.corner.end());
    const std::vector<VertexId> slot = numberPoints(std::move(used), skin.mesh, skin.givenVertex);
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

    listShells(input, shellLeft, skin);
    return skin;
}

}  // namespace

mesh::Outcome<Skin> skinOf(const check::Surveyed& s, const SkinOptions& options, mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    Prepared prepared = prepare(s, options);
    if (!progress.report(0.1)) return mesh::cancelled();
    // Where nothing was left out, what is known of the surface holds for what is cut.
    if (prepared.surface.mesh.triangles.size() == s.mesh().triangles.size())
        return Arrangement(prepared, s, options).run(s.mesh(), progress);
    const check::Surveyed rest(prepared.surface.mesh);
    return Arrangement(prepared, rest, options).run(s.mesh(), progress);
}

mesh::Outcome<Pieces> piecesOf(const check::Surveyed& s, const std::vector<std::uint8_t>& operandOf,
                               mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    SkinOptions options;
    options.solid = Solid::Difference;  // operands are counted apart
    options.operandOf = operandOf;
    options.keepCancelled = true;
    Prepared prepared = prepare(s, options);
    if (!progress.report(0.1)) return mesh::cancelled();
    const check::Surveyed cut(prepared.surface.mesh);
    return Arrangement(prepared, cut, options).runForPieces(s.mesh(), progress);
}

}  // namespace zither::arrange
