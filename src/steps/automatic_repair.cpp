// The search: candidates, run, scored, chosen.
#include "steps/automatic_repair.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>
#include <optional>
#include <utility>

#include "check/catalogue.h"
#include "measure/loss.h"
#include "steps/all_steps.h"
#include "steps/repair/attempts.h"
#include "steps/repair/choose.h"

namespace zither::steps {
namespace {

// A way that ends well but loses too much to be gone; a person may go it.
struct NotTaken {
    std::string steps;
    Score score;

    // Of the whole part, so that it comes before what concerns places.
    [[nodiscard]] Listed listed(const Mesh& import) const {
        const mesh::Box box = mesh::boxOf(import);
        Listed listed;
        listed.position = box.centre();
        listed.size = box.diagonal();
        listed.text =
            fmt::format("Not taken: {}. Of what can be seen {:.2g} % would be lost, farther than {} off; {:.2g} % may.",
                        steps, 100 * score.lost, lengthText(measure::lossTolerance(import)), 100 * measure::mostLost);
        return listed;
    }
    [[nodiscard]] bool isBetterThan(const NotTaken& other) const {
        return score.failing != other.score.failing ? score.failing < other.score.failing
                                                    : score.lost < other.score.lost;
    }
};

// In their order, with the distance where there is one.
std::string stepsOf(const RepairResult& result) {
    std::string text;
    for (const DoneStep& step : result.steps) {
        text += fmt::format("{}{}", text.empty() ? "" : ", ", step.call.step->name);
        if (const auto distance = step.used.find("distance"); distance != step.used.end())
            text += fmt::format(" distance={:.4g}", distance->second.number());
    }
    return text;
}

class Search {
public:
    Search(const SurveyedPtr& part, const RepairOptions& options, Progress& progress)
        : part_(part),
          options_(options),
          deadline_(progress, options.timeLimit),
          attempts_(part, options_, deadline_) {}

    Outcome<RepairResult> run() {
        mesh::PartOfProgress looking(deadline_, 0, 0.1);
        const auto facts = attempts_.facts(looking);
        if (!facts) return deadline_.isOver() ? Outcome<RepairResult>(tooLate()) : mesh::errorOf(facts);
        // Nothing is wrong that the brief asks about.
        if (attempts_.given().failing == Failing()) return RepairResult{};
        const std::vector<Way> ways = candidatesFor(*facts);
        for (std::size_t i = 0; i < ways.size() && !isEnough(tried_); ++i) {
            if (!isWorthTrying(ways[i], tried_, *facts)) continue;
            const auto share = [&](std::size_t n) {
                return 0.1 + 0.85 * static_cast<double>(n) / static_cast<double>(ways.size());
            };
            mesh::PartOfProgress trying(deadline_, share(i), share(i + 1));
            if (auto done = tryOne(ways[i], trying); !done) return mesh::errorOf(done);
            // With little time left what there is is better than what may come too late.
            if (deadline_.isOver() || (deadline_.isLate() && mayBeTaken())) break;
        }
        if (auto done = coverTheRest(); !done) return mesh::errorOf(done);
        if (deadline_.isOver())
            if (auto done = takeBeginnings(); !done) return mesh::errorOf(done);
        RepairResult result = taken();
        result.timeWasUp = deadline_.isOver();
        if (!deadline_.whole().report(1)) return mesh::cancelled();
        return result;
    }

private:
    static RepairResult tooLate() {
        RepairResult result;
        result.timeWasUp = true;
        result.left.emplace_back().text = "Time was up before any way was tried; it is left as it came.";
        return result;
    }

    Outcome<void> tryOne(const Way& way, Progress& progress) {
        const double begun = deadline_.passed();
        auto attempt = attempts_.go(way, progress);
        TriedWayLog& log = log_.emplace_back();
        log.way = nameOf(way);
        log.seconds = deadline_.passed() - begun;
        if (!attempt) {
            const bool late = attempt.error().cancelled();
            if (late && !deadline_.isOver()) return mesh::errorOf(attempt);
            log.why = late ? "time was up" : attempt.error().message;
            if (!late) refusals_.push_back(attempt.error().message);
            // A thickness that does not do here does not do in the other ways either.
            if (options_.sheets == SheetWay::Thicken && attempt.error().code == mesh::errorcode::badParameter)
                attempts_.letSheetsStay();
            return {};
        }
        add(way, std::move(*attempt));
        return {};
    }

