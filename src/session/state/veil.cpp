// Flags are made when a picture asks for them, once for each surface.
#include "session/state/veil.h"

#include <algorithm>
#include <unordered_set>

#include "session/state/looks.h"

namespace zither::session {

using mesh::TriangleId;

Veil::Veil(const Bench& bench) : parts_(bench.parts), looks_(bench.looks) {}

Veil::Key Veil::keyOf(const check::Shell& shell) {
    const mesh::Box& b = shell.box;
    return {b.min.x(), b.min.y(), b.min.z(),  b.max.x(),
            b.max.y(), b.max.z(), shell.area, static_cast<double>(shell.triangles)};
}

Veil::Shown Veil::of(const check::Shell& shell) const {
    const auto part = parts_.current() ? ofPart_.find(parts_.current()->id) : ofPart_.end();
    if (part == ofPart_.end()) return Shown::Full;
    const auto it = part->second.find(keyOf(shell));
    return it == part->second.end() ? Shown::Full : it->second;
}

bool Veil::any() const {
    return parts_.current() && ofPart_.contains(parts_.current()->id);
}

void Veil::tell() {
    flags_ = nullptr;
    flagsOf_ = nullptr;
    Q_EMIT changed();
}

void Veil::set(const check::Shell& shell, Shown how) {
    if (!parts_.current()) return;
    auto& shells = ofPart_[parts_.current()->id];
    if (how == Shown::Full)
        shells.erase(keyOf(shell));
    else
        shells[keyOf(shell)] = how;
    if (shells.empty()) ofPart_.erase(parts_.current()->id);
    tell();
}

void Veil::only(const check::Shell& shell, Shown others) {
    const Look* look = looks_.kept();
    if (!look) return;
    auto& shells = ofPart_[parts_.current()->id];
    shells.clear();
    const Key own = keyOf(shell);
    for (const check::Shell& s : look->survey->shells)
        if (keyOf(s) != own) shells[keyOf(s)] = others;
    if (shells.empty()) ofPart_.erase(parts_.current()->id);
    tell();
}

void Veil::showAll() {
    if (!any()) return;
    ofPart_.erase(parts_.current()->id);
    tell();
}

namespace {

// Without segments between vertices that are only on such triangles.
std::vector<project::DefectLines> linesWithout(const Display& display, const std::vector<std::uint8_t>& hidden) {
    const mesh::Mesh& m = display.mesh();
    std::vector<std::uint8_t> there(m.positions.size(), 0);
    for (TriangleId t = 0; t < m.triangles.size(); ++t)
        if (!hidden[t])
            for (const mesh::VertexId v : m.triangles[t]) there[v] = 1;
    using Spot = std::array<float, 3>;
    const auto hash = [](const Spot& s) {
        return std::hash<float>()(s[0]) ^ std::hash<float>()(s[1]) * 31 ^ std::hash<float>()(s[2]) * 1009;
    };
    std::unordered_set<Spot, decltype(hash)> gone(16, hash);
    for (std::size_t v = 0; v < there.size(); ++v) {
        if (there[v]) continue;
        const mesh::Point p = m.positions[v] - display.origin;
        gone.insert({static_cast<float>(p.x()), static_cast<float>(p.y()), static_cast<float>(p.z())});
    }
    std::vector<project::DefectLines> kept;
    for (const project::DefectLines& lines : display.lines) {
        project::DefectLines& left = kept.emplace_back(project::DefectLines{lines.defect, {}});
        for (std::size_t i = 0; i + 5 < lines.points.size(); i += 6) {
            const float* p = &lines.points[i];
            if (gone.contains({p[0], p[1], p[2]}) && gone.contains({p[3], p[4], p[5]})) continue;
            left.points.insert(left.points.end(), p, p + 6);
        }
    }
    return kept;
}

}  // namespace

std::shared_ptr<const Veil::Flags> Veil::flags() const {
    const Look* look = looks_.shown();
    if (!any() || !look) return nullptr;
    if (flagsOf_ == look->part) return flags_;
    const check::Survey& survey = *look->survey;
    std::vector<Shown> ofShell;
    ofShell.reserve(survey.shells.size());
    for (const check::Shell& s : survey.shells) ofShell.push_back(of(s));
    flagsOf_ = look->part;
    flags_ = nullptr;
    if (std::all_of(ofShell.begin(), ofShell.end(), [](Shown s) { return s == Shown::Full; })) return nullptr;
    auto flags = std::make_shared<Flags>();
    flags->hidden.assign(look->mesh().triangles.size(), 0);
    flags->faint = flags->hidden;
    for (TriangleId t = 0; t < flags->hidden.size(); ++t) {
        const std::uint32_t shell = survey.shellOf[t];
        const Shown shown = shell < ofShell.size() ? ofShell[shell] : Shown::Full;
        flags->hidden[t] = shown == Shown::Not;
        flags->faint[t] = shown != Shown::Full;
    }
    flags->lines = linesWithout(*look->display, flags->faint);
    flags_ = std::move(flags);
    return flags_;
}

std::span<const std::uint8_t> Veil::faintOf(const Display& display) const {
    const auto all = flags();
    return all && flagsOf_ == display.part ? std::span<const std::uint8_t>(all->faint)
                                           : std::span<const std::uint8_t>();
}

mesh::Pick Veil::faintPick() const {
    const Look* look = looks_.kept();
    const auto all = flags();
    if (!all || !look || flagsOf_ != look->part) return {};
    std::vector<TriangleId> triangles;
    for (TriangleId t = 0; t < all->faint.size(); ++t)
        if (all->faint[t]) triangles.push_back(t);
    return mesh::Pick(std::move(triangles));
}

}  // namespace zither::session
