// A chain of links, each tried when it is needed and judged afterwards; the best state is the result.
#include "steps/automatic_repair.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <optional>
#include <set>

#include "check/check_tolerances.h"
#include "measure/loss.h"
#include "measure/measure_tolerances.h"
#include "mesh/precision.h"
#include "repair/stitch.h"
#include "steps/all_steps.h"
#include "steps/lost.h"
#include "steps/steps_tolerances.h"

namespace zither::steps {
namespace {

// What the links decide by.
struct State {
    const Surveyed& part;
    const check::Survey& survey;
    const RepairOptions& options;
    const check::Counts& given;  // of the part as it came
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
    return {step, {{"distance", std::min(repair::proposedStitchDistance(s.part), s.options.maxDeviation)}}};
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

bool crossesItself(const State& s) {
    return s.counts.selfIntersectingTriangles > 0 && s.asks(check::selfIntersections);
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
    {cleanStep, hasSurplus, plain,
     [](const State& s) {
         return fmt::format("{} collapsed and {} duplicate triangles hide what the surface is.",
                            s.counts.collapsedTriangles, s.counts.duplicateTriangles);
     }},
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
    {orientStep, isTwisted, plain,
     [](const State& s) {
         return fmt::format("At {} edges neighbours face opposite ways, and {} shells face the wrong side.",
                            s.counts.misorientedEdges, s.counts.inwardShells);
     }},
    {refineSliversStep, [](const State& s) { return s.counts.degenerateTriangles > 0; }, needleCall,
     [](const State& s) {
         return fmt::format("{} triangles have no area; their edges are swapped or collapsed.",
                            s.counts.degenerateTriangles);
     }},
    {fillStep, [](const State& s) { return s.isOpen(); }, fillCall,
     [](const State& s) {
         return fmt::format("{} holes; those that look like damage are closed, each as its rim suggests.",
                            s.counts.holes);
     },
     true},
    {orientStep, isTwisted, plain,
     [](const State&) { return std::string("A shell that is closed now can be judged by what encloses it."); }},
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
};

// Requirements that fail, but for those that no repair can change.
std::size_t failing(const Verdict& v) {
    return static_cast<std::size_t>(std::count_if(
        v.judged.begin(), v.judged.end(), [](const Judged& j) { return !j.met && j.requirement.measure->mendable; }));
}

// How much there is of what fails, all together.
double left(const Verdict& v) {
    double sum = 0;
    for (const Judged& j : v.judged)
        if (!j.met && j.requirement.measure->mendable) sum += *j.value;
    return sum;
}

// It is further from its limit than it was.
bool isWorse(const Judged& before, const Judged& after) {
    if (after.met || !after.requirement.measure->mendable || !before.value || !after.value) return false;
    return before.requirement.measure->atLeast ? *after.value < *before.value : *after.value > *before.value;
}

// Some count with a limit is.
bool anyWorse(const Verdict& before, const Verdict& after) {
    for (std::size_t i = 0; i < before.judged.size(); ++i)
        if (isWorse(before.judged[i], after.judged[i])) return true;
    return false;
}

double secondsSince(std::chrono::steady_clock::time_point start) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
}

// Counts that fail, and what to do about them; openings that the last fill left; what steps could not do.
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
    if (unsound && !solid)
        say(Listed::NeedsSkin,
            "Local repair did not reach a solid. The step wrap does, with a new skin around everything.");
    left.insert(left.end(), std::make_move_iterator(openings.begin()), std::make_move_iterator(openings.end()));
    // What one step could not do another one has done where nothing is open, tied or crossing any more.
    for (const DoneStep& step : done)
        for (const Listed& l : step.record.listed)
            if ((l.kind == Listed::Left && !solid) || l.kind == Listed::Sheet || l.kind == Listed::AsItCame)
                left.push_back(l);
    return left;
}

// The chain once or more, until the brief is met or nothing improves.
class Repairing {
public:
    // `without`: a step that is left out.
    Repairing(SurveyedPtr part, const RepairOptions& options, const Step* without, Progress& progress)
        : options_(options), without_(without), progress_(progress), part_(std::move(part)) {}

    // Requirements that fail in the end.
    [[nodiscard]] std::size_t failures() const { return failing(best_); }
    [[nodiscard]] bool used(const Step& step) const { return used_.contains(&step); }

