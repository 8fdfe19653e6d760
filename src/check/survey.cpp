#include "check/survey.h"

#include <tbb/parallel_invoke.h>

#include <algorithm>

#include "mesh/parallel.h"

namespace zither::check {
namespace {

// The checks that need nothing but the surroundings. A new one is its own file and one line here.
struct PlainCheck {
    CheckResult (*run)(const Surroundings&);
    std::uint64_t Counts::*count;
};
constexpr PlainCheck plainChecks[] = {
    {checkOpenEdges, &Counts::boundaryEdges},
    {checkNonmanifoldEdges, &Counts::nonmanifoldEdges},
    {checkNonmanifoldVertices, &Counts::nonmanifoldVertices},
    {checkMisorientedEdges, &Counts::misorientedEdges},
    {checkDuplicateTriangles, &Counts::duplicateTriangles},
    {checkDegenerateTriangles, &Counts::degenerateTriangles},
};

double smallestAngle(const Mesh& m) {
    return mesh::parallelBlocks(
        m.triangles.size(), 60.0,
        [&](std::size_t begin, std::size_t end) {
            double smallest = 60;
            for (auto t = static_cast<TriangleId>(begin); t < end; ++t)
                smallest = std::min(smallest, measure::smallestAngleDeg(m, t));
            return smallest;
        },
        [](double a, double b) { return std::min(a, b); });
}

std::uint64_t usedVertices(const Mesh& m) {
    std::vector<std::uint8_t> used(m.positions.size(), 0);
    for (const mesh::Triangle& t : m.triangles)
        for (VertexId v : t) used[v] = 1;
    return static_cast<std::uint64_t>(std::count(used.begin(), used.end(), 1));
}

void judgeSoundness(Survey& s) {
    const Counts& c = s.counts;
    s.watertight = c.triangles > 0 && c.boundaryEdges == 0 && c.nonmanifoldEdges == 0 && c.misorientedEdges == 0 &&
                   c.collapsedTriangles == 0;
    s.solid = s.watertight && c.nonmanifoldVertices == 0 && c.duplicateTriangles == 0 && c.degenerateTriangles == 0 &&
              c.selfIntersectingTriangles == 0 && s.mass.volume > 0;
}

}  // namespace

mesh::Outcome<Survey> survey(const Mesh& m, const SurveyOptions& options, mesh::Progress& progress) {
    Survey result;
    Counts& counts = result.counts;
    if (!progress.report(0)) return mesh::cancelled();
    const Surroundings s(m);
    if (!progress.report(0.2)) return mesh::cancelled();
    counts.triangles = m.triangles.size();
    counts.collapsedTriangles =
        static_cast<std::uint64_t>(std::count_if(m.triangles.begin(), m.triangles.end(), mesh::isCollapsed));
    counts.shells = s.shells.count;

    std::array<CheckResult, std::size(plainChecks)> plain;
    CheckResult slivers;
    mesh::parallelFor(plain.size() + 2, 1, [&](std::size_t i) {
        if (i < plain.size()) {
            plain[i] = plainChecks[i].run(s);
        } else if (i == plain.size()) {
            slivers = checkSlivers(s, options.sliverAngleDeg);
            result.smallestAngleDeg = m.triangles.empty() ? 0 : smallestAngle(m);
        } else {
            counts.vertices = usedVertices(m);
            result.mass = measure::massOf(m);
            result.edgeLength = measure::edgeLengthOf(m, s.edges);
        }
    });
    for (std::size_t i = 0; i < plain.size(); ++i) counts.*plainChecks[i].count = plain[i].count;
    counts.holes = plain[0].findings.list.size();

    mesh::PartOfProgress part(progress, 0.3, 0.95);
    mesh::Outcome<SelfIntersections> crossing = checkSelfIntersections(s, part);
    if (!crossing) return tl::unexpected(crossing.error());
    counts.selfIntersectingPairs = crossing->pairs.size();
    counts.selfIntersectingTriangles = crossing->triangles;
    result.shells = shellList(s, crossing->pairs);
    const CheckResult inward = checkInwardShells(s, result.shells);
    counts.inwardShells = inward.count;

    for (const CheckResult& check : plain) result.findings.append(check.findings);
    result.findings.append(crossing->findings);
    result.findings.append(inward.findings);
    result.findings.append(checkShells(s, result.shells).findings);
    result.findings.append(slivers.findings);
    result.crossingPairs = std::move(crossing->pairs);
    result.shellOf = s.shells.of;
    judgeSoundness(result);
    if (!progress.report(1)) return mesh::cancelled();
    return result;
}

}  // namespace zither::check
