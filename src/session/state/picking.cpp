// A pick remembers what it was chosen by until it is changed by hand.
#include "session/state/picking.h"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

#include "mesh/pick_growth.h"
#include "steps/step.h"

namespace zither::session {

Picking::Picking(const Bench& bench, const Choice& choice) : looks_(bench.looks), choice_(choice) {}

// What is tried out cannot be picked on.
const Look* Picking::pickable() const {
    return looks_.shown() == looks_.kept() ? looks_.kept() : nullptr;
}

std::string Picking::text() const {
    if (pick_.everything()) return {};
    if (origin_.empty()) return steps::textOfPick(pick_);
    return rings_ == 0 ? origin_ : fmt::format("{}{:+}", origin_, rings_);
}

void Picking::choose(mesh::Pick pick, std::string origin) {
    if (pick.triangles() != pick_.triangles()) remember();
    origin_ = std::move(origin);
    rings_ = 0;
    if (pick.triangles() == pick_.triangles()) return;
    pick_ = std::move(pick);
    if (pick_.everything()) forgetPlaces();
    Q_EMIT changed();
}

void Picking::remember() {
    constexpr std::size_t most = 50;
    past_.push_back({pick_, origin_, rings_});
    if (past_.size() > most) past_.erase(past_.begin());
}

void Picking::undo() {
    if (past_.empty()) return;
    Past before = std::move(past_.back());
    past_.pop_back();
    pick_ = std::move(before.pick);
    origin_ = std::move(before.origin);
    rings_ = before.rings;
    forgetPlaces();
    Q_EMIT changed();
}

void Picking::pickThese(const std::vector<mesh::TriangleId>& triangles, Way way) {
    if (!pickable()) return;
    std::vector<mesh::TriangleId> these = triangles;
    std::sort(these.begin(), these.end());
    std::vector<mesh::TriangleId> before = pick_.triangles();
    std::sort(before.begin(), before.end());
    std::vector<mesh::TriangleId> result;
    if (way == Way::Replace)
        result = std::move(these);
    else if (way == Way::Add)
        std::set_union(before.begin(), before.end(), these.begin(), these.end(), std::back_inserter(result));
    else
        std::set_difference(before.begin(), before.end(), these.begin(), these.end(), std::back_inserter(result));
    forgetPlaces();
    set(mesh::Pick(std::move(result)));
}

void Picking::growFlat(double degrees) {
    if (const Look* look = pickable()) set(mesh::flatAround(look->mesh(), look->part->edges(), pick_, degrees));
}

void Picking::growSmooth(double degrees) {
    if (const Look* look = pickable()) set(mesh::smoothAround(look->mesh(), look->part->edges(), pick_, degrees));
}

void Picking::invert() {
    if (const Look* look = pickable(); look && !pick_.everything()) set(mesh::inverted(look->mesh(), pick_));
}

void Picking::set(mesh::Pick pick) {
    choose(std::move(pick), {});
}

void Picking::bringBack(mesh::Pick pick, const std::string& keptText) {
    const bool byHand = steps::StepCall{nullptr, {}, keptText}.isByHand();
    choose(std::move(pick), byHand ? std::string() : keptText);
}

void Picking::forgetPlaces() {
    places_.clear();
    normal_.reset();
}

void Picking::forget() {
    forgetPlaces();
    set({});
    past_.clear();
}

void Picking::letGo() {
    if (pick_.everything()) return;
    pick_ = {};
    origin_.clear();
    rings_ = 0;
    Q_EMIT changed();
}

void Picking::pickTriangle(mesh::TriangleId triangle, const mesh::Point& at, bool add) {
    if (!pickable()) return;
    std::vector<mesh::TriangleId> triangles = add ? pick_.triangles() : std::vector<mesh::TriangleId>();
    if (!add) forgetPlaces();
    if (std::find(triangles.begin(), triangles.end(), triangle) == triangles.end()) {
        triangles.push_back(triangle);
        places_.push_back(at);
    }
    const mesh::Point across = mesh::areaVector(looks_.kept()->mesh(), triangle);
    normal_ = across.norm() > 0 ? std::optional<mesh::Point>(across.normalized()) : std::nullopt;
    set(mesh::Pick(std::move(triangles)));
}

void Picking::pickShellOf(mesh::TriangleId triangle) {
    const Look* look = pickable();
    if (!look) return;
    const std::vector<std::uint32_t>& shellOf = look->survey->shellOf;
    std::vector<mesh::TriangleId> triangles;
    for (mesh::TriangleId t = 0; t < shellOf.size(); ++t)
        if (shellOf[t] == shellOf[triangle]) triangles.push_back(t);
    choose(mesh::Pick(std::move(triangles)), fmt::format("shell:{}", shellOf[triangle]));
}

void Picking::pickPlaces() {
    const Look* look = looks_.kept();
    if (!look || !choice_.chosenClass()) return;
    const check::Findings& findings = look->survey->findings;
    const bool one = choice_.chosenFinding().has_value();
    const std::vector<std::size_t> chosen =
        one ? std::vector{*choice_.chosenFinding()} : choice_.places(*choice_.chosenClass());
    std::vector<mesh::TriangleId> triangles;
    for (const std::size_t i : chosen) {
        const auto of = findings.trianglesOf(findings.list[i]);
        triangles.insert(triangles.end(), of.begin(), of.end());
    }
    std::sort(triangles.begin(), triangles.end());
    triangles.erase(std::unique(triangles.begin(), triangles.end()), triangles.end());
    forgetPlaces();
    if (!chosen.empty()) places_.push_back(findings.list[chosen.front()].position);
    // A slab or a single place is of this part alone.
    const bool whole = !one && !choice_.slab();
    choose(mesh::Pick(std::move(triangles)),
           whole ? steps::pickOfPlaces(*choice_.chosenClass(), look->survey->options) : std::string());
}

void Picking::ring(int by) {
    if (!looks_.kept() || pick_.everything()) return;
    const mesh::Mesh& m = looks_.kept()->mesh();
    mesh::Pick next = by > 0 ? mesh::grown(m, pick_, 1) : mesh::shrunk(m, pick_, 1);
    const std::string origin = origin_;
    // Growing after shrinking does not give the same triangles back: such a pick is by hand.
    const int rings = rings_ + by;
    const bool told = !origin.empty() && (rings_ == 0 || (rings_ > 0) == (by > 0));
    choose(std::move(next), told ? origin : std::string());
    rings_ = told ? rings : 0;
}

void Picking::grow() {
    ring(1);
}

void Picking::shrink() {
    ring(-1);
}

}  // namespace zither::session
