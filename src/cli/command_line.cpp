// The calls, by name; what `run` and `repair` share stands in one place.
#include "cli/command_line.h"

#include <fmt/format.h>
#include <fmt/ranges.h>
#include <tbb/global_control.h>

#include <chrono>
#include <iostream>
#include <optional>
#include <sstream>

#include "cli/arguments.h"
#include "cli/example.h"
#include "cli/report_text.h"
#include "draw/png.h"
#include "measure/deviation.h"
#include "measure/numbers.h"
#include "mesh/memory.h"
#include "project/job.h"
#include "project/journal.h"
#include "project/json.h"
#include "project/parting.h"
#include "project/portrait.h"
#include "project/provenance.h"
#include "project/report.h"
#include "steps/lost.h"
#include "steps/recipe.h"

namespace zither::cli {
namespace {

using mesh::Error;
using mesh::Outcome;
using project::Json;

class Calls {
public:
    Calls(const Options& options, const Console& console)
        : options_(options), console_(console), out_(console.out), err_(console.err), progress_(console) {}

    int check() {
        const auto brief = steps::loadBrief(options_.brief);
        if (!brief) return fail(brief.error());
        int code = metAll;
        for (std::size_t i = 0; i < options_.files.size(); ++i) {
            const std::string& file = options_.files[i];
            progress_.item("checking " + file, i, options_.files.size());
            const auto judged = project::readAndJudge(file, *brief, progress_, {}, project::Spares::Memory);
            progress_.clear();
            if (!judged) {
                code = fail(judged.error());
                if (code == wasInterrupted) return code;
                continue;
            }
            if (options_.json)
                print(jsonOf(*judged));
            else
                out_ << checkReport(*judged, *brief);
            if (!judged->verdict.allMet()) code = std::max(code, notMet);
        }
        return code;
    }

    int runSteps() {
        steps::Recipe recipe;
        if (!options_.recipe.empty()) {
            auto read = steps::loadRecipe(options_.recipe);
            if (!read) return fail(read.error());
            recipe = std::move(*read);
        }
        for (const std::string& text : options_.steps) {
            auto call = steps::parseStepCall(text);
            if (!call) return fail(call.error());
            recipe.steps.push_back(*call);
        }
        const auto spares = recipe.repair ? project::Spares::Time : project::Spares::Memory;
        return process(spares, [&](const project::Judged& input, const auto& seen) {
            return project::run({input.part, input.brief, input.surface.unit, seen}, recipe, formatOfOutput(),
                                progress_);
        });
    }

    int repair() {
        if (!(options_.repair.maxDeviation >= 0))
            return fail({mesh::ErrorKind::BadInput, "--max-deviation must not be negative"});
        steps::RepairAsked asked = options_.repair;
        if (const auto wrong = readAnswers(asked.answers)) return fail(*wrong);
        return process(project::Spares::Time, [&](const project::Judged& input, const auto& seen) {
            return project::repair({input.part, input.brief, input.surface.unit, seen}, asked, formatOfOutput(),
                                   progress_);
        });
    }

    int compare() {
        progress_.stage("reading " + options_.input, 0, 0.1);
        auto two = project::readTwo(options_.input, options_.other, progress_);
        if (!two) return fail(two.error());
        progress_.stage("comparing", 0.1, 1);
        const check::Surveyed from(two->first.mesh);
        const check::Surveyed to(two->second.mesh);
        const auto comparison =
            options_.align ? project::compareAligned(from, to, progress_) : project::compare(from, to, {}, progress_);
        progress_.clear();
        if (!comparison) return fail(comparison.error());
        if (options_.json)
            print(project::compareJson(*comparison, *two));
        else
            out_ << compareReport(*comparison, *two);
        return metAll;
    }

    int measure() {
        progress_.stage("reading " + options_.input, 0, 0.9);
        const auto surface = io::readSurface(std::filesystem::path(options_.input), progress_);
        if (!surface) return fail(surface.error());
        const check::Surveyed part(surface->mesh);
        mesh::Pick pick;
        if (!options_.pick.empty()) {
            progress_.stage("picking", 0.9, 1);
            auto picked = steps::pickFromText(options_.pick, part, progress_);
            if (!picked) return fail(picked.error());
            pick = std::move(*picked);
        }
        progress_.clear();
        const measure::Numbers numbers = measure::numbersOf(part.mesh(), part.edges(), pick);
        const project::MassAsked mass{.density = options_.density, .unit = surface->unit};
        if (options_.json)
            print(project::numbersJson(options_.input, numbers, mass));
        else
            out_ << numbersReport(options_.input, numbers, mass);
        return metAll;
    }

