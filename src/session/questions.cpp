// Openings are known by the rims that lie where they lay, sheets by the corners of their triangles.
#include "session/questions.h"

#include <algorithm>

#include "check/catalogue.h"
#include "mesh/vertex_join.h"
#include "session/numbers.h"
#include "steps/steps_list.h"

namespace zither::session {

using steps::Listed;

namespace {

// Openings whose rims still stand: a listed one is the rim whose middle lies nearest, if that is near.
class Openings {
public:
    explicit Openings(const Look& look) : look_(look) {
        for (const check::Finding& f : look.survey->findings.list)
            if (f.defect == check::openEdges) rims_.push_back(&f);
    }

    // The triangles along the rim; empty where it is closed by now.
    [[nodiscard]] mesh::Pick at(const Listed& opening) const {
        const check::Finding* nearest = nullptr;
        double least = 0.5 * opening.size;
        for (const check::Finding* rim : rims_) {
            mesh::Box box;
            for (const check::Findings::Edge& e : look_.survey->findings.edgesOf(*rim))
                for (const mesh::VertexId v : e) box.add(look_.mesh().positions[v]);
            const double distance = (box.centre() - opening.position).norm() + std::abs(rim->size - opening.size);
            if (distance > least) continue;
            least = distance;
            nearest = rim;
        }
        if (!nearest) return {};
        const auto triangles = look_.survey->findings.trianglesOf(*nearest);
        return mesh::Pick({triangles.begin(), triangles.end()});
    }

private:
    const Look& look_;
    std::vector<const check::Finding*> rims_;
};

// Sheets that still stand as they were listed.
class Sheets {
public:
    explicit Sheets(const Look& look) : look_(look), mesh_(look.mesh()) {}