    void add(const Way& way, Attempt attempt) {
        const Score& score = attempt.score;
        TriedWayLog& log = log_.back();
        log.mayBeTaken = score.isAdmissible();
        log.failing = score.failing.all();
        log.left = score.left + score.thin;
        log.lost = score.lost;
        log.sheets = score.sheets;
        if (score.anyWorse) log.why = "a count would be further from its limit than before";
        if (!score.keepsAll) log.why = fmt::format("{:.2g} % of what can be seen would be lost", 100 * score.lost);
        if (score.emptied > Score::mostEmptied)
            log.why = fmt::format("{:.2g} % of what is full would become empty", 100 * score.emptied);
        if (score.lost > measure::mostLost) {
            const NotTaken loses{stepsOf(attempt.result), score};
            if (!notTaken_ || loses.isBetterThan(*notTaken_)) notTaken_ = loses;
        }
        tried_.push_back({way, score});
        logOf_.push_back(log_.size() - 1);
        // Only the best is ever asked for again.
        const bool isBest = *bestOf(tried_) == tried_.size() - 1;
        if (!isBest) return;
        best_ = std::move(attempt.result);
        if (score.isAdmissible())
            deadline_.offer(fmt::format("{} left, {:.2g} % of what can be seen lost",
                                        counted(score.failing.all(), "requirement"), 100 * score.lost));
    }

    // Plates over all that no rounding holds are the last resort: they change more than other ways do.
    Outcome<void> coverTheRest() {
        if (isEnough(tried_) || deadline_.isLate()) return {};
        const TriedWay* stuck = nullptr;
        for (const TriedWay& t : tried_)
            if (t.score.coverable > 0 && (!stuck || t.score.coverable < stuck->score.coverable)) stuck = &t;
        const auto best = bestOf(tried_);
        if (!stuck || (best && tried_[*best].score.isWhole())) return {};
        Way covered = stuck->way;
        covered.stages.back() = Stage::EncloseCovered;
        mesh::PartOfProgress covering(deadline_, 0.95, 1);
        return tryOne(covered, covering);
    }

    // What the ways began with is better than nothing.
    Outcome<void> takeBeginnings() {
        const auto best = bestOf(tried_);
        if (best && tried_[*best].score.isAdmissible()) return {};
        auto beginnings = attempts_.beginnings(deadline_.whole());
        if (!beginnings) return mesh::errorOf(beginnings);
        for (Attempt& attempt : *beginnings) {
            TriedWayLog& log = log_.emplace_back();
            log.way = stepsOf(attempt.result);
            add(Way{{Stage::Clean}}, std::move(attempt));
        }
        return {};
    }

    RepairResult taken() {
        const auto best = bestOf(tried_);
        RepairResult result;
        // Nothing that was tried may be kept, or nothing of it is better than what came.
        const Score& given = attempts_.given();
        const bool takes = mayBeTaken() && isProgress(given, tried_[*best].score);
        if (best) result = std::move(best_);
        if (!takes) result.steps.clear();
        for (const std::string& refusal : refusals_)
            result.left.emplace_back().text = "One way could not be gone: " + refusal + ".";
        if (!mayBeTaken())
            result.left.emplace_back().text =
                "No way of mending it was found that keeps all that can be seen; it is left as it came.";
        if (notTaken_ && notTaken_->score.failing < (mayBeTaken() ? tried_[*best].score.failing : given.failing))
            result.left.insert(result.left.begin(), notTaken_->listed(part_->mesh()));
        if (takes) log_[logOf_[*best]].taken = true;
        result.tried = std::move(log_);
        return result;
    }

    [[nodiscard]] bool mayBeTaken() const {
        const auto best = bestOf(tried_);
        return best && tried_[*best].score.isAdmissible();
    }