    int split() {
        const std::filesystem::path in = options_.input;
        const std::filesystem::path folder = options_.output;
        progress_.stage("reading " + options_.input, 0, 0.5);
        const auto surface = io::readSurface(in, progress_);
        if (!surface) return fail(surface.error());
        const check::Surveyed part(surface->mesh);
        progress_.stage("taking apart", 0.5, 0.8);
        const std::string name = in.stem().string();
        std::vector<project::Piece> pieces;
        if (!options_.pick.empty()) {
            const auto pick = steps::pickFromText(options_.pick, part, progress_);
            if (!pick) return fail(pick.error());
            pieces = project::apartByPick(part, *pick, name);
        } else if (options_.by == "regions") {
            pieces = project::apartByRegion(part, name);
        } else {
            const auto survey = part.survey({}, progress_);
            if (!survey) return fail(survey.error());
            pieces = project::apartByBody(part, **survey, name);
        }
        std::error_code error;
        std::filesystem::create_directories(folder, error);
        if (error) return fail({mesh::ErrorKind::BadInput, fmt::format("{}: {}", options_.output, error.message())});
        std::vector<std::filesystem::path> files;
        const io::Format* format = io::formatForWriting(options_.input);
        if (!format) format = &io::stlBinary;
        for (const std::string& piece : project::fileNamesOf(pieces)) {
            files.push_back(folder / (piece + std::string(format->extension)));
            if (std::filesystem::exists(files.back()))
                return fail({mesh::ErrorKind::BadInput,
                             fmt::format("{} is there already: name another folder", files.back().string())});
        }
        progress_.stage("writing", 0.8, 1);
        for (std::size_t i = 0; i < pieces.size(); ++i)
            if (const auto written = io::writeSurface(pieces[i].mesh, files[i], {*format, surface->unit}, progress_);
                !written)
                return fail(written.error());
        progress_.clear();
        for (std::size_t i = 0; i < pieces.size(); ++i) {
            const std::size_t triangles = pieces[i].mesh.triangles.size();
            if (options_.json)
                print({{"file", files[i].string()}, {"name", pieces[i].name}, {"triangles", triangles}});
            else
                out_ << fmt::format("{}: {} triangles\n", files[i].string(), triangles);
        }
        return metAll;
    }

    int picture() {
        project::PortraitOptions how;
        if (const auto wrong = readPictureOptions(how)) return fail(*wrong);
        progress_.stage("reading " + options_.input, 0, 0.7);
        const auto judged = project::readAndJudge(options_.input, {}, progress_);
        if (!judged) return fail(judged.error());
        progress_.stage("drawing " + options_.input, 0.7, 1);
        const auto drawn = project::portraitOf(*judged->part, *judged->survey, how, progress_);
        if (!drawn) return fail(drawn.error());
        const auto written = io::writeBytes(options_.output, draw::pngOf(*drawn));
        progress_.clear();
        if (!written) return fail(written.error());
        return metAll;
    }

    int listSteps() {
        if (options_.json)
            print(project::catalogueJson());
        else
            out_ << stepsReport();
        return metAll;
    }

    int report() {
        if (const auto named = project::isReportName(options_.output); !named) return fail(named.error());
        const auto brief = steps::loadBrief(options_.brief);
        if (!brief) return fail(brief.error());
        Json said;
        if (!options_.done.empty()) {
            const auto bytes = io::readBytes(options_.done);
            if (!bytes) return fail(bytes.error());
            said = Json::parse(*bytes, nullptr, false);
            if (!said.is_object() || !said.contains("steps"))
                return fail({mesh::ErrorKind::BadInput,
                             fmt::format("{}: the JSON of one run or repair is expected (--json)", options_.done)});
        }
        progress_.stage("reading " + options_.input, 0, 0.25);
        const auto input = project::readAndJudge(options_.input, *brief, progress_);
        if (!input) return fail(input.error());
        progress_.stage("reading " + options_.other, 0.25, 0.5);
        auto output = project::readAndJudge(options_.other, *brief, progress_);
        if (!output) return fail(output.error());
        progress_.stage("comparing", 0.5, 0.8);
        const auto compared = project::compareJudged(*input, *output, progress_);
        if (!compared) return fail(compared.error());
        output->judgeLost(compared->loss);
        progress_.stage("writing " + options_.output, 0.8, 1);
        project::ReportSource source{*input, *output, *input->part, *compared};
        source.madeBy = "zither-cli " ZITHER_VERSION;
        readDone(said, source);
        const auto report = project::reportOf(source, progress_);
        if (!report) return fail(report.error());
        const auto written = project::writeReport(*report, options_.output);
        progress_.clear();
        if (!written) return fail(written.error());
        return output->verdict.allMet() ? metAll : notMet;
    }

