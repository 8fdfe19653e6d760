// Triangles about the place, in pieces linked by edges of two triangles; each piece moves away from the middle of all.
#include "session/state/loupe.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <unordered_map>

#include "check/catalogue.h"
#include "mesh/edges.h"
#include "space/triangle_tree.h"

namespace zither::session {

using mesh::Point;
using mesh::TriangleId;

namespace {
// More about one place are not looked at: the nearest ones say what there is.
constexpr std::size_t mostNear = 20'000;
constexpr double leastOfPart = 1e-7;
}  // namespace

Loupe::Loupe(const Bench& bench, const Choice& choice) : looks_(bench.looks), choice_(choice) {
    connect(&choice, &Choice::placeChosen, this, &Loupe::follow);
    connect(&choice, &Choice::placeShown, this, &Loupe::lookAt);
    connect(&looks_, &Looks::changed, this, [this] {
        if (!looks_.kept()) place_.reset();
        look();
    });
}

void Loupe::setOn(bool on) {
    on_ = on;
    if (on && choice_.chosenFinding()) follow();
    look();
}

// A place may be as long as the part - a rim, a curve along which sheets cross. The loupe looks at its middle-most
// triangle as closely as that triangle is large, and where its edge is open at that.
void Loupe::follow() {
    const Look* look = looks_.kept();
    if (!look || !choice_.chosenFinding()) return;
    const mesh::Mesh& m = look->mesh();
    const check::Finding& f = look->survey->findings.list[*choice_.chosenFinding()];
    std::optional<TriangleId> nearest;
    double least = std::numeric_limits<double>::infinity();
    Point place = f.position;
    for (const TriangleId t : look->survey->findings.trianglesOf(f)) {
        const Point on = space::nearestOnTriangle(f.position, m.corner(t, 0), m.corner(t, 1), m.corner(t, 2));
        if (const double away = (on - f.position).squaredNorm(); away < least) {
            least = away;
            nearest = t;
            place = on;
        }
    }
    double radius = f.size;
    if (nearest) {
        double longest = 0;
        for (unsigned k = 0; k < 3; ++k) {
            const Point& from = m.corner(*nearest, k);
            const Point& to = m.corner(*nearest, (k + 1) % 3);
            longest = std::max(longest, (to - from).norm());
            if (mesh::isCollapsed(m.triangles[*nearest])) continue;
            const mesh::EdgeId edge = look->part->edges().edgeOf(mesh::HalfEdge(3 * *nearest + k));
            if (f.defect == check::openEdges && look->part->edges().degree(edge) == 1) place = 0.5 * (from + to);
        }
        constexpr double about = 1.6;  // triangles to either side
        if (longest > 0) radius = f.size > 0 ? std::min(f.size, about * longest) : about * longest;
    }
    lookAround(place, radius);
}

void Loupe::lookAt(const Point& place, double size) {
    constexpr double about = 0.9;  // of the place's size to either side
    lookAround(place, about * size);
}

void Loupe::lookAround(const Point& place, double radius) {
    const Look* kept = looks_.kept();
    if (!kept) return;
    place_ = place;
    const double part = std::max(kept->display->box.diagonal(), std::numeric_limits<double>::min());
    radius_ = std::clamp(radius, leastOfPart * part, part);
    look();
}

void Loupe::zoom(double factor) {
    radius_ /= factor;
    look();
}

void Loupe::setSpread(double spread) {
    spread_ = std::clamp(spread, 0.0, 1.0);
    spreadPieces();
    Q_EMIT changed();
}

// What lies about the place, and how it hangs together.
void Loupe::look() {
    near_.clear();
    pieceOf_.clear();
    pieces_ = 0;
    gap_.reset();
    moved_ = nullptr;
    const Look* kept = looks_.kept();
    if (!on_ || !place_ || !kept) return Q_EMIT changed();
    const mesh::Mesh& m = kept->mesh();
    const double square = radius_ * radius_;
    std::vector<std::pair<double, TriangleId>> found;
    const Point reach = Point::Constant(radius_);
    kept->part->tree().overlapping({*place_ - reach, *place_ + reach}, [&](TriangleId t) {
        const Point on = space::nearestOnTriangle(*place_, m.corner(t, 0), m.corner(t, 1), m.corner(t, 2));
        if (const double away = (on - *place_).squaredNorm(); away < square) found.push_back({away, t});
    });
    if (found.size() > mostNear) {
        std::nth_element(found.begin(), found.begin() + mostNear, found.end());
        found.resize(mostNear);
    }
    std::sort(found.begin(), found.end());
    for (const auto& [away, t] : found) near_.push_back(t);
    const mesh::Edges& edges = kept->part->edges();
    std::unordered_map<std::uint32_t, std::size_t> indexOf;
    for (std::size_t i = 0; i < near_.size(); ++i) indexOf.emplace(near_[i], i);
    pieceOf_.assign(near_.size(), mesh::noIndex);
    for (std::size_t i = 0; i < near_.size(); ++i) {
        if (pieceOf_[i] != mesh::noIndex) continue;
        std::vector<std::size_t> front = {i};
        pieceOf_[i] = static_cast<std::uint32_t>(pieces_);
        while (!front.empty()) {
            const TriangleId t = near_[front.back()];
            front.pop_back();
            if (mesh::isCollapsed(m.triangles[t])) continue;
            for (unsigned k = 0; k < 3; ++k) {
                const mesh::HalfEdge other = edges.twin(mesh::HalfEdge(3 * t + k));
                if (other == mesh::noEdge) continue;
                const auto next = indexOf.find(mesh::triangleOf(other));
                if (next == indexOf.end() || pieceOf_[next->second] != mesh::noIndex) continue;
                pieceOf_[next->second] = static_cast<std::uint32_t>(pieces_);
                front.push_back(next->second);
            }
        }
        ++pieces_;
    }
    facing_ = normalOfPlace();
    // The nearest triangle is of one piece; the nearest of another tells the gap.
    for (std::size_t i = 0; i < near_.size(); ++i)
        if (pieceOf_[i] != pieceOf_[0]) {
            gap_ = std::sqrt(found[i].first);
            break;
        }
    spreadPieces();
    Q_EMIT changed();
}

Point Loupe::normalOfPlace() const {
    const mesh::Mesh& m = looks_.kept()->mesh();
    Point sum = Point::Zero();
    for (const TriangleId t : near_) {
        const Point across = mesh::areaVector(m, t);
        // Sheets that face each other must not cancel out.
        sum += sum.dot(across) < 0 ? Point(-across) : across;
    }
    return sum.norm() > 0 ? Point(sum.normalized()) : Point(Point::UnitZ());
}

void Loupe::spreadPieces() {
    moved_ = nullptr;
    const Look* kept = looks_.kept();
    if (!kept || pieces_ < 2 || spread_ == 0) return;
    const mesh::Mesh& m = kept->mesh();
    struct Piece {
        Point middle = Point::Zero();
        Point facing = Point::Zero();
        double count = 0;
    };
    std::vector<Piece> pieces(pieces_);
    for (std::size_t i = 0; i < near_.size(); ++i) {
        Piece& piece = pieces[pieceOf_[i]];
        // What reaches far beyond the loupe says little about where its piece lies in it.
        Point middle = mesh::centroid(m, near_[i]) - *place_;
        if (middle.norm() > radius_) middle *= radius_ / middle.norm();
        piece.middle += middle;
        piece.facing += mesh::areaVector(m, near_[i]);
        piece.count += 1;
    }
    auto moved = std::make_shared<Moved>();
    moved->of = kept->part;
    auto hidden = std::make_shared<std::vector<std::uint8_t>>(m.triangles.size(), 0);
    for (std::size_t i = 0; i < near_.size(); ++i) {
        const Piece& piece = pieces[pieceOf_[i]];
        const Point middle = piece.middle / piece.count;
        // Sheets through each other have one middle: they part along what they face.
        const Point way = middle.norm() > 0.05 * radius_ ? middle : piece.facing;
        const Point shift = way.norm() > 0 ? Point(0.5 * spread_ * radius_ * way.normalized()) : Point(Point::Zero());
        (*hidden)[near_[i]] = 1;
        moved->sources.push_back(near_[i]);
        mesh::Triangle corners;
        for (unsigned k = 0; k < 3; ++k) {
            corners[k] = static_cast<std::uint32_t>(moved->mesh.positions.size());
            moved->mesh.positions.push_back(m.corner(near_[i], k) + shift);
        }
        moved->mesh.triangles.push_back(corners);
    }
    moved->hidden = std::move(hidden);
    moved->rays = std::make_shared<const space::RayScene>(moved->mesh);
    moved_ = std::move(moved);
}

Sight Loupe::sight(double pixels) const {
    Sight s;
    const Look* kept = looks_.kept();
    if (!kept || !place_) return s;
    s.display = kept->display;
    s.camera.setViewport({pixels, pixels});
    s.camera.setScene(kept->display->box);
    s.camera.faceTo(*place_, 2 * radius_, facing_);
    s.chosen = choice_.chosenClass();
    s.moved = moved_;
    return s;
}

}  // namespace zither::session
