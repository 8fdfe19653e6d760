// Openings are known by the rims that lie where they lay, sheets by the corners of their triangles.
#include "steps/question.h"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <xxhash.h>

#include <algorithm>
#include <cmath>
#include <set>
#include <utility>

#include "check/catalogue.h"
#include "io/text.h"
#include "mesh/vertex_join.h"
#include "steps/all_steps.h"
#include "steps/words.h"

namespace zither::steps {

constinit const QuestionKind openingMeant{"opening"};
constinit const QuestionKind sheetLeft{"sheet"};
constinit const QuestionKind goneWithin{"within"};
constinit const QuestionKind asItCame{"as-it-came"};
constinit const QuestionKind stillFails{"left"};
constinit const QuestionKind needsSkin{"needs-skin"};

namespace {

// Openings whose rims still stand: a listed one is the rim whose middle lies nearest, if that is near.
class Openings {
public:
    Openings(const Surveyed& part, const check::Survey& survey) : findings_(survey.findings) {
        for (const check::Finding& f : findings_.list) {
            if (f.defect != check::openEdges) continue;
            mesh::Box box;
            for (const check::Findings::Edge& e : findings_.edgesOf(f))
                for (const mesh::VertexId v : e) box.add(part.mesh().positions[v]);
            rims_.push_back({&f, box.centre()});
        }
    }

    // The triangles along the rim; everything where it is closed by now.
    [[nodiscard]] Pick at(const Listed& opening) const {
        const check::Finding* nearest = nullptr;
        double least = 0.5 * opening.size;
        for (const Rim& rim : rims_) {
            const double distance = (rim.middle - opening.position).norm() + std::abs(rim.finding->size - opening.size);
            if (distance > least) continue;
            least = distance;
            nearest = rim.finding;
        }
        if (!nearest) return {};
        const auto triangles = findings_.trianglesOf(*nearest);
        return Pick({triangles.begin(), triangles.end()});
    }

private:
    struct Rim {
        const check::Finding* finding;
        mesh::Point middle;
    };
    const check::Findings& findings_;
    std::vector<Rim> rims_;
};

// Sheets that still stand as they were listed. Their corners are looked for all at once: that takes as long as the
// surface is large.
class Sheets {
public:
    Sheets(const Surveyed& part, const std::vector<const Listed*>& listed) : part_(part), mesh_(part.mesh()) {
        std::vector<mesh::Point> corners;
        for (const Listed* l : listed)
            corners.insert(corners.end(), l->piece->positions.begin(), l->piece->positions.end());
        if (!corners.empty()) same_ = mesh::equalIn(mesh_.positions, corners);
    }

    // The triangles of the next one now; everything where some are gone, or where it has become part of a body.
    [[nodiscard]] Pick next(const Mesh& piece) {
        const std::size_t first = std::exchange(first_, first_ + piece.positions.size());
        const mesh::Corners& corners = part_.corners();
        std::vector<mesh::TriangleId> ids;
        for (const mesh::Triangle& t : piece.triangles) {
            mesh::Triangle now;
            for (unsigned k = 0; k < 3; ++k) now[k] = same_[first + t[k]];
            if (now[0] == mesh::noIndex || now[1] == mesh::noIndex || now[2] == mesh::noIndex) return {};
            const auto around = corners.at(now[0]);
            const auto found = std::find_if(around.begin(), around.end(), [&](mesh::HalfEdge h) {
                return mesh::sameCorners(mesh_.triangles[mesh::triangleOf(h)], now);
            });
            if (found == around.end()) return {};
            ids.push_back(mesh::triangleOf(*found));
        }
        Pick sheet = pickOf(std::move(ids));
        return isBody(sheet.triangles()) ? Pick() : sheet;
    }

private:
    // Every edge has another triangle, beyond the sheet: a rim that walls have closed.
    [[nodiscard]] bool isBody(const std::vector<mesh::TriangleId>& ids) const {
        const mesh::Edges& edges = part_.edges();
        bool touches = false;
        for (const mesh::TriangleId t : ids)
            for (unsigned k = 0; k < 3; ++k) {
                const mesh::EdgeId e = edges.edgeOf(mesh::HalfEdge(3 * t + k));
                if (e == mesh::noEdge) continue;
                if (edges.degree(e) == 1) return false;
                for (const mesh::HalfEdge h : edges.around(e))
                    touches |= !std::binary_search(ids.begin(), ids.end(), mesh::triangleOf(h));
            }
        return touches;
    }

