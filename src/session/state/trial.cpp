// One preview at a time; the call carries the pick as text.
#include "session/state/trial.h"

#include <QElapsedTimer>

#include "measure/deviation.h"
#include "session/reading/strings.h"

namespace zither::session {

using mesh::Outcome;
using mesh::Progress;

Trial::Trial(const Bench& bench, const Judging& judging, const Picking& picking)
    : parts_(bench.parts),
      looks_(bench.looks),
      judging_(judging),
      picking_(picking),
      jobs_(bench.jobs),
      notice_(bench.notice) {}

void Trial::start(const steps::StepCall& wanted) {
    if (!parts_.current()) return;
    steps::StepCall call = wanted;
    if (call.pick.empty() && call.step->wholeOnly.empty()) call.pick = picking_.text();
    running_ = true;
    stopMeasuring();
    using Tried = std::shared_ptr<Preview>;
    jobs_.start<Tried>(
        QString("Preview: %1").arg(text(call.step->title)), Jobs::Lane::Preview,
        [part = parts_.current()->track.part(), call,
         since = parts_.current()->originBehind(parts_.current()->track.current()),
         options = judging_.options()](Progress& progress) -> Outcome<Tried> {
            auto result = std::make_shared<Preview>();
            result->call = call;
            mesh::PartOfProgress running(progress, 0, 0.5);
            QElapsedTimer timer;
            timer.start();
            auto output = steps::runStep(call, part, mesh::Pick(), running);
            if (!output) return mesh::errorOf(output);
            result->seconds = static_cast<double>(timer.elapsed()) / 1000;
            result->used = std::move(output->used);
            result->record = std::move(output->record);
            mesh::PartOfProgress looking(progress, 0.5, 1);
            Origin origin = since;
            origin.follow(result->record);
            auto look = lookAt(output->part, options, origin, looking);
            if (!look) return mesh::errorOf(look);
            result->look = std::move(*look);
            return result;
        },
        [this](Outcome<Tried> result) {
            running_ = false;
            if (!result)
                notice_.failed(result.error());
            else
                preview_ = std::move(**result);
            looks_.show(preview_ ? &preview_->look : nullptr);
            if (result) measureDeviation();
            Q_EMIT changed();
        });
    Q_EMIT changed();
}

void Trial::stopMeasuring() {
    jobs_.cancel(Jobs::Lane::Distance);
    measuring_ = false;
}

void Trial::measureDeviation() {
    // More takes longer than one looks at a preview; the verdict of the file has it.
    constexpr std::size_t most = 500'000;
    const check::SurveyedPtr kept = parts_.current()->track.part();
    const check::SurveyedPtr tried = preview_->look.part;
    measuring_ = kept != tried && kept->mesh().triangles.size() + tried->mesh().triangles.size() <= most &&
                 !kept->mesh().triangles.empty() && !tried->mesh().triangles.empty();
    if (!measuring_) {
        if (kept == tried) preview_->deviation = 0;
        return;
    }
    jobs_.start<double>(
        "Measuring how far it goes", Jobs::Lane::Distance,
        [kept, tried, motion = preview_->record.motion](Progress& progress) -> Outcome<double> {
            const auto from =
                motion ? std::make_shared<const check::Surveyed>(mesh::moved(kept->mesh(), *motion)) : kept;
            const auto compared =
                measure::compare({from->tree(), from->edges()}, {tried->tree(), tried->edges()}, progress);
            if (!compared) return mesh::errorOf(compared);
            return std::max(compared->aToB.max, compared->bToA.max);
        },
        [this, tried](const Outcome<double>& deviation) {
            measuring_ = false;
            if (deviation && preview_ && preview_->look.part == tried) preview_->deviation = *deviation;
            Q_EMIT measured();
        });
}

void Trial::keep() {
    if (!preview_ || !parts_.current()) return;
    stopMeasuring();
    const Preview kept = *std::exchange(preview_, std::nullopt);
    looks_.show(nullptr);
    // What was set stays set; what was proposed is proposed anew for another part.
    project::Stop stop = project::stopOf(
        {.call = kept.call, .used = kept.used, .record = kept.record, .part = kept.look.part, .seconds = kept.seconds});
    parts_.addStop(std::move(stop), kept.look);
    Q_EMIT changed();
}

void Trial::drop() {
    jobs_.cancel(Jobs::Lane::Preview);
    stopMeasuring();
    running_ = false;
    const bool had = std::exchange(preview_, std::nullopt).has_value();
    if (had) looks_.show(nullptr);
    Q_EMIT changed();
}

}  // namespace zither::session
