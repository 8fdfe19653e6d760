// A chain of links, each tried when it is needed and judged afterwards; the best state is the result.
#include "steps/repair/local.h"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "check/check_tolerances.h"
#include "repair/stitch.h"
#include "steps/all_steps.h"
#include "steps/repair/score.h"
#include "steps/steps_tolerances.h"

namespace zither::steps {
namespace {

// What the links decide by.
struct State {
    const Surveyed& part;
    const check::Survey& survey;
    const RepairOptions& options;
    const check::Counts& given;  // of the part as it came
    const LocalWay& how;
    const check::Counts& counts = survey.counts;

    [[nodiscard]] bool asks(check::DefectClass defect) const {
        const auto& all = options.brief.requirements;
        return std::any_of(all.begin(), all.end(), [&](const Requirement& r) { return r.limits(defect); });
    }
    [[nodiscard]] bool isOpen() const { return counts.boundaryEdges > 0 && asks(check::openEdges); }
    // That is asked for, in degrees; 0: none.
    [[nodiscard]] double smallestAngle() const {
        double angle = 0;
        for (const Requirement& r : options.brief.requirements)
            if (r.limits(check::slivers)) angle = *r.limit;
        return angle;
    }
    // What is thinner is a needle.
    [[nodiscard]] double needleHeight() const { return tolerance::needleHeight * mesh::boxOf(part.mesh()).diagonal(); }
    // The largest length that nobody would miss: a hundred thousandth of the part.
    [[nodiscard]] double unseen() const {
        return std::min(tolerance::unseenLength * mesh::boxOf(part.mesh()).diagonal(), options.maxDeviation);
    }
};

// A link of the chain: when it is worth trying, with which values, and why.
struct Link {
    const Step& (*step)();
    bool (*needed)(const State&);
    StepCall (*call)(const State&, const Step*);
    std::string (*why)(const State&);
    bool mayFailMore = false;  // than before, because later links mend that: stitching twists, filling crosses
};

StepCall plain(const State&, const Step* step) {
    return {step};
}

StepCall stitchCall(const State& s, const Step* step) {
    return {step, {{"distance", std::min(s.how.crackWidth(s.part), s.options.maxDeviation)}}};
}

StepCall speckCall(const State&, const Step* step) {
    return {step, {{"size", 2.0}, {"triangles", 0.1}}};
}

StepCall fillCall(const State& s, const Step* step) {
    return {step, {{"meant", Value(std::string(s.options.closeOpenings ? "close" : "ask"))}}};
}

StepCall needleCall(const State& s, const Step* step) {
    return {step, {{"angle", 0.001}, {"tolerance", s.unseen()}}};
}

StepCall thinCall(const State& s, const Step* step) {
    return {step, {{"angle", 0.0}, {"tolerance", s.needleHeight()}}};
}

StepCall sliverCall(const State& s, const Step* step) {
    return {step, {{"angle", s.smallestAngle()}, {"tolerance", std::min(10 * s.unseen(), s.options.maxDeviation)}}};
}

StepCall fuseCall(const State& s, const Step* step) {
    return {step, {{"slivers", s.needleHeight()}, {"tidy", 0.0}}};
}

StepCall mendCall(const State&, const Step* step) {
    return {step, {{"rings", 1.0}}, "self_intersecting_pairs"};
}

// Rims that touch at a vertex come apart when they are filled.
bool isTied(const State& s) {
    return s.asks(check::nonmanifoldEdges) &&
           (s.counts.nonmanifoldEdges > 0 || (s.counts.nonmanifoldVertices > 0 && !s.isOpen()));
}

bool hasSurplus(const State& s) {
    return s.counts.collapsedTriangles + s.counts.duplicateTriangles > 0;
}

bool isTwisted(const State& s) {
    return s.counts.misorientedEdges + s.counts.inwardShells > 0;
}

std::string twistedInWords(const State& s) {
    const std::size_t edges = s.counts.misorientedEdges;
    const std::size_t shells = s.counts.inwardShells;
    return onlyThere({{edges, counted(edges, "edge has", "edges have") + " sides that face opposite ways"},
                      {shells, counted(shells, "shell faces", "shells face") + " the wrong side"}},
                     "; ") +
           ".";
}

std::string surplusInWords(const State& s) {
    const std::size_t collapsed = s.counts.collapsedTriangles;
    const std::size_t twice = s.counts.duplicateTriangles;
    return onlyThere({{collapsed, counted(collapsed, "triangle has", "triangles have") + " two corners in one point"},
                      {twice, counted(twice, "triangle lies", "triangles lie") + " on another"}},
                     "; ") +
           ".";
}

bool crossesItself(const State& s) {
    return s.counts.selfIntersectingTriangles > 0 && s.asks(check::selfIntersections);
}

bool hasBuried(const State& s) {
    return s.counts.buriedShells > 0 && s.options.buried != BuriedWay::Keep;
}

StepCall absorbCall(const State& s, const Step* step) {
    return {step, {{"as", Value(std::string(wordOf(s.options.buried)))}}};
}

std::string buriedInWords(const State& s) {
    return fmt::format("{} within material: bodies within bodies.",
                       counted(s.counts.buriedShells, "shell lies", "shells lie"));
}

// Thin places of a sound surface that the brief does not suffer.
bool isUneasy(const State& s) {
    return s.survey.solid && thinOf(judge(s.survey, s.options.brief)) > 0;
}

// Specks go before holes are filled: closing an open speck would only make it look like a part. What is tied is untied
// before surplus triangles go: of a double sheet nothing may stay.
constexpr Link chain[] = {
    {resolveStep, [](const State& s) { return isTied(s) && s.counts.duplicateTriangles > 0; }, plain,
     [](const State& s) {
         return fmt::format("{} triangles lie on others and {} edges have more than two: sheets that enclose nothing.",
                            s.counts.duplicateTriangles, s.counts.nonmanifoldEdges);
     },
     true},
    {cleanStep, hasSurplus, plain, surplusInWords},
    {stitchStep, [](const State& s) { return s.isOpen(); }, stitchCall,
     [](const State& s) {
         return fmt::format("Among {} open edges some lie much closer to each other than they are long: cracks.",
                            s.counts.boundaryEdges);
     },
     true},
    {stitchStep, [](const State& s) { return s.isOpen(); }, stitchCall,
     [](const State& s) {
         return fmt::format("Of {} edges that are open still some lie close to each other: wider cracks.",
                            s.counts.boundaryEdges);
     },
     true},
    {cleanStep, hasSurplus, plain, [](const State&) { return std::string("Stitching left surplus triangles."); }},
    {dropShellsStep, [](const State& s) { return s.counts.shells > 1 && s.isOpen(); }, speckCall,
     [](const State& s) {
         return fmt::format(
             "Of {} shells, those below 2 % of the extent and 0.1 % of the triangles are specks, not parts.",
             s.counts.shells);
     }},
    {resolveStep, isTied, plain, [](const State& s) { return tiedInWords(s.counts) + "."; }, true},
    {orientStep, isTwisted, plain, twistedInWords},
    {absorbStep, hasBuried, absorbCall, buriedInWords},
    {refineSliversStep, [](const State& s) { return s.counts.degenerateTriangles > 0; }, needleCall,
     [](const State& s) {
         return fmt::format("{} triangles have no area; their edges are swapped or collapsed.",
                            s.counts.degenerateTriangles);
     }},
    {fillStep, [](const State& s) { return s.isOpen(); }, fillCall,
     [](const State& s) {
         return counted(s.counts.holes, "hole") + "; those that look like damage are closed, each as its rim suggests.";
     },
     true},
    {orientStep, isTwisted, plain,
     [](const State&) { return std::string("A shell that is closed now can be judged by what encloses it."); }},
    {absorbStep, hasBuried, absorbCall, buriedInWords},
    {resolveStep, isTied, plain, [](const State& s) { return tiedInWords(s.counts) + "."; }},
    {fuseStep,
     [](const State& s) {
         return crossesItself(s) && s.counts.boundaryEdges + s.counts.misorientedEdges + s.counts.nonmanifoldEdges == 0;
     },
     fuseCall,
     [](const State& s) {
         return fmt::format("{} pairs of triangles of closed shells cross: of use is only the skin around them all.",
                            s.counts.selfIntersectingPairs);
     },
     true},
    {mendStep, [](const State& s) { return crossesItself(s) && !s.isOpen(); }, mendCall,
     [](const State& s) {
         return fmt::format("{} triangles cross still: they go, with a ring around them, and are closed anew.",
                            s.counts.selfIntersectingTriangles);
     }},
    {refineSliversStep, [](const State& s) { return s.survey.smallestAngleDeg < s.smallestAngle(); }, sliverCall,
     [](const State&) { return std::string("The brief forbids small angles."); }},
    {refineSliversStep, [](const State& s) { return s.counts.needles > s.given.needles; }, thinCall,
     [](const State& s) {
         return fmt::format("Mending made {} needles too thin for most meshers.", s.counts.needles - s.given.needles);
     }},
    {easeStep, isUneasy, plain, [](const State&) { return std::string(easedInWords); }},
};

// The chain once or more, until the brief is met or nothing improves.
class Chain {
public:
    Chain(SurveyedPtr part, const RepairOptions& options, const LocalWay& how, Progress& progress)
        : options_(options), how_(how), progress_(progress), part_(std::move(part)) {}

