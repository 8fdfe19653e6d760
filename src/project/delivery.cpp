#include "project/delivery.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <chrono>

#include "arrange/settle.h"
#include "steps/steps_list.h"

namespace zither::project {
namespace {

using Clock = std::chrono::steady_clock;
double since(Clock::time_point start) {
    return std::chrono::duration<double>(Clock::now() - start).count();
}

// Rounding may break what is solid: then the surface is settled before it is written. Nothing where there is no need.
Outcome<std::optional<steps::DoneStep>> settledFor(io::Format format, const Mesh& m, Progress& progress) {
    if (!io::storesFloats(format) || mesh::fitsPrecision(m, mesh::Precision::Single)) return std::nullopt;
    const auto start = Clock::now();
    mesh::PartOfProgress checking(progress, 0, 0.5);
    const Outcome<check::Survey> survey = check::survey(m, {}, checking);
    if (!survey) return tl::unexpected(survey.error());
    if (!survey->solid) return std::nullopt;
    mesh::PartOfProgress settling(progress, 0.5, 1);
    Outcome<arrange::Settled> settled = arrange::settle(m, mesh::Precision::Single, settling);
    if (!settled) return tl::unexpected(settled.error());
    steps::DoneStep done;
    done.call = {steps::findStep("settle"), {{"bits", 32.0}}};
    done.used = done.call.given;
    done.record = steps::settleRecord(*settled);
    done.why = "The file holds 32 bits a coordinate; what was solid must be solid there.";
    done.mesh = std::make_shared<const Mesh>(std::move(settled->mesh));
    done.seconds = since(start);
    return done;
}

}  // namespace

Outcome<Judged> readAndJudge(const std::filesystem::path& file, const steps::Brief& brief, Progress& progress) {
    const auto start = Clock::now();
    mesh::PartOfProgress reading(progress, 0, 0.4);
    Outcome<io::Surface> surface = io::readSurface(file, reading);
    if (!surface) return tl::unexpected(surface.error());
    Judged judged;
    judged.file = file.string();
    judged.mesh = std::make_shared<const Mesh>(std::move(surface->mesh));
    judged.surface = std::move(*surface);
    mesh::PartOfProgress checking(progress, 0.4, 1);
    Outcome<check::Survey> survey = check::survey(*judged.mesh, brief.surveyOptions(), checking);
    if (!survey) return tl::unexpected(survey.error());
    judged.survey = std::move(*survey);
    judged.verdict = steps::judge(judged.survey, brief);
    judged.seconds = since(start);
    return judged;
}

Outcome<Judged> writeAndProve(const Mesh& m, const std::filesystem::path& file, const steps::Brief& brief,
                              Progress& progress, std::string_view unit) {
    const auto format = io::formatForWriting(file);
    if (!format)
        return mesh::badInput(fmt::format("{}: the extension names no format that can be written; use one of {}",
                                          file.string(), fmt::join(io::writableExtensions(), ", ")));
    if (m.triangles.empty())
        return mesh::badInput(fmt::format("{}: nothing to write: no triangle is left", file.string()));
    mesh::PartOfProgress settling(progress, 0, 0.3);
    Outcome<std::optional<steps::DoneStep>> settled = settledFor(*format, m, settling);
    if (!settled) return tl::unexpected(settled.error());
    mesh::PartOfProgress writing(progress, 0.3, 0.4);
    if (auto written = io::writeSurface(*settled ? *(*settled)->mesh : m, file, *format, writing, unit); !written)
        return tl::unexpected(written.error());
    mesh::PartOfProgress proving(progress, 0.4, 1);
    Outcome<Judged> judged = readAndJudge(file, brief, proving);
    if (judged) judged->settled = std::move(*settled);
    return judged;
}

Outcome<std::vector<steps::DoneStep>> runSteps(std::shared_ptr<const Mesh> m, const std::vector<steps::StepCall>& calls,
                                               Progress& progress) {
    std::vector<steps::DoneStep> done;
    for (std::size_t i = 0; i < calls.size(); ++i) {
        const auto start = Clock::now();
        mesh::PartOfProgress part(progress, static_cast<double>(i) / static_cast<double>(calls.size()),
                                  static_cast<double>(i + 1) / static_cast<double>(calls.size()));
        steps::DoneStep step;
        step.call = calls[i];
        Outcome<steps::StepOutput> output = steps::runStep(calls[i], *m, mesh::Pick(), step.used, part);
        if (!output) return tl::unexpected(output.error());
        m = std::make_shared<const Mesh>(std::move(output->mesh));
        step.mesh = m;
        step.record = std::move(output->record);
        step.seconds = since(start);
        done.push_back(std::move(step));
    }
    return done;
}

}  // namespace zither::project
