// What a surface lost of the import that it came from, as the requirement `lost` judges it (promise 5).
#pragma once

#include <memory>
#include <mutex>
#include <vector>

#include "check/surveyed.h"
#include "measure/loss.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"

namespace zither::steps {

// An import, for any number of results: what is seen of it is looked for when it is first asked for. Where patches hide
// what lies behind them, what is seen is looked at anew. May be used from several threads.
class SeenOfImport {
public:
    explicit SeenOfImport(check::SurveyedPtr import) : import_(std::move(import)) {}

    // Lost and added from the import to the part, less what was told. Error: only cancelled.
    mesh::Outcome<measure::Loss> lossTo(const check::Surveyed& part, measure::Told told, mesh::Progress& progress);

private:
    using Points = std::shared_ptr<const std::vector<measure::SeenPoint>>;
    mesh::Outcome<Points> seenThrough(const measure::ToldTrees& told, mesh::Progress& progress);

    check::SurveyedPtr import_;
    std::mutex looking_;
    Points free_;  // nothing is closed
};

}  // namespace zither::steps