    Outcome<RepairResult> run() {
        if (auto first = look(0.02); !first) return mesh::errorOf(first);
        given_ = survey_->counts;
        const Verdict given = judge(*survey_, options_.brief);
        best_ = given;
        bestIsSolid_ = survey_->solid;
        for (int round = 0; round < rounds; ++round) {
            const check::Counts before = survey_->counts;
            for (std::size_t i = 0; i < std::size(chain); ++i)
                if (auto tried = tryLink(chain[i], given, at(round, i)); !tried) {
                    // What was reached by then is there all the same.
                    if (tried.error().cancelled() && how_.outOfTime()) return ending();
                    return mesh::errorOf(tried);
                }
            if (progress_.isLate() || survey_->counts == before ||
                failing(judge(*survey_, options_.brief)) == Failing())
                break;
        }
        return ending();
    }

private:
    // Steps after the best state only made it worse.
    RepairResult ending() {
        result_.steps.resize(bestCount_);
        result_.left = whatIsLeft(best_, bestIsSolid_, result_.steps, openings_);
        return std::move(result_);
    }

    static constexpr int rounds = 3;

    // The first round is most of the work.
    static double at(int round, std::size_t link) {
        const double share = static_cast<double>(link) / std::size(chain);
        return round == 0 ? 0.05 + 0.75 * share : 0.8 + 0.19 * (round - 1 + share) / (rounds - 1);
    }

