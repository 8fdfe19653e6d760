// A surface changed edge by edge and vertex by vertex, each change tested exactly before it stays.
#pragma once

#include <cstdint>
#include <unordered_map>
#include <vector>

#include "fit/swept.h"
#include "mesh/edges.h"
#include "mesh/lazy.h"
#include "mesh/mesh.h"
#include "space/triangle_tree.h"

namespace zither::fit {

struct ChangeRules {
    double tolerance = 0;  // how far the surface may move, in the file's unit; and narrower triangles are slivers
    // Above 0: triangles with a smaller angle (in degrees) are slivers as well.
    double angleDeg = 0;
    // One flag a triangle: it must stay as it is. Empty: none.
    std::vector<std::uint8_t> fixed = {};
    // One flag a triangle: it meets others already, and may go on to meet those of the same kind. Empty: none.
    std::vector<std::uint8_t> broken = {};
    bool moveTouching = false;  // vertices at which more than one surface meets may be collapsed as well
};

// Each change is made and true returned, or nothing is done: where it would change a fixed triangle, break the link
// condition, make a degenerate triangle or more slivers, turn a triangle over, let triangles meet or pass over others,
// or take the surface farther than the tolerance from any point of the one that was given (vertices that went, and
// where edges that went passed over those that came) or the given one from any point of it, or borders of regions. Open
// and non-manifold edges stay. Cost of a change: the square of the triangles around it. Not thread-safe. The tree of
// the given surface is kept: 100 bytes a triangle.
class LocalChanges {
public:
    // How far a collapse may go: no vertex farther than the tolerance, or only the surface.
    enum class Moves { Vertex, Surface };

    LocalChanges(const mesh::Mesh& m, ChangeRules rules);

    // With triangles that are gone (alive) and vertices that nothing uses any more.
    [[nodiscard]] const mesh::Mesh& mesh() const { return m_; }
    [[nodiscard]] const std::vector<std::uint8_t>& alive() const { return alive_; }
    [[nodiscard]] bool isSliver(mesh::TriangleId t) const;
    [[nodiscard]] bool isFixed(mesh::TriangleId t) const { return !rules_.fixed.empty() && rules_.fixed[t]; }
    // The corner after which the longest edge begins, and its length.
    [[nodiscard]] std::pair<unsigned, double> longestEdge(mesh::TriangleId t) const;

    // Moves `from` onto `onto`.
    bool collapse(mesh::VertexId from, mesh::VertexId onto, Moves moves);
    // Turns the longest edge of t in the quadrangle that it makes with its neighbour, where the third corner lies over
    // it.
    bool swapLongest(mesh::TriangleId t);
    // Only if there are fewer slivers then.
    bool moveTo(mesh::VertexId v, const mesh::Point& to);

    // Something around it changed in the last round or in this one: what could not be done may be possible now.
    [[nodiscard]] bool isTouched(mesh::TriangleId t) const { return isAtAny(t, touched_); }
    [[nodiscard]] bool isTouchedNow(mesh::TriangleId t) const { return isAtAny(t, touchedNow_); }  // in this one
    void nextRound();
    // How far the surface moved, at most.
    [[nodiscard]] double farthestMoved() const { return farthestMoved_; }

private:
    using Points = std::vector<mesh::Point>;
    using Triangles = std::vector<mesh::TriangleId>;

    [[nodiscard]] bool byAngle() const { return rules_.angleDeg > 0; }
    [[nodiscard]] bool isBroken(mesh::TriangleId t) const { return !rules_.broken.empty() && rules_.broken[t]; }
    [[nodiscard]] bool isAtAny(mesh::TriangleId t, const std::vector<std::uint8_t>& vertices) const;
    [[nodiscard]] double width(const mesh::Triangle& t) const;
    [[nodiscard]] bool isThin(mesh::TriangleId t) const { return width(m_.triangles[t]) < rules_.tolerance; }
    [[nodiscard]] mesh::Point facing(mesh::TriangleId t) const;
    Triangles& at(mesh::VertexId v);
    std::vector<mesh::VertexId> neighbours(mesh::VertexId v);
    [[nodiscard]] bool goesWith(const Triangles& going, const std::vector<mesh::VertexId>& common, mesh::VertexId from,
                                mesh::VertexId onto) const;
    [[nodiscard]] bool isClosedAround(mesh::VertexId at, const Triangles& fan) const;
    [[nodiscard]] bool linkAllows(const Triangles& fan, const Triangles& going, mesh::VertexId from,
                                  mesh::VertexId onto);
    [[nodiscard]] bool keepsBorders(const Triangles& fan, mesh::VertexId from, mesh::VertexId onto) const;
    [[nodiscard]] Points passedOver(const std::vector<mesh::VertexId>& rim, mesh::VertexId from,
                                    mesh::VertexId onto) const;
    [[nodiscard]] double distance(const mesh::Point& p, const Triangles& triangles) const;
    [[nodiscard]] bool stayNear(const Points& fresh, const std::vector<mesh::VertexId>& vertices, const Triangles& now,
                                double& farthest);
    [[nodiscard]] double fromGiven(mesh::TriangleId t);
    [[nodiscard]] bool staysOver(const Triangles& were, const Triangles& are, double by, double& farthest);
    [[nodiscard]] bool makesSlivers(const Triangles& triangles, const std::vector<mesh::Triangle>& before,
                                    const Triangles& going);
    [[nodiscard]] bool isSound(const Triangles& triangles, const Points& facing);
    [[nodiscard]] std::vector<Corners3> placesOf(const Triangles& triangles) const;
    [[nodiscard]] bool passesOver(const std::vector<Corners3>& before, const Triangles& triangles) const;
    void touch(const Triangles& triangles);
    void shareBoxes(const Triangles& triangles);
    [[nodiscard]] Triangles boxesOf(mesh::TriangleId t) const;

    ChangeRules rules_;
    mesh::Mesh m_;
    mesh::Mesh given_;  // for the tree
    mesh::Corners corners_;
    space::TriangleTree tree_;
    mesh::Lazy<mesh::Edges> edges_;  // of the given surface
    std::vector<std::uint8_t> alive_;
    std::vector<std::uint8_t> shares_;      // of each triangle: others may lie in its box, see alsoIn_
    std::vector<std::uint8_t> touched_;     // of each vertex: something around it changed in the last round or this one
    std::vector<std::uint8_t> touchedNow_;  // in this one
    std::unordered_map<mesh::VertexId, Triangles> around_;    // of vertices that were looked at
    std::unordered_map<mesh::VertexId, Points> points_;       // of the given surface, kept at a vertex beside them
    std::unordered_map<mesh::TriangleId, double> reach_;      // how far from the given surface a triangle is; else 0
    std::unordered_map<mesh::VertexId, double> slack_;        // how far out of its boxes what is at a vertex may reach
    std::unordered_map<mesh::TriangleId, Triangles> boxes_;   // in whose boxes a triangle may lie
    std::unordered_map<mesh::TriangleId, Triangles> alsoIn_;  // and the other way round
    double farthestMoved_ = 0;
};

}  // namespace zither::fit