    const SurveyedPtr& part_;
    const RepairOptions& options_;
    Deadline deadline_;
    Attempts attempts_;
    std::vector<TriedWay> tried_;
    std::vector<TriedWayLog> log_;
    std::vector<std::size_t> logOf_;  // of each that was tried
    RepairResult best_;
    std::optional<NotTaken> notTaken_;
    std::vector<std::string> refusals_;  // why ways could not be gone
};

constexpr std::pair<std::string_view, SheetWay> sheetWays[] = {
    {"ask", SheetWay::Ask}, {"drop", SheetWay::Drop}, {"thicken", SheetWay::Thicken}};
constexpr std::pair<std::string_view, BuriedWay> buriedWays[] = {
    {"material", BuriedWay::Material}, {"void", BuriedWay::Void}, {"keep", BuriedWay::Keep}};

template <class Ways>
std::vector<std::string> namesOf(const Ways& ways) {
    std::vector<std::string> names;
    for (const auto& [name, way] : ways) names.emplace_back(name);
    return names;
}

template <class Way, std::size_t count>
std::optional<Way> named(const std::pair<std::string_view, Way> (&ways)[count], std::string_view name) {
    for (const auto& [word, way] : ways)
        if (word == name) return way;
    return std::nullopt;
}

template <class Way, std::size_t count>
std::string_view wordIn(const std::pair<std::string_view, Way> (&ways)[count], Way way) {
    return std::find_if(std::begin(ways), std::end(ways), [&](const auto& w) { return w.second == way; })->first;
}

}  // namespace

std::vector<std::string> sheetWayNames() {
    return namesOf(sheetWays);
}

std::optional<SheetWay> sheetWayNamed(std::string_view name) {
    return named(sheetWays, name);
}

std::string_view wordOf(SheetWay way) {
    return wordIn(sheetWays, way);
}

std::vector<std::string> buriedWayNames() {
    return namesOf(buriedWays);
}

std::optional<BuriedWay> buriedWayNamed(std::string_view name) {
    return named(buriedWays, name);
}

std::string_view wordOf(BuriedWay way) {
    return wordIn(buriedWays, way);
}

double usualTimeLimit(std::uint64_t triangles) {
    // For a slow machine, and where results must not depend on how fast it is.
    const char* const asked = std::getenv("ZITHER_TIME_FACTOR");
    const double factor = asked ? std::strtod(asked, nullptr) : 1;
    return (factor > 0 ? factor : 1) * (5 + 10 * static_cast<double>(triangles) / 100'000);
}

std::string inWords(const Listed& left) {
    return left.kind == Listed::LeftOpen ? "Left open, for you to close with fill meant=close: " + left.text
                                         : left.text;
}

std::vector<std::string> leftInLines(std::span<const Listed> left) {
    struct Group {
        Listed::Kind kind;
        std::string_view more;  // behind how many
    };
    static constexpr Group groups[] = {
        {Listed::Left, "more that no step could do"},
        {Listed::LeftOpen, "more openings that are likely meant; --openings close, or fill meant=close, closes all"},
        {Listed::Sheet, "more sheets that bound no volume; --sheets drop takes all out, --sheets thicken makes bodies"},
        {Listed::AsItCame, "more places that were put back as they came"},
        {Listed::NeedsSkin, "more"},
    };
    constexpr std::size_t few = 5;
    constexpr std::size_t largest = 3;
    std::vector<std::string> lines;
    for (const Group& group : groups) {
        std::vector<const Listed*> items;
        for (const Listed& l : left) {
            if (l.kind != group.kind) continue;
            // What concerns the whole part is said each by itself.
            if (l.size > 0)
                items.push_back(&l);
            else
                lines.push_back(inWords(l));
        }
        const std::size_t shown = items.size() <= few ? items.size() : largest;
        std::stable_sort(items.begin(), items.end(),
                         [](const Listed* a, const Listed* b) { return a->size > b->size; });
        for (std::size_t i = 0; i < shown; ++i) lines.push_back(inWords(*items[i]));
        if (shown < items.size()) lines.push_back(fmt::format("And {} {}.", items.size() - shown, group.more));
    }
    return lines;
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
    if (options.buried != BuriedWay::Keep) return Search(part, options, progress).run();
    // What a person keeps fails no requirement.
    RepairOptions keeping = options;
    std::erase_if(keeping.brief.requirements, [](const Requirement& r) { return r.limits(check::buriedShells); });
    return Search(part, keeping, progress).run();
}

}  // namespace zither::steps
