// Shells, their direction and their nesting. A shell lies inside another closed one if the two do not meet and a corner
// of it is inside, by the parity of an exact ray (ties broken by symbolic perturbation of the point).
#include <Eigen/Geometry>
#include <algorithm>
#include <atomic>
#include <boost/multiprecision/cpp_int.hpp>
#include <limits>

#include "check/catalogue.h"
#include "check/shell_list.h"
#include "exact/predicates.h"
#include "mesh/parallel.h"
#include "space/triangle_tree.h"

namespace zither::check {

constinit const Measure voidVolume = {.key = "void_volume"};

namespace {

constexpr Measure cavities = {.key = "voids"};
constexpr const Measure* measuresOfVoids[] = {&cavities, &voidVolume};

using Rational = boost::multiprecision::cpp_rational;

// Sign of the turn of p, a, b in the (y, z) plane, p moved a little so that it is not 0.
int perturbedTurn(const Point& p, const Point& a, const Point& b) {
    const int turn = exact::orient2dDropping(0, p, a, b);
    return turn != 0 ? turn : exact::turnOfMovedPoint(0, a, b);
}

// The ray from p along +x crosses the triangle. p does not lie on it.
bool rayCrosses(const Mesh& m, TriangleId t, const Point& p) {
    const Point& a = m.corner(t, 0);
    const Point& b = m.corner(t, 1);
    const Point& c = m.corner(t, 2);
    const int turn = perturbedTurn(p, a, b);
    if (turn == 0 || perturbedTurn(p, b, c) != turn || perturbedTurn(p, c, a) != turn) return false;
    // `turn` is also the sign of the normal's x; below the plane then means that the triangle lies ahead.
    return exact::orient3d(a, b, c, p) * turn > 0;
}

int exactVolumeSign(const Mesh& m, const std::vector<TriangleId>& triangles) {
    Rational sum = 0;
    const auto at = [&](TriangleId t, unsigned k, int i) { return Rational(m.corner(t, k)[i]); };
    for (TriangleId t : triangles) {
        const Rational cross[3] = {at(t, 1, 1) * at(t, 2, 2) - at(t, 1, 2) * at(t, 2, 1),
                                   at(t, 1, 2) * at(t, 2, 0) - at(t, 1, 0) * at(t, 2, 2),
                                   at(t, 1, 0) * at(t, 2, 1) - at(t, 1, 1) * at(t, 2, 0)};
        for (int i = 0; i < 3; ++i) sum += at(t, 0, i) * cross[i];
    }
    return sum.sign();
}

// Sums over each shell, in triangle order.
class ShellSums {
public:
    explicit ShellSums(const Surveyed& s) : s_(s), shells_(s.shells().count), magnitude_(s.shells().count, 0) {}

    std::vector<Shell> run() {
        boxes();
        masses();
        closedness();
        signs();
        return std::move(shells_);
    }

private:
    void boxes() {
        for (TriangleId t = static_cast<TriangleId>(s_.mesh().triangles.size()); t-- > 0;) {
            if (s_.shells().of[t] == mesh::noEdge) continue;
            Shell& shell = shells_[s_.shells().of[t]];
            shell.box.add(mesh::boxOf(s_.mesh(), t));
            shell.firstTriangle = t;
            ++shell.triangles;
        }
    }
    void masses() {
        for (TriangleId t = 0; t < s_.mesh().triangles.size(); ++t) {
            if (s_.shells().of[t] == mesh::noEdge) continue;
            Shell& shell = shells_[s_.shells().of[t]];
            const Point normal = mesh::areaVector(s_.mesh(), t);
            const Point a = s_.mesh().corner(t, 0) - shell.box.centre();
            shell.area += normal.norm() / 2;
            shell.volume += a.dot(normal) / 6;
            magnitude_[s_.shells().of[t]] += a.norm() * shell.box.diagonal() * shell.box.diagonal();
        }
    }
    void closedness() {
        for (Shell& shell : shells_) shell.closed = true;
        for (mesh::EdgeId e = 0; e < s_.edges().count(); ++e) {
            const auto around = s_.edges().around(e);
            if (around.size() != 2 || mesh::runsAlong(s_.mesh(), around[0], around[1]))
                shells_[s_.shells().of[mesh::triangleOf(around[0])]].closed = false;
        }
    }
    // The sum decides where it clearly exceeds its rounding error; exact arithmetic elsewhere.
    void signs() {
        std::vector<std::vector<TriangleId>> unclear(shells_.size());
        std::vector<std::uint8_t> isUnclear(shells_.size(), 0);
        for (std::size_t i = 0; i < shells_.size(); ++i) {
            const double bound = 64 * std::numeric_limits<double>::epsilon() * magnitude_[i];
            isUnclear[i] = shells_[i].closed && !(std::abs(shells_[i].volume) > bound);
            shells_[i].volumeSign = (shells_[i].volume > 0) - (shells_[i].volume < 0);
        }
        if (std::none_of(isUnclear.begin(), isUnclear.end(), [](auto u) { return u != 0; })) return;
        for (TriangleId t = 0; t < s_.mesh().triangles.size(); ++t)
            if (const std::uint32_t shell = s_.shells().of[t]; shell != mesh::noEdge && isUnclear[shell])
                unclear[shell].push_back(t);
        for (std::size_t i = 0; i < shells_.size(); ++i)
            if (isUnclear[i]) shells_[i].volumeSign = exactVolumeSign(s_.mesh(), unclear[i]);
    }

