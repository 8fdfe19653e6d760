// Checks that use one core run side by side; those that use all, or what others found, in turn.
#include "check/surveyed.h"

#include <algorithm>
#include <atomic>
#include <utility>

#include "check/catalogue.h"
#include "mesh/memory.h"
#include "mesh/parallel.h"

namespace zither::check {
namespace {

std::atomic<std::uint64_t> made = 0;

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
              c.selfIntersectingTriangles == 0 && c.inwardShells == 0 && c.buriedShells == 0 && s.mass.volume > 0;
}

void measure(const Surveyed& s, Survey& survey) {
    survey.counts.triangles = s.mesh().triangles.size();
    survey.counts.vertices = usedVertices(s.mesh());
    survey.mass = measure::massOf(s.mesh());
    survey.edgeLength = measure::edgeLengthOf(s.mesh(), s.edges());
}

// Asked for nothing, or for the same.
bool answers(double measured, double asked) {
    return asked == 0 || asked == measured;
}

// What the checks of a survey gave, by their place in the catalogue.
class Surveying {
public:
    Surveying(const Surveyed& s, const SurveyOptions& options, const Surveyed::Heard& heard)
        : s_(s), heard_(heard), found_(catalogue().size()) {
        result_.options = options;
    }

    mesh::Outcome<std::shared_ptr<const Survey>> everything(mesh::Progress& progress) {
        if (!progress.report(0)) return mesh::cancelled();
        static_cast<void>(s_.edges());
        if (!progress.report(0.1)) return mesh::cancelled();
        static_cast<void>(s_.shells());
        static_cast<void>(s_.degenerate());
        if (!progress.report(0.2)) return mesh::cancelled();
        if (auto done = sideBySide(progress); !done) return mesh::errorOf(done);
        if (auto done = inTurn(progress); !done) return mesh::errorOf(done);
        for (Findings& f : found_) result_.findings.append(std::exchange(f, {}));
        judgeSoundness(result_);
        if (!progress.report(1)) return mesh::cancelled();
        return std::make_shared<const Survey>(std::move(result_));
    }

    // From a survey with other options: only what depends on them is run.
    mesh::Outcome<std::shared_ptr<const Survey>> from(const Survey& known, mesh::Progress& progress) {
        const SurveyOptions options = result_.options;
        result_ = known;
        result_.options = options;
        result_.findings = known.findings.ofPlainChecks();
        for (const DefectClass defect : catalogue()) {
            if (!defect->byOptions) continue;
            auto findings = ran(defect, progress);
            if (!findings) return mesh::errorOf(findings);
            result_.findings.append(*findings);
        }
        if (!progress.report(1)) return mesh::cancelled();
        return std::make_shared<const Survey>(std::move(result_));
    }

private:
    mesh::Outcome<Findings> ran(DefectClass defect, mesh::Progress& progress) {
        result_.measured.forget(defect->measures);
        return defect->run(s_, result_.options, result_, progress);
    }

    // Most checks use one core for a short time.
    mesh::Outcome<void> sideBySide(mesh::Progress& progress) {
        const auto all = catalogue();
        std::atomic<bool> stopped = false;
        mesh::parallelFor(all.size() + 1, 1, [&](std::size_t i) {
            if (i == all.size()) return measure(s_, result_);
            if (all[i]->afterOthers) return;
            mesh::PartOfProgress still(progress, 0.25, 0.25);
            auto findings = ran(all[i], still);
            if (!findings) {
                stopped = true;
                return;
            }
            found_[i] = std::move(*findings);
            tell(all[i]);
        });
        if (stopped || !progress.report(0.3)) return mesh::cancelled();
        return {};
    }

    // The others use every core, or what was found before.
    mesh::Outcome<void> inTurn(mesh::Progress& progress) {
        const auto all = catalogue();
        double from = 0.3;
        bool raysWereAsked = false;
        for (std::size_t i = 0; i < all.size(); ++i) {
            if (!all[i]->afterOthers) continue;
            if (s_.spares() == Surveyed::Spares::Memory && all[i]->byRays && !std::exchange(raysWereAsked, true))
                s_.forgetAllButRays();
            mesh::PartOfProgress part(progress, from, from + 0.6 * (1 - from));
            from += 0.6 * (1 - from);
            judgeSoundness(result_);  // by what was counted so far; of all of it once the last check is done
            auto findings = ran(all[i], part);
            if (!findings) return mesh::errorOf(findings);
            found_[i] = std::move(*findings);
            tell(all[i]);
        }
        return {};
    }