    Outcome<RepairResult> run() {
        if (auto first = look(0.02); !first) return mesh::errorOf(first);
        given_ = survey_->counts;
        const Verdict given = judge(*survey_, options_.brief);
        best_ = given;
        bestIsSolid_ = survey_->solid;
        for (int round = 0; round < rounds; ++round) {
            const check::Counts before = survey_->counts;
            for (std::size_t i = 0; i < std::size(chain); ++i)
                if (auto tried = tryLink(chain[i], given, at(round, i)); !tried) return mesh::errorOf(tried);
            if (survey_->counts == before || failing(judge(*survey_, options_.brief)) == 0) break;
        }
        // Steps after the best state only made it worse.
        result_.steps.resize(bestCount_);
        result_.left = whatIsLeft(best_, bestIsSolid_, result_.steps, openings_);
        if (!progress_.report(1)) return mesh::cancelled();
        return std::move(result_);
    }

private:
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
        const State state{*part_, *survey_, options_, given_};
        const Step& step = link.step();
        if (&step == without_ || !link.needed(state)) return {};
        const auto start = std::chrono::steady_clock::now();
        DoneStep done;
        done.call = link.call(state, &step);
        done.why = link.why(state);
        mesh::PartOfProgress running(progress_, from, from);
        Outcome<StepDone> output = runStep(done.call, part_, Pick(), running);
        if (!output) return mesh::errorOf(output);
        if (&step == &fillStep()) {
            openings_.clear();
            for (const Listed& l : output->record.listed)
                if (l.kind == Listed::LeftOpen) openings_.push_back(l);
        }
        if (!output->changed) return {};
        used_.insert(&step);
        const SurveyedPtr partBefore = std::exchange(part_, output->part);
        const auto surveyBefore = survey_;
        if (auto looked = look(from); !looked) return looked;
        const Verdict now = judge(*survey_, options_.brief);
        if (!link.mayFailMore && failing(now) > failing(judge(*surveyBefore, options_.brief))) {
            part_ = partBefore;
            survey_ = surveyBefore;
            return {};
        }
        done.record = std::move(output->record);
        done.facts = output->facts;
        done.used = std::move(output->used);
        done.seconds = secondsSince(start);
        done.part = part_;
        // Of what lies behind only what is dear to make again stays in memory.
        if (!result_.steps.empty()) result_.steps.back().part = result_.steps.back().part->light();
        result_.steps.push_back(std::move(done));
        if (!anyWorse(given, now) && failing(now) <= failing(best_)) {
            best_ = now;
            bestIsSolid_ = survey_->solid;
            bestCount_ = result_.steps.size();
        }
        return {};
    }

    const RepairOptions& options_;
    const Step* without_;
    Progress& progress_;
    SurveyedPtr part_;
    std::shared_ptr<const check::Survey> survey_;  // of part_
    check::Counts given_;
    Verdict best_;
    bool bestIsSolid_ = false;
    std::size_t bestCount_ = 0;
    std::vector<Listed> openings_;
    std::set<const Step*> used_;  // steps that changed something, kept in the end or not
    RepairResult result_;
};

// One way through, with what came of it.
struct Way {
    RepairResult result;
    std::size_t failing = 0;
    double left = 0;          // of what fails: how much there is, all together
    bool counts = false;      // it loses nothing, and no count of the brief is worse
    bool onlySheets = false;  // all that is left are sheets, for a person to decide
    double lost = 0;          // share of what can be seen, of what was not asked for
    double sheets = 0;        // share of the part's area that went or became bodies, as was answered
};

// A way that ends well but loses too much to be gone; a person may go it.
struct NotTaken {
    std::string steps;
    std::size_t failing = 0;
    double lost = 0;

    // Of the whole part, so that it comes before what concerns places.
    [[nodiscard]] Listed listed(const Mesh& import) const {
        const mesh::Box box = mesh::boxOf(import);
        Listed listed;
        listed.position = box.centre();
        listed.size = box.diagonal();
        listed.text =
            fmt::format("Not taken: {}. Of what can be seen {:.2g} % would be lost, farther than {} off; {:.2g} % may.",
                        steps, 100 * lost, lengthText(measure::lossTolerance(import)), 100 * measure::mostLost);
        return listed;
    }
};

class Choosing {
public:
    Choosing(const SurveyedPtr& part, const RepairOptions& options)
        : part_(part), options_(options), seen_(options.seen ? options.seen : std::make_shared<SeenOfImport>(part)) {}

