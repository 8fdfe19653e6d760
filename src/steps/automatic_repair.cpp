#include "steps/automatic_repair.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>

#include "repair/repair.h"
#include "steps/steps_list.h"

namespace zither::steps {
namespace {

// A link of the chain: when it is worth trying, with which values, and why.
struct Link {
    std::string_view step;
    bool (*needed)(const check::Counts&, const Brief&);
    Arguments (*values)(const Mesh&, const RepairOptions&);
    std::string_view why;
};

bool asks(const Brief& brief, std::string_view id) {
    return std::any_of(brief.requirements.begin(), brief.requirements.end(),
                       [&](const Requirement& r) { return r.measure->id == id && r.limit; });
}

Arguments noValues(const Mesh&, const RepairOptions&) {
    return {};
}

Arguments weldValues(const Mesh& m, const RepairOptions& options) {
    return {{"distance", std::min(repair::proposedWeldDistance(m), options.maxDeviation)}};
}

Arguments speckValues(const Mesh&, const RepairOptions&) {
    return {{"size", 2.0}, {"triangles", 0.1}};
}

// Specks go before holes are filled: closing an open speck would only make it look like a part.
constexpr Link chain[] = {
    {"clean", [](const check::Counts& c, const Brief&) { return c.collapsedTriangles + c.duplicateTriangles > 0; },
     noValues, "Collapsed and duplicate triangles hide what the surface is; they go first."},
    {"weld", [](const check::Counts& c, const Brief& b) { return c.boundaryEdges > 0 && asks(b, "boundary_edges"); },
     weldValues, "Open edges lie closer to each other than a twentieth of their length: cracks, not openings."},
    {"clean", [](const check::Counts& c, const Brief&) { return c.collapsedTriangles + c.duplicateTriangles > 0; },
     noValues, "Welding left surplus triangles."},
    {"drop-shells",
     [](const check::Counts& c, const Brief& b) {
         return c.shells > 1 && c.boundaryEdges > 0 && asks(b, "boundary_edges");
     },
     speckValues, "Pieces below 2 % of the extent and 0.1 % of the triangles are specks, not parts."},
    {"orient", [](const check::Counts& c, const Brief&) { return c.misorientedEdges + c.inwardShells > 0; }, noValues,
     "Neighbours face opposite ways, or a shell faces the wrong side."},
    {"fill", [](const check::Counts& c, const Brief& b) { return c.boundaryEdges > 0 && asks(b, "boundary_edges"); },
     noValues, "Holes up to a fifth of the part are taken for damage."},
    {"orient", [](const check::Counts& c, const Brief&) { return c.misorientedEdges + c.inwardShells > 0; }, noValues,
     "A shell that is closed now can be judged by what encloses it."},
    {"fuse",
     [](const check::Counts& c, const Brief& b) {
         return c.selfIntersectingTriangles > 0 && c.boundaryEdges + c.misorientedEdges + c.nonmanifoldEdges == 0 &&
                asks(b, "self_intersecting_pairs");
     },
     noValues, "Closed shells cross: of use is only the skin around them all."},
};

bool changedAnything(const Mesh& before, const Mesh& after) {
    return before.triangles != after.triangles || before.positions.size() != after.positions.size() ||
           !std::equal(before.positions.begin(), before.positions.end(), after.positions.begin());
}

// Sum by which requirements with a limit are exceeded: what must not get worse.
bool worse(const Verdict& before, const Verdict& after) {
    const auto failing = [](const Verdict& v) { return v.asked() - v.met(); };
    return failing(after) > failing(before);
}

double secondsSince(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

std::vector<std::string> whatIsLeft(const Verdict& verdict, const std::vector<DoneStep>& done) {
    std::vector<std::string> left;
    for (const DoneStep& step : done)
        for (const std::string& sentence : step.record.sentences)
            if (sentence.starts_with("Left open")) left.push_back(sentence);
    for (const Judged& j : verdict.judged)
        if (!j.met)
            left.push_back(
                fmt::format("{}: {:.6g}, limit {:.6g}.", j.requirement.measure->title, j.value, *j.requirement.limit));
    return left;
}

}  // namespace

Outcome<RepairResult> repairAutomatically(std::shared_ptr<const Mesh> m, const RepairOptions& options,
                                          Progress& progress) {
    RepairResult result;
    const auto share = [&](std::size_t i) { return static_cast<double>(i) / (std::size(chain) + 1); };
    mesh::PartOfProgress first(progress, 0, share(1));
    Outcome<check::Survey> survey = check::survey(*m, options.brief.surveyOptions(), first);
    if (!survey) return tl::unexpected(survey.error());
    for (std::size_t i = 0; i < std::size(chain); ++i) {
        const Link& link = chain[i];
        if (!link.needed(survey->counts, options.brief)) continue;
        const auto start = std::chrono::steady_clock::now();
        DoneStep done;
        done.call = {findStep(link.step), link.values(*m, options)};
        done.why = link.why;
        mesh::PartOfProgress part(progress, share(i + 1), share(i + 2));
        Outcome<StepOutput> output = runStep(done.call, *m, Pick(), done.used, part);
        if (!output) return tl::unexpected(output.error());
        if (!changedAnything(*m, output->mesh)) continue;
        auto next = std::make_shared<const Mesh>(std::move(output->mesh));
        Outcome<check::Survey> after = check::survey(*next, options.brief.surveyOptions(), part);
        if (!after) return tl::unexpected(after.error());
        if (worse(judge(*survey, options.brief), judge(*after, options.brief)) && link.step != "weld") continue;
        done.record = std::move(output->record);
        done.seconds = secondsSince(start);
        done.mesh = m = next;
        survey = std::move(after);
        result.steps.push_back(std::move(done));
    }
    result.left = whatIsLeft(judge(*survey, options.brief), result.steps);
    if (!progress.report(1)) return mesh::cancelled();
    return result;
}

}  // namespace zither::steps