    const Surveyed& s_;
    std::vector<Shell> shells_;
    std::vector<double> magnitude_;
};

// Only boxes can be compared before a ray is shot; most shells have no other around them.
class Nesting {
public:
    Nesting(const Surveyed& s, NestedShells& nested, const std::vector<TrianglePair>& crossing)
        : s_(s), shells_(nested.shells), holders_(nested.holders) {
        holders_.resize(shells_.size());
        for (const auto& [a, b] : crossing) {
            const std::uint32_t shellA = s.shells().of[a];
            const std::uint32_t shellB = s.shells().of[b];
            const std::pair<std::uint32_t, std::uint32_t> both = std::minmax({shellA, shellB});
            if (shellA != shellB && (crossing_.empty() || crossing_.back() != both)) crossing_.push_back(both);
        }
        std::sort(crossing_.begin(), crossing_.end());
        crossing_.erase(std::unique(crossing_.begin(), crossing_.end()), crossing_.end());
    }

    // False where cancelled.
    bool run(mesh::Progress& progress) {
        const std::vector<std::uint32_t> candidates = withAnyBoxAround();
        if (!progress.report(0.3)) return false;
        if (candidates.empty()) return true;
        const space::TriangleTree& tree = s_.tree();
        std::atomic<bool> stop = false;
        std::atomic<std::size_t> done = 0;
        mesh::parallelFor(candidates.size(), 1, [&](std::size_t i) {
            if (stop) return;
            place(candidates[i], tree);
            constexpr std::size_t often = 64;
            if (++done % often == 0 &&
                !progress.report(0.3 + 0.7 * static_cast<double>(done) / static_cast<double>(candidates.size())))
                stop = true;
        });
        return !stop;
    }

private:
    // The shells whose box lies within that of another closed shell. Boxes stand in a tree as their diagonals, so that
    // many long ones side by side cost no more than others.
    [[nodiscard]] std::vector<std::uint32_t> withAnyBoxAround() const {
        Mesh diagonals;
        std::vector<std::uint32_t> closed;
        for (std::uint32_t i = 0; i < shells_.size(); ++i) {
            if (!shells_[i].closed) continue;
            const auto v = static_cast<VertexId>(diagonals.positions.size());
            diagonals.positions.push_back(shells_[i].box.min);
            diagonals.positions.push_back(shells_[i].box.max);
            diagonals.triangles.push_back({v, v + 1, v + 1});
            closed.push_back(i);
        }
        const space::TriangleTree tree(diagonals);
        std::vector<std::uint8_t> within(shells_.size(), 0);
        mesh::parallelFor(shells_.size(), 64, [&](std::size_t i) {
            mesh::Box centre;
            centre.add(shells_[i].box.centre());
            tree.overlapping(centre, [&](TriangleId d) {
                if (!within[i] && closed[d] != i && shells_[closed[d]].box.contains(shells_[i].box)) within[i] = 1;
            });
        });
        std::vector<std::uint32_t> result;
        for (std::uint32_t i = 0; i < within.size(); ++i)
            if (within[i]) result.push_back(i);
        return result;
    }

    [[nodiscard]] bool crosses(std::uint32_t a, std::uint32_t b) const {
        const std::pair<std::uint32_t, std::uint32_t> both = std::minmax({a, b});
        return std::binary_search(crossing_.begin(), crossing_.end(), both);
    }

