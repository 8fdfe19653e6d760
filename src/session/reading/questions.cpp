// The core asks; here it is put into words and groups, with what only the window asks.
#include "session/reading/questions.h"

#include <algorithm>
#include <utility>

#include "session/reading/number_text.h"
#include "steps/all_steps.h"
#include "steps/question.h"

namespace zither::session {

using steps::Listed;

namespace {

std::vector<steps::Question> askedOf(const Part& part, const Look& look) {
    std::vector<const steps::Record*> records;
    for (const project::StopId id : part.track.pathTo(part.track.current()))
        records.push_back(&part.track.stop(id).record);
    const auto left = part.left.find(part.track.current());
    return steps::questionsOf(records, left == part.left.end() ? std::span<const Listed>() : left->second, *look.part,
                              *look.survey);
}

// What an answer is called on its button.
QString nameOf(const steps::Answer& answer) {
    constexpr std::pair<std::string_view, const char*> names[] = {
        {"close", "Close it"}, {"thicken", "Thicken it"}, {"drop", "Remove it"}, {"wrap", "Wrap it"}};
    for (const auto& [word, name] : names)
        if (word == answer.word) return name;
    return text(answer.call.step->title);
}

Question inWords(steps::Question&& asked) {
    Question q{QString::fromStdString(asked.why), asked.position, asked.size};
    for (steps::Answer& a : asked.answers) q.answers.push_back({nameOf(a), std::move(a.call), std::move(a.pick)});
    return q;
}

// Every question of the group has the same answers, each on its own pick.
void answerAllAlike(QuestionGroup& group) {
    if (group.questions.size() < 2) return;
    for (std::size_t i = 0; i < group.questions.front().answers.size(); ++i) {
        Answer all = group.questions.front().answers[i];
        std::vector<mesh::TriangleId> ids;
        for (const Question& q : group.questions) {
            const auto& more = q.answers[i].pick.triangles();
            ids.insert(ids.end(), more.begin(), more.end());
        }
        all.pick = steps::pickOf(std::move(ids));
        all.name.replace(" it", QString(" all %1").arg(group.questions.size()));
        group.forAll.push_back(std::move(all));
    }
}

Question leftOut(const QString& name, std::vector<mesh::TriangleId> triangles, const mesh::Box& box,
                 const Numbers& numbers) {
    Question q{
        QString("%1: %2 triangles, %3 across").arg(name, spaced(triangles.size()), numbers.shortNumber(box.diagonal())),
        box.centre(), box.diagonal()};
    q.answers.push_back({"Leave it out", {&steps::removeStep()}, mesh::Pick(std::move(triangles))});
    return q;
}

// More are hardly meant to be looked at one by one.
constexpr std::size_t mostAsked = 40;

// The bodies of a file, as long as nothing has been done to it: all of them are worked on, unless some are left out.
QuestionGroup bodiesAsked(const Part& part, const Look& look, const Numbers& numbers, const mesh::Pick& faint) {
    QuestionGroup group{"bodies", "Bodies in this file", "All are worked on. What is not meant can be left out.", {}};
    const auto& shells = look.survey->shells;
    if (part.track.current() != 0 || shells.size() < 2 || shells.size() > mostAsked) return group;
    std::vector<std::vector<mesh::TriangleId>> ofShell(shells.size());
    for (mesh::TriangleId t = 0; t < look.survey->shellOf.size(); ++t)
        if (const std::uint32_t s = look.survey->shellOf[t]; s < shells.size()) ofShell[s].push_back(t);
    for (std::size_t s = 0; s < shells.size(); ++s) {
        // What lies within a body is a part of it.
        if (shells[s].depth > 0) continue;
        group.questions.push_back(
            leftOut(QString("Shell %1").arg(s + 1), std::move(ofShell[s]), shells[s].box, numbers));
    }
    if (group.questions.size() < 2) group.questions.clear();
    if (!faint.everything()) group.forAll.push_back({"Leave out the ghosts", {&steps::removeStep()}, faint});
    return group;
}

// The same of named regions: what is left out leaves its rim open.
QuestionGroup regionsAsked(const Part& part, const Look& look, const Numbers& numbers) {
    QuestionGroup group{"regions",
                        "Named regions in this file",
                        "All are worked on. What is not meant can be left out; its rim is open then.",
                        {}};
    const mesh::Mesh& m = look.mesh();
    const std::size_t count = m.regionNames.size();
    if (part.track.current() != 0 || m.regions.empty() || count < 2 || count > mostAsked) return group;
    std::vector<std::vector<mesh::TriangleId>> ofRegion(count);
    std::vector<mesh::Box> boxes(count);
    for (mesh::TriangleId t = 0; t < m.triangles.size(); ++t) {
        const std::uint32_t region = m.regions[t];
        if (region >= count) continue;
        ofRegion[region].push_back(t);
        boxes[region].add(mesh::boxOf(m, t));
    }
    for (std::size_t r = 0; r < count; ++r) {
        if (ofRegion[r].empty()) continue;
        const QString name = QString::fromStdString(m.regionNames[r]);
        group.questions.push_back(leftOut(name.isEmpty() ? QString("Region %1").arg(r + 1) : name,
                                          std::move(ofRegion[r]), boxes[r], numbers));
    }
    if (group.questions.size() < 2) group.questions.clear();
    return group;
}

// Bodies within bodies that the repair took for material may be voids, or bodies of their own.
std::vector<Answer> otherThanMaterial(const Part& part) {
    const auto path = part.track.pathTo(part.track.current());
    const bool absorbed = std::any_of(path.begin(), path.end(), [&](project::StopId id) {
        const project::Stop& stop = part.track.stop(id);
        return !stop.why.empty() && stop.call && stop.call->step == &steps::absorbStep();
    });
    if (!absorbed) return {};
    Answer voids{"They are voids", {}, {}, steps::BuriedWay::Void};
    Answer bodies{"They stay as bodies", {}, {}, steps::BuriedWay::Keep};
    return {std::move(voids), std::move(bodies)};
}

// What the repair that led here tried, and what each way would have come to.
QuestionGroup triedBy(const Part& part) {
    QuestionGroup group{"tried", "What was tried", "The ways that the repair went, in their order.", {}};
    const auto tried = part.tried.find(part.track.current());
    if (tried == part.tried.end()) return group;
    for (const steps::TriedWayLog& t : tried->second) {
        QString outcome = t.taken         ? QString("taken; it leaves %1 of the brief").arg(t.failing)
                          : t.why.empty() ? QString("it would leave %1 of the brief").arg(t.failing)
                                          : QString("not taken, as %1").arg(QString::fromStdString(t.why));
        if (t.failing == 0 && t.why.empty()) outcome = t.taken ? "taken; it leaves nothing" : "it would leave nothing";
        group.questions.push_back(
            {QString("%1: %2 (%3 s)").arg(QString::fromStdString(t.way), outcome, QString::number(t.seconds, 'f', 1))});
    }
    return group;
}

}  // namespace

std::vector<QuestionGroup> questionsOf(const Part& part, const Look& look, const Numbers& numbers,
                                       const mesh::Pick& faint) {
    QuestionGroup bodies = bodiesAsked(part, look, numbers, faint);
    QuestionGroup regions = regionsAsked(part, look, numbers);
    QuestionGroup openings{
        "openings", "Openings, likely meant", "Left open. What is closed is a patch, and listed.", {}};
    QuestionGroup sheets{
        "sheets", "Sheets", "They bound no volume. Thickened they become bodies behind their faces.", {}};
    QuestionGroup within{"within", "Bodies within bodies", "Hidden inside, and gone. Undo brings them back.", {}};
    QuestionGroup asTheyCame{"as-they-came", "As they came", "Mending would have made some count worse here.", {}};
    QuestionGroup others{"left", "Left to do", {}, {}};
    QuestionGroup changes{
        "changed-places", "Changed places", "What went and came since the import; each can be put back alone.", {}};
    struct Group {
        const steps::QuestionKind* kind;
        QuestionGroup* group;
    };
    const Group groupOf[] = {{&steps::openingMeant, &openings}, {&steps::sheetLeft, &sheets},
                             {&steps::goneWithin, &within},     {&steps::asItCame, &asTheyCame},
                             {&steps::stillFails, &others},     {&steps::needsSkin, &others}};
    for (steps::Question& asked : askedOf(part, look))
        for (const auto& [kind, group] : groupOf)
            if (asked.kind == kind) group->questions.push_back(inWords(std::move(asked)));
    // A file holds the import where it stood.
    const bool canPutBack = !part.file.empty() && !part.movedBefore(part.track.current());
    for (const repair::Place& p : look.changes) {
        QStringList what;
        if (p.went > 0) what << spaced(p.went) + (p.went == 1 ? " triangle went" : " triangles went");
        if (p.came > 0)
            what << spaced(p.came) + (p.went > 0 ? " came" : p.came == 1 ? " triangle came" : " triangles came");
        Question q{QString("%1, %2 across, at (%3).")
                       .arg(what.join(", "), numbers.shortNumber(p.box.diagonal()), numbers.placeText(p.box.centre())),
                   p.box.centre(), p.box.diagonal()};
        if (canPutBack)
            q.answers.push_back(
                {"Put it back",
                 {&steps::putBackStep(),
                  {{"from", steps::Value(part.file.string())}, {"place", steps::Value(steps::textOfPlace(p.corner))}}},
                 {}});
        changes.questions.push_back(std::move(q));
    }
    if (!within.questions.empty()) within.forAll = otherThanMaterial(part);
    QuestionGroup tried = triedBy(part);
    within.done = changes.done = tried.done = true;
    std::vector<QuestionGroup> groups;
    for (QuestionGroup* group :
         {&bodies, &regions, &openings, &sheets, &asTheyCame, &others, &within, &changes, &tried}) {
        if (group->questions.empty()) continue;
        std::stable_sort(group->questions.begin(), group->questions.end(),
                         [](const Question& a, const Question& b) { return a.size > b.size; });
        if (group == &openings || group == &sheets) answerAllAlike(*group);
        groups.push_back(std::move(*group));
    }
    return groups;
}

}  // namespace zither::session
