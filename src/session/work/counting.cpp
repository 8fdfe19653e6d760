// Worked out beside the window; the newest wish wins.
#include "session/work/counting.h"

#include "project/json.h"
#include "session/reading/number_text.h"
#include "session/state/preferences.h"

namespace zither::session {

using mesh::Outcome;

Counting::Counting(const Bench& bench, const Picking& picking)
    : parts_(bench.parts), looks_(bench.looks), picking_(picking), jobs_(bench.jobs), preferences_(bench.preferences) {}

void Counting::setWanted(bool wanted) {
    wanted_ = wanted;
    refresh();
}

void Counting::setDensity(double gramsACubicCentimetre) {
    density_ = gramsACubicCentimetre;
    Q_EMIT changed();
}

void Counting::refresh() {
    const Look* look = looks_.kept();
    if (!wanted_) return;
    if (!look) {
        numbers_ = nullptr;
        Q_EMIT changed();
        return;
    }
    using Result = std::shared_ptr<const measure::Numbers>;
    jobs_.start<Result>(
        "Numbers", Jobs::Lane::Count,
        [part = look->part, pick = picking_.pick()](mesh::Progress&) -> Outcome<Result> {
            return std::make_shared<const measure::Numbers>(measure::numbersOf(part->mesh(), part->edges(), pick));
        },
        [this, ofPick = !picking_.pick().everything(), name = parts_.current()->name,
         unit = parts_.current()->unit().name](Outcome<Result> numbers) {
            if (!numbers) return;
            numbers_ = std::move(*numbers);
            ofPick_ = ofPick;
            part_ = name;
            unit_ = unit;
            Q_EMIT changed();
        });
}

QString Counting::title() const {
    if (!numbers_) return {};
    return ofPick_ ? QString("%1 triangles of %2").arg(spaced(numbers_->triangles), part_) : part_;
}

std::vector<Counting::Row> Counting::rows() const {
    std::vector<Row> rows;
    if (!numbers_ || numbers_->triangles == 0) return rows;
    const measure::Numbers& n = *numbers_;
    const Numbers in = preferences_.numbers();
    const mesh::Point size = n.box.extent();
    rows.push_back({"triangles", spaced(n.triangles)});
    rows.push_back({"vertices", spaced(n.vertices)});
    rows.push_back(
        {"size", QString("%1 × %2 × %3 %4")
                     .arg(in.shortNumber(size.x()), in.shortNumber(size.y()), in.shortNumber(size.z()), unit_)});
    rows.push_back({"from", in.placeText(n.box.min)});
    rows.push_back({"to", in.placeText(n.box.max)});
    rows.push_back({"area", QString("%1 %2²").arg(in.shortNumber(n.area), unit_)});
    rows.push_back(
        {"volume", n.volume ? QString("%1 %2³").arg(in.shortNumber(*n.volume), unit_) : QString("none: it is open")});
    if (const auto grams = project::MassAsked{.density = density_, .unit = unit_.toStdString()}.gramsOf(n))
        rows.push_back({"mass", QString("%1 g").arg(in.shortNumber(*grams))});
    if (n.centreOfMass) rows.push_back({"centre of mass", in.placeText(*n.centreOfMass)});
    rows.push_back({"centre of area", in.placeText(n.centreOfArea)});
    rows.push_back(
        {"edges", QString("%1 to %2, %3 on average")
                      .arg(in.shortNumber(n.edges.min), in.shortNumber(n.edges.max), in.shortNumber(n.edges.mean))});
    rows.push_back({"border", QString("%1 %2").arg(in.shortNumber(n.borderLength), unit_)});
    return rows;
}

std::vector<Counting::Quality> Counting::qualities() const {
    std::vector<Quality> all;
    if (!numbers_ || numbers_->triangles == 0) return all;
    const Numbers in = preferences_.numbers();
    for (const measure::QualityKind& kind : measure::qualityKinds) {
        const measure::Spread& s = numbers_->quality.*kind.spread;
        all.push_back({text(kind.title),
                       QString("worst %1%4   1 %: %2%4   mean %3%4")
                           .arg(in.shortNumber(s.worst), in.shortNumber(s.onePercent), in.shortNumber(s.mean),
                                kind.unit == "deg" ? QString("°") : QString()),
                       s});
    }
    return all;
}

}  // namespace zither::session