    void place(std::uint32_t inner, const space::TriangleTree& tree) {
        const Point p = s_.mesh().corner(shells_[inner].firstTriangle, 0);
        std::vector<std::uint32_t> crossed;
        tree.alongAxis(p, 0, [&](TriangleId t) {
            const std::uint32_t outer = s_.shells().of[t];
            if (outer == mesh::noEdge || outer == inner || !shells_[outer].closed ||
                !shells_[outer].box.contains(shells_[inner].box))
                return;
            if (!s_.degenerate()[t] && rayCrosses(s_.mesh(), t, p)) crossed.push_back(outer);
        });
        std::sort(crossed.begin(), crossed.end());
        for (std::size_t i = 0; i < crossed.size();) {
            const std::size_t begin = i;
            while (i < crossed.size() && crossed[i] == crossed[begin]) ++i;
            if ((i - begin) % 2 == 0 || crosses(inner, crossed[begin])) continue;
            Shell& shell = shells_[inner];
            ++shell.depth;
            shell.around += shells_[crossed[begin]].volumeSign;
            holders_[inner].push_back(crossed[begin]);
            const double size = shells_[crossed[begin]].box.diagonal();
            if (shell.directParent == mesh::noEdge || size < shells_[shell.directParent].box.diagonal())
                shell.directParent = crossed[begin];
        }
    }

