// Marks of the kept survey against those of the preview, by position to the last bit.
#include "session/reading/strings.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

#include "check/catalogue.h"
#include "measure/measure_tolerances.h"

namespace zither::session {
namespace {

using check::Finding;

// Two surveys' findings of one class are the same place where their positions agree to the last bit: what a local step
// leaves alone keeps its bits.
using PlaceKey = std::array<double, 4>;
PlaceKey keyOf(const Finding& f) {
    return {f.position.x(), f.position.y(), f.position.z(), f.size};
}

std::set<PlaceKey> keysOf(const check::Survey& survey, check::DefectClass defect) {
    std::set<PlaceKey> keys;
    for (const Finding& f : survey.findings.list)
        if (f.defect == defect) keys.insert(keyOf(f));
    return keys;
}

class Marker {
public:
    explicit Marker(const Workshop& w) : axis_(w.choice().axis()), box_(w.looks().kept()->survey->mass.size) {}

    [[nodiscard]] Mark markOf(const Finding& f, std::size_t index, MarkState state) const {
        return markAt(f.position, f.size, index, state);
    }
    [[nodiscard]] Mark markAt(const mesh::Point& position, double size, std::size_t index, MarkState state) const {
        const double length = box_.extent()[axis_];
        const double at = length > 0 ? (position[axis_] - box_.min[axis_]) / length : 0.5;
        return {std::clamp(at, 0.0, 1.0), std::clamp(size / std::max(box_.diagonal(), tolerance::aboveZero), 0.0, 1.0),
                state, index};
    }

private:
    int axis_;
    mesh::Box box_;
};

// What the stop that the part is compared with has, and the part has not.
void addWhatWas(const Workshop& w, check::DefectClass defect, std::vector<Mark>& marks) {
    const auto other = w.beforeAfter().display();
    const auto known = other ? other->part->known() : nullptr;
    if (!known) return;
    const Marker marker(w);
    const std::set<PlaceKey> now = keysOf(*w.looks().kept()->survey, defect);
    const auto& list = known->findings.list;
    for (std::size_t i = 0; i < list.size(); ++i)
        if (list[i].defect == defect && !now.contains(keyOf(list[i])))
            marks.push_back(marker.markOf(list[i], i, MarkState::Was));
}

std::vector<Mark> marksOf(const Workshop& w, check::DefectClass defect) {
    std::vector<Mark> marks;
    const Marker marker(w);
    const auto& list = w.looks().kept()->survey->findings.list;
    const auto& preview = w.trial().current();
    const std::set<PlaceKey> after = preview ? keysOf(*preview->look.survey, defect) : std::set<PlaceKey>();
    for (std::size_t i = 0; i < list.size(); ++i)
        if (list[i].defect == defect)
            marks.push_back(marker.markOf(
                list[i], i, !preview || after.contains(keyOf(list[i])) ? MarkState::Stays : MarkState::Goes));
    if (!preview) {
        addWhatWas(w, defect, marks);
        return marks;
    }
    const std::set<PlaceKey> before = keysOf(*w.looks().kept()->survey, defect);
    const auto& coming = preview->look.survey->findings.list;
    for (std::size_t i = 0; i < coming.size(); ++i)
        if (coming[i].defect == defect && !before.contains(keyOf(coming[i])))
            marks.push_back(marker.markOf(coming[i], i, MarkState::Comes));
    return marks;
}

// What is lost and added since the import, of what is shown.
std::vector<Mark> lossMarks(const Workshop& w) {
    std::vector<Mark> marks;
    const Look* look = w.looks().shown();
    if (!look || !look->loss) return marks;
    const Marker marker(w);
    constexpr std::size_t most = 500;
    const auto add = [&](const std::vector<measure::LossPlace>& places, MarkState state) {
        for (std::size_t i = 0; i < std::min(most, places.size()); ++i)
            marks.push_back(marker.markAt(places[i].position, places[i].size, i, state));
    };
    add(look->loss->lostPlaces, MarkState::Goes);
    add(look->loss->addedPlaces, MarkState::Comes);
    return marks;
}

QString numberText(double value, const steps::Measure& measure, const Numbers& numbers) {
    if (measure.unit == "share") return numbers.shortNumber(100 * value) + " %";
    return numbers.shortNumber(value) + (measure.unit == "deg" ? "°" : "");
}

QString limitText(const steps::Requirement& r, const Numbers& numbers) {
    if (!r.limit) return "noted";
    return QString("%1 %2").arg(r.measure->atLeast ? "least" : "limit", numberText(*r.limit, *r.measure, numbers));
}

// What its check has told while others still listen: a number without places.
void hearSoFar(const Workshop& w, const steps::Requirement& r, StringRow& row) {
    const auto value = row.defect ? w.looks().heard(*row.defect) : std::nullopt;
    row.listening = !value;
    if (!value || std::isnan(*value)) return;
    row.value = numberText(*value, *r.measure, w.preferences().numbers());
    row.met = !r.limit || (r.measure->atLeast ? *value >= *r.limit : *value <= *r.limit);
}

}  // namespace

QString failureText(const steps::Judged& j, const Numbers& numbers) {
    const steps::Measure& measure = *j.requirement.measure;
    return QString("%1: %2, %3")
        .arg(text(steps::titleOf(j.requirement)), j.value ? numberText(*j.value, measure, numbers) : QString("–"),
             limitText(j.requirement, numbers));
}

std::vector<StringRow> stringRows(const Workshop& w) {
    std::vector<StringRow> rows;
    const auto verdict = w.judging().verdict();
    const steps::Brief brief = w.judging().brief();
    const Numbers numbers = w.preferences().numbers();
    const Paper& paper = w.preferences().paper();
    for (const steps::Requirement& r : brief.requirements) {
        StringRow row;
        row.id = text(r.measure->id);
        row.title = text(steps::titleOf(r));
        row.limit = limitText(r, numbers);
        row.noted = !r.limit;
        row.defect = r.measure->marks;
        if (row.defect) row.sign = Sign{&(*row.defect)->glyph, paper.inkOf(*row.defect)};
        if (r.measure->ofImport != nullptr) row.sign = sign::lost;
        if (verdict) {
            const steps::Judged& judged = verdict->judged[rows.size()];
            row.value = judged.value ? numberText(*judged.value, *r.measure, numbers) : "–";
            row.met = judged.met;
            // What cannot be told is neither in tune nor out of it.
            row.noted |= !judged.value;
            // One sound shell is no defect: its mark would only be noise.
            const bool harmless = r.measure->harmless > 0 && judged.value && *judged.value <= r.measure->harmless;
            if (row.defect && !harmless) row.marks = marksOf(w, *row.defect);
            if (r.measure == &steps::lostMeasure()) row.marks = lossMarks(w);
        }
        if (!verdict && w.looks().listening()) hearSoFar(w, r, row);
        rows.push_back(std::move(row));
    }
    return rows;
}

}  // namespace zither::session
