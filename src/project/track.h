// The track: every step as a stop, in a tree. Going back and on from there makes a second branch; nothing is lost.
#pragma once

#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "steps/done_step.h"

namespace zither::project {

using StopId = std::uint32_t;

struct Stop {
    StopId parent = 0;                    // itself for the import
    std::vector<StopId> children;         // in the order in which they were made
    std::string label;                    // the step's name; "import" for the first
    std::optional<steps::StepCall> call;  // none for the import; what was given, so that a recipe proposes the rest
    steps::Arguments used;                // all values
    steps::Record record;
    std::string why;  // of an automatic step
    check::SurveyedPtr part;
    double seconds = 0;  // that it took
};

Stop stopOf(steps::DoneStep done);

// Never empty once begun: stop 0 is the import.
class Track {
public:
    explicit Track(check::SurveyedPtr imported);
    // As it was kept: each stop behind its parent, which stands before it; the first is the import.
    Track(std::vector<Stop> stops, StopId current);

    [[nodiscard]] const std::vector<Stop>& stops() const { return stops_; }
    [[nodiscard]] const Stop& stop(StopId id) const { return stops_[id]; }
    [[nodiscard]] StopId current() const { return current_; }
    [[nodiscard]] const check::SurveyedPtr& part() const { return stops_[current_].part; }
    [[nodiscard]] const check::SurveyedPtr& imported() const { return stops_[0].part; }
    // Of every stop but the current one only what is dear to make again stays in memory.
    void lighten();

    // Adds a stop behind the current one and goes there.
    StopId add(Stop stop);
    // Goes to any stop; false where there is none such.
    bool goTo(StopId id);
    [[nodiscard]] bool canUndo() const { return current_ != 0; }
    [[nodiscard]] bool canRedo() const { return next().has_value(); }
    // The stop that redo goes to.
    [[nodiscard]] std::optional<StopId> next() const { return redo_[current_]; }
    // To the parent, and back to the child that was last left.
    void undo();
    void redo();

    // Stops from the import to `id`, in order.
    [[nodiscard]] std::vector<StopId> pathTo(StopId id) const;
    // The steps of that path, as a recipe.
    [[nodiscard]] std::vector<steps::StepCall> recipeTo(StopId id) const;

private:
    std::vector<Stop> stops_;
    std::vector<std::optional<StopId>> redo_;  // which child redo goes to
    StopId current_ = 0;
};

}  // namespace zither::project
