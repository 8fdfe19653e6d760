// Octahedra and square bars, united with the surface.
#include "arrange/weld.h"

#include <Eigen/Geometry>
#include <array>
#include <cmath>
#include <map>
#include <numbers>
#include <set>

#include "arrange/arrangement.h"
#include "check/surveyed.h"
#include "check/tied_vertices.h"
#include "mesh/edges.h"
#include "mesh/vertex_join.h"
#include "space/cell_grid.h"

namespace zither::arrange {
namespace {

using mesh::Mesh;
using mesh::Point;
using mesh::VertexId;

// The corners of a regular octahedron at distance 1, and its faces, outwards.
constexpr std::array<std::array<double, 3>, 6> roundCorners = {
    {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}, {-1, 0, 0}, {0, -1, 0}, {0, 0, -1}}};
constexpr std::array<std::array<std::uint32_t, 3>, 8> roundFaces = {
    {{0, 1, 2}, {1, 3, 2}, {3, 4, 2}, {4, 0, 2}, {1, 0, 5}, {3, 1, 5}, {4, 3, 5}, {0, 4, 5}}};

// A turn of space, the same for the same number, spread evenly over many (Shoemake 1992, Roberts 2018): faces of seams
// should lie in no plane of the part.
Eigen::Quaterniond turned(std::size_t number) {
    const auto share = [&](double factor) {
        const double x = (static_cast<double>(number) + 1) * factor;
        return x - std::floor(x);
    };
    const double u = share(0.8191725134);
    const double v = 2 * std::numbers::pi * share(0.6710436067);
    const double w = 2 * std::numbers::pi * share(0.5497004779);
    return {std::sqrt(1 - u) * std::sin(v), std::sqrt(1 - u) * std::cos(v), std::sqrt(u) * std::sin(w),
            std::sqrt(u) * std::cos(w)};
}

class Welding {
public:
    Welding(const Mesh& m, double radius, const std::vector<std::uint8_t>& where)
        : m_(m), radius_(radius), where_(where), grid_(radius) {}

    mesh::Outcome<Welded> run(mesh::Progress& progress) {
        const check::Surveyed given(m_);
        const mesh::Edges& edges = given.edges();
        std::vector<std::array<VertexId, 2>> touching;
        for (mesh::EdgeId e = 0; e < edges.count(); ++e)
            if (edges.degree(e) > 2) {
                const mesh::HalfEdge h = edges.around(e).front();
                const VertexId a = mesh::fromVertex(m_, h);
                const VertexId b = mesh::toVertex(m_, h);
                if (isAsked(a) || isAsked(b)) touching.push_back({a, b});
            }
        both_ = m_;
        for (const auto& [a, b] : touching) addBar(addRound(m_.positions[a]), addRound(m_.positions[b]));
        for (const VertexId v : check::tiedVertices(given))
            if (isAsked(v)) addRound(m_.positions[v]);
        Welded out;
        out.seams = touching.size() + rounds_.size();
        if (rounds_.empty()) {
            out.mesh = m_;
            return out;
        }
        // Constructed points may have come to lie on each other.
        const std::vector<VertexId> first = mesh::firstOfEqual(std::span<const Point>(both_.positions));
        for (mesh::Triangle& t : both_.triangles)
            for (VertexId& v : t) v = first[v];
        auto skin = skinOf(check::Surveyed(both_), {}, progress);
        if (!skin) return tl::unexpected(skin.error());
        out.mesh = std::move(skin->mesh);
        out.whole = skin->whole;
        for (const mesh::TriangleId t : skin->sourceOf)
            out.sourceOf.push_back(t < m_.triangles.size() ? t : mesh::TriangleId(mesh::noIndex));
        for (const VertexId v : skin->givenVertex)
            out.givenVertex.push_back(v != mesh::noIndex && v < m_.positions.size() ? v : VertexId(mesh::noIndex));
        return out;
    }

private:
    [[nodiscard]] bool isAsked(VertexId v) const { return where_.empty() || where_[v]; }

    void addTriangle(const mesh::Triangle& t) {
        both_.triangles.push_back(t);
        if (!both_.regions.empty()) both_.regions.push_back(0);
    }

    // The number of the round body there: one that stands near enough already, or a new one.
    std::uint32_t addRound(const Point& at) {
        std::uint32_t found = mesh::noIndex;
        grid_.near(space::around(at, 0.5 * radius_), [&](std::uint32_t r) {
            if ((rounds_[r] - at).norm() <= 0.5 * radius_) found = std::min(found, r);
        });
        if (found != mesh::noIndex) return found;
        const auto number = static_cast<std::uint32_t>(rounds_.size());
        const Eigen::Quaterniond turn = turned(number);
        const std::size_t first = both_.positions.size();
        for (const auto& c : roundCorners) both_.positions.push_back(at + radius_ * (turn * Point(c[0], c[1], c[2])));
        for (const auto& t : roundFaces) addTriangle({t[0] + first, t[1] + first, t[2] + first});
        grid_.add(number, at);
        rounds_.push_back(at);
        return number;
    }

    // A bar of four sides between the middles of two round bodies, which hide its ends.
    void addBar(std::uint32_t from, std::uint32_t to) {
        if (from == to || !bars_.insert(std::minmax({from, to})).second) return;
        const Point along = rounds_[to] - rounds_[from];
        const Point x = along.unitOrthogonal();
        const Point y = along.normalized().cross(x);
        const double turn = 0.1 + 0.7 * static_cast<double>(bars_.size() % 97) / 97;
        const std::size_t first = both_.positions.size();
        constexpr unsigned sides = 4;
        constexpr double thinner = 0.45;  // within the ball of 0.57 that fits into a round body
        for (const Point& end : {rounds_[from], rounds_[to]})
            for (unsigned i = 0; i < sides; ++i) {
                const double angle = turn + 2 * std::numbers::pi * i / sides;
                both_.positions.push_back(end + thinner * radius_ * (std::cos(angle) * x + std::sin(angle) * y));
            }
        for (unsigned i = 0; i < sides; ++i) {
            const std::size_t a = first + i;
            const std::size_t b = first + (i + 1) % sides;
            addTriangle({a, b, b + sides});
            addTriangle({a, b + sides, a + sides});
        }
        for (unsigned i = 1; i + 1 < sides; ++i) {
            addTriangle({first, first + i + 1, first + i});
            addTriangle({first + sides, first + sides + i, first + sides + i + 1});
        }
    }

    const Mesh& m_;
    double radius_;
    const std::vector<std::uint8_t>& where_;
    space::CellGrid grid_;
    Mesh both_;                  // the surface, then the seams
    std::vector<Point> rounds_;  // middles of round bodies
    std::set<std::pair<std::uint32_t, std::uint32_t>> bars_;
};

}  // namespace

mesh::Outcome<Welded> weldTouching(const Mesh& m, double radius, const std::vector<std::uint8_t>& where,
                                   mesh::Progress& progress) {
    return Welding(m, radius, where).run(progress);
}

}  // namespace zither::arrange