    // Its triangles now; empty where some are gone, or where it has become part of a body.
    [[nodiscard]] mesh::Pick at(const mesh::Mesh& piece) const {
        const std::vector<mesh::VertexId> same = mesh::equalIn(mesh_.positions, piece.positions);
        const mesh::Corners& corners = look_.part->corners();
        std::vector<mesh::TriangleId> ids;
        for (const mesh::Triangle& t : piece.triangles) {
            mesh::Triangle now;
            for (unsigned k = 0; k < 3; ++k) now[k] = same[t[k]];
            if (now[0] == mesh::noIndex || now[1] == mesh::noIndex || now[2] == mesh::noIndex) return {};
            const auto around = corners.at(now[0]);
            const auto found = std::find_if(around.begin(), around.end(), [&](mesh::HalfEdge h) {
                return mesh::sameCorners(mesh_.triangles[mesh::triangleOf(h)], now);
            });
            if (found == around.end()) return {};
            ids.push_back(mesh::triangleOf(*found));
        }
        std::sort(ids.begin(), ids.end());
        ids.erase(std::unique(ids.begin(), ids.end()), ids.end());
        return isBody(ids) ? mesh::Pick() : mesh::Pick(std::move(ids));
    }

private:
    // Every edge has another triangle, beyond the sheet: a rim that walls have closed.
    [[nodiscard]] bool isBody(const std::vector<mesh::TriangleId>& ids) const {
        const mesh::Edges& edges = look_.part->edges();
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

    const Look& look_;
    const mesh::Mesh& mesh_;
};

Question asked(const Listed& l) {
    return {QString::fromStdString(l.text), l.position, l.size};
}

mesh::Pick unionOf(const std::vector<Question>& questions, std::size_t answer) {
    std::vector<mesh::TriangleId> ids;
    for (const Question& q : questions) {
        const auto& more = q.answers[answer].pick.triangles();
        ids.insert(ids.end(), more.begin(), more.end());
    }
    std::sort(ids.begin(), ids.end());
    ids.erase(std::unique(ids.begin(), ids.end()), ids.end());
    return mesh::Pick(std::move(ids));
}

// Every question of the group has the same answers, each on its own pick.
void answerAllAlike(QuestionGroup& group) {
    if (group.questions.size() < 2) return;
    for (std::size_t i = 0; i < group.questions.front().answers.size(); ++i) {
        Answer all = group.questions.front().answers[i];
        all.pick = unionOf(group.questions, i);
        all.name.replace(" it", QString(" all %1").arg(group.questions.size()));
        group.forAll.push_back(std::move(all));
    }
}

}  // namespace

std::vector<QuestionGroup> questionsOf(const Part& part, const Look& look) {
    QuestionGroup openings{"Openings, likely meant", "Left open. What is closed is a patch, and listed.", {}};
    QuestionGroup sheets{"Sheets", "They bound no volume. Thickened they become bodies behind their faces.", {}};
    QuestionGroup within{"Bodies within bodies", "Hidden inside, and gone. Undo brings them back.", {}};
    QuestionGroup asTheyCame{"As they came", "Mending would have made some count worse here.", {}};
    QuestionGroup others{"Left to do", {}, {}};
    QuestionGroup changes{"Changed places", "What went and came since the import; each can be put back alone.", {}};
    const Openings rims(look);
    const Sheets standing(look);
    for (const project::StopId id : part.track.pathTo(part.track.current())) {
        const project::Stop& stop = part.track.stop(id);
        for (const Listed& l : stop.record.listed) {
            if (l.kind == Listed::LeftOpen) {
                Question q = asked(l);
                mesh::Pick rim = rims.at(l);
                if (rim.everything()) continue;
                q.answers.push_back(
                    {"Close it", {&steps::fillStep(), {{"meant", steps::Value("close")}}}, std::move(rim)});
                openings.questions.push_back(std::move(q));
            }
            if (l.kind == Listed::Sheet && l.piece) {
                Question q = asked(l);
                const mesh::Pick piece = standing.at(*l.piece);
                if (piece.everything()) continue;
                q.answers.push_back({"Thicken it", {&steps::thickenStep()}, piece});
                q.answers.push_back({"Remove it", {&steps::removeStep()}, piece});
                sheets.questions.push_back(std::move(q));
            }
            if (l.kind == Listed::Within) within.questions.push_back(asked(l));
            if (l.kind == Listed::AsItCame && id == part.track.current()) asTheyCame.questions.push_back(asked(l));
        }
    }
    const auto left = part.left.find(part.track.current());
    if (left != part.left.end())
        for (const Listed& l : left->second) {
            if (l.kind == Listed::Left || l.kind == Listed::NeedsSkin) others.questions.push_back(asked(l));
            if (l.kind == Listed::Left && l.size == 0) others.questions.back().position.reset();
            if (l.kind == Listed::NeedsSkin) {
                others.questions.back().position.reset();
                others.questions.back().answers.push_back({"Wrap it", {&steps::wrapStep()}, {}});
            }
        }
    for (const ChangedPlace& p : look.changes) {
        Question q{
            QString("%1 triangles went, %2 came, %3 across, at (%4, %5, %6).")
                .arg(spaced(p.went), spaced(p.came), shortNumber(p.box.diagonal()), shortNumber(p.box.centre().x()),
                     shortNumber(p.box.centre().y()), shortNumber(p.box.centre().z())),
            p.box.centre(), p.box.diagonal()};
        q.answers.push_back(
            {"Put it back",
             {&steps::putBackStep(),
              {{"from", steps::Value(part.file.string())}, {"place", steps::Value(steps::textOfPlace(p.corner))}}},
             {}});
        changes.questions.push_back(std::move(q));
    }
    within.done = changes.done = true;
    std::vector<QuestionGroup> groups;
    for (QuestionGroup* group : {&openings, &sheets, &asTheyCame, &others, &within, &changes}) {
        if (group->questions.empty()) continue;
        std::stable_sort(group->questions.begin(), group->questions.end(),
                         [](const Question& a, const Question& b) { return a.size > b.size; });
        if (group == &openings || group == &sheets) answerAllAlike(*group);
        groups.push_back(std::move(*group));
    }
    return groups;
}

}  // namespace zither::session