    int batch() {
        // What is wrong with the job is said once, not of every file.
        if (const auto brief = steps::loadBrief(options_.batch.brief); !brief) return fail(brief.error());
        if (!options_.batch.recipe.empty())
            if (const auto recipe = steps::loadRecipe(options_.batch.recipe); !recipe) return fail(recipe.error());
        BatchOptions batch = options_.batch;
        batch.threads = static_cast<unsigned>(options_.threads);
        return runBatch(batch, console_.program, console_);
    }

    int example() { return runExample(options_.input, options_.output, console_); }

private:
    // Steps with their reasons, and a recipe of them, from what `run` or `repair` said.
    static void readDone(const Json& said, project::ReportSource& source) {
        if (!said.is_object()) return;
        Json recipe = {{"zither", 1}, {"steps", Json::array()}};
        for (const Json& step : said["steps"]) {
            if (!step.is_object()) continue;
            project::ReportStep& one = source.steps.emplace_back();
            one.name = step.value("name", "");
            one.why = step.value("why", "");
            one.seconds = step.value("seconds", 0.0);
            for (const Json& sentence : step.value("said", Json::array()))
                if (sentence.is_string()) one.sentences.push_back(sentence.get<std::string>());
            recipe["steps"].push_back({{"name", one.name}, {"parameters", step.value("parameters", Json::object())}});
        }
        source.recipe = recipe.dump(2);
    }

    // What is wrong with them, if anything is.
    std::optional<Error> readPictureOptions(project::PortraitOptions& how) const {
        if (!options_.output.ends_with(".png"))
            return Error{mesh::ErrorKind::BadInput, fmt::format("{}: pictures are written as .png", options_.output)};
        for (const auto& [name, view] : draw::namedViews)
            if (options_.from == name) how.from = view;
        if (!options_.cut.empty()) how.cutAcross = options_.cut[0] - 'x';
        constexpr int least = 16;
        constexpr int most = 16'384;
        std::istringstream size(options_.size);
        char by = 0;
        if (!(size >> how.width >> by >> how.height) || by != 'x' || size.peek() != EOF ||
            std::min(how.width, how.height) < least || std::max(how.width, how.height) > most)
            return Error{mesh::ErrorKind::BadInput,
                         fmt::format("--size {}: give it as WIDTHxHEIGHT, each from {} to {} pixels, as 1280x800",
                                     options_.size, least, most)};
        return std::nullopt;
    }

    int fail(const Error& error) {
        progress_.clear();
        project::journal::failed("call", error);
        if (error.cancelled()) {
            err_ << "zither-cli: interrupted; every file is as it was\n";
            return wasInterrupted;
        }
        err_ << "zither-cli: " << error.message << "\n";
        return wrongCall;
    }
    void print(const Json& json) { out_ << json.dump(-1, ' ', false, Json::error_handler_t::replace) << "\n"; }

    static Json jsonOf(const project::Judged& j) { return project::fileJson(j); }

    // How many triangles of the output are bit-identical to the input's, and with which step the others came.
    static Json changeOf(const project::Judged& input, const project::Judged& output,
                         const std::vector<steps::DoneStep>& done) {
        std::vector<project::PastSurface> stops{{input.part->shared()}};
        for (const steps::DoneStep& s : done) stops.push_back({s.part->shared(), s.record.motion});
        std::vector<std::size_t> counts(stops.size() + 1, 0);
        for (const std::uint32_t s : project::firstStopWith(output.part->mesh(), stops)) ++counts[s];
        Json steps = Json::array();
        for (std::size_t i = 0; i < done.size(); ++i)
            steps.push_back({{"name", done[i].call.step->name},
                             {"nature", done[i].call.step->brings},
                             {"triangles", counts[i + 1]}});
        return {{"bit_identical", counts.front()}, {"by_step", steps}, {"by_rounding", counts.back()}};
    }