    const Surveyed& part_;
    const Mesh& mesh_;
    std::vector<mesh::VertexId> same_;  // of each corner of the listed ones, one after the other
    std::size_t first_ = 0;             // of the next one's
};

// What it is and where, to a thousandth of its size: another run finds it there again.
std::string idOf(std::string_view what, const Listed& l) {
    const double step = l.size > 0 ? l.size / 1000 : 1;
    std::int64_t numbers[4] = {0, 0, 0, 0};
    for (int k = 0; k < 3; ++k) numbers[k] = std::llround(std::clamp(l.position[k] / step, -9e15, 9e15));
    numbers[3] = l.size > 0 ? std::llround(1000 * std::log2(l.size)) : 0;
    const std::uint64_t place = XXH64(numbers, sizeof numbers, 0);
    const std::uint64_t words = l.size > 0 ? 0 : XXH64(l.text.data(), l.text.size(), 0);
    return fmt::format("{}-{:08x}", what, static_cast<std::uint32_t>((place ^ words) >> 32));
}

const QuestionKind* kindOf(Listed::Kind kind) {
    switch (kind) {
        case Listed::LeftOpen:
            return &openingMeant;
        case Listed::Sheet:
            return &sheetLeft;
        case Listed::Within:
            return &goneWithin;
        case Listed::AsItCame:
            return &asItCame;
        case Listed::Left:
            return &stillFails;
        case Listed::NeedsSkin:
            return &needsSkin;
        case Listed::Goes:
        case Listed::Made:
            break;
    }
    return nullptr;
}

Question asked(const QuestionKind& kind, const Said& said) {
    return {.kind = &kind,
            .id = said.id,
            .position = said.listed.position,
            .size = said.listed.size,
            .why = said.listed.text};
}

// Two of one kind in one place are told apart by their order.
void tellApart(std::vector<Question>& questions) {
    std::map<std::string, int> seen;
    for (Question& q : questions)
        if (const int before = seen[q.id]++; before > 0) q.id += fmt::format("-{}", before + 1);
}

constexpr const QuestionKind* order[] = {&openingMeant, &sheetLeft, &asItCame, &stillFails, &needsSkin, &goneWithin};

}  // namespace

std::vector<Said> saidOnTheWay(std::span<const Record* const> records) {
    std::vector<Said> all;
    for (std::size_t i = 0; i < records.size(); ++i) {
        const Record& record = *records[i];
        if (record.motion)
            for (Said& said : all) {
                Listed& l = said.listed;
                l.position = record.motion->of(l.position);
                l.size *= record.motion->scale();
                if (l.piece) l.piece = std::make_shared<const Mesh>(mesh::moved(*l.piece, *record.motion));
            }
        for (const Listed& l : record.listed)
            if (const QuestionKind* kind = kindOf(l.kind)) all.push_back({l, i, idOf(kind->key, l)});
    }
    return all;
}

std::vector<Question> questionsOf(std::span<const Record* const> records, std::span<const Listed> left,
                                  const Surveyed& part, const check::Survey& survey) {
    std::vector<Question> questions;
    std::vector<Said> said = saidOnTheWay(records);
    // What a step asked that changed nothing stands in no record.
    std::set<std::string> known;
    for (const Said& s : said) known.insert(s.id);
    for (const Listed& l : left)
        if (l.kind == Listed::LeftOpen || l.kind == Listed::Sheet)
            if (std::string id = idOf(kindOf(l.kind)->key, l); !known.contains(id))
                said.push_back({l, records.size(), std::move(id)});
    const Openings rims(part, survey);
    std::vector<const Said*> sheets;
    for (const Said& s : said) {
        const Listed& l = s.listed;
        if (l.kind == Listed::LeftOpen) {
            Pick rim = rims.at(l);
            if (rim.everything()) continue;
            Question q = asked(openingMeant, s);
            q.answers.push_back({"close", {&fillStep(), {{"meant", Value("close")}}}, std::move(rim)});
            questions.push_back(std::move(q));
        }
        if (l.kind == Listed::Sheet && l.piece) sheets.push_back(&s);
        if (l.kind == Listed::Within) questions.push_back(asked(goneWithin, s));
        if (l.kind == Listed::AsItCame && s.step + 1 == records.size()) questions.push_back(asked(asItCame, s));
    }
    std::vector<const Listed*> pieces;
    for (const Said* s : sheets) pieces.push_back(&s->listed);
    Sheets standing(part, pieces);
    for (const Said* s : sheets) {
        const Pick piece = standing.next(*s->listed.piece);
        if (piece.everything()) continue;
        Question q = asked(sheetLeft, *s);
        q.answers.push_back({"thicken", {&thickenStep()}, piece, "thickness"});
        q.answers.push_back({"drop", {&removeStep()}, piece});
        questions.push_back(std::move(q));
    }
    for (const Listed& l : left) {
        const QuestionKind* kind = kindOf(l.kind);
        if (kind != &stillFails && kind != &needsSkin) continue;
        Question q = asked(*kind, {l, 0, idOf(kind->key, l)});
        if (kind == &needsSkin || l.size == 0) q.position.reset();
        if (kind == &needsSkin) q.answers.push_back({"wrap", {&wrapStep()}});
        questions.push_back(std::move(q));
    }
    std::stable_sort(questions.begin(), questions.end(), [](const Question& a, const Question& b) {
        const auto placeOf = [](const Question& q) { return std::find(std::begin(order), std::end(order), q.kind); };
        return placeOf(a) != placeOf(b) ? placeOf(a) < placeOf(b) : a.size > b.size;
    });
    tellApart(questions);
    return questions;
}

Pick pickOf(std::vector<mesh::TriangleId> triangles) {
    std::sort(triangles.begin(), triangles.end());
    triangles.erase(std::unique(triangles.begin(), triangles.end()), triangles.end());
    return Pick(std::move(triangles));
}

Outcome<AnswerGiven> answerFromText(std::string_view text) {
    const std::size_t equals = text.find('=');
    if (equals == std::string_view::npos || equals == 0 || equals + 1 == text.size())
        return mesh::badInput(fmt::format("the answer '{}' is not ID=ANSWER, as opening-1a2b3c4d=close", text),
                              mesh::errorcode::badParameter);
    return AnswerGiven{std::string(text.substr(0, equals)), std::string(text.substr(equals + 1))};
}

namespace {

tl::unexpected<mesh::Error> noAnswer(const std::string& what) {
    return mesh::badInput(what, mesh::errorcode::badParameter);
}

// The word of an answer, and what stands behind its colon.
std::pair<std::string_view, std::string_view> split(std::string_view text) {
    const std::size_t colon = text.find(':');
    if (colon == std::string_view::npos) return {text, {}};
    return {text.substr(0, colon), text.substr(colon + 1)};
}

// nullptr: it is kept as it is.
Outcome<const Answer*> answerOf(const Question& question, std::string_view word) {
    if (word == "keep") return nullptr;
    std::vector<std::string_view> words{"keep"};
    for (const Answer& a : question.answers) {
        if (a.word == word) return &a;
        words.push_back(a.word);
    }
    return noAnswer(fmt::format("'{}' is no answer to {}{}; there are: {}", word, question.id, didYouMean(word, words),
                                listed(words)));
}

Outcome<StepCall> callOf(const Answer& answer, std::string_view value) {
    StepCall call = answer.call;
    if (value.empty()) return call;
    if (answer.value.empty()) return noAnswer(fmt::format("'{}' takes no value behind it", answer.word));
    const auto parameter = parameterNamed(*call.step, answer.value);
    if (!parameter) return mesh::errorOf(parameter);
    auto read = parseValue(*call.step, **parameter, value);
    if (!read) return mesh::errorOf(read);
    call.given.set(**parameter, std::move(*read));
    return call;
}

}  // namespace

Outcome<std::vector<AnsweredStep>> stepsOfAnswers(std::span<const Question> questions,
                                                  std::span<const AnswerGiven> answers) {
    std::vector<AnsweredStep> steps;
    std::vector<std::vector<mesh::TriangleId>> picked;  // by each, in any order
    std::set<std::string_view> given;
    for (const AnswerGiven& a : answers) {
        if (!given.insert(a.id).second) return noAnswer(fmt::format("{} is answered twice", a.id));
        const auto question =
            std::find_if(questions.begin(), questions.end(), [&](const Question& q) { return q.id == a.id; });
        if (question == questions.end())
            return noAnswer(
                fmt::format("nothing asks {}: it was decided already, or another file or other answers led "
                            "elsewhere; questions of this run stand in its JSON",
                            a.id));
        const auto [word, value] = split(a.word);
        const auto answer = answerOf(*question, word);
        if (!answer) return mesh::errorOf(answer);
        if (!*answer) continue;
        const auto call = callOf(**answer, value);
        if (!call) return mesh::errorOf(call);
        const auto alike = std::find_if(steps.begin(), steps.end(), [&](const AnsweredStep& s) {
            return s.call.step == call->step && s.call.given == call->given && !s.pick.everything();
        });
        if (alike != steps.end()) {
            const std::vector<mesh::TriangleId>& more = (*answer)->pick.triangles();
            std::vector<mesh::TriangleId>& ids = picked[static_cast<std::size_t>(alike - steps.begin())];
            ids.insert(ids.end(), more.begin(), more.end());
            alike->ids.push_back(a.id);
        } else {
            steps.push_back({*call, (*answer)->pick, {a.id}});
            picked.push_back((*answer)->pick.triangles());
        }
    }
    for (std::size_t i = 0; i < steps.size(); ++i) steps[i].pick = pickOf(std::move(picked[i]));
    return steps;
}

}  // namespace zither::steps
