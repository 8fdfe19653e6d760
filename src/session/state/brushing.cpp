// Dabs at even spaces; the step itself runs once the stroke is done, with the same dabs.
#include "session/state/brushing.h"

#include <QElapsedTimer>

#include "session/reading/strings.h"
#include "steps/all_steps.h"

namespace zither::session {

using mesh::Outcome;
using mesh::Point;
using mesh::TriangleId;

Brushing::Brushing(Workshop& workshop, DeskModel& desk, QObject* parent)
    : QObject(parent), workshop_(workshop), desk_(desk) {
    // Another surface is in front: what was drawn is part of it, or means nothing on it.
    connect(&workshop_.looks(), &Looks::changed, this, [this] {
        const Look* look = workshop_.looks().kept();
        if (part_ && (!look || look->part != part_)) forget();
    });
}

void Brushing::forget() {
    stroke_.reset();
    path_.clear();
    moved_.reset();
    hidden_.reset();
    crossings_.clear();
    part_.reset();
    Q_EMIT changed();
}

bool Brushing::ready() {
    const DeskPage page = desk_.page();
    return page.kind == DeskPage::Step && page.step == &steps::brushStep() && !part_ && !workshop_.trial().current();
}

double Brushing::width() {
    return desk_.valuesFor(steps::brushStep()).find("width")->second.number();
}

void Brushing::begin(const Point& place) {
    if (!ready()) return;
    part_ = workshop_.looks().kept()->part;
    stroke_ = std::make_unique<shape::Stroke>(*part_, workshop_.picking().pick(),
                                              steps::brushOptions(*part_, desk_.valuesFor(steps::brushStep())));
    crossingMs_ = 0;
    dab(place);
    showMoved();
}

void Brushing::dab(const Point& place) {
    path_.push_back(place);
    stroke_->dab(place);
}

void Brushing::go(const Point& place) {
    if (!stroke_) return;
    const double space = shape::dabSpacing * width();
    if (!(space > 0)) return;
    bool any = false;
    // As many as fit, but not more than a hand draws between two pictures.
    constexpr int most = 32;
    for (int i = 0; i < most && (place - path_.back()).norm() >= space; ++i) {
        dab(path_.back() + space * (place - path_.back()).normalized());
        any = true;
    }
    if (any) showMoved();
}

void Brushing::showMoved() {
    const mesh::Mesh& m = part_->mesh();
    auto moved = std::make_shared<Moved>();
    moved->of = part_;
    const auto touched = stroke_->touched();
    moved->sources.assign(touched.begin(), touched.end());
    moved->mesh.positions.reserve(3 * touched.size());
    if (!hidden_) hidden_ = std::make_shared<std::vector<std::uint8_t>>(m.triangles.size(), 0);
    for (const TriangleId t : touched) {
        (*hidden_)[t] = 1;
        mesh::Triangle corners;
        for (unsigned k = 0; k < 3; ++k) {
            corners[k] = static_cast<std::uint32_t>(moved->mesh.positions.size());
            moved->mesh.positions.push_back(stroke_->at(m.triangles[t][k]));
        }
        moved->mesh.triangles.push_back(corners);
    }
    moved->hidden = hidden_;
    if (!touched.empty()) moved->rays = std::make_shared<const space::RayScene>(moved->mesh);
    moved_ = std::move(moved);
    // Where that takes too long the signs come at the end.
    constexpr double mostMs = 40;
    if (crossingMs_ < mostMs) {
        QElapsedTimer timer;
        timer.start();
        crossings_.clear();
        for (const TriangleId t : stroke_->crossing()) {
            const auto& [a, b, c] = m.triangles[t];
            crossings_.push_back((stroke_->at(a) + stroke_->at(b) + stroke_->at(c)) / 3);
        }
        crossingMs_ = static_cast<double>(timer.nsecsElapsed()) / 1e6;
    }
    Q_EMIT changed();
}

void Brushing::end() {
    if (!stroke_) return;
    steps::Arguments values = desk_.valuesFor(steps::brushStep());
    values.insert_or_assign("path", steps::Value(steps::textOfPlaces(path_)));
    const steps::StepCall call{&steps::brushStep(), values, workshop_.picking().text()};
    stroke_.reset();
    Part* part = workshop_.parts().current();
    struct Done {
        steps::StepDone step;
        Look look;
    };
    using Made = std::shared_ptr<Done>;
    workshop_.jobs().start<Made>(
        text(call.step->title), Jobs::Lane::Work,
        [surface = part_, call, options = workshop_.judging().options(),
         since = part->originBehind(part->track.current())](mesh::Progress& progress) -> Outcome<Made> {
            auto made = std::make_shared<Done>();
            mesh::PartOfProgress running(progress, 0, 0.5);
            auto done = steps::runStep(call, surface, mesh::Pick(), running);
            if (!done) return mesh::errorOf(done);
            made->step = std::move(*done);
            if (!made->step.changed) return made;
            mesh::PartOfProgress looking(progress, 0.5, 1);
            auto look = lookAt(made->step.part, options, since, looking);
            if (!look) return mesh::errorOf(look);
            made->look = std::move(*look);
            return made;
        },
        [this, call, id = part->id, from = part->track.current()](Outcome<Made> result) {
            if (!result) {
                workshop_.notice().failed(result.error());
                return forget();
            }
            auto& [step, look] = **result;
            if (!step.changed) {
                workshop_.notice().say(QString::fromStdString(step.record.sentences.front()));
                return forget();
            }
            steps::DoneStep done{.call = call, .used = step.used, .record = step.record, .part = step.part};
            const Part* front = workshop_.parts().current();
            if (front && front->id == id && front->track.current() == from)
                workshop_.parts().addStop(project::stopOf(std::move(done)), std::move(look));
            else if (const Part* brushed = workshop_.parts().addSteps(id, from, {std::move(done)}))
                workshop_.parts().showSteps(*brushed);
            forget();
        });
    Q_EMIT changed();
}

}  // namespace zither::session
