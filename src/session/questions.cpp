// Openings are known by the rims that lie where they lay, sheets by the corners of their triangles.
#include "session/questions.h"

#include <algorithm>
#include <utility>

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
    explicit Openings(const Look& look) : findings_(look.survey->findings) {
        for (const check::Finding& f : findings_.list) {
            if (f.defect != check::openEdges) continue;
            mesh::Box box;
            for (const check::Findings::Edge& e : findings_.edgesOf(f))
                for (const mesh::VertexId v : e) box.add(look.mesh().positions[v]);
            rims_.push_back({&f, box.centre()});
        }
    }

    // The triangles along the rim; empty where it is closed by now.
    [[nodiscard]] mesh::Pick at(const Listed& opening) const {
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
        return mesh::Pick({triangles.begin(), triangles.end()});
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
    Sheets(const Look& look, const std::vector<const Listed*>& listed) : look_(look), mesh_(look.mesh()) {
        std::vector<mesh::Point> corners;
        for (const Listed* l : listed)
            corners.insert(corners.end(), l->piece->positions.begin(), l->piece->positions.end());
        if (!corners.empty()) same_ = mesh::equalIn(mesh_.positions, corners);
    }

    // The triangles of the next one now; empty where some are gone, or where it has become part of a body.
    [[nodiscard]] mesh::Pick next(const mesh::Mesh& piece) {
        const std::size_t first = std::exchange(first_, first_ + piece.positions.size());
        const mesh::Corners& corners = look_.part->corners();
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
    std::vector<mesh::VertexId> same_;  // of each corner of the listed ones, one after the other
    std::size_t first_ = 0;             // of the next one's
};

// What a step listed, where it stands now.
struct Said {
    Listed listed;
    project::StopId stop;
};

std::vector<Said> saidOnTheWay(const Part& part) {
    std::vector<Said> all;
    for (const project::StopId id : part.track.pathTo(part.track.current())) {
        const steps::Record& record = part.track.stop(id).record;
        if (record.motion)
            for (auto& [listed, stop] : all) {
                listed.position = record.motion->of(listed.position);
                listed.size *= record.motion->scale();
                if (listed.piece)
                    listed.piece = std::make_shared<const mesh::Mesh>(mesh::moved(*listed.piece, *record.motion));
            }
        for (const Listed& l : record.listed) all.push_back({l, id});
    }
    return all;
}

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

Question leftOut(const QString& name, std::vector<mesh::TriangleId> triangles, const mesh::Box& box) {
    Question q{QString("%1: %2 triangles, %3 across").arg(name, spaced(triangles.size()), shortNumber(box.diagonal())),
               box.centre(), box.diagonal()};
    q.answers.push_back({"Leave it out", {&steps::removeStep()}, mesh::Pick(std::move(triangles))});
    return q;
}

// More are hardly meant to be looked at one by one.
constexpr std::size_t mostAsked = 40;

// The bodies of a file, as long as nothing has been done to it: all of them are worked on, unless some are left out.
QuestionGroup bodiesAsked(const Part& part, const Look& look, const mesh::Pick& faint) {
    QuestionGroup group{"bodies", "Bodies in this file", "All are worked on. What is not meant can be left out.", {}};
    const auto& shells = look.survey->shells;
    if (part.track.current() != 0 || shells.size() < 2 || shells.size() > mostAsked) return group;
    std::vector<std::vector<mesh::TriangleId>> ofShell(shells.size());
    for (mesh::TriangleId t = 0; t < look.survey->shellOf.size(); ++t)
        if (const std::uint32_t s = look.survey->shellOf[t]; s < shells.size()) ofShell[s].push_back(t);
    for (std::size_t s = 0; s < shells.size(); ++s) {
        // What lies within a body is a part of it.
        if (shells[s].depth > 0) continue;
        group.questions.push_back(leftOut(QString("Shell %1").arg(s + 1), std::move(ofShell[s]), shells[s].box));
    }
    if (group.questions.size() < 2) group.questions.clear();
    if (!faint.everything()) group.forAll.push_back({"Leave out the ghosts", {&steps::removeStep()}, faint});
    return group;
}

// The same of named regions: what is left out leaves its rim open.
QuestionGroup regionsAsked(const Part& part, const Look& look) {
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
        group.questions.push_back(
            leftOut(name.isEmpty() ? QString("Region %1").arg(r + 1) : name, std::move(ofRegion[r]), boxes[r]));
    }
    if (group.questions.size() < 2) group.questions.clear();
    return group;
}

}  // namespace

