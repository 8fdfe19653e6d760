// How far a collapse moves the surface: the star of an edge and the star that takes its place, laid over each other.
#pragma once

#include <array>
#include <cstddef>
#include <optional>
#include <vector>

#include "mesh/mesh.h"

namespace zither::shape {

using mesh::Point;

// The triangles at the ends of an edge and those at the vertex that both become.
class StarChange {
public:
    // Begins anew: u and v become one vertex at `at`.
    void begin(const Point& u, const Point& v, const Point& at);
    // A triangle that stays: its corner u, or v, becomes the new vertex; b and c follow it around.
    void addKept(bool atU, mesh::VertexId b, const Point& pb, mesh::VertexId c, const Point& pc);
    // One that goes, over the edge: u, v and w, or v, u and w as it turns.
    void addGone(bool fromU, mesh::VertexId w, const Point& pw);

    // Both surfaces are within it of each other, each point of one from a point of the other that it is laid onto. Laid
    // along the sum of the normals, where both stars turn the same way and go around once, so that they cover the same
    // region once, the largest height at the corners of their overlay. At open borders each triangle is laid onto the
    // other star by itself (measure/overlay.h). Never more than the longer way of the two ends, as each triangle moves
    // with its corner. Nothing where it is more than `most`. To be asked once.
    [[nodiscard]] std::optional<double> distance(double most);

private:
    struct Rim {
        mesh::VertexId vertex;
        Point at;  // laid
    };
    struct Kept {
        bool atU;
        unsigned b;  // in rim_
        unsigned c;
    };
    struct Gone {
        bool fromU;
        unsigned w;
    };

    unsigned rim(mesh::VertexId v, const Point& p);
    [[nodiscard]] bool closed() const;
    bool lay();
    // Infinite where a triangle cannot be laid; any number above `most` where it is more than that.
    [[nodiscard]] double pieceByPiece(double most) const;
    [[nodiscard]] bool turnsOnce(double margin) const;
    [[nodiscard]] double heightOf(const Point& p, bool overNew) const;
    [[nodiscard]] double highestCrossing() const;

    Point u_;
    Point v_;
    Point at_;
    std::vector<Rim> rim_;
    std::vector<Kept> kept_;
    std::vector<Gone> gone_;
};

}  // namespace zither::shape