    Outcome<void> look(double from) {
        mesh::PartOfProgress part(progress_, from, from);
        auto survey = part_->survey(options_.brief.repairOptions(), part);
        if (!survey) return mesh::errorOf(survey);
        survey_ = std::move(*survey);
        return {};
    }

    Outcome<void> tryLink(const Link& link, const Verdict& given, double from) {
        const State state{*part_, *survey_, options_, given_, how_};
        const Step& step = link.step();
        if ((!how_.stitches && &step == &stitchStep()) || !link.needed(state)) return {};
        std::string why = link.why(state);
        mesh::PartOfProgress running(progress_, from, from);
        Outcome<DoneStep> done = doStep(link.call(state, &step), part_, Pick(), running);
        if (!done) return mesh::errorOf(done);
        if (&step == &fillStep()) {
            openings_.clear();
            for (const Listed& l : done->record.listed)
                if (l.kind == Listed::LeftOpen) openings_.push_back(l);
        }
        if (!done->changed) return {};
        done->why = std::move(why);
        const SurveyedPtr partBefore = std::exchange(part_, done->part);
        const auto surveyBefore = survey_;
        if (auto looked = look(from); !looked) return looked;
        const Verdict now = judge(*survey_, options_.brief);
        if (!link.mayFailMore && failing(now) > failing(judge(*surveyBefore, options_.brief))) {
            part_ = partBefore;
            survey_ = surveyBefore;
            return {};
        }
        // Of what lies behind only what is dear to make again stays in memory.
        if (!result_.steps.empty()) result_.steps.back().part = result_.steps.back().part->light();
        result_.steps.push_back(std::move(*done));
        if (!anyWorse(given, now) && failing(now) <= failing(best_)) {
            best_ = now;
            bestIsSolid_ = survey_->solid;
            bestCount_ = result_.steps.size();
        }
        return {};
    }

    const RepairOptions& options_;
    const LocalWay& how_;
    Progress& progress_;
    SurveyedPtr part_;
    std::shared_ptr<const check::Survey> survey_;  // of part_
    check::Counts given_;
    Verdict best_;
    bool bestIsSolid_ = false;
    std::size_t bestCount_ = 0;
    std::vector<Listed> openings_;
    RepairResult result_;
};

}  // namespace

std::vector<Listed> whatIsLeft(const Verdict& verdict, bool solid, const std::vector<DoneStep>& done,
                               std::vector<Listed> openings) {
    std::vector<Listed> left;
    const auto say = [&](Listed::Kind kind, std::string text) {
        Listed& listed = left.emplace_back();
        listed.kind = kind;
        listed.text = std::move(text);
    };
    left = failingCounts(verdict);
    const bool unsound = std::any_of(verdict.judged.begin(), verdict.judged.end(), [](const Judged& j) {
        return !j.met && j.requirement.measure->mendable && j.requirement.measure->marks != check::openEdges;
    });
    // Where something waits for an answer, the answer comes first.
    const bool asks = !openings.empty() || std::any_of(done.begin(), done.end(), [](const DoneStep& step) {
        return std::any_of(step.record.listed.begin(), step.record.listed.end(),
                           [](const Listed& l) { return l.kind == Listed::Sheet; });
    });
    if (unsound && !solid && !asks)
        say(Listed::NeedsSkin,
            "Local repair did not reach a solid. The step wrap does, with a new skin around everything.");
    left.insert(left.end(), std::make_move_iterator(openings.begin()), std::make_move_iterator(openings.end()));
    // What one step could not do another one has done where nothing is open, tied or crossing any more.
    for (const DoneStep& step : done)
        for (const Listed& l : step.record.listed)
            if (l.kind == Listed::Sheet || (!solid && (l.kind == Listed::Left || l.kind == Listed::AsItCame)))
                left.push_back(l);
    return left;
}

Outcome<RepairResult> repairLocally(const SurveyedPtr& part, const RepairOptions& options, const LocalWay& how,
                                    Progress& progress) {
    return Chain(part, options, how, progress).run();
}

// Small closed bodies are for a person to drop: of shells the repair takes out no more than specks that are open.
bool isOfRepair(const Step& step) {
    if (&step == &dropShellsStep()) return false;
    return &step == &encloseStep() ||
           std::any_of(std::begin(chain), std::end(chain), [&](const Link& link) { return &link.step() == &step; });
}

}  // namespace zither::steps