    Outcome<RepairResult> run(Progress& progress) {
        mesh::PartOfProgress looking(progress, 0, 0.05);
        auto survey = part_->survey(options_.brief.repairOptions(), looking);
        if (!survey) return mesh::errorOf(survey);
        given_ = judge(**survey, options_.brief);
        area_ = (*survey)->mass.area;
        if (options_.narrow && !mesh::fitsPrecision(part_->mesh(), mesh::Precision::Single))
            if (auto done = allowForRounding(looking); !done) return mesh::errorOf(done);
        if ((*survey)->counts.boundaryEdges > 0)
            gap_ = std::min(repair::proposedStitchDistance(*part_), options_.maxDeviation);
        auto open = openWhenStitched((*survey)->counts, looking);
        if (!open) return mesh::errorOf(open);
        // Local steps come first where damage is local; where much of the part crosses itself or hangs together in more
        // than one way, or its rims are no cracks, they only come where nothing else will do.
        const bool heavy = isHeavy((*survey)->counts);
        const bool chainFirst = !heavy && *open < 0.5;
        std::vector<std::vector<StepCall>> ways = waysFor((*survey)->counts, *open);
        ways.insert(chainFirst ? ways.begin() : ways.end(), std::vector<StepCall>());
        std::optional<Way> best;
        std::optional<NotTaken> notTaken;
        std::vector<std::string> refusals;  // why ways could not be gone
        bool hopeless = false;
        bool sheetsStay = false;  // though they were to become bodies
        // The way that leaves the least that plates could cover, and how many triangles that is.
        std::optional<std::pair<std::size_t, double>> stuck;
        for (std::size_t i = 0; i < ways.size(); ++i) {
            const auto share = [&](std::size_t n) {
                return 0.05 + 0.9 * static_cast<double>(n) / static_cast<double>(ways.size());
            };
            // Where only questions are left, local steps may know an answer: a fin of one triangle goes.
            const bool decided = best && best->counts && best->onlySheets;
            if (ways[i].empty() ? heavy && best && best->counts : hopeless || decided) continue;
            mesh::PartOfProgress trying(progress, share(i), share(i + 1));
            Outcome<Way> way = ways[i].empty() ? byChain(trying) : bySteps(ways[i], trying);
            if (!way && way.error().cancelled()) return mesh::errorOf(way);
            if (!way) {
                refusals.push_back(way.error().message);
                // A thickness that does not do here does not do in the other ways either.
                if (options_.sheets == SheetWay::Thicken && way.error().code == mesh::errorcode::badParameter) {
                    sheetsStay = true;
                    for (std::vector<StepCall>& later : ways)
                        if (!later.empty()) later.back().given.insert_or_assign("sheets", Value(std::string("keep")));
                }
                continue;
            }
            hopeless |= isHopeless(way->result);
            if (const double trouble = coverable(way->result); trouble > 0 && (!stuck || trouble < stuck->second))
                stuck = {i, trouble};
            if (way->lost > measure::mostLost && (!notTaken || wouldBeBetter(*way, *notTaken)))
                notTaken = NotTaken{stepsOf(way->result), way->failing, way->lost};
            if (!best || better(*way, *best)) best = std::move(*way);
            // Where much was taken for sheets another way may find that it bounds a body.
            if (best->counts && best->failing == 0 && best->sheets <= fewSheets) break;
            // Where questions stay open no way ends solid; each takes long where much crosses, and ends much alike.
            constexpr std::uint64_t manyPairs = 5000;
            if ((asks() || sheetsStay) && best->counts && best->left < left(given_) &&
                (*survey)->counts.selfIntersectingPairs > manyPairs)
                break;
        }
        // Plates over all that no rounding holds are the last resort: they change more than other ways do.
        if (stuck && !(best && best->counts && best->failing == 0)) {
            std::vector<StepCall> calls = ways[stuck->first];
            calls.back().given.erase("cover");
            mesh::PartOfProgress covering(progress, 0.95, 1);
            Outcome<Way> way = bySteps(calls, covering);
            if (!way && way.error().cancelled()) return mesh::errorOf(way);
            if (way && (!best || better(*way, *best))) best = std::move(*way);
        }
        if (!best) best = Way{};
        for (const std::string& refusal : refusals)
            best->result.left.emplace_back().text = "One way could not be gone: " + refusal + ".";
        // What was to go as a sheet bounds a body in another way, if one that loses a little: that is for a person to
        // say.
        constexpr double little = 0.05;
        if (notTaken && notTaken->failing == 0 && notTaken->lost < little && options_.sheets == SheetWay::Drop &&
            best->sheets > tolerance::speckArea)
            best = Way{};
        // Nothing that was tried may be kept, or nothing of it is better than what came.
        if (!best->counts || (best->failing >= failing(given_) && best->left >= left(given_))) {
            best->result.steps.clear();
            if (!best->counts)
                best->result.left.emplace_back().text =
                    "No way of mending it was found that keeps all that can be seen; it is left as it came.";
        }
        if (notTaken && notTaken->failing < (best->counts ? best->failing : failing(given_)))
            best->result.left.insert(best->result.left.begin(), notTaken->listed(part_->mesh()));
        if (!progress.report(1)) return mesh::cancelled();
        return std::move(best->result);
    }

private:
    // Shares of area that differ by less are alike.
    static constexpr double fewSheets = 0.05;

