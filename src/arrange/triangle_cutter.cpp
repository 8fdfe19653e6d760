// A constrained triangulation in the triangle's plane; what stands on a constraint changes the winding number across
// it.
#include "arrange/triangle_cutter.h"

#include <algorithm>
#include <limits>

#include "exact/projection.h"

namespace zither::arrange {

using exact::next;
using exact::previous;

namespace {

constexpr std::uint32_t none = PlanarTriangulation::none;
// Names of the corners of the starting triangle of several.
constexpr std::uint32_t frameName = 0xFFFFFFF0U;

}  // namespace

exact::Homogeneous TriangleCutter::exactPoint(std::uint32_t name) const {
    if (name >= frameName) return points_.grid().point(frame_[name - frameName]);
    return name >= madeFlag ? points_.exactPoint(made[name - madeFlag]) : points_.exactPoint(name);
}

PlanarSource::Crossing TriangleCutter::cross(std::uint32_t a, std::uint32_t b) {
    const Constraint& ca = constraints_[a];
    const Constraint& cb = constraints_[b];
    Generator g;
    const auto edgeOf = [&](const Constraint& c) {
        const mesh::Triangle& t = s_.mesh.triangles[c.triangle];
        return std::minmax({t[static_cast<unsigned>(c.edge)], t[next(static_cast<unsigned>(c.edge))]});
    };
    if (ca.edge >= 0 && cb.edge >= 0) {
        const auto [p, q] = std::min(edgeOf(ca), edgeOf(cb));
        const auto [r, s] = std::max(edgeOf(ca), edgeOf(cb));
        g = {Generator::EdgeEdge, static_cast<std::uint8_t>(axis_), {p, q, r, s}};
    } else if (ca.edge >= 0 || cb.edge >= 0) {
        const auto [p, q] = edgeOf(ca.edge >= 0 ? ca : cb);
        g = {Generator::EdgePlane, 0, {p, q, ca.edge >= 0 ? cb.other : ca.other, 0}};
    } else {
        std::array<std::uint32_t, 4> from{ca.triangle, ca.other, cb.other, 0};
        std::sort(from.begin(), from.begin() + 3);
        g = {Generator::ThreePlanes, 0, from};
    }
    made.push_back(g);
    madeAt.push_back(points_.approximate(g));
    return {madeFlag + static_cast<std::uint32_t>(made.size() - 1), madeAt.back()};
}

void TriangleCutter::begin() {
    constraintCount_ = 0;
    locals_.clear();
    segments_.clear();
}

PlanarTriangulation::Vertex TriangleCutter::vertexOf(std::uint32_t point, LineSet lines) const {
    return plane_.vertexAt(point, points_.approximate(point), points_.isGiven(point), std::move(lines));
}

// Points and constraints of all figures of t, whose own edges are the constraints from firstEdge on.
void TriangleCutter::gatherFigures(TriangleId t, std::uint32_t firstEdge) {
    for (std::uint32_t i : crossings_.partners.of(t)) {
        const Figure& figure = crossings_.figures[i];
        if (figure.coplanar) continue;
        const bool isA = crossings_.pairs[i].first == t;
        const auto& edgeOf = isA ? figure.edgeOfA : figure.edgeOfB;
        const auto constraint = static_cast<std::uint32_t>(constraintCount_);
        for (unsigned end = 0; end < figure.count; ++end) {
            LineSet lines;
            if (figure.count == 2) lines.add(constraint);
            if (edgeOf[end] >= 0) lines.add(firstEdge + static_cast<std::uint32_t>(edgeOf[end]));
            locals_.push_back({figure.point[end], none, std::move(lines)});
        }
        if (figure.count < 2) continue;
        if (constraints_.size() == constraintCount_) constraints_.emplace_back();
        Constraint& c = constraints_[constraintCount_++];
        c.triangle = t;
        c.other = isA ? crossings_.pairs[i].second : crossings_.pairs[i].first;
        c.edge = -1;
        segments_.push_back({figure.point[0], figure.point[1], constraint});
    }
}

// Inserts every point once, with all lines that it is known to lie on.
void TriangleCutter::insertPoints() {
    std::sort(locals_.begin(), locals_.end(), [](const Local& a, const Local& b) { return a.point < b.point; });
    std::size_t count = 0;
    for (std::size_t i = 0; i < locals_.size(); ++i)
        if (count > 0 && locals_[count - 1].point == locals_[i].point) {
            locals_[count - 1].lines.add(locals_[i].lines);
            locals_[count - 1].vertex = std::min(locals_[count - 1].vertex, locals_[i].vertex);
        } else {
            if (count != i) locals_[count] = std::move(locals_[i]);
            ++count;
        }
    locals_.resize(count);
    for (Local& local : locals_)
        if (local.vertex == none)
            local.vertex = plane_.insert(vertexOf(local.point, local.lines));
        else
            plane_.addLines(local.vertex, local.lines);
}

std::uint32_t TriangleCutter::localOf(std::uint32_t point) const {
    return std::lower_bound(locals_.begin(), locals_.end(), point,
                            [](const Local& a, std::uint32_t p) { return a.point < p; })
        ->vertex;
}

// How `crosser` stands on the segment from p to q, in the plane of triangle `plane`, above being where orient3d of the
// plane is negative after `turn` of its direction.
TriangleCutter::Crosser TriangleCutter::crosserOf(TriangleId crosser, TriangleId plane, std::uint32_t p,
                                                  std::uint32_t q) const {
    const Mesh& m = s_.mesh;
    const exact::Corner3 c = points_.planeOf(crosser);
    const exact::Corner3 t = points_.planeOf(plane);
    // The triangle may face down in the plane of several.
    const int up = exact::orient2dDropping(axis_, *t[0], *t[1], *t[2]) * turn_;
    Crosser result;
    result.triangle = crosser;
    for (unsigned k = 0; k < 3; ++k) result.above |= exact::sideOf(t, *c[k]) * up < 0;
    for (unsigned k = 0; k < 3; ++k) {
        const int side = exact::sideOf(c, *t[k]);
        if (side == 0) continue;
        const int left = plane_.orient(p, q, localOf(m.triangles[plane][k]));
        result.leftIsFront = (side < 0) == (left > 0);
        break;
    }
    return result;
}

Windings TriangleCutter::step(std::uint32_t f, unsigned i) {
    Windings change{};
    const PlanarTriangulation::Face& face = plane_.faces()[f];
    const std::uint32_t a = face.v[next(i)];
    const std::uint32_t b = face.v[previous(i)];
    counted_.clear();
    plane_.constraintsOf(face.constraints[i], [&](std::uint32_t number) {
        const Constraint& c = constraints_[number];
        if (c.crossers.empty()) return;
        const bool along = plane_.sameDirection(a, b, c.p, c.q);
        for (const Crosser& crosser : c.crossers) {
            // Several constraints along one line may be of one triangle.
            if (!crosser.above || std::find(counted_.begin(), counted_.end(), crosser.triangle) != counted_.end())
                continue;
            counted_.push_back(crosser.triangle);
            const Windings& w = s_.exactWeight[crosser.triangle];
            // Face f is left of a to b; leaving it from front to back adds the weight.
            change = along == crosser.leftIsFront ? change + w : change - w;
        }
    });
    return change;
}

void TriangleCutter::cut(TriangleId t, Rim& rim) {
    begin();
    const exact::Corner3 corners = points_.planeOf(t);
    const exact::Projection projection = exact::projectionOf(corners);
    axis_ = projection.axis;
    turn_ = projection.turn;
    const mesh::Triangle& triangle = s_.mesh.triangles[t];
    // Constraints 0, 1, 2 are the edges.
    plane_.start(*this, axis_, turn_, points_.grid().approximationError());
    plane_.startWith({vertexOf(triangle[0], {0, 2}), vertexOf(triangle[1], {0, 1}), vertexOf(triangle[2], {1, 2})});
    while (constraints_.size() < 3) constraints_.emplace_back();
    for (unsigned k = 0; k < 3; ++k) {
        constraints_[k].crossers.clear();
        constraints_[k].triangle = t;
        constraints_[k].edge = static_cast<int>(k);
        constraints_[k].p = k;
        constraints_[k].q = next(k);
        plane_.constrainStartingEdge(previous(k), k);
        locals_.push_back({triangle[k], k, {}});
    }
    constraintCount_ = 3;
    gatherFigures(t, 0);
    insertPoints();
    for (const auto& segment : segments_) {
        Constraint& c = constrain(segment);
        c.crossers.assign(1, crosserOf(c.other, t, c.p, c.q));
    }
    plane_.improve();

    const auto& faces = plane_.faces();
    front_.assign(faces.size(), Windings{});
    std::vector<std::uint8_t> seen(faces.size(), 0);
    queue_.assign(1, 0);
    seen[0] = 1;
    for (std::size_t n = 0; n < queue_.size(); ++n) {
        const std::uint32_t f = queue_[n];
        for (unsigned i = 0; i < 3; ++i) {
            const std::uint32_t g = faces[f].neighbour[i];
            if (g == none || seen[g]) continue;
            seen[g] = 1;
            front_[g] = faces[f].constraints[i] == none ? front_[f] : front_[f] + step(f, i);
            queue_.push_back(g);
        }
    }
    std::int16_t most = std::numeric_limits<std::int16_t>::max();
    if (leastOnly)
        for (const Windings& front : front_) most = std::min(most, front[0]);
    for (std::uint32_t f = 0; f < faces.size(); ++f) {
        if (front_[f][0] <= most)
            pieces.push_back({{nameOf(faces[f].v[0]), nameOf(faces[f].v[1]), nameOf(faces[f].v[2])}, t, t, front_[f]});
        for (unsigned i = 0; i < 3; ++i) {
            if (faces[f].neighbour[i] != none) continue;
            unsigned carried = 0;
            std::uint32_t edge = 0;
            plane_.constraintsOf(faces[f].constraints[i], [&](std::uint32_t c) {
                ++carried;
                if (c < 3) edge = c;
            });
            const RimEnd end{t, front_[f], carried == 1};
            if (faces[f].v[next(i)] == edge) rim[edge][0] = end;
            if (faces[f].v[previous(i)] == next(edge)) rim[edge][1] = end;
        }
    }
}

TriangleCutter::Constraint& TriangleCutter::constrain(const std::array<std::uint32_t, 3>& segment) {
    const auto& [p, q, number] = segment;
    Constraint& c = constraints_[number];
    c.p = localOf(p);
    c.q = localOf(q);
    plane_.constrain(c.p, c.q, number);
    return c;
}

bool TriangleCutter::cutTogether(const std::vector<TriangleId>& triangles, std::vector<Rim>& rims) {
    begin();
    startFrame(triangles);
    if (!constrainTogether(triangles) || !standOnConstraints()) return false;
    findParts(triangles);
    spreadSheets();
    emitTogether(triangles);
    emitRims(triangles, rims);
    return true;
}

// A triangle around all of them.
void TriangleCutter::startFrame(const std::vector<TriangleId>& triangles) {
    const exact::Projection projection = exact::projectionOf(points_.planeOf(triangles.front()));
    axis_ = projection.axis;
    turn_ = projection.turn;
    const int u = (axis_ + 1) % 3;
    const int v = (axis_ + 2) % 3;
    mesh::Box box;
    for (TriangleId t : triangles) box.add(mesh::boxOf(s_.mesh, t));
    // Sums of coordinates stay whole multiples of the grid's unit, rounded or not.
    const double extent = std::max(box.max[u] - box.min[u], box.max[v] - box.min[v]);
    for (Point& corner : frame_) {
        corner = Point::Zero();
        corner[u] = box.min[u] - extent;
        corner[v] = box.min[v] - extent;
    }
    frame_[1][turn_ > 0 ? u : v] = box.min[turn_ > 0 ? u : v] + 6 * extent;
    frame_[2][turn_ > 0 ? v : u] = box.min[turn_ > 0 ? v : u] + 6 * extent;
    plane_.start(*this, axis_, turn_, points_.grid().approximationError());
    plane_.startWith({plane_.vertexAt(frameName, frame_[0], true, {}),
                      plane_.vertexAt(frameName + 1, frame_[1], true, {}),
                      plane_.vertexAt(frameName + 2, frame_[2], true, {})});
}

bool TriangleCutter::constrainTogether(const std::vector<TriangleId>& triangles) {
    // Constraints 3 n, 3 n + 1, 3 n + 2 are the edges of the n-th triangle.
    if (constraints_.size() < 3 * triangles.size()) constraints_.resize(3 * triangles.size());
    constraintCount_ = 3 * triangles.size();
    for (std::uint32_t n = 0; n < triangles.size(); ++n)
        for (unsigned k = 0; k < 3; ++k) {
            const mesh::Triangle& triangle = s_.mesh.triangles[triangles[n]];
            locals_.push_back({triangle[k], none, {3 * n + k, 3 * n + previous(k)}});
            segments_.push_back({triangle[k], triangle[next(k)], 3 * n + k});
            Constraint& c = constraints_[3 * n + k];
            c.triangle = triangles[n];
            c.edge = static_cast<int>(k);
        }
    for (std::uint32_t n = 0; n < triangles.size(); ++n) gatherFigures(triangles[n], 3 * n);
    if (!goesOn()) return false;
    insertPoints();
    constexpr std::size_t asked = 64;  // segments between two questions
    for (std::size_t i = 0; i < segments_.size(); ++i) {
        if (i % asked == 0 && !goesOn()) return false;
        constrain(segments_[i]);
    }
    plane_.improve();
    return goesOn();
}

bool TriangleCutter::standOnConstraints() {
    for (const auto& [p, q, number] : segments_) {
        Constraint& c = constraints_[number];
        c.crossers.clear();
        if (c.edge < 0) {
            c.crossers.push_back(crosserOf(c.other, c.triangle, c.p, c.q));
            continue;
        }
        // What stands on an edge besides its triangle, and leaves the plane.
        const exact::Corner3 t = points_.planeOf(c.triangle);
        for (mesh::HalfEdge h : edges_.around(edges_.edgeOf(3 * c.triangle + static_cast<unsigned>(c.edge)))) {
            const VertexId opposite = mesh::oppositeVertex(s_.mesh, h);
            if (mesh::triangleOf(h) != c.triangle && exact::sideOf(t, s_.mesh.positions[opposite]) != 0)
                c.crossers.push_back(crosserOf(mesh::triangleOf(h), c.triangle, c.p, c.q));
        }
    }
    return goesOn();
}

// Face f's edge i lies on an edge of the n-th triangle.
bool TriangleCutter::onEdgeOf(std::uint32_t f, unsigned i, std::uint32_t n) const {
    bool on = false;
    plane_.constraintsOf(plane_.faces()[f].constraints[i],
                         [&](std::uint32_t c) { on |= c / 3 == n && c < edgeCount_; });
    return on;
}

// Which triangles each face is part of: from the inner side of their edges to their edges.
void TriangleCutter::findParts(const std::vector<TriangleId>& triangles) {
    const auto& faces = plane_.faces();
    edgeCount_ = 3 * static_cast<std::uint32_t>(triangles.size());
    partOf_.assign(faces.size(), {});
    up_.resize(triangles.size());
    std::vector<std::uint32_t> mark(faces.size(), none);
    std::vector<std::vector<std::uint32_t>> innerFaces(triangles.size());
    for (std::uint32_t n = 0; n < triangles.size(); ++n) {
        const exact::Corner3 t = points_.planeOf(triangles[n]);
        up_[n] = static_cast<std::int8_t>(exact::orient2dDropping(axis_, *t[0], *t[1], *t[2]) * turn_);
    }
    for (std::uint32_t f = 0; f < faces.size(); ++f)
        for (unsigned i = 0; i < 3; ++i)
            plane_.constraintsOf(faces[f].constraints[i], [&](std::uint32_t number) {
                if (number >= edgeCount_) return;
                const Constraint& c = constraints_[number];
                // Left of its edge, seen from the triangle's front, is inside.
                if (plane_.sameDirection(faces[f].v[next(i)], faces[f].v[previous(i)], c.p, c.q) ==
                    (up_[number / 3] > 0))
                    innerFaces[number / 3].push_back(f);
            });
    for (std::uint32_t n = 0; n < triangles.size(); ++n) {
        queue_.clear();
        const auto enter = [&](std::uint32_t f) {
            if (mark[f] == n) return;
            mark[f] = n;
            partOf_[f].push_back(n);
            queue_.push_back(f);
        };
        for (std::uint32_t f : innerFaces[n]) enter(f);
        for (std::size_t q = 0; q < queue_.size(); ++q) {  // NOLINT(modernize-loop-convert): it grows meanwhile
            const std::uint32_t f = queue_[q];
            for (unsigned i = 0; i < 3; ++i)
                if (faces[f].neighbour[i] != none && !onEdgeOf(f, i, n)) enter(faces[f].neighbour[i]);
        }
    }
}

// Faces of triangles, linked to each other, are one sheet. Where no triangle is, nothing says what is crossed.
void TriangleCutter::spreadSheets() {
    const auto& faces = plane_.faces();
    front_.assign(faces.size(), Windings{});
    sheet_.assign(faces.size(), none);
    for (std::uint32_t seed = 0; seed < faces.size(); ++seed) {
        if (partOf_[seed].empty() || sheet_[seed] != none) continue;
        const std::uint32_t number = madeFlag + sheetsMade++;
        sheet_[seed] = number;
        queue_.assign(1, seed);
        for (std::size_t q = 0; q < queue_.size(); ++q) {
            const std::uint32_t f = queue_[q];
            for (unsigned i = 0; i < 3; ++i) {
                const std::uint32_t g = faces[f].neighbour[i];
                if (g == none || partOf_[g].empty() || sheet_[g] != none) continue;
                sheet_[g] = number;
                front_[g] = front_[f] + step(f, i);
                queue_.push_back(g);
            }
        }
    }
}

void TriangleCutter::emitTogether(const std::vector<TriangleId>& triangles) {
    const auto& faces = plane_.faces();
    for (std::uint32_t f = 0; f < faces.size(); ++f) {
        if (partOf_[f].empty()) continue;
        Piece piece{{nameOf(faces[f].v[0]), nameOf(faces[f].v[1]), nameOf(faces[f].v[2])},
                    triangles[partOf_[f].front()],
                    sheet_[f],
                    front_[f]};
        Weights weight;
        for (std::uint32_t n : partOf_[f]) {
            const TriangleId t = triangles[n];
            weight.all = up_[n] > 0 ? weight.all + s_.weight[t] : weight.all - s_.weight[t];
            weight.exact = up_[n] > 0 ? weight.exact + s_.exactWeight[t] : weight.exact - s_.exactWeight[t];
        }
        for (std::uint32_t n : partOf_[f]) {
            // Seen from the front of the triangle that the piece will stand for.
            const Windings& w = s_.weight[triangles[n]];
            const int sign = weight.all[0] + weight.all[1] < 0 ? -1 : 1;
            if ((w[0] + w[1] > 0 ? 1 : -1) * up_[n] == sign) {
                piece.source = triangles[n];
                break;
            }
        }
        weights.push_back(weight);
        pieces.push_back(piece);
    }
}

void TriangleCutter::emitRims(const std::vector<TriangleId>& triangles, std::vector<Rim>& rims) const {
    const auto& faces = plane_.faces();
    for (std::uint32_t f = 0; f < faces.size(); ++f)
        for (unsigned i = 0; i < 3; ++i) {
            if (partOf_[f].size() != 1 || faces[f].constraints[i] == none) continue;
            const std::uint32_t n = partOf_[f].front();
            if (!onEdgeOf(f, i, n)) continue;
            unsigned carried = 0;
            std::uint32_t number = 0;
            plane_.constraintsOf(faces[f].constraints[i], [&](std::uint32_t c) {
                ++carried;
                if (c / 3 == n && c < edgeCount_) number = c;
            });
            const std::uint32_t across = faces[f].neighbour[i];
            const bool alone = carried == 1 && (across == none || partOf_[across].empty());
            const Windings& weight = s_.exactWeight[triangles[n]];
            const RimEnd end{sheet_[f], up_[n] > 0 ? front_[f] : front_[f] - weight, alone};
            const Constraint& c = constraints_[number];
            for (const std::uint32_t w : {faces[f].v[next(i)], faces[f].v[previous(i)]}) {
                if (w == c.p) rims[n][number % 3][0] = end;
                if (w == c.q) rims[n][number % 3][1] = end;
            }
        }
}

}  // namespace zither::arrange
