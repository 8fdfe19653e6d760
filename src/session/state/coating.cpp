// Lenses are worked out beside the window; a result for another surface or lens is dropped.
#include "session/state/coating.h"

#include <algorithm>

#include "session/lens/colours.h"
#include "session/state/preferences.h"

namespace zither::session {

using mesh::Outcome;

Coating::Coating(const Bench& bench, const Trial& trial, const Picking& picking)
    : parts_(bench.parts),
      looks_(bench.looks),
      trial_(trial),
      picking_(picking),
      jobs_(bench.jobs),
      preferences_(bench.preferences) {}

void Coating::setLens(const Lens& lens, std::size_t kind) {
    if (lens_ != &lens || kind_ != kind) range_.reset();
    lens_ = &lens;
    kind_ = kind;
    refresh();
}

void Coating::refreshPick() {
    if (tint_)
        colours_.assign(coat_.colours.size(), 0);
    else
        colours_ = coat_.colours;
    if (looks_.shown() && looks_.shown() == looks_.kept())
        paintPick(colours_, looks_.shown()->mesh(), picking_.pick(), preferences_.paper().picked);
    Q_EMIT changed();
}

void Coating::setRange(std::optional<std::pair<double, double>> range) {
    if (coat_.values.empty()) return;
    if (range && !(range->second > range->first)) return;
    range_ = range;
    colour();
}

// By the range, and the tint with it.
void Coating::colour() {
    const auto [low, high] = range_.value_or(ofLens_);
    if (!coat_.values.empty()) colourBetween(coat_, low, high);
    tint_ = nullptr;
    if (!coat_.atVertices.empty()) {
        auto tint = std::make_shared<SmoothTint>(SmoothTint{coat_.atVertices, low, high, {}});
        const auto& stops = rampStops();
        for (std::size_t i = 0; i < stops.size(); ++i)
            tint->ramp[coat_.darkIsLow ? stops.size() - 1 - i : i] = draw::colourOf(stops[i].rgb());
        tint_ = std::move(tint);
    }
    refreshPick();
}

std::vector<PastStop> Coating::past() const {
    std::vector<PastStop> past;
    const project::Track& track = parts_.current()->track;
    for (const project::StopId id : track.pathTo(track.current())) {
        const project::Stop& stop = track.stop(id);
        past.push_back(
            {stop.label, stop.call ? stop.call->step->brings : std::string_view(), stop.part, stop.record.motion});
    }
    if (const auto& preview = trial_.current())
        past.push_back({std::string(preview->call.step->name), preview->call.step->brings, preview->look.part,
                        preview->record.motion});
    return past;
}

Origin Coating::origin() const {
    Origin origin = parts_.current()->originBehind(parts_.current()->track.current());
    if (const auto& preview = trial_.current()) origin.follow(preview->record);
    return origin;
}

void Coating::refresh() {
    coat_ = {};
    tint_ = nullptr;
    refreshPick();
    const Look* look = looks_.shown();
    if (!look || !parts_.current() || !lens_->coat) return;
    using Made = std::shared_ptr<Coat>;
    jobs_.start<Made>(
        "Colouring", Jobs::Lane::Colour,
        [look = *look, lens = lens_, kind = kind_, past = past(), paper = &preferences_.paper(),
         numbers = preferences_.numbers(), seen = origin().seen](mesh::Progress& progress) -> Outcome<Made> {
            auto coat = lens->coat({*look.part, *look.survey, past, seen->import(), *paper, numbers, kind}, progress);
            if (!coat) return mesh::errorOf(coat);
            return std::make_shared<Coat>(std::move(*coat));
        },
        [this, part = look->part, lens = lens_, kind = kind_](Outcome<Made> coat) {
            // Another surface or lens may have been chosen meanwhile.
            if (!coat || !looks_.shown() || looks_.shown()->part != part || lens != lens_ || kind != kind_) return;
            coat_ = std::move(**coat);
            ofLens_ = {coat_.legend.low, coat_.legend.high};
            colour();
        });
}

std::vector<mesh::TriangleId> Coating::trianglesWithin(double low, double high) const {
    const Legend& legend = coat_.legend;
    std::vector<mesh::TriangleId> triangles;
    for (mesh::TriangleId t = 0; t < coat_.values.size(); ++t) {
        const double value = std::clamp<double>(coat_.values[t], legend.low, legend.high);
        if (value >= low && value <= high) triangles.push_back(t);
    }
    return triangles;
}

}  // namespace zither::session
