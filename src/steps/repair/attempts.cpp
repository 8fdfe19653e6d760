// Stages as steps, with what each is told; scores from survey, brief and loss.
#include "steps/repair/attempts.h"

#include <fmt/format.h>

#include <algorithm>
#include <limits>
#include <utility>

#include "check/check_tolerances.h"
#include "check/edge_runs.h"
#include "holes/holes_tolerances.h"
#include "holes/rims.h"
#include "measure/loss.h"
#include "measure/measure_tolerances.h"
#include "measure/shell_mass.h"
#include "mesh/precision.h"
#include "repair/stitch.h"
#include "steps/all_steps.h"
#include "steps/repair/local.h"

namespace zither::steps {
namespace {

std::size_t openEdgesOf(const Surveyed& part) {
    return check::edgesWhere(part, [&](mesh::EdgeId e) { return part.edges().degree(e) == 1; }).size();
}

std::size_t tiedEdgesOf(const Surveyed& part) {
    return check::edgesWhere(part, [&](mesh::EdgeId e) { return part.edges().degree(e) > 2; }).size();
}

// Edges whose two triangles disagree about the side that is out.
std::size_t misorientedEdgesOf(const Surveyed& part) {
    const mesh::Edges& edges = part.edges();
    const auto disagree = [&](mesh::EdgeId e) {
        return edges.degree(e) == 2 && mesh::runsAlong(part.mesh(), edges.around(e)[0], edges.around(e)[1]);
    };
    return check::edgesWhere(part, disagree).size();
}

// There are openings, all in surfaces without knots, all are closed as a matter of course or as was asked, none is so
// narrow that it may be a crack, and each surface is much larger than what closes it: none is a sheet.
bool isOnlyDamaged(const Surveyed& part, bool closeOpenings, double crackWidth) {
    const Mesh& m = part.mesh();
    std::size_t notClosed = 0;
    const std::vector<holes::Rim> rims = holes::rimsOf(m, part.edges(), notClosed);
    if (rims.empty() || notClosed > 0 || tiedEdgesOf(part) > 0) return false;
    const mesh::Groups& shells = part.shells();
    std::vector<double> open(shells.count, 0);
    const double diagonal = mesh::boxOf(m).diagonal();
    double narrowest = std::numeric_limits<double>::infinity();
    for (const holes::Rim& rim : rims) {
        const holes::RimShape shape = holes::shapeOf(m, rim);
        narrowest = std::min(narrowest, shape.width);
        if (!closeOpenings && !holes::whyMeant(rim.size(), shape, diagonal).empty()) return false;
        open[shells.of[mesh::triangleOf(rim.front())]] += shape.area.norm();
    }
    const std::vector<measure::ShellMass> masses = measure::massOfShells(m, shells);
    for (std::uint32_t shell = 0; shell < shells.count; ++shell)
        if (masses[shell].area < tolerance::surfaceToOpening * open[shell]) return false;
    return narrowest > crackWidth;
}

// Flags of triangles of closed shells; empty where there are none.
std::vector<std::uint8_t> closedIn(const check::Survey& survey) {
    std::vector<std::uint8_t> closed(survey.shellOf.size(), 0);
    for (std::size_t t = 0; t < closed.size(); ++t)
        closed[t] = survey.shellOf[t] != mesh::noEdge && survey.shells[survey.shellOf[t]].closed;
    if (std::find(closed.begin(), closed.end(), 1) == closed.end()) closed.clear();
    return closed;
}

// Others close, join, or move nothing that anybody sees.
bool mayEmpty(const std::vector<DoneStep>& done) {
    const auto emptying = {&encloseStep(), &fuseStep(),   &resolveStep(),   &mendStep(),
                           &orientStep(),  &absorbStep(), &dropShellsStep()};
    return std::any_of(done.begin(), done.end(), [&](const DoneStep& step) {
        return std::find(emptying.begin(), emptying.end(), step.call.step) != emptying.end();
    });
}

// The chain says itself what it left.
std::vector<Listed> leftBy(const RepairResult& result, const Verdict& now, bool solid) {
    std::vector<Listed> openings;
    for (const DoneStep& s : result.steps)
        for (const Listed& l : s.record.listed)
            if (l.kind == Listed::LeftOpen) openings.push_back(l);
    return whatIsLeft(now, solid, result.steps, std::move(openings));
}

// All that fails is open, and a person was asked about each opening.
bool onlyAsks(const RepairResult& result, const Verdict& now, const check::Counts& counts) {
    for (const Judged& j : now.judged)
        if (!j.met && j.requirement.measure->mendable && j.requirement.measure->marks != check::openEdges) return false;
    const auto asked = std::count_if(result.left.begin(), result.left.end(),
                                     [](const Listed& l) { return l.kind == Listed::LeftOpen; });
    return counts.holes == static_cast<std::size_t>(asked);
}

}  // namespace

Outcome<RepairFacts> Attempts::facts(Progress& progress) {
    mesh::PartOfProgress looking(progress, 0, 0.5);
    const auto survey = part_->survey(options_.brief.repairOptions(), looking);
    if (!survey) return mesh::errorOf(survey);
    verdict_ = judge(**survey, options_.brief);
    given_.failing = failing(verdict_);
    given_.left = leftOf(verdict_);
    given_.thin = thinOf(verdict_);
    area_ = (*survey)->mass.area;
    if (options_.buried != BuriedWay::Void && (*survey)->counts.inwardShells == 0) closed_ = closedIn(**survey);
    RepairFacts facts;
    facts.came = facts.ready = came_ = (*survey)->counts;
    // Left as it came the part would be rounded as it is written: no way need be better than that.
    if (options_.narrow && !mesh::fitsPrecision(part_->mesh(), mesh::Precision::Single)) {
        Mesh rounded = part_->mesh();
        mesh::roundAndJoin(rounded, mesh::Precision::Single);
        const auto written = check::Surveyed(std::move(rounded)).survey(options_.brief.repairOptions(), looking);
        if (!written) return mesh::errorOf(written);
        const Verdict then = judge(**written, options_.brief);
        for (std::size_t i = 0; i < verdict_.judged.size(); ++i)
            if (isWorse(verdict_.judged[i], then.judged[i])) verdict_.judged[i] = then.judged[i];
    }
    // Once surplus is gone and cracks are closed.
    mesh::PartOfProgress preparing(progress, 0.5, 1);
    std::vector<Stage> stages = beginningOf(facts.came);
    double crack = 0;
    SurveyedPtr unstitched = part_;
    if (facts.came.boundaryEdges > 0) {
        const auto begun = after(stages, preparing);
        if (!begun) return deadline_.isOver() ? Outcome<RepairFacts>(facts) : mesh::errorOf(begun);
        unstitched = begun->part;
        crack = crackWidth(unstitched);
        facts.onlyDamage = isOnlyDamaged(*unstitched, options_.closeOpenings, crack);
        stages.push_back(Stage::Stitch);
    }
    if (stages.empty()) return facts;
    const auto ready = after(stages, preparing);
    if (!ready) return deadline_.isOver() ? Outcome<RepairFacts>(facts) : mesh::errorOf(ready);
    if (ready->steps.empty()) {
        facts.openLeft = facts.came.boundaryEdges > 0 ? 1 : 0;
        return facts;
    }
    facts.hasCracks = std::any_of(ready->steps.begin(), ready->steps.end(),
                                  [](const DoneStep& s) { return s.call.step == &stitchStep(); });
    facts.sewsAmiss = facts.hasCracks && tiedEdgesOf(*ready->part) > tiedEdgesOf(*unstitched) &&
                      misorientedEdgesOf(*ready->part) > misorientedEdgesOf(*unstitched);
    // Between triangles that only lie beside each other all that is hidden can be seen: closed first, where nobody sees
    // that anything moves.
    if (facts.hasCracks && isLoose(facts.came) && crack <= measure::lossTolerance(part_->mesh()))
        seen_ = std::make_shared<SeenOfImport>(ready->part);
    if (facts.came.boundaryEdges > 0)
        facts.openLeft = static_cast<double>(openEdgesOf(*ready->part)) / static_cast<double>(facts.came.boundaryEdges);
    facts.ready.triangles = ready->part->mesh().triangles.size();
    facts.ready.shells = ready->part->shells().count;
    facts.ready.boundaryEdges = openEdgesOf(*ready->part);
    facts.ready.nonmanifoldEdges = tiedEdgesOf(*ready->part);
    // Crossings take long to find: only where those of cracks may have hidden that there are none.
    if (!isHeavy(facts.came)) return facts;
    const auto then = ready->part->survey(options_.brief.repairOptions(), preparing);
    if (!then) return deadline_.isOver() ? Outcome<RepairFacts>(facts) : mesh::errorOf(then);
    facts.ready = (*then)->counts;
    return facts;
}

double Attempts::emptiedBy(const Mesh& other) {
    if (closed_.empty()) return 0;
    if (!full_) full_.emplace(part_->tree(), closed_, measure::lossTolerance(part_->mesh()));
    return full_->emptiedBy(other);
}

Outcome<Attempts::Prepared> Attempts::after(const std::vector<Stage>& stages, Progress& progress) {
    if (stages.empty()) return Prepared{part_};
    if (const auto known = prepared_.find(stages); known != prepared_.end()) return known->second;
    auto state = after({stages.begin(), stages.end() - 1}, progress);
    if (!state) return state;
    if (auto done = doStage(stages.back(), *state, progress); !done) return mesh::errorOf(done);
    return prepared_.emplace(stages, std::move(*state)).first->second;
}

// True where something changed.
Outcome<bool> Attempts::doOne(StepCall call, std::string_view why, Prepared& state, Progress& progress) const {
    auto done = doStep(std::move(call), state.part, Pick(), progress);
    if (!done) return mesh::errorOf(done);
    if (!done->changed) {
        // There may be something to ask all the same.
        for (const Listed& l : done->record.listed)
            if (l.kind == Listed::LeftOpen || l.kind == Listed::Sheet) state.asked.push_back(l);
        return false;
    }
    // So much is more than specks.
    if (done->facts.openShareDropped > tolerance::speckArea) return false;
    done->why = why;
    state.part = done->part;
    if (!state.steps.empty()) state.steps.back().part = state.steps.back().part->light();
    state.steps.push_back(std::move(*done));
    return true;
}

StepCall Attempts::encloseCall(bool covered) const {
    StepCall call{&encloseStep(),
                  {{"openings", Value(std::string(options_.closeOpenings ? "close" : "ask"))},
                   {"sheets", Value(sheets_ == SheetWay::Ask ? std::string("keep") : std::string(wordOf(sheets_)))},
                   {"worse", Value(std::string("put-back"))}}};
    if (options_.thickness > 0) call.given.emplace("thickness", options_.thickness);
    if (options_.narrow) call.given.emplace("bits", 32.0);
    // Where more is in trouble, another way may leave less.
    constexpr std::uint64_t fewCovered = 1000;
    constexpr std::uint64_t oneIn = 10;  // triangles
    if (!covered) call.given.emplace("cover", static_cast<double>(std::max(fewCovered, came_.triangles / oneIn)));
    return call;
}

double Attempts::crackWidth(const SurveyedPtr& part) {
    if (part != crackedPart_) {
        crackedPart_ = part;
        crackWidth_ = repair::proposedStitchDistance(*part);
    }
    return crackWidth_;
}

Outcome<void> Attempts::doStage(Stage stage, Prepared& state, Progress& progress) {
    constexpr std::string_view together = "So that what belongs together is together before full is told from empty.";
    const auto one = [&](StepCall call, std::string_view why) -> Outcome<void> {
        auto done = doOne(std::move(call), why, state, progress);
        if (!done) return mesh::errorOf(done);
        return {};
    };
    switch (stage) {
        case Stage::Clean:
            return one({&cleanStep()}, "Surplus triangles hide what the surface is.");
        case Stage::Stitch:
        case Stage::StitchApart: {
            const double gap = std::min(crackWidth(state.part), options_.maxDeviation);
            if (!(gap > 0)) return {};
            StepCall call{&stitchStep(), {{"distance", gap}}};
            if (stage == Stage::StitchApart) call.given.emplace("worse", Value(std::string("put-back")));
            const auto stitched = doOne(std::move(call), together, state, progress);
            if (!stitched) return mesh::errorOf(stitched);
            return *stitched ? one({&cleanStep()}, "Stitching left surplus triangles.") : Outcome<void>();
        }
        case Stage::Orient:
            if (auto done = one({&orientStep()}, together); !done) return done;
            if (options_.buried != BuriedWay::Void) return {};
            return one({&absorbStep(), {{"as", Value(std::string(wordOf(options_.buried)))}}},
                       "Bodies within bodies are voids, as was asked.");
        case Stage::Specks: {
            constexpr double few = 4;  // triangles that a speck may have whatever the part
            const double share = std::clamp(100 * few / static_cast<double>(came_.triangles), 0.1, 5.0);
            return one({&dropShellsStep(), {{"size", 2.0}, {"triangles", share}}},
                       "Closing small open shells would only make them look like parts.");
        }
        case Stage::Enclose:
        case Stage::EncloseCovered:
            return one(encloseCall(stage == Stage::EncloseCovered),
                       "What local steps leave is decided from space as a whole: what is full, what is empty.");
        case Stage::Local:
        case Stage::LocalUnstitched:
            break;  // chains judge themselves
    }
    return {};
}

Outcome<Attempt> Attempts::locally(const std::vector<Stage>& before, bool stitches, Progress& progress) {
    auto start = after(before, progress);
    if (!start) return mesh::errorOf(start);
    auto result =
        repairLocally(start->part, options_,
                      {.stitches = stitches,
                       .outOfTime = [&] { return deadline_.isOver(); },
                       .crackWidth =
                           [&](const Surveyed& part) {
                               return &part == crackedPart_.get() ? crackWidth_ : repair::proposedStitchDistance(part);
                           }},
                      progress);
    if (!result) return mesh::errorOf(result);
    if (!start->steps.empty() && !result->steps.empty()) start->steps.back().part = start->steps.back().part->light();
    result->steps.insert(result->steps.begin(), std::make_move_iterator(start->steps.begin()),
                         std::make_move_iterator(start->steps.end()));
    return scored(std::move(*result), progress);
}

Outcome<Attempt> Attempts::go(const Way& way, Progress& progress) {
    const std::vector<Stage> before(way.stages.begin(), way.stages.end() - 1);
    if (!way.encloses()) return locally(before, way.stages.back() == Stage::Local, progress);
    auto state = after(before, progress);
    if (!state) return mesh::errorOf(state);
    if (auto done = doStage(way.stages.back(), *state, progress); !done) return mesh::errorOf(done);
    const auto& asked = options_.brief.requirements;
    if (std::any_of(asked.begin(), asked.end(), limitsThin))
        if (auto eased = doOne({&easeStep()}, easedInWords, *state, progress); !eased) return mesh::errorOf(eased);
    RepairResult result;
    result.steps = std::move(state->steps);
    auto attempt = scored(std::move(result), progress);
    if (attempt) attempt->result.left.insert(attempt->result.left.end(), state->asked.begin(), state->asked.end());
    return attempt;
}

Outcome<std::vector<Attempt>> Attempts::beginnings(Progress& progress) {
    std::vector<const Prepared*> states;
    for (const auto& [stages, state] : prepared_)
        if (!state.steps.empty()) states.push_back(&state);
    std::stable_sort(states.begin(), states.end(),
                     [](const Prepared* a, const Prepared* b) { return a->steps.size() > b->steps.size(); });
    std::vector<Attempt> attempts;
    // Each takes as long to judge as the part.
    constexpr std::size_t most = 2;
    if (states.size() > most) states.resize(most);
    for (const Prepared* state : states) {
        RepairResult result;
        result.steps = state->steps;
        auto attempt = scored(std::move(result), progress);
        if (!attempt) return mesh::errorOf(attempt);
        attempts.push_back(std::move(*attempt));
    }
    return attempts;
}

// What was gone is scored even where time is up by then.
Outcome<Attempt> Attempts::scored(RepairResult result, Progress& progress) {
    mesh::Progress& patient = deadline_.isOver() ? deadline_.whole() : progress;
    Attempt attempt;
    Score& score = attempt.score;
    const SurveyedPtr& part = result.steps.empty() ? part_ : result.steps.back().part;
    const auto survey = part->survey(options_.brief.repairOptions(), patient);
    if (!survey) return mesh::errorOf(survey);
    const Verdict now = judge(**survey, options_.brief);
    score.failing = failing(now);
    score.left = leftOf(now);
    score.thin = thinOf(now);
    score.anyWorse = anyWorse(verdict_, now);
    if (!score.anyWorse && !result.steps.empty()) {
        const auto loss = seen_->lossTo(*part, toldBy(result.steps), patient);
        if (!loss) return mesh::errorOf(loss);
        score.lost = measure::unlisted(*loss);
        // Of a surface that was written as loose triangles the shells are no pieces of the part, and only the share
        // counts. Where no triangle is left the part is gone, whatever was asked.
        const bool loose = isLoose(came_);
        score.keepsAll =
            !part->mesh().triangles.empty() && (loose ? score.lost <= measure::mostLost : measure::losesNothing(*loss));
        if (mayEmpty(result.steps)) score.emptied = emptiedBy(part->mesh());
    }
    if (result.left.empty()) result.left = leftBy(result, now, (*survey)->solid);
    const auto enclosing = std::find_if(result.steps.begin(), result.steps.end(),
                                        [](const DoneStep& s) { return s.call.step == &encloseStep(); });
    if (enclosing != result.steps.end()) {
        const Facts& facts = enclosing->facts;
        score.sheets = area_ > 0 ? facts.sheetArea / area_ : 0;
        score.onlyQuestions = facts.placesPutBack == 0 && facts.unsoundPlaces == 0;
        score.tooDense = 5 * facts.unsoundPlaces > part->mesh().triangles.size();
        score.coverable = static_cast<double>(facts.coverableTriangles);
    } else {
        score.onlyQuestions = score.failing.unsound > 0 && onlyAsks(result, now, (*survey)->counts);
    }
    attempt.result = std::move(result);
    return attempt;
}

}  // namespace zither::steps