    // Reads, changes, and hands over: what `run` and `repair` share.
    template <class Change>
    int process(project::Spares spares, const Change& change) {
        const auto start = std::chrono::steady_clock::now();
        const auto brief = steps::loadBrief(options_.brief);
        if (!brief) return fail(brief.error());
        if (const auto wrong = wrongOutput()) return fail(*wrong);
        progress_.stage("reading " + options_.input, 0, 0.15);
        auto input = project::readAndJudge(options_.input, *brief, progress_, {}, spares);
        if (!input) return fail(input.error());
        progress_.stage("working on " + options_.input, 0.15, 0.6);
        const auto seen = std::make_shared<steps::SeenOfImport>(input->part);
        auto changed = change(*input, seen);
        if (!changed) return fail(changed.error());
        if (options_.dryRun) return sayWhatWouldBeDone(*input, *changed);
        const project::Order order{
            {options_.output, project::unitAfter(changed->steps, input->surface.unit), formatAsked()},
            *brief,
            project::originAfter(seen, changed->steps)};
        check::SurveyedPtr result = changed->steps.empty() ? input->part : changed->steps.back().part;
        sayLosses(*input, result->mesh(), order.to);
        // What it was judged by is not needed once the file is, and as much is asked for then.
        if (!changed->steps.empty()) changed->steps.back().part = changed->steps.back().part->light();
        progress_.stage("writing and proving " + options_.output, 0.6, 1);
        const auto delivered = project::deliver(std::move(result), order, progress_);
        if (!delivered) return fail(delivered.error());
        progress_.clear();
        const std::vector<std::string> warnings = project::warningsOf(changed->steps, *delivered->loss);
        const bool idle = options_.strict && project::anyIdle(changed->steps);
        if (options_.json) {
            print(processJson(*input, *delivered, *changed, warnings, start));
        } else {
            out_ << processReport(*input, *delivered, *changed, warnings)
                 << (options_.explain ? triedReport(changed->tried) : std::string());
        }
        const bool fine = delivered->file.verdict.allMet() && !idle && project::muchLostText(*delivered->loss).empty();
        return fine ? metAll : notMet;
    }

    Json processJson(const project::Judged& input, const project::Delivered& delivered,
                     const steps::RepairResult& changed, const std::vector<std::string>& warnings,
                     std::chrono::steady_clock::time_point start) {
        const project::Judged& output = delivered.file;
        Json list = stepsJson(changed.steps);
        if (output.settled) list.push_back(stepJson(*output.settled));
        Json whole = {{"warnings", warnings},
                      {"input", jsonOf(input)},
                      {"output", jsonOf(output)},
                      {"steps", list},
                      {"deviation", project::deviationJson(delivered.compared->distance)},
                      {"kept", delivered.compared->distance.kept},
                      {"change", changeOf(input, output, changed.steps)},
                      {"left", leftJson(changed)},
                      {"questions", project::questionsJson(changed.questions)},
                      {"worse", project::worseJson(*input.survey, *output.survey)}};
        whole.update(project::lossJson(*delivered.loss));
        if (options_.explain) whole["tried"] = project::triedJson(changed.tried);
        if (changed.timeWasUp) whole["time_was_up"] = true;
        whole["lost_untold"] = delivered.compared->lostUntold;
        whole["seconds"] = std::chrono::duration<double>(std::chrono::steady_clock::now() - start).count();
        return whole;
    }

    // What is wrong with where it would be written, before any work is done.
    [[nodiscard]] std::optional<Error> wrongOutput() const {
        if (options_.dryRun) return std::nullopt;
        if (!io::formatForWriting(options_.output))
            return Error{mesh::ErrorKind::BadInput,
                         fmt::format("{}: give the output an extension that can be written: {}", options_.output,
                                     fmt::join(io::writableExtensions(), ", "))};
        std::error_code none;
        if (!options_.overwrite && std::filesystem::equivalent(options_.input, options_.output, none))
            return Error{
                mesh::ErrorKind::BadInput,
                fmt::format("{}: this is the input itself: name another output, or say --overwrite to replace it",
                            options_.output)};
        return std::nullopt;
    }

