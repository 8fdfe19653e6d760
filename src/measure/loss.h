// What can be seen of a surface and is gone in another one, and what is there that was not: lost and added.
#pragma once

#include <atomic>
#include <cstdint>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "measure/regions.h"
#include "measure/visibility.h"
#include "mesh/edges.h"
#include "mesh/mesh.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "space/ray_scene.h"
#include "space/triangle_tree.h"

namespace zither::measure {

// Surfaces that steps have listed: what is lost or added there was said, or asked for.
struct Told {
    mesh::Mesh closing = {};   // patches over openings: they hide what lies behind them
    mesh::Mesh mayGo = {};     // of the import: goes on the user's word, as what bounds no volume
    mesh::Mesh reshaped = {};  // of the import: cut away, or moved, by a step that is for that
    mesh::Mesh bodies = {};    // of sheets that were thickened

    void append(const Told& other);
};

// The same, to be searched; nullptr where there is nothing.
class ToldTrees {
    Told told_;  // the trees stand over it

public:
    std::unique_ptr<const space::TriangleTree> closing;
    std::unique_ptr<const space::TriangleTree> mayGo;
    std::unique_ptr<const space::TriangleTree> reshaped;
    std::unique_ptr<const space::TriangleTree> bodies;

    explicit ToldTrees(Told told);
    ToldTrees(const ToldTrees&) = delete;
    ToldTrees& operator=(const ToldTrees&) = delete;
};

struct LossOptions {
    double tolerance = 0;  // in the file's unit; 0: lossTolerance of the import
    // The result bounds a body (watertight, positive volume): then what stands for a seen point must face its seen
    // side.
    bool facing = false;
    const ToldTrees* told = nullptr;  // nullptr: nothing was
};

// The smaller of a thousandth of the box's diagonal and a five-hundredth of the square root of the area.
double lossTolerance(const mesh::Mesh& import);

// Neighbouring points that are lost, or added, together.
struct LossPlace {
    mesh::Point position = mesh::Point::Zero();  // of one of its points, nearest to their middle
    double size = 0;                             // diagonal of their box
    double area = 0;
};

// A shell of the import over half of whose seen area is lost.
struct LostPiece {
    std::uint32_t shell = 0;
    mesh::Box box;
    double area = 0;     // of the shell
    double lost = 0;     // of that: seen and lost
    bool speck = false;  // smaller than 2 % of the diagonal, and all such pieces hold at most 0.5 % of the area
    bool mayGo = false;  // most of what is lost of it goes on the user's word
};

// A point of the import that is seen and lost.
struct LostPoint {
    mesh::TriangleId triangle = 0;
    double area = 0;     // that it stands for
    bool mayGo = false;  // on the user's word
};

// Shares are 0 to 1. Sampled: seeded, the same for any number of threads.
struct Loss {
    double tolerance = 0;
    double seenArea = 0;      // of the import
    double lost = 0;          // share of the seen area
    double lostListed = 0;    // the part of `lost` that lies in lost pieces that are specks, or goes on the user's word
    double lostReshaped = 0;  // the part of `lostListed` that steps cut away or moved because they are for that
    std::vector<LostPiece> pieces;
    std::vector<LossPlace> lostPlaces;  // largest first
    std::vector<LostPoint> lostPoints;
    double added = 0;                    // share of the result's area
    double addedListed = 0;              // the part of `added` in patches and bodies that were listed
    std::vector<LossPlace> addedPlaces;  // largest first
    std::size_t points = 0;              // that were looked at
    RegionChange regions = {};
};

// At most this share of what can be seen may be lost, specks that were listed and what may go aside (promise 5).
inline constexpr double mostLost = 0.002;

// Share of what is seen that is lost and was neither listed nor asked for.
[[nodiscard]] double unlisted(const Loss& loss);

// Little enough is, and no piece.
[[nodiscard]] bool losesNothing(const Loss& loss);
// This piece counts as lost: it is no speck, may not go, and more of it was seen than through a crack.
[[nodiscard]] bool isMissed(const LostPiece& piece);

// A surface that a tree stands over, with its shells as mesh::shellsOf.
struct LossSurface {
    const space::TriangleTree& tree;
    const mesh::Groups& shells;
};

// An import, with what tells what is seen of it.
struct LossImport : LossSurface {
    const space::RayScene& rays;
    std::span<const std::int8_t> tight = {};  // check::tightShells; empty: not known
};

// A point of a surface.
struct SeenPoint {
    mesh::Point at;
    mesh::Point normal;  // unit, of its triangle's front
    double area = 0;     // that it stands for
    mesh::TriangleId triangle = 0;
    std::uint32_t shell = 0;
};

// Points of an import, and from which sides each can be seen: 20 000, and at least 16 a shell; 48 directions a side.
// Collapsed triangles have no area and are not looked at. Whether a side is seen is found when it is asked for, and
// known from then on; that may be asked from several threads.
class SeenPoints {
public:
    // Of all of the import, which must outlive this.
    explicit SeenPoints(const LossImport& import);
    // The same points where patches close openings of the import and hide what lies behind them.
    SeenPoints(std::shared_ptr<const SeenPoints> free, const LossImport& import, const mesh::Mesh& closing);
    // The same points as a motion of the whole import brought them somewhere else.
    SeenPoints(std::shared_ptr<const SeenPoints> still, std::vector<SeenPoint> moved);

    [[nodiscard]] const std::vector<SeenPoint>& points() const { return points_; }
    enum class Side { Front, Back };
    [[nodiscard]] bool isSeen(std::size_t point, Side side) const;

private:
    std::shared_ptr<const SeenPoints> behind_;  // what is hidden there is hidden here; nullptr: nothing is yet
    std::optional<Visibility> visibility_;      // none: as behind_ says
    std::vector<SeenPoint> points_;
    enum : std::uint8_t { unknown, seen, hidden };
    mutable std::vector<std::atomic<std::uint8_t>> known_;  // of each point its front, then its back
};

// For an import without area nothing is lost. Of the result as many points are looked at. Error: only cancelled.
mesh::Outcome<Loss> lossBetween(const SeenPoints& seen, const LossSurface& import, const LossSurface& result,
                                const LossOptions& options, mesh::Progress& progress);
// The same with what is seen of the import found on the way.
mesh::Outcome<Loss> lossBetween(const LossImport& import, const LossSurface& result, const LossOptions& options,
                                mesh::Progress& progress);

// Share of the import's area, seen or not, that has nothing of the result within the tolerance (lossTolerance): where
// it is 0 nothing is lost, whatever is seen, unless facing is asked. A tenth of the cost. Error: only cancelled.
mesh::Outcome<double> farShare(const LossSurface& import, const space::TriangleTree& result, mesh::Progress& progress);

}  // namespace zither::measure
