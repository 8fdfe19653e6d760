// Triangles are matched by their corners' coordinates; what has no match changed.
#include "repair/places.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <limits>
#include <numeric>
#include <span>

#include "check/catalogue.h"
#include "check/tied_vertices.h"
#include "check/tight_shells.h"
#include "mesh/disjoint_sets.h"
#include "mesh/vertex_join.h"

namespace zither::repair {

using mesh::Mesh;
using mesh::TriangleId;
using mesh::VertexId;

namespace {

// A triangle by vertices that both surfaces have in common, the smallest first.
struct Key {
    mesh::Triangle corners;
    std::uint32_t number;  // of the surface before; then those after it

    auto operator<=>(const Key&) const = default;  // NOLINT: what the compiler makes of it compares with 0
};

mesh::Triangle turnedToSmallest(mesh::Triangle t) {
    std::rotate(t.begin(), std::min_element(t.begin(), t.end()), t.end());
    return t;
}

}  // namespace

Places::Places(const Mesh& before, const Mesh& after)
    : before_(before),
      after_(after),
      ofBefore_(before.triangles.size(), 0),
      ofAfter_(after.triangles.size(), 0),
      vertexBefore_(before.positions.size(), mesh::noIndex),
      vertexAfter_(after.positions.size(), mesh::noIndex) {
    std::vector<mesh::Point> points = before.positions;
    points.insert(points.end(), after.positions.begin(), after.positions.end());
    const std::vector<VertexId> shared = mesh::firstOfEqual(points);
    const std::size_t shift = before.positions.size();
    const auto sharedCorners = [&](const mesh::Triangle& t, std::size_t offset) {
        return mesh::Triangle{shared[t[0] + offset], shared[t[1] + offset], shared[t[2] + offset]};
    };
    std::vector<Key> keys;
    keys.reserve(ofBefore_.size() + ofAfter_.size());
    for (std::uint32_t t = 0; t < ofBefore_.size(); ++t)
        keys.push_back({turnedToSmallest(sharedCorners(before.triangles[t], 0)), t});
    for (std::uint32_t t = 0; t < ofAfter_.size(); ++t)
        keys.push_back({turnedToSmallest(sharedCorners(after.triangles[t], shift)),
                        t + static_cast<std::uint32_t>(ofBefore_.size())});
    std::sort(keys.begin(), keys.end());
    for (std::size_t i = 0; i < keys.size();) {
        std::size_t end = i;
        while (end < keys.size() && keys[end].corners == keys[i].corners) ++end;
        std::size_t middle = i;
        while (middle < end && keys[middle].number < ofBefore_.size()) ++middle;
        const std::size_t both = std::min(middle - i, end - middle);
        for (std::size_t k = 0; k < both; ++k) {
            ofBefore_[keys[i + k].number] = mesh::noIndex;
            ofAfter_[keys[middle + k].number - ofBefore_.size()] = mesh::noIndex;
        }
        i = end;
    }
    mesh::DisjointSets sets(points.size());
    const auto join = [&](const mesh::Triangle& t) {
        sets.join(t[0], t[1]);
        sets.join(t[1], t[2]);
    };
    for (TriangleId t = 0; t < ofBefore_.size(); ++t)
        if (ofBefore_[t] != mesh::noIndex) join(sharedCorners(before.triangles[t], 0));
    for (TriangleId t = 0; t < ofAfter_.size(); ++t)
        if (ofAfter_[t] != mesh::noIndex) join(sharedCorners(after.triangles[t], shift));
    std::vector<std::uint32_t> ofRoot(points.size(), mesh::noIndex);
    const auto placesOf = [&](const Mesh& m, std::size_t offset, std::vector<std::uint32_t>& of,
                              std::size_t Place::*triangles) {
        for (TriangleId t = 0; t < of.size(); ++t) {
            if (of[t] == mesh::noIndex) continue;
            std::uint32_t& number = ofRoot[sets.find(shared[m.triangles[t][0] + offset])];
            if (number == mesh::noIndex) {
                number = static_cast<std::uint32_t>(list_.size());
                list_.emplace_back().corner = m.corner(t, 0);
            }
            of[t] = number;
            list_[number].box.add(mesh::boxOf(m, t));
            ++(list_[number].*triangles);
        }
    };
    placesOf(before, 0, ofBefore_, &Place::went);
    placesOf(after, shift, ofAfter_, &Place::came);
    for (VertexId v = 0; v < vertexBefore_.size(); ++v) vertexBefore_[v] = ofRoot[sets.find(shared[v])];
    for (VertexId v = 0; v < vertexAfter_.size(); ++v) vertexAfter_[v] = ofRoot[sets.find(shared[v + shift])];
}

std::optional<std::uint32_t> Places::nearest(const mesh::Point& to) const {
    std::optional<std::uint32_t> best;
    double least = std::numeric_limits<double>::infinity();
    const auto look = [&](const Mesh& m, const std::vector<std::uint32_t>& of) {
        for (TriangleId t = 0; t < of.size(); ++t) {
            if (of[t] == mesh::noIndex) continue;
            for (const VertexId v : m.triangles[t]) {
                const double distance = (m.positions[v] - to).squaredNorm();
                if (distance >= least) continue;
                least = distance;
                best = of[t];
            }
        }
    };
    look(before_, ofBefore_);
    look(after_, ofAfter_);
    return best;
}

Places::Back Places::putBack(const std::vector<std::uint8_t>& places) const {
    Back back;
    std::vector<std::uint8_t> stays(ofAfter_.size(), 0);
    for (TriangleId t = 0; t < stays.size(); ++t) {
        stays[t] = ofAfter_[t] == mesh::noIndex || !places[ofAfter_[t]];
        if (stays[t]) back.fromAfter.push_back(t);
    }
    std::vector<std::uint8_t> returns(ofBefore_.size(), 0);
    for (TriangleId t = 0; t < returns.size(); ++t) {
        returns[t] = ofBefore_[t] != mesh::noIndex && places[ofBefore_[t]];
        if (returns[t]) back.fromBefore.push_back(t);
    }
    back.mesh = mesh::keepTriangles(after_, stays);
    // Another file may name its regions otherwise.
    const bool alike = before_.regionNames == after_.regionNames;
    (alike ? mesh::appendPart : mesh::append)(back.mesh, mesh::keepTriangles(before_, returns));
    mesh::joinEqualVertices(back.mesh);
    return back;
}

namespace {

// Calls visit(vertices) for each thing that the class counts.
template <class Visit>
void forEachCounted(const check::Surveyed& s, const check::Survey& survey, check::DefectClass defect, Visit visit) {
    const Mesh& m = s.mesh();
    std::vector<VertexId> vertices;
    if (defect == check::selfIntersections) {
        for (const check::TrianglePair& pair : survey.crossingPairs) {
            vertices.assign(m.triangles[pair.first].begin(), m.triangles[pair.first].end());
            vertices.insert(vertices.end(), m.triangles[pair.second].begin(), m.triangles[pair.second].end());
            visit(vertices);
        }
        return;
    }
    if (defect == check::nonmanifoldVertices) {
        for (const VertexId v : check::tiedVertices(s)) visit({v});
        return;
    }
    for (const check::Finding& f : survey.findings.list) {
        if (f.defect != defect) continue;
        for (const check::Findings::Edge& e : survey.findings.edgesOf(f)) visit({e[0], e[1]});
        if (f.edgeCount > 0) continue;
        vertices.clear();
        for (const TriangleId t : survey.findings.trianglesOf(f))
            vertices.insert(vertices.end(), m.triangles[t].begin(), m.triangles[t].end());
        visit(vertices);
    }
}

// How many shells there are is no fault.
bool isJudged(check::DefectClass defect) {
    return defect->limited.topological && defect != check::shells;
}

// How many of each class there are at each place.
using Tally = std::vector<std::vector<std::uint32_t>>;

Tally tallied(const check::Surveyed& s, const check::Survey& survey, const std::vector<std::uint32_t>& placeOfVertex,
              std::size_t places) {
    Tally tally;
    for (const check::DefectClass defect : check::catalogue()) {
        std::vector<std::uint32_t>& counts = tally.emplace_back(places, 0);
        if (!isJudged(defect)) continue;
        forEachCounted(s, survey, defect, [&](const std::vector<VertexId>& vertices) {
            std::vector<std::uint32_t> met;
            for (const VertexId v : vertices) {
                const std::uint32_t place = placeOfVertex[v];
                if (place == mesh::noIndex || std::find(met.begin(), met.end(), place) != met.end()) continue;
                met.push_back(place);
                ++counts[place];
            }
        });
    }
    return tally;
}

}  // namespace

mesh::Outcome<std::vector<std::uint8_t>> placesThatLose(const check::Surveyed& before, const check::Surveyed& after,
                                                        const Places& places, const measure::Told& told,
                                                        mesh::Progress& progress) {
    std::vector<std::uint8_t> flags;
    const measure::LossSurface import{before.tree(), before.shells()};
    mesh::PartOfProgress looking(progress, 0, 0.2);
    const auto far = measure::farShare(import, after.tree(), looking);
    if (!far) return mesh::errorOf(far);
    if (*far == 0) return flags;
    const measure::ToldTrees trees(told);
    mesh::PartOfProgress comparing(progress, 0.2, 1);
    const std::vector<std::int8_t> tight = check::tightShells(before);
    const auto loss = measure::lossBetween({import, before.rays(), tight}, {after.tree(), after.shells()},
                                           {.told = &trees}, comparing);
    if (!loss) return mesh::errorOf(loss);
    if (measure::losesNothing(*loss)) return flags;
    const std::size_t count = places.list().size();
    flags.assign(count, 0);
    std::vector<std::uint8_t> missed(before.shells().count, 0);
    for (const measure::LostPiece& piece : loss->pieces) missed[piece.shell] = measure::isMissed(piece);
    std::vector<double> lost(count, 0);
    for (const measure::LostPoint& p : loss->lostPoints) {
        const std::uint32_t place = places.ofBefore()[p.triangle];
        if (place == mesh::noIndex || p.mayGo) continue;
        lost[place] += p.area;
        if (missed[before.shells().of[p.triangle]]) flags[place] = 1;
    }
    double unlisted = measure::unlisted(*loss) * loss->seenArea;
    for (std::uint32_t i = 0; i < count; ++i)
        if (flags[i]) unlisted -= lost[i];
    std::vector<std::uint32_t> order(count);
    std::iota(order.begin(), order.end(), 0U);
    std::stable_sort(order.begin(), order.end(), [&](std::uint32_t a, std::uint32_t b) { return lost[a] > lost[b]; });
    // Another sample may find a little more.
    constexpr double surely = 0.8;
    for (const std::uint32_t i : order) {
        if (unlisted <= surely * measure::mostLost * loss->seenArea || !(lost[i] > 0)) break;
        if (flags[i]) continue;
        flags[i] = 1;
        unlisted -= lost[i];
    }
    return flags;
}

mesh::Outcome<WorsePlaces> placesToPutBack(const check::Surveyed& before, const check::Surveyed& after,
                                           const Places& places, PutBackRules rules, mesh::Progress& progress) {
    WorsePlaces result;
    for (std::uint32_t i = 0; i < rules.losing.size(); ++i)
        if (rules.losing[i])
            result.left.push_back(
                {places.list()[i].box, places.list()[i].went, "of what can be seen too much would be lost"});
    const check::SurveyOptions options = before.knownOptions();
    mesh::PartOfProgress first(progress, 0, 0.2);
    const auto given = before.survey(options, first);
    if (!given) return mesh::errorOf(given);
    const std::size_t count = places.list().size();
    const Tally then = tallied(before, **given, places.ofVertexBefore(), count);
    std::vector<std::uint8_t> back = rules.losing;
    back.resize(count, 0);
    result.flags = std::move(rules.losing);
    constexpr int rounds = 8;
    for (int round = 0; round < rounds; ++round) {
        const bool changed = !result.flags.empty();
        const Mesh surface = changed ? places.putBack(result.flags).mesh : Mesh();
        const check::Surveyed mixed(surface);
        const check::Surveyed& now = changed ? mixed : after;
        mesh::PartOfProgress part(progress, 0.2 + 0.8 * round / rounds, 0.2 + 0.8 * (round + 1) / rounds);
        const auto survey = now.survey(options, part);
        if (!survey) return mesh::errorOf(survey);
        // Of vertices that are put back the places are the same.
        std::vector<std::uint32_t> placeOfVertex = places.ofVertexAfter();
        if (changed) {
            placeOfVertex.assign(now.mesh().positions.size(), mesh::noIndex);
            const auto take = [&](const Mesh& m, const std::vector<std::uint32_t>& of) {
                const std::vector<VertexId> same = mesh::equalIn(m.positions, now.mesh().positions);
                for (VertexId v = 0; v < same.size(); ++v)
                    if (same[v] != mesh::noIndex && of[same[v]] != mesh::noIndex) placeOfVertex[v] = of[same[v]];
            };
            take(before.mesh(), places.ofVertexBefore());
            take(after.mesh(), places.ofVertexAfter());
        }
        const Tally tally = tallied(now, **survey, placeOfVertex, count);
        std::vector<double> mends(count, 0);
        for (std::size_t c = 0; c < tally.size(); ++c)
            for (std::size_t i = 0; i < count; ++i)
                mends[i] += static_cast<double>(then[c][i]) - static_cast<double>(tally[c][i]);
        bool worse = false;
        bool flagged = false;
        for (std::size_t c = 0; c < tally.size(); ++c) {
            const check::DefectClass defect = check::catalogue()[c];
            if (!isJudged(defect) || !rules.counts(defect)) continue;
            double excess = defect->limited.value(**survey) - defect->limited.value(**given);
            if (!(excess > 0)) continue;
            worse = true;
            std::vector<std::uint32_t> order;
            for (std::uint32_t i = 0; i < count; ++i)
                if (!back[i] && tally[c][i] > then[c][i]) order.push_back(i);
            std::stable_sort(order.begin(), order.end(),
                             [&](std::uint32_t a, std::uint32_t b) { return mends[a] < mends[b]; });
            for (const std::uint32_t i : order) {
                if (!(excess > 0)) break;
                excess -= tally[c][i] - then[c][i];
                back[i] = 1;
                flagged = true;
                const Place& place = places.list()[i];
                result.left.push_back({place.box, place.went,
                                       fmt::format("{}: {} instead of {}", std::string_view(defect->limited.title),
                                                   tally[c][i], then[c][i])});
            }
        }
        if (!worse) return result;
        if (!flagged) break;
        result.flags = back;
    }
    result.hopeless = true;
    return result;
}

}  // namespace zither::repair