std::vector<QuestionGroup> questionsOf(const Part& part, const Look& look, const mesh::Pick& faint) {
    QuestionGroup bodies = bodiesAsked(part, look, faint);
    QuestionGroup regions = regionsAsked(part, look);
    QuestionGroup openings{
        "openings", "Openings, likely meant", "Left open. What is closed is a patch, and listed.", {}};
    QuestionGroup sheets{
        "sheets", "Sheets", "They bound no volume. Thickened they become bodies behind their faces.", {}};
    QuestionGroup within{"within", "Bodies within bodies", "Hidden inside, and gone. Undo brings them back.", {}};
    QuestionGroup asTheyCame{"as-they-came", "As they came", "Mending would have made some count worse here.", {}};
    QuestionGroup others{"left", "Left to do", {}, {}};
    QuestionGroup changes{
        "changed-places", "Changed places", "What went and came since the import; each can be put back alone.", {}};
    const Openings rims(look);
    std::vector<const Listed*> listedSheets;
    const std::vector<Said> said = saidOnTheWay(part);
    for (const auto& [l, stop] : said) {
        if (l.kind == Listed::LeftOpen) {
            Question q = asked(l);
            mesh::Pick rim = rims.at(l);
            if (rim.everything()) continue;
            q.answers.push_back({"Close it", {&steps::fillStep(), {{"meant", steps::Value("close")}}}, std::move(rim)});
            openings.questions.push_back(std::move(q));
        }
        if (l.kind == Listed::Sheet && l.piece) listedSheets.push_back(&l);
        if (l.kind == Listed::Within) within.questions.push_back(asked(l));
        if (l.kind == Listed::AsItCame && stop == part.track.current()) asTheyCame.questions.push_back(asked(l));
    }
    Sheets standing(look, listedSheets);
    for (const Listed* l : listedSheets) {
        const mesh::Pick piece = standing.next(*l->piece);
        if (piece.everything()) continue;
        Question q = asked(*l);
        q.answers.push_back({"Thicken it", {&steps::thickenStep()}, piece});
        q.answers.push_back({"Remove it", {&steps::removeStep()}, piece});
        sheets.questions.push_back(std::move(q));
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
    // A file holds the import where it stood.
    const bool canPutBack = !part.file.empty() && !part.movedBefore(part.track.current());
    for (const repair::Place& p : look.changes) {
        QStringList what;
        if (p.went > 0) what << spaced(p.went) + (p.went == 1 ? " triangle went" : " triangles went");
        if (p.came > 0)
            what << spaced(p.came) + (p.went > 0 ? " came" : p.came == 1 ? " triangle came" : " triangles came");
        Question q{QString("%1, %2 across, at (%3, %4, %5).")
                       .arg(what.join(", "), shortNumber(p.box.diagonal()), shortNumber(p.box.centre().x()),
                            shortNumber(p.box.centre().y()), shortNumber(p.box.centre().z())),
                   p.box.centre(), p.box.diagonal()};
        if (canPutBack)
            q.answers.push_back(
                {"Put it back",
                 {&steps::putBackStep(),
                  {{"from", steps::Value(part.file.string())}, {"place", steps::Value(steps::textOfPlace(p.corner))}}},
                 {}});
        changes.questions.push_back(std::move(q));
    }
    within.done = changes.done = true;
    std::vector<QuestionGroup> groups;
    for (QuestionGroup* group : {&bodies, &regions, &openings, &sheets, &asTheyCame, &others, &within, &changes}) {
        if (group->questions.empty()) continue;
        std::stable_sort(group->questions.begin(), group->questions.end(),
                         [](const Question& a, const Question& b) { return a.size > b.size; });
        if (group == &openings || group == &sheets) answerAllAlike(*group);
        groups.push_back(std::move(*group));
    }
    return groups;
}

}  // namespace zither::session