    static bool better(const Way& a, const Way& b) {
        if (a.counts != b.counts) return a.counts;
        if (a.failing != b.failing) return a.failing < b.failing;
        if (std::abs(a.sheets - b.sheets) > fewSheets) return a.sheets < b.sheets;
        return a.left < b.left;
    }
    static bool wouldBeBetter(const Way& a, const NotTaken& b) {
        return a.failing != b.failing ? a.failing < b.failing : a.lost < b.lost;
    }

    // In their order, with the distance where there is one.
    static std::string stepsOf(const RepairResult& result) {
        std::string text;
        for (const DoneStep& step : result.steps) {
            text += fmt::format("{}{}", text.empty() ? "" : ", ", step.call.step->name);
            if (const auto distance = step.used.find("distance"); distance != step.used.end())
                text += fmt::format(" distance={:.4g}", distance->second.number());
        }
        return text;
    }

    // Left as it came the part would be rounded as it is written: no way need be better than that.
    Outcome<void> allowForRounding(Progress& progress) {
        Mesh rounded = part_->mesh();
        mesh::roundAndJoin(rounded, mesh::Precision::Single);
        auto survey = check::Surveyed(std::move(rounded)).survey(options_.brief.repairOptions(), progress);
        if (!survey) return mesh::errorOf(survey);
        const Verdict written = judge(**survey, options_.brief);
        for (std::size_t i = 0; i < given_.judged.size(); ++i)
            if (isWorse(given_.judged[i], written.judged[i])) given_.judged[i] = written.judged[i];
        return {};
    }

    [[nodiscard]] bool asks() const { return !options_.closeOpenings || options_.sheets == SheetWay::Ask; }

    Outcome<Way> byChain(Progress& progress) {
        mesh::PartOfProgress first(progress, 0, 0.5);
        Repairing repairing(part_, options_, nullptr, first);
        auto result = repairing.run();
        if (!result) return mesh::errorOf(result);
        Outcome<Way> way = judged(std::move(*result), progress);
        if (!way || (way->counts && way->failing == 0) || !repairing.used(stitchStep())) return way;
        // What was taken for cracks may have been the rims of a thin part: once more without stitching.
        mesh::PartOfProgress second(progress, 0.5, 1);
        Repairing other(part_, options_, &stitchStep(), second);
        auto unstitched = other.run();
        if (!unstitched) return mesh::errorOf(unstitched);
        Outcome<Way> without = judged(std::move(*unstitched), progress);
        return !without || better(*without, *way) ? without : way;
    }

    // Triangles in trouble that plates could cover.
    static double coverable(const RepairResult& result) {
        return result.steps.empty() ? 0 : static_cast<double>(result.steps.back().facts.coverableTriangles);
    }

    // A soup so dense that no file holds its pieces apart: the other ways of telling full from empty end alike.
    static bool isHopeless(const RepairResult& result) {
        return std::any_of(result.steps.begin(), result.steps.end(), [](const DoneStep& s) {
            return 5 * s.facts.unsoundPlaces > s.part->mesh().triangles.size();
        });
    }

    // Closed bodies through each other are fused, however many there are; cracks cross all along their borders.
    static bool isHeavy(const check::Counts& counts) {
        const std::size_t tied = counts.nonmanifoldEdges + counts.duplicateTriangles;
        if (tied + counts.boundaryEdges + counts.misorientedEdges == 0) return false;
        constexpr std::size_t share = 20;  // one triangle in twenty
        return share * (counts.selfIntersectingTriangles + 2 * tied) > counts.triangles;
    }

