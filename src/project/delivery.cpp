// Reading with judgement; writing with proof before the old file is replaced.
#include "project/delivery.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <chrono>

#include "fit/fit.h"
#include "io/units.h"
#include "mesh/memory.h"
#include "steps/all_steps.h"
#include "steps/lost.h"

namespace zither::project {
namespace {

using Clock = std::chrono::steady_clock;
double since(Clock::time_point start) {
    return std::chrono::duration<double>(Clock::now() - start).count();
}

// Rounding may break what is solid: then the surface is settled before it is written. Nothing where there is no need.
Outcome<std::optional<steps::DoneStep>> settledFor(const io::Format& format, const check::Surveyed& part,
                                                   Progress& progress) {
    const mesh::Mesh& m = part.mesh();
    if (!format.floats || mesh::fitsPrecision(m, mesh::Precision::Single)) return std::nullopt;
    const auto start = Clock::now();
    mesh::PartOfProgress checking(progress, 0, 0.5);
    const auto survey = part.survey(part.knownOptions(), checking);
    if (!survey) return mesh::errorOf(survey);
    if (!(*survey)->solid) return std::nullopt;
    mesh::PartOfProgress settling(progress, 0.5, 1);
    Outcome<fit::Fit> settled = fit::makeFit(m, {}, settling);
    if (!settled) return mesh::errorOf(settled);
    steps::DoneStep done;
    done.call = {&steps::settleStep(), {{"bits", 32.0}}};
    done.used = done.call.given;
    done.record = steps::settleRecord(*settled);
    done.why = "The file holds 32 bits a coordinate; what was solid must be solid there.";
    done.part = std::make_shared<const check::Surveyed>(std::move(settled->mesh));
    done.seconds = since(start);
    return done;
}

// What is known of a file before it is read.
struct Foreknown {
    // A surface that may be what the file holds, bit for bit; then its survey, if it has one, is that of the file.
    const check::Surveyed* surface = nullptr;
    std::string_view unit = {};  // where the file does not say
    Spares spares = Spares::Time;
};

Outcome<Judged> readKnown(const std::filesystem::path& file, const steps::Brief& brief, const Foreknown& foreknown,
                          Progress& progress) {
    const check::Surveyed* known = foreknown.surface;
    const auto start = Clock::now();
    mesh::PartOfProgress reading(progress, 0, 0.4);
    Outcome<io::Surface> surface = io::readSurface(file, reading);
    if (!surface) return mesh::errorOf(surface);
    Judged judged;
    judged.file = file.string();
    auto held = std::make_shared<const mesh::Mesh>(std::move(surface->mesh));
    judged.part = known && known->known() && mesh::isSameSurface(known->mesh(), *held)
                      ? known->renumbered(std::move(held))
                      : std::make_shared<const check::Surveyed>(std::move(held), foreknown.spares);
    judged.surface = std::move(*surface);
    mesh::PartOfProgress checking(progress, 0.4, 1);
    const std::string_view unit = judged.surface.unit.empty() ? foreknown.unit : judged.surface.unit;
    judged.brief = brief.inUnit(io::millimetresIn(unit));
    auto survey = judged.part->survey(judged.brief.surveyOptions(), checking);
    if (!survey) return mesh::errorOf(survey);
    judged.survey = std::move(*survey);
    if (foreknown.spares == Spares::Memory) {
        judged.part = judged.part->light();
        mesh::returnSmallPieces();
    }
    judged.verdict = steps::judge(*judged.survey, judged.brief);
    judged.seconds = since(start);
    return judged;
}

}  // namespace

void Judged::judgeLost(const measure::Loss& loss) {
    verdict = steps::judge(*survey, brief, &loss);
}

Outcome<Judged> readAndJudge(const std::filesystem::path& file, const steps::Brief& brief, Progress& progress,
                             std::string_view unit, Spares spares) {
    return readKnown(file, brief, {nullptr, unit, spares}, progress);
}

namespace {

// nullptr: it is not said, and the extension names none.
const io::Format* formatOf(const Destination& to) {
    return to.format ? to.format : io::formatForWriting(to.file);
}

}  // namespace

std::vector<std::string> lossesOf(const mesh::Mesh& m, const Destination& to, const std::vector<std::string>& notKept) {
    std::vector<std::string> losses;
    if (const io::Format* format = formatOf(to)) losses = io::lossesOf(m, {*format, to.unit});
    losses.insert(losses.end(), notKept.begin(), notKept.end());
    return losses;
}

Outcome<Proved> prove(const check::Surveyed& part, const Destination& to, const steps::Brief& brief,
                      Progress& progress) {
    const std::filesystem::path& file = to.file;
    const std::string_view unit = to.unit;
    const io::Format* format = formatOf(to);
    if (!format)
        return mesh::badInput(fmt::format("{}: the extension names no format that can be written; use one of {}",
                                          file.string(), fmt::join(io::writableExtensions(), ", ")));
    if (part.mesh().triangles.empty())
        return mesh::badInput(fmt::format("{}: nothing to write: no triangle is left", file.string()));
    mesh::PartOfProgress settling(progress, 0, 0.3);
    Outcome<std::optional<steps::DoneStep>> settled = settledFor(*format, part, settling);
    if (!settled) return mesh::errorOf(settled);
    mesh::PartOfProgress writing(progress, 0.3, 0.4);
    const mesh::Mesh& m = *settled ? (*settled)->part->mesh() : part.mesh();
    if (m.triangles.empty()) {
        const mesh::Box box = mesh::boxOf(part.mesh());
        return mesh::badInput(fmt::format(
            "{}: nothing would be left: coordinates of 32 bits come in steps of {:.3g} there, and the part is {:.3g} "
            "across. Write OBJ or PLY instead, or move it nearer to the origin first",
            file.string(), mesh::unitInLastPlace(mesh::Precision::Single, box.farthest()), box.diagonal()));
    }
    Outcome<io::AtomicFile> written = io::writeToTemporary(m, file, {*format, unit}, writing);
    if (!written) return mesh::errorOf(written);
    // The temporary file is judged; only then it takes the place of an older one, which stays if this is cancelled.
    mesh::PartOfProgress proving(progress, 0.4, 1);
    Outcome<Judged> judged = readKnown(written->temporary(), brief, {*settled ? nullptr : &part, unit}, proving);
    if (!judged) return mesh::errorOf(judged);
    // Nothing may fail once the file is in its place, not even for want of memory.
    judged->file = file.string();
    judged->settled = std::move(*settled);
    return Proved{std::move(*judged), std::move(*written)};
}

Outcome<Judged> Proved::commit() && {
    if (auto placed = file.commit(); !placed) return mesh::errorOf(placed);
    return std::move(judged);
}

Outcome<Judged> writeAndProve(const check::Surveyed& part, const Destination& to, const steps::Brief& brief,
                              Progress& progress) {
    auto proved = prove(part, to, brief, progress);
    if (!proved) return mesh::errorOf(proved);
    return std::move(*proved).commit();
}

Outcome<std::vector<steps::DoneStep>> runSteps(check::SurveyedPtr part, const std::vector<steps::StepCall>& calls,
                                               std::string unit, Progress& progress) {
    std::vector<steps::DoneStep> done;
    for (std::size_t i = 0; i < calls.size(); ++i) {
        mesh::PartOfProgress running(progress, static_cast<double>(i) / static_cast<double>(calls.size()),
                                     static_cast<double>(i + 1) / static_cast<double>(calls.size()));
        steps::StepCall call = calls[i];
        call.given.unit = unit;
        auto one = steps::doStep(std::move(call), part, mesh::Pick(), running);
        if (!one) return mesh::errorOf(one);
        part = one->part;
        if (!one->record.unit.empty()) unit = one->record.unit;
        if (!done.empty() && done.back().part != part) done.back().part = done.back().part->light();
        done.push_back(std::move(*one));
    }
    return done;
}

}  // namespace zither::project
