// Marks of the kept survey against those of the preview, by position to the last bit.
#include "session/strings.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <set>

#include "check/catalogue.h"
#include "mesh/tolerances.h"

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
        const double length = box_.extent()[axis_];
        const double at = length > 0 ? (f.position[axis_] - box_.min[axis_]) / length : 0.5;
        return {std::clamp(at, 0.0, 1.0),
                std::clamp(f.size / std::max(box_.diagonal(), tolerance::aboveZero), 0.0, 1.0), state, index};
    }

private:
    int axis_;
    mesh::Box box_;
};

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
    if (!preview) return marks;
    const std::set<PlaceKey> before = keysOf(*w.looks().kept()->survey, defect);
    const auto& coming = preview->look.survey->findings.list;
    for (std::size_t i = 0; i < coming.size(); ++i)
        if (coming[i].defect == defect && !before.contains(keyOf(coming[i])))
            marks.push_back(marker.markOf(coming[i], i, MarkState::Comes));
    return marks;
}

QString limitText(const steps::Requirement& r) {
    if (!r.limit) return "noted";
    return QString("%1 %2%3").arg(r.measure->atLeast ? "least" : "limit", shortNumber(*r.limit),
                                  r.measure->unit == "deg" ? "°" : "");
}

}  // namespace

std::vector<StringRow> stringRows(const Workshop& w) {
    std::vector<StringRow> rows;
    const auto verdict = w.judging().verdict();
    for (const steps::Requirement& r : w.judging().brief().requirements) {
        StringRow row;
        row.id = text(r.measure->id);
        row.title = text(r.measure->title);
        row.limit = limitText(r);
        row.noted = !r.limit;
        row.defect = r.measure->marks;
        if (verdict) {
            const steps::Judged& judged = verdict->judged[rows.size()];
            row.value = shortNumber(judged.value) + (r.measure->unit == "deg" ? "°" : "");
            row.met = judged.met;
            // One sound shell is no defect: its mark would only be noise.
            const bool harmless = r.measure->harmless > 0 && judged.value <= r.measure->harmless;
            if (row.defect && !harmless) row.marks = marksOf(w, *row.defect);
        }
        rows.push_back(std::move(row));
    }
    return rows;
}

}  // namespace zither::session