    // The share of open edges that stitching leaves; 0 where there are none.
    Outcome<double> openWhenStitched(const check::Counts& counts, Progress& progress) const {
        if (counts.boundaryEdges == 0) return 0.0;
        if (!(gap_ > 0)) return 1.0;
        mesh::PartOfProgress still(progress, 0, 0);
        auto stitched = runStep({&stitchStep(), {{"distance", gap_}}}, part_, Pick(), still);
        if (!stitched) return mesh::errorOf(stitched);
        const mesh::Edges& edges = stitched->part->edges();
        std::size_t open = 0;
        for (mesh::EdgeId e = 0; e < edges.count(); ++e) open += edges.degree(e) == 1;
        return static_cast<double>(open) / static_cast<double>(counts.boundaryEdges);
    }

    // `openLeft`: the share of open edges that stitching leaves.
    [[nodiscard]] std::vector<std::vector<StepCall>> waysFor(const check::Counts& counts, double openLeft) const {
        constexpr std::size_t oneIn = 10;  // triangles
        StepCall enclose{&encloseStep(),
                         {{"openings", Value(std::string(options_.closeOpenings ? "close" : "ask"))},
                          {"sheets", Value(options_.sheets == SheetWay::Ask ? std::string("keep")
                                                                            : std::string(wordOf(options_.sheets)))}}};
        if (options_.thickness > 0) enclose.given.emplace("thickness", options_.thickness);
        if (options_.narrow) enclose.given.emplace("bits", 32.0);
        enclose.given.emplace("worse", Value(std::string("put-back")));
        // Where more is in trouble, another way may leave less.
        constexpr std::uint64_t fewCovered = 1000;
        enclose.given.emplace("cover", static_cast<double>(std::max(fewCovered, counts.triangles / oneIn)));
        StepCall stitch{&stitchStep(), {{"distance", gap_}}};
        // A sheet that is stitched to a body and stays hangs on it: worse than what came, where nothing did.
        if (asks() && counts.nonmanifoldEdges == 0) stitch.given.emplace("worse", Value(std::string("put-back")));
        const StepCall orient{&orientStep()};
        std::vector<std::vector<StepCall>> ways{{enclose}};
        if (gap_ > 0) ways.push_back({stitch, enclose});
        // What faces the right way encloses more of what is full, and leaves fewer sheets; what is written twice, once
        // each way, has no direction.
        if (counts.misorientedEdges + counts.inwardShells + counts.nonmanifoldEdges > 0) {
            ways.insert(oneIn * counts.duplicateTriangles < counts.triangles ? ways.begin() : ways.end(),
                        {orient, enclose});
            if (gap_ > 0) ways.push_back({stitch, orient, enclose});
        }
        // Where nearly all rims are cracks, what is not stitched falls apart into sheets; triangles that stand alone
        // are nothing else.
        constexpr double nearlyNone = 0.05;
        if (counts.boundaryEdges > 0 && openLeft <= nearlyNone) {
            const auto others = std::stable_partition(ways.begin(), ways.end(), [](const std::vector<StepCall>& way) {
                return way.front().step == &stitchStep();
            });
            if (2 * counts.shells > counts.triangles) ways.erase(others, ways.end());
        }
        // Open specks are dropped, and listed: closing them would only make them look like parts.
        if (counts.shells > 1 && counts.boundaryEdges > 0) {
            constexpr double few = 4;  // triangles that a speck may have whatever the part
            const double share = std::clamp(100 * few / static_cast<double>(counts.triangles), 0.1, 5.0);
            for (std::vector<StepCall>& way : ways)
                way.insert(way.begin() + (way.front().step == &stitchStep()),
                           StepCall{&dropShellsStep(), {{"size", 2.0}, {"triangles", share}}});
        }
        return ways;
    }

