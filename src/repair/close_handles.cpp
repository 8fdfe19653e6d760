// Loops of measure/tunnels.h, cut along and closed.
#include "repair/close_handles.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <optional>
#include <queue>
#include <set>
#include <unordered_map>

#include "check/surveyed.h"
#include "holes/fill.h"
#include "measure/numbers.h"
#include "measure/tunnels.h"
#include "mesh/disjoint_sets.h"
#include "mesh/edges.h"
#include "space/cell_grid.h"

namespace zither::repair {
namespace {

using mesh::HalfEdge;
using mesh::Mesh;
using mesh::noEdge;
using mesh::Pick;
using mesh::Point;
using mesh::TriangleId;
using mesh::VertexId;

class Closing {
public:
    Closing(const check::Surveyed& s, const Pick& pick, double longest)
        : surface_(s), m_(s.mesh()), chosen_(pick.mask(m_)), longest_(longest) {}

    mesh::Outcome<HandlesResult> run(mesh::Progress& progress) {
        bool again = true;
        for (int round = 0; again && round < rounds; ++round) {
            again = false;
            const check::Surveyed anew(m_);
            const check::Surveyed& now = round == 0 ? surface_ : anew;
            // One loop for each neighbourhood: a cut changes what lies around it. Others wait for the next round.
            mesh::PartOfProgress searching(progress, static_cast<double>(round) / rounds, (round + 1.0) / rounds);
            const auto found = measure::tunnelsOf(
                {m_, now.edges(), now.corners(), chosen_}, longest_,
                [&](const std::vector<VertexId>& loop) {
                    return std::none_of(loop.begin(), loop.end(),
                                        [&](VertexId v) { return given_.contains(keyOf(v)); });
                },
                searching);
            if (!found) return mesh::errorOf(found);
            std::vector<std::vector<Point>> loops;
            for (const measure::Tunnel& tunnel : *found) {
                std::vector<Point>& places = loops.emplace_back();
                for (VertexId v : tunnel.loop) places.push_back(m_.positions[v]);
            }
            for (const auto& places : loops) {
                auto cut = cutAlong(places, progress);
                if (!cut) return mesh::errorOf(cut);
                again |= *cut;
            }
        }
        std::stable_sort(result_.handles.begin(), result_.handles.end(),
                         [](const Handle& a, const Handle& b) { return a.loop < b.loop; });
        result_.mesh = std::move(m_);
        if (!progress.report(1)) return mesh::cancelled();
        return std::move(result_);
    }

private:
    static constexpr int rounds = 8;
    using Place = std::array<double, 3>;

    [[nodiscard]] Place keyOf(VertexId v) const {
        return {m_.positions[v].x(), m_.positions[v].y(), m_.positions[v].z()};
    }

    // Takes away the triangles along the loop and closes what that opens. True where the handle is gone.
    mesh::Outcome<bool> cutAlong(const std::vector<Point>& places, mesh::Progress& progress) {
        Handle handle;
        for (std::size_t i = 0; i < places.size(); ++i) {
            handle.position += places[i] / static_cast<double>(places.size());
            handle.loop += (places[(i + 1) % places.size()] - places[i]).norm();
            given_.insert({places[i].x(), places[i].y(), places[i].z()});
        }
        std::set<Place> on;
        for (const Point& p : places) on.insert({p.x(), p.y(), p.z()});
        std::vector<std::uint8_t> away(m_.triangles.size(), 0);
        std::vector<std::uint8_t> chosen;
        for (TriangleId t = 0; t < away.size(); ++t) {
            away[t] = std::any_of(m_.triangles[t].begin(), m_.triangles[t].end(),
                                  [&](VertexId v) { return on.contains(keyOf(v)); });
            if (!away[t]) chosen.push_back(chosen_[t]);
        }
        auto filled = holes::cutOut(m_, away, {.way = holes::FillWay::Taut}, progress);
        if (!filled) return mesh::errorOf(filled);
        const bool gone =
            !filled->filled.empty() && holes::faultsOf(*filled) == 0 &&
            measure::eulerOf(filled->mesh, mesh::Edges(filled->mesh)) > measure::eulerOf(m_, mesh::Edges(m_));
        if (gone) {
            result_.removed += m_.triangles.size() - chosen.size();
            result_.added += filled->added;
            m_ = std::move(filled->mesh);
            chosen.resize(m_.triangles.size(), 1);
            chosen_ = std::move(chosen);
        }
        handle.closed = gone;
        result_.handles.push_back(handle);
        return gone;
    }

    const check::Surveyed& surface_;
    Mesh m_;
    std::vector<std::uint8_t> chosen_;
    double longest_;
    std::set<Place> given_;  // places of loops that were tried
    HandlesResult result_;
};

}  // namespace

mesh::Outcome<HandlesResult> closeHandles(const check::Surveyed& s, const Pick& pick, double longest,
                                          mesh::Progress& progress) {
    if (!progress.report(0)) return mesh::cancelled();
    if (!(longest > 0)) return HandlesResult{s.mesh(), {}, 0, 0};
    return Closing(s, pick, longest).run(progress);
}

}  // namespace zither::repair