    const Surveyed& s_;
    std::vector<Shell>& shells_;
    std::vector<std::vector<std::uint32_t>>& holders_;
    std::vector<std::pair<std::uint32_t, std::uint32_t>> crossing_;  // ascending, the lower shell first
};

}  // namespace

std::vector<std::uint8_t> inwardWithAllTheyHold(const NestedShells& nested, const std::vector<std::uint8_t>& mayTurn,
                                                const std::vector<int>& aroundToo) {
    const std::vector<Shell>& list = nested.shells;
    const auto& holders = nested.holders;
    std::vector<std::uint32_t> outermostFirst;
    std::vector<std::vector<std::uint32_t>> held(list.size());
    for (std::uint32_t i = 0; i < list.size(); ++i) {
        if (!list[i].closed) continue;
        outermostFirst.push_back(i);
        for (const std::uint32_t holder : holders[i]) held[holder].push_back(i);
    }
    std::stable_sort(outermostFirst.begin(), outermostFirst.end(),
                     [&](std::uint32_t a, std::uint32_t b) { return list[a].depth < list[b].depth; });
    std::vector<std::uint8_t> turn(list.size(), 0);
    const auto signOf = [&](std::uint32_t i) { return turn[i] ? -list[i].volumeSign : list[i].volumeSign; };
    for (const std::uint32_t i : outermostFirst) {
        int around = aroundToo[i];
        for (const std::uint32_t holder : holders[i]) around += signOf(holder);
        if (signOf(i) >= 0 || around > 0 || !mayTurn[i]) continue;
        turn[i] ^= 1;
        for (const std::uint32_t inner : held[i])
            if (mayTurn[inner]) turn[inner] ^= 1;
    }
    return turn;
}

Findings findingsOfShells(const Surveyed& s, DefectClass defect, const std::vector<Shell>& list,
                          const std::vector<std::uint8_t>& chosen) {
    Findings result;
    for (std::uint32_t i = 0; i < list.size(); ++i) {
        if (!chosen[i]) continue;
        Finding f{.defect = defect};
        f.position = list[i].box.centre();
        f.size = list[i].box.diagonal();
        result.list.push_back(f);
    }
    if (result.list.empty()) return result;
    // The triangles of all of them, shell by shell.
    std::vector<std::uint32_t> next(list.size(), 0);
    std::uint32_t total = 0;
    std::size_t place = 0;
    for (std::uint32_t i = 0; i < list.size(); ++i) {
        if (!chosen[i]) continue;
        Finding& f = result.list[place++];
        f.firstTriangle = next[i] = total;
        f.triangleCount = static_cast<std::uint32_t>(list[i].triangles);
        total += f.triangleCount;
    }
    result.triangles.resize(total);
    for (TriangleId t = 0; t < s.mesh().triangles.size(); ++t)
        if (const std::uint32_t shell = s.shells().of[t]; shell != mesh::noEdge && chosen[shell])
            result.triangles[next[shell]++] = t;
    return result;
}

namespace {

template <class Which>
std::vector<std::uint8_t> flagsOf(const std::vector<Shell>& list, const Which& which) {
    std::vector<std::uint8_t> chosen(list.size());
    std::transform(list.begin(), list.end(), chosen.begin(), which);
    return chosen;
}

mesh::Outcome<Findings> runInward(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress& progress) {
    mesh::Outcome<std::vector<Shell>> list = shellList(s, survey.crossingPairs, progress);
    if (!list) return mesh::errorOf(list);
    survey.shells = std::move(*list);
    survey.shellOf = s.shells().of;
    survey.counts.shells = survey.shells.size();
    Findings result = findingsOfShells(s, inwardShells, survey.shells,
                                       flagsOf(survey.shells, [](const Shell& shell) { return shell.inward; }));
    survey.counts.inwardShells = result.list.size();
    return result;
}

mesh::Outcome<Findings> runBuried(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    Findings result = findingsOfShells(s, buriedShells, survey.shells,
                                       flagsOf(survey.shells, [](const Shell& shell) { return shell.buried; }));
    survey.counts.buriedShells = result.list.size();
    return result;
}

mesh::Outcome<Findings> runShells(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    return findingsOfShells(s, shells, survey.shells, std::vector<std::uint8_t>(survey.shells.size(), 1));
}

mesh::Outcome<Findings> runVoids(const Surveyed& s, const SurveyOptions&, Survey& survey, mesh::Progress&) {
    // Nothing gets out of them.
    const std::vector<std::uint8_t> chosen =
        flagsOf(survey.shells, [](const Shell& shell) { return shell.isCavity(); });
    double enclosed = 0;
    for (std::size_t i = 0; i < chosen.size(); ++i)
        if (chosen[i]) enclosed -= survey.shells[i].volume;
    Findings result = findingsOfShells(s, voids, survey.shells, chosen);
    survey.measured.set(cavities, static_cast<double>(result.list.size()));
    survey.measured.set(voidVolume, enclosed);
    return result;
}

}  // namespace

mesh::Outcome<NestedShells> nestedShells(const Surveyed& s, const std::vector<TrianglePair>& crossing,
                                         mesh::Progress& progress) {
    NestedShells nested{ShellSums(s).run(), {}};
    if (!progress.report(0.2)) return mesh::cancelled();
    mesh::PartOfProgress nesting(progress, 0.2, 1);
    if (!Nesting(s, nested, crossing).run(nesting)) return mesh::cancelled();
    for (Shell& shell : nested.shells) {
        shell.inward = shell.closed && shell.volumeSign < 0 && shell.around <= 0;
        shell.buried = shell.closed && shell.volumeSign > 0 && shell.around > 0;
    }
    return nested;
}

mesh::Outcome<std::vector<Shell>> shellList(const Surveyed& s, const std::vector<TrianglePair>& crossing,
                                            mesh::Progress& progress) {
    auto nested = nestedShells(s, crossing, progress);
    if (!nested) return mesh::errorOf(nested);
    return std::move(nested->shells);
}

constinit const DefectDescriptor inwardShells = {
    .key = "inward-shells",
    .name = "Inward shells",
    .sentence = "Closed shells that face inwards where nothing is full around them.",
    .ink = 0x9A6B00,
    .glyph = glyph::hatch,
    .draw = drawNothing,
    .run = runInward,
    .limited = {.id = "inward_shells", .title = "inward shells", .unit = "", .value = countOf<&Counts::inwardShells>},
    .afterOthers = true,
};

constinit const DefectDescriptor buriedShells = {
    .key = "buried-shells",
    .name = "Buried shells",
    .sentence = "Closed shells that face outwards within material: bodies within bodies, whose skin bounds nothing.",
    .ink = 0x6B4E9B,
    .glyph = glyph::nested,
    .draw = drawNothing,
    .run = runBuried,
    .limited = {.id = "buried_shells", .title = "buried shells", .unit = "", .value = countOf<&Counts::buriedShells>},
    .afterOthers = true,
};

constinit const DefectDescriptor shells = {
    .key = "shells",
    .name = "Shells",
    .sentence = "Pieces of surface that share no edge with each other.",
    .ink = 0x2E7D32,
    .glyph = glyph::dots,
    .draw = drawNothing,
    .run = runShells,
    .limited = {.id = "shells", .title = "shells", .unit = "", .value = countOf<&Counts::shells>, .harmless = 1},
    .afterOthers = true,
    .onlyWhenChosen = true,
};

constinit const DefectDescriptor voids = {
    .key = "voids",
    .name = "Enclosed voids",
    .sentence = "Cavities within material that nothing gets out of: no powder, no resin, no air.",
    .ink = 0x5B5348,
    .glyph = glyph::hollow,
    .draw = drawNothing,
    .run = runVoids,
    .limited = {.id = "voids",
                .title = "voids",
                .unit = "",
                .value = measuredOf<cavities>,
                .mendable = false,
                .topological = false},
    .measures = measuresOfVoids,
    .afterOthers = true,
};

}  // namespace zither::check