    Outcome<Way> bySteps(const std::vector<StepCall>& calls, Progress& progress) const {
        RepairResult result;
        std::vector<Listed> asked;
        SurveyedPtr part = part_;
        for (std::size_t i = 0; i < calls.size(); ++i) {
            mesh::PartOfProgress running(progress, 0.7 * static_cast<double>(i) / static_cast<double>(calls.size()),
                                         0.7 * static_cast<double>(i + 1) / static_cast<double>(calls.size()));
            auto done = doStep(calls[i], part, Pick(), running);
            if (!done) return mesh::errorOf(done);
            // Where nothing changed there may be something to ask all the same.
            for (const Listed& l : done->changed ? std::vector<Listed>() : done->record.listed)
                if (l.kind == Listed::LeftOpen || l.kind == Listed::Sheet) asked.push_back(l);
            if (!done->changed) continue;
            // So much is more than specks.
            if (done->facts.openShareDropped > tolerance::speckArea) continue;
            part = done->part;
            done->why = calls[i].step == &encloseStep()
                            ? "What local steps leave is decided from space as a whole: what is full, what is empty."
                            : "So that what belongs together is together before full is told from empty.";
            if (!result.steps.empty()) result.steps.back().part = result.steps.back().part->light();
            result.steps.push_back(std::move(*done));
        }
        mesh::PartOfProgress judging(progress, 0.7, 1);
        Outcome<Way> way = judged(std::move(result), judging);
        if (way) way->result.left.insert(way->result.left.end(), asked.begin(), asked.end());
        return way;
    }

    Outcome<Way> judged(RepairResult result, Progress& progress) const {
        Way way;
        const SurveyedPtr& part = result.steps.empty() ? part_ : result.steps.back().part;
        auto survey = part->survey(options_.brief.repairOptions(), progress);
        if (!survey) return mesh::errorOf(survey);
        const Verdict now = judge(**survey, options_.brief);
        way.failing = failing(now);
        way.left = left(now);
        way.counts = !anyWorse(given_, now);
        way.onlySheets = !result.steps.empty() && result.steps.back().call.step == &encloseStep() &&
                         result.steps.back().facts.placesPutBack == 0 && result.steps.back().facts.openingsLeft == 0 &&
                         result.steps.back().facts.unsoundPlaces == 0;
        if (way.counts && !result.steps.empty()) {
            auto loss = seen_->lossTo(*part, toldBy(result.steps), progress);
            if (!loss) return mesh::errorOf(loss);
            way.counts = measure::losesNothing(*loss);
            way.lost = measure::unlisted(*loss);
        }
        for (const DoneStep& step : result.steps)
            if (const auto sheets = step.used.find("sheets");
                sheets != step.used.end() && sheets->second.text() != "keep")
                way.sheets += step.facts.sheetArea / area_;
        if (result.left.empty()) result.left = leftBy(result, now, (*survey)->solid);
        way.result = std::move(result);
        return way;
    }

    // The chain says itself what it left.
    static std::vector<Listed> leftBy(const RepairResult& result, const Verdict& now, bool solid) {
        std::vector<Listed> openings;
        for (const DoneStep& s : result.steps)
            for (const Listed& l : s.record.listed)
                if (l.kind == Listed::LeftOpen) openings.push_back(l);
        return whatIsLeft(now, solid, result.steps, std::move(openings));
    }

    SurveyedPtr part_;
    const RepairOptions& options_;
    Verdict given_;
    double area_ = 0;
    double gap_ = 0;  // that stitching closes; 0: it has nothing to close
    std::shared_ptr<SeenOfImport> seen_;
};

}  // namespace

namespace {

constexpr std::pair<std::string_view, SheetWay> sheetWays[] = {
    {"ask", SheetWay::Ask}, {"drop", SheetWay::Drop}, {"thicken", SheetWay::Thicken}};

}  // namespace

std::vector<std::string> sheetWayNames() {
    std::vector<std::string> names;
    for (const auto& [name, way] : sheetWays) names.emplace_back(name);
    return names;
}

std::optional<SheetWay> sheetWayNamed(std::string_view name) {
    for (const auto& [word, way] : sheetWays)
        if (word == name) return way;
    return std::nullopt;
}

std::string_view wordOf(SheetWay way) {
    return std::find_if(std::begin(sheetWays), std::end(sheetWays), [&](const auto& w) { return w.second == way; })
        ->first;
}

std::string inWords(const Listed& left) {
    return left.kind == Listed::LeftOpen ? "Left open, for you to close with fill meant=close: " + left.text
                                         : left.text;
}

std::vector<Listed> failingCounts(const Verdict& verdict) {
    std::vector<Listed> fails;
    for (const Judged& j : verdict.judged)
        if (!j.met)
            fails.emplace_back().text =
                fmt::format("{}: {:.6g}, limit {:.6g}.", titleOf(j.requirement), *j.value, *j.requirement.limit);
    return fails;
}

Outcome<RepairResult> repairAutomatically(const SurveyedPtr& part, const RepairOptions& options, Progress& progress) {
    return Choosing(part, options).run(progress);
}

}  // namespace zither::steps
