// Ways of mending, gone and scored: what several begin with is done once.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <vector>

#include "measure/full_space.h"
#include "steps/automatic_repair.h"
#include "steps/lost.h"
#include "steps/repair/deadline.h"
#include "steps/repair/score.h"
#include "steps/repair/way_candidates.h"

namespace zither::steps {

struct Attempt {
    RepairResult result;
    Score score;
};

// Keeps references.
class Attempts {
public:
    Attempts(const SurveyedPtr& part, const RepairOptions& options, Deadline& deadline)
        : part_(part),
          options_(options),
          deadline_(deadline),
          sheets_(options.sheets),
          seen_(options.seen ? options.seen : std::make_shared<SeenOfImport>(part)) {}

    // What the ways are made from. To be called first. Error: cancelled.
    Outcome<RepairFacts> facts(Progress& progress);
    // Of the part as it came.
    [[nodiscard]] const Score& given() const { return given_; }

    // Error: a step's, or cancelled; then also where time was up before the way was gone.
    Outcome<Attempt> go(const Way& way, Progress& progress);
    // As far as the ways were gone that time did not let end: their beginnings, the two longest.
    Outcome<std::vector<Attempt>> beginnings(Progress& progress);

    // Sheets stay from here on, whatever was asked: they could not be made thick.
    void letSheetsStay() { sheets_ = SheetWay::Ask; }

private:
    // What stages have led to.
    struct Prepared {
        SurveyedPtr part;
        std::vector<DoneStep> steps = {};
        std::vector<Listed> asked = {};  // by steps that changed nothing
    };

    Outcome<Prepared> after(const std::vector<Stage>& stages, Progress& progress);
    Outcome<void> doStage(Stage stage, Prepared& state, Progress& progress);
    // As proposed; kept for the part that was asked about last.
    double crackWidth(const SurveyedPtr& part);
    Outcome<bool> doOne(StepCall call, std::string_view why, Prepared& state, Progress& progress) const;
    // Share of what the part's closed shells enclose that is empty in another; 0 where some face the wrong way or voids
    // are asked for: nothing is to hold to.
    double emptiedBy(const Mesh& other);
    [[nodiscard]] StepCall encloseCall(bool covered) const;
    Outcome<Attempt> locally(const std::vector<Stage>& before, bool stitches, Progress& progress);
    Outcome<Attempt> scored(RepairResult result, Progress& progress);

    const SurveyedPtr& part_;
    const RepairOptions& options_;
    Deadline& deadline_;
    SheetWay sheets_;
    std::shared_ptr<SeenOfImport> seen_;
    Verdict verdict_;  // of the part as it came, or as a file of 32 bits would round it
    Score given_;
    check::Counts came_;
    double area_ = 0;
    std::vector<std::uint8_t> closed_;        // triangles of the part, of shells that enclose what is to stay full
    std::optional<measure::FullSpace> full_;  // once it is asked for
    std::map<std::vector<Stage>, Prepared> prepared_;
    SurveyedPtr crackedPart_;
    double crackWidth_ = 0;
};

}  // namespace zither::steps
