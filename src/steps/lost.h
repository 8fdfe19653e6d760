// What a surface lost of the import that it came from, as the requirement `lost` judges it (promise 5).
#pragma once

#include <memory>
#include <mutex>
#include <vector>

#include "check/surveyed.h"
#include "measure/loss.h"
#include "mesh/motion.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "steps/step.h"

namespace zither::steps {

// An import, for any number of results: what is seen of it is looked for when it is first asked for. Where patches hide
// what lies behind them, what is seen is looked at anew. May be used from several threads.
class SeenOfImport {
public:
    explicit SeenOfImport(check::SurveyedPtr import) : import_(std::move(import)) {}
    // An import as a motion of the whole part brought it somewhere else: what is seen of it is the same.
    SeenOfImport(std::shared_ptr<SeenOfImport> still, const mesh::Motion& motion)
        : still_(std::move(still)), motion_(motion) {}

    // The surface that results are compared with; made when it is first asked for.
    check::SurveyedPtr import();

    // Lost and added from the import to the part, less what was told. Error: only cancelled.
    mesh::Outcome<measure::Loss> lossTo(const check::Surveyed& part, measure::Told told, mesh::Progress& progress);

private:
    using Points = std::shared_ptr<const measure::SeenPoints>;
    Points seenFree();
    Points seenThrough(const measure::ToldTrees& told);

    std::shared_ptr<SeenOfImport> still_;  // nullptr: this one is
    mesh::Motion motion_;
    std::mutex moving_;  // held while import_ is made
    check::SurveyedPtr import_;
    std::mutex looking_;              // held while free_ is
    Points free_;                     // nothing is closed
    std::vector<std::int8_t> tight_;  // of the import; free_ refers to it
};

// What a surface came from, followed along the steps that led to it.
struct Origin {
    std::shared_ptr<SeenOfImport> seen = {};  // nullptr: the surface is the import itself
    measure::Told told = {};
    bool moved = false;  // some step moved the part as a whole

    // What the step told is told from here on; where it moved the part, the import and what was told go with it.
    void follow(const Record& record);
};

}  // namespace zither::steps
