// What waits for a person's decision: openings that are likely meant, sheets, bodies that went because they lie within
// others, places that a repair put back. Each with its place, and with steps that answer it.
#pragma once

#include <QString>
#include <optional>
#include <vector>

#include "mesh/pick.h"
#include "session/reading/number_text.h"
#include "session/state/parts.h"
#include "steps/automatic_repair.h"
#include "steps/step.h"

namespace zither::session {

struct Answer {
    QString name;
    steps::StepCall call;
    mesh::Pick pick;  // that the step works on; everything: none
    // Not a step: the repair that led here runs again, with this said of bodies within bodies.
    std::optional<steps::BuriedWay> buried = {};
};

struct Question {
    QString text;
    std::optional<mesh::Point> position = {};  // none: it has no place
    double size = 0;
    std::vector<Answer> answers = {};
};

// Questions of a kind, largest first.
struct QuestionGroup {
    QString key;  // stable
    QString title;
    QString hint;
    std::vector<Question> questions;
    std::vector<Answer> forAll = {};  // the same for all of them
    bool done = false;                // nothing waits: it is what was done
};

// Those that are still open at the current stop: of what the steps on the way to it have listed, what later steps have
// closed, thickened or removed is not asked again. The look is of that stop. At the import also which of its bodies
// and named regions are meant, where there are several; `faint`: triangles of those that are drawn as ghosts, or not at
// all.
std::vector<QuestionGroup> questionsOf(const Part& part, const Look& look, const Numbers& numbers,
                                       const mesh::Pick& faint = {});

}  // namespace zither::session