    void tell(DefectClass defect) const {
        if (heard_) heard_(defect, defect->limited.value(result_));
    }

    const Surveyed& s_;
    const Surveyed::Heard& heard_;
    std::vector<Findings> found_;
    Survey result_;
};

}  // namespace

mesh::Point SurveyOptions::upward() const {
    return mesh::Point(up[0], up[1], up[2]).normalized();
}

bool SurveyOptions::cover(const SurveyOptions& other) const {
    const bool directed = other.slopeDeg > 0 || other.parallelDeg > 0 || !other.build.empty();
    return sliverAngleDeg == other.sliverAngleDeg && answers(wall, other.wall) && answers(slopeDeg, other.slopeDeg) &&
           answers(knifeDeg, other.knifeDeg) && answers(parallelDeg, other.parallelDeg) &&
           answers(narrowEdges, other.narrowEdges) && (!(other.narrowEdges > 0) || narrowEdge == other.narrowEdge) &&
           answers(componentPercent, other.componentPercent) && answers(holePercent, other.holePercent) &&
           answers(tunnelPercent, other.tunnelPercent) && (other.build.empty() || build == other.build) &&
           (!directed || up == other.up);
}

Surveyed::Surveyed(std::shared_ptr<const Mesh> m, Spares spares) : mesh_(std::move(m)), spares_(spares) {}

Surveyed::Surveyed(const Mesh& m) : mesh_(std::shared_ptr<const Mesh>(), &m) {}

const mesh::Edges& Surveyed::edges() const {
    return edges_.get([&] { return mesh::Edges(*mesh_); });
}

const mesh::Corners& Surveyed::corners() const {
    return corners_.get([&] { return mesh::Corners(*mesh_); });
}

const mesh::Groups& Surveyed::shells() const {
    return shells_.get([&] { return mesh::shellsOf(*mesh_, edges()); });
}

const std::vector<std::uint8_t>& Surveyed::degenerate() const {
    return degenerate_.get([&] {
        std::vector<std::uint8_t> flags(mesh_->triangles.size(), 0);
        mesh::parallelFor(flags.size(), 4096,
                          [&](std::size_t t) { flags[t] = isDegenerate(*mesh_, static_cast<TriangleId>(t)); });
        return flags;
    });
}

const space::RayScene& Surveyed::rays() const {
    return *rays_.get([&] { return std::make_unique<const space::RayScene>(*mesh_); });
}

const space::TriangleTree& Surveyed::tree() const {
    return tree_.get([&] { return space::TriangleTree(*mesh_); });
}

std::shared_ptr<const Survey> Surveyed::known() const {
    const std::lock_guard lock(reading_);
    return survey_;
}

SurveyOptions Surveyed::knownOptions() const {
    const auto last = known();
    return last ? last->options : SurveyOptions();
}

mesh::Outcome<std::shared_ptr<const Survey>> Surveyed::survey(const SurveyOptions& options, mesh::Progress& progress,
                                                              const Heard& heard) const {
    const std::lock_guard lock(surveying_);
    const std::shared_ptr<const Survey> before = known();
    if (before && before->options.cover(options)) return before;
    mesh::Outcome<std::shared_ptr<const Survey>> outcome = mesh::cancelled();
    tbb::this_task_arena::isolate([&] {
        Surveying surveying(*this, options, heard);
        outcome = before ? surveying.from(*before, progress) : surveying.everything(progress);
    });
    if (!outcome) return outcome;
    made += before ? 0 : 1;
    const std::lock_guard setting(reading_);
    survey_ = *outcome;
    return outcome;
}

void Surveyed::forgetAllButRays() const {
    edges_.forget();
    corners_.forget();
    tree_.forget();
    mesh::returnSmallPieces();
}

std::shared_ptr<const Surveyed> Surveyed::light() const {
    return renumbered(mesh_);
}

std::shared_ptr<const Surveyed> Surveyed::renumbered(std::shared_ptr<const Mesh> m) const {
    auto other = std::make_shared<Surveyed>(std::move(m));
    other->survey_ = known();
    return other;
}

std::uint64_t Surveyed::surveysMade() {
    return made;
}

}  // namespace zither::check
