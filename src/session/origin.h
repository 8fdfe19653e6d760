// What a surface came from: the import of its part, and what steps have listed on the way to it.
#pragma once

#include <memory>
#include <mutex>
#include <optional>
#include <vector>

#include "check/surveyed.h"
#include "measure/loss.h"

namespace zither::session {

// What is seen of an import; looked for when it is first asked for, beside the window.
class SeenOfImport {
public:
    explicit SeenOfImport(check::SurveyedPtr import) : import_(std::move(import)) {}

    [[nodiscard]] const check::SurveyedPtr& import() const { return import_; }
    // `told`: patches hide what lies behind them; then it is looked for anew. Error: only cancelled.
    mesh::Outcome<std::shared_ptr<const std::vector<measure::SeenPoint>>> points(const measure::ToldTrees& told,
                                                                                 mesh::Progress& progress);

private:
    check::SurveyedPtr import_;
    std::mutex looking_;
    std::shared_ptr<const std::vector<measure::SeenPoint>> free_;  // nothing is closed
};

struct Origin {
    std::shared_ptr<SeenOfImport> seen;  // nullptr: the surface is the import itself
    measure::Told told;
};

// Lost of the import and added to it; nullptr for the import. Error: only cancelled.
mesh::Outcome<std::shared_ptr<const measure::Loss>> lossSince(const Origin& origin, const check::Surveyed& part,
                                                              mesh::Progress& progress);

}  // namespace zither::session
