// What waits for a person after steps have run: typed, with its place and the answers that there are, each as a step.
// The window words it, the command line prints it and takes answers by id.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "check/surveyed.h"
#include "steps/call.h"

namespace zither::steps {

// A kind of question, by its key.
struct QuestionKind {
    std::string_view key;  // "opening"
};
extern const QuestionKind openingMeant;  // left open, as it is likely meant
extern const QuestionKind sheetLeft;     // bounds no volume
extern const QuestionKind goneWithin;    // hidden inside others, and gone
extern const QuestionKind asItCame;      // put back, because some count would have been worse
extern const QuestionKind stillFails;    // a count, or something that no step could do
extern const QuestionKind needsSkin;     // only a new skin would close it

struct Answer {
    std::string_view word;  // "close", "thicken", "drop", "wrap"
    StepCall call;
    Pick pick = {};  // that the step works on; everything: none
    // A value may stand behind the word, "thicken:0.8": of this parameter. Empty: none.
    std::string_view value = {};
};

struct Question {
    const QuestionKind* kind = nullptr;
    std::string id;                            // the same in another run on the same file
    std::optional<mesh::Point> position = {};  // none: it has no place
    double size = 0;
    std::string why;  // a sentence
    std::vector<Answer> answers = {};
};

// What a step listed on the way to a surface, where it stands there. `step`: the number of the record.
struct Said {
    Listed listed;
    std::size_t step = 0;
    std::string id;
};
// In order; later motions of the whole part bring earlier places along.
std::vector<Said> saidOnTheWay(std::span<const Record* const> records);

// Those that are still open at the surface that the records led to: what later steps have closed, thickened or removed
// is not asked again. `left`: what the automatic repair said besides. Sorted by kind, the largest first.
std::vector<Question> questionsOf(std::span<const Record* const> records, std::span<const Listed> left,
                                  const Surveyed& part, const check::Survey& survey);

// A pick of these triangles, each once, ascending.
Pick pickOf(std::vector<mesh::TriangleId> triangles);

// One answer as it is typed.
struct AnswerGiven {
    std::string id;
    std::string word;  // "close", "keep", "thicken:0.8"
};
// "ID=WORD". Error: it is not of that form.
Outcome<AnswerGiven> answerFromText(std::string_view text);

// The steps that the answers stand for, alike ones together; their picks are of the surface that asks, so that after
// the first of them the rest is asked for anew. Error: an id that nothing asks, or a word that is no answer to it, with
// those that there are.
struct AnsweredStep {
    StepCall call;
    Pick pick;
    std::vector<std::string> ids;  // of the questions that it answers
};
Outcome<std::vector<AnsweredStep>> stepsOfAnswers(std::span<const Question> questions,
                                                  std::span<const AnswerGiven> answers);

}  // namespace zither::steps
