// In the frame of the common direction everything is flat; heights differ most at the corners of the overlay.
#include "shape/star_change.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>
#include <limits>

#include "measure/measure_tolerances.h"
#include "measure/overlay.h"
#include "mesh/edges.h"

namespace zither::shape {
namespace {

// The height of a triangle over p, and how deep p lies in it: the least of its three shares of the area.
struct Over {
    double depth = -std::numeric_limits<double>::infinity();
    double height = 0;
    void take(const Point& p, const Point& a, const Point& b, const Point& c) {
        const double area = measure::twiceAreaSeen(a, b, c);
        const double sa = measure::twiceAreaSeen(p, b, c) / area;
        const double sb = measure::twiceAreaSeen(p, c, a) / area;
        const double sc = 1 - sa - sb;
        const double least = std::min({sa, sb, sc});
        if (!(least > depth)) return;
        depth = least;
        height = sa * a.z() + sb * b.z() + sc * c.z();
    }
};

}  // namespace

void StarChange::begin(const Point& u, const Point& v, const Point& at) {
    u_ = u;
    v_ = v;
    at_ = at;
    rim_.clear();
    kept_.clear();
    gone_.clear();
}

unsigned StarChange::rim(mesh::VertexId v, const Point& p) {
    for (unsigned i = 0; i < rim_.size(); ++i)
        if (rim_[i].vertex == v) return i;
    rim_.push_back({v, p});
    return static_cast<unsigned>(rim_.size() - 1);
}

void StarChange::addKept(bool atU, mesh::VertexId b, const Point& pb, mesh::VertexId c, const Point& pc) {
    const unsigned first = rim(b, pb);
    kept_.push_back({atU, first, rim(c, pc)});
}

void StarChange::addGone(bool fromU, mesh::VertexId w, const Point& pw) {
    gone_.push_back({fromU, rim(w, pw)});
}

std::optional<double> StarChange::distance(double most) {
    const auto within = [&](double d) { return d <= most ? std::optional<double>(d) : std::nullopt; };
    const double plain = std::max((u_ - at_).norm(), (v_ - at_).norm());
    if (!closed()) return within(std::min(plain, pieceByPiece(most)));
    if (!lay()) return within(plain);
    const double atEnds = std::max({std::abs(heightOf(u_, true) - u_.z()), std::abs(heightOf(v_, true) - v_.z()),
                                    std::abs(heightOf(at_, false) - at_.z())});
    if (atEnds > most) return within(plain);
    return within(std::min(plain, std::max(atEnds, highestCrossing())));
}

double StarChange::pieceByPiece(double most) const {
    mesh::Mesh before;
    for (const Rim& r : rim_) before.positions.push_back(r.at);
    mesh::Mesh after = before;
    after.positions.push_back(at_);
    before.positions.push_back(u_);
    before.positions.push_back(v_);
    const auto rims = static_cast<std::uint32_t>(rim_.size());
    for (const Kept& k : kept_) {
        before.triangles.push_back({k.atU ? rims : rims + 1, k.b, k.c});
        after.triangles.push_back({rims, k.b, k.c});
    }
    for (const Gone& g : gone_) before.triangles.push_back({g.fromU ? rims : rims + 1, g.fromU ? rims + 1 : rims, g.w});
    double far = 0;
    const auto lieOn = [&](const mesh::Mesh& from, const mesh::Mesh& to) {
        const mesh::Edges edges(to);
        for (mesh::TriangleId t = 0; t < from.triangles.size() && far <= most; ++t) {
            std::optional<measure::Height> height;
            for (mesh::TriangleId start = 0; start < to.triangles.size() && !height; ++start)
                height =
                    measure::heightOver(to, edges, {from.corner(t, 0), from.corner(t, 1), from.corner(t, 2)}, start);
            far = std::max(far, height ? height->most : std::numeric_limits<double>::infinity());
        }
    };
    lieOn(after, before);
    lieOn(before, after);
    return far;
}

// The rim is one ring: a triangle that stays begins and one ends at each of its vertices.
bool StarChange::closed() const {
    constexpr unsigned fewest = 3;
    if (kept_.size() < fewest || kept_.size() != rim_.size()) return false;
    unsigned here = kept_[0].b;
    for (std::size_t walked = 0; walked < kept_.size(); ++walked) {
        unsigned next = static_cast<unsigned>(rim_.size());
        for (const Kept& k : kept_)
            if (k.b == here) {
                if (next != rim_.size()) return false;
                next = k.c;
            }
        if (next == rim_.size()) return false;
        here = next;
        if (here == kept_[0].b) return walked + 1 == kept_.size();
    }
    return false;
}

// Into the frame along the sum of the normals, which both stars have in common, with the new vertex at the origin.
// False where a triangle of either stands upright or turns over, or they go around more than once.
bool StarChange::lay() {
    Point normal = Point::Zero();
    for (const Kept& k : kept_) normal += (rim_[k.b].at - at_).cross(rim_[k.c].at - at_);
    const double length = normal.norm();
    if (!(length > 0)) return false;
    Eigen::Matrix3d frame;
    frame.row(2) = normal / length;
    frame.row(0) = frame.row(2).unitOrthogonal();
    frame.row(1) = frame.row(2).cross(frame.row(0));
    double reach = 0;
    const Point origin = at_;
    const auto into = [&](Point& p) {
        p = frame * (p - origin);
        reach = std::max({reach, std::abs(p.x()), std::abs(p.y())});
    };
    for (Rim& r : rim_) into(r.at);
    into(u_);
    into(v_);
    at_ = Point::Zero();
    return turnsOnce(tolerance::overlayRounding * reach * reach);
}

bool StarChange::turnsOnce(double margin) const {
    std::size_t holding = 0;
    for (const Kept& k : kept_) {
        const Point& b = rim_[k.b].at;
        const Point& c = rim_[k.c].at;
        if (!(measure::twiceAreaSeen(at_, b, c) > margin) || !(measure::twiceAreaSeen(k.atU ? u_ : v_, b, c) > margin))
            return false;
        holding += (b.y() < 0 || (b.y() == 0 && b.x() > 0)) && c.y() > 0;
    }
    for (const Gone& g : gone_)
        if (!(measure::twiceAreaSeen(g.fromU ? u_ : v_, g.fromU ? v_ : u_, rim_[g.w].at) > margin)) return false;
    return holding == 1;
}

double StarChange::heightOf(const Point& p, bool overNew) const {
    Over over;
    for (const Kept& k : kept_) over.take(p, overNew ? at_ : k.atU ? u_ : v_, rim_[k.b].at, rim_[k.c].at);
    if (!overNew)
        for (const Gone& g : gone_) over.take(p, u_, v_, rim_[g.w].at);
    return over.height;
}

// Where an edge from the new vertex to the rim crosses one of those that were there.
double StarChange::highestCrossing() const {
    double highest = 0;
    const auto cross = [&](const Point& a, const Point& b, const Point& w) {
        const double sideA = measure::twiceAreaSeen(at_, w, a);
        const double sideB = measure::twiceAreaSeen(at_, w, b);
        if ((sideA < 0) == (sideB < 0)) return;
        const double sideAt = measure::twiceAreaSeen(a, b, at_);
        const double sideW = measure::twiceAreaSeen(a, b, w);
        if ((sideAt < 0) == (sideW < 0)) return;
        const double alongOld = sideA / (sideA - sideB);
        const double alongNew = sideAt / (sideAt - sideW);
        highest = std::max(highest, std::abs(a.z() + alongOld * (b.z() - a.z()) - alongNew * w.z()));
    };
    for (const Rim& w : rim_) {
        cross(u_, v_, w.at);
        // The edges to where kept triangles begin and end; inner ones come twice, which does no harm.
        for (const Kept& k : kept_) {
            const Point& from = k.atU ? u_ : v_;
            if (k.b != static_cast<unsigned>(&w - rim_.data())) cross(from, rim_[k.b].at, w.at);
        }
        for (const Gone& g : gone_)
            if (&rim_[g.w] != &w) {
                cross(u_, rim_[g.w].at, w.at);
                cross(v_, rim_[g.w].at, w.at);
            }
    }
    return highest;
}

}  // namespace zither::shape