    // nullptr: by the extension.
    [[nodiscard]] const io::Format* formatAsked() const {
        for (const io::Format* f : io::writableFormats())
            if (f->name == options_.format) return f;
        return nullptr;
    }
    [[nodiscard]] const io::Format* formatOfOutput() const {
        return formatAsked() ? formatAsked() : io::formatForWriting(options_.output);
    }

    static Json stepJson(const steps::DoneStep& s) {
        Json json = project::stepJson(*s.call.step, s.used, s.record, s.seconds);
        if (!s.why.empty()) json["why"] = s.why;
        return json;
    }
    static Json stepsJson(const std::vector<steps::DoneStep>& steps) {
        Json list = Json::array();
        for (const steps::DoneStep& s : steps) list.push_back(stepJson(s));
        return list;
    }
    // What is wrong with them, if anything is.
    std::optional<Error> readAnswers(std::vector<steps::AnswerGiven>& answers) const {
        if (!options_.answersFile.empty()) {
            auto read =
                steps::answersFromFile(options_.answersFile, std::filesystem::path(options_.input).filename().string());
            if (!read) return read.error();
            answers = std::move(*read);
        }
        for (const std::string& text : options_.answers) {
            auto read = steps::answerFromText(text);
            if (!read) return read.error();
            answers.push_back(std::move(*read));
        }
        return std::nullopt;
    }

    static Json leftJson(const steps::RepairResult& changed) {
        Json left = Json::array();
        for (std::string& line : steps::leftInLines(changed.left)) left.push_back(std::move(line));
        return left;
    }

    int sayWhatWouldBeDone(const project::Judged& input, const steps::RepairResult& would) {
        progress_.clear();
        if (options_.json) {
            Json whole = {{"input", jsonOf(input)},
                          {"steps", stepsJson(would.steps)},
                          {"left", leftJson(would)},
                          {"questions", project::questionsJson(would.questions)}};
            if (options_.explain) whole["tried"] = project::triedJson(would.tried);
            print(whole);
        } else {
            out_ << dryReport(input, would);
            if (options_.explain) out_ << triedReport(would.tried);
        }
        return metAll;
    }

    // What the output will not hold is said before it is written.
    void sayLosses(const project::Judged& input, const mesh::Mesh& result, const project::Destination& to) {
        const auto losses = project::lossesOf(result, to, input.surface.notKept);
        if (losses.empty() || options_.quiet) return;
        progress_.clear();
        err_ << fmt::format("zither-cli: note: {} will not hold {}\n", options_.output, fmt::join(losses, ", "));
    }

    const Options& options_;
    const Console& console_;
    std::ostream& out_;
    std::ostream& err_;
    ProgressLine progress_;
};

// Every call by its name.
struct Call {
    std::string_view name;
    int (Calls::*run)();
};
constexpr Call calls[] = {{"check", &Calls::check},     {"run", &Calls::runSteps},    {"repair", &Calls::repair},
                          {"compare", &Calls::compare}, {"measure", &Calls::measure}, {"split", &Calls::split},
                          {"picture", &Calls::picture}, {"steps", &Calls::listSteps}, {"batch", &Calls::batch},
                          {"report", &Calls::report},   {"example", &Calls::example}};

}  // namespace

int run(const std::vector<std::string>& arguments, const Console& given) {
    const Parsed parsed = parseArguments(arguments, given.out, given.err);
    if (parsed.exitCode) return *parsed.exitCode;
    std::optional<tbb::global_control> threads;
    if (parsed.options.threads > 0)
        threads.emplace(tbb::global_control::max_allowed_parallelism, static_cast<std::size_t>(parsed.options.threads));
    Console console = given;
    console.quiet = parsed.options.quiet;
    if (parsed.options.verbose) project::journal::writeToStandardError();
    project::journal::note(fmt::format("zither-cli " ZITHER_VERSION " {}", fmt::join(arguments, " ")));
    for (const Call& call : calls)
        if (call.name == parsed.call) {
            Calls all(parsed.options, console);
            const int code = (all.*call.run)();
            project::journal::note(fmt::format("ended with {}", code));
            return code;
        }
    return wrongCall;
}

}  // namespace zither::cli
