// A condition is a requirement of a brief, turned round.
#include "steps/condition.h"

#include <fmt/format.h>

#include <cmath>

#include "io/text.h"

namespace zither::steps {

mesh::Outcome<Requirement> conditionFromText(std::string_view text) {
    const auto wrong = [&](std::string_view why) {
        return mesh::badInput(fmt::format("the condition '{}' {}", text, why), mesh::errorcode::badParameter);
    };
    const std::size_t colon = text.find(':');
    const Measure* measure = findMeasure(text.substr(0, colon));
    if (!measure)
        return wrong(
            "names no requirement: give its id as in a brief (boundary_edges), with a limit where it needs "
            "one (smallest_angle:5)");
    if (measure->ofImport) return wrong("is told by comparing with the import, which a step does not know");
    Requirement condition{measure, measure->harmless};
    if (colon == std::string_view::npos) {
        if (measure->atLeast || measure->listen) return wrong("needs a limit behind a colon, as smallest_angle:5");
        return condition;
    }
    const std::string_view limit = text.substr(colon + 1);
    double value = 0;
    if (!io::TextCursor::parseNumber(limit, value) || !std::isfinite(value))
        return wrong("has no number behind its colon");
    condition.limit = value;
    return condition;
}

std::string conditionInWords(const Requirement& condition) {
    const std::string title = titleOf(condition);
    if (!condition.measure->atLeast && *condition.limit == 0) return fmt::format("only if there are {}", title);
    return fmt::format("only if {} is {} {:g}", title, condition.measure->atLeast ? "below" : "above",
                       *condition.limit);
}

mesh::Outcome<bool> holds(const Requirement& condition, const check::Surveyed& part, mesh::Progress& progress) {
    const Brief only{"condition", "condition", {condition}};
    const auto survey = part.survey(only.surveyOptions(), progress);
    if (!survey) return mesh::errorOf(survey);
    return !judge(**survey, only).allMet();
}

}  // namespace zither::steps
