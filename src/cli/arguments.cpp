// Kept apart from the calls: the argument parser is a large header.
#include "cli/arguments.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <CLI/CLI.hpp>
#include <cstdlib>
#include <filesystem>
#include <sstream>

#include "draw/view.h"
#include "io/surface_file.h"
#include "steps/brief.h"

namespace zither::cli {

namespace {

template <class Named>
std::string idsOf(const Named& all) {
    std::vector<std::string> ids;
    ids.reserve(all.size());
    for (const auto& one : all) ids.push_back(one.id);
    return fmt::format("{}", fmt::join(ids, ", "));
}

void addBrief(CLI::App* call, Options& o) {
    call->add_option("--brief", o.brief, idsOf(steps::builtInBriefs()) + ", or a .json file")->capture_default_str();
}

void addJson(CLI::App* call, Options& o) {
    call->add_flag("--json", o.json, "one JSON object a line");
}

void addCheck(CLI::App& app, Options& o) {
    CLI::App* check = app.add_subcommand("check", "reads files and judges them");
    check->add_option("FILE", o.files, "surface files")->required();
    addBrief(check, o);
    addJson(check, o);
}

// What is written, and judged as written.
void addWriting(CLI::App* call, Options& o) {
    call->add_option("IN", o.input, "surface file")->required();
    call->add_option("-o,--output", o.output,
                     fmt::format("file to write: {}", fmt::join(io::writableExtensions(), ", ")));
    std::vector<std::string> formats;
    for (const io::Format* f : io::writableFormats()) formats.emplace_back(f->name);
    call->add_option("--format", o.format, "of the file, where its extension leaves a choice")
        ->check(CLI::IsMember(formats));
    call->add_flag("--dry-run", o.dryRun, "says what each step would do, and writes nothing");
    call->add_flag("--overwrite", o.overwrite, "the output may be the input itself, which is replaced");
    call->add_flag("--strict", o.strict, "ends with 1 where a step did nothing");
    call->callback([&o] {
        if (o.output.empty() && !o.dryRun) throw CLI::RequiredError("--output");
    });
    addBrief(call, o);
    addJson(call, o);
}

void addRun(CLI::App& app, Options& o) {
    CLI::App* run = app.add_subcommand("run", "reads, applies steps, writes, reads back, judges");
    addWriting(run, o);
    run->add_option("--step", o.steps, "\"NAME key=value ...\"; may be given again")->allow_extra_args(false);
    run->add_option("--recipe", o.recipe, "steps from a JSON file, before those of --step");
}

void addRepair(CLI::App& app, Options& o) {
    CLI::App* repair = app.add_subcommand("repair", "the automatic repair, then as run");
    addWriting(repair, o);
    steps::RepairAsked& asked = o.repair;
    repair->add_option("--max-deviation", asked.maxDeviation, "no vertex is joined over more than this");
    repair
        ->add_option_function<std::string>(
            "--openings", [&asked](const std::string& word) { asked.closeOpenings = word == "close"; },
            "openings that are likely meant: leave them (ask) or close them")
        ->check(CLI::IsMember({"ask", "close"}));
    repair
        ->add_option_function<std::string>(
            "--sheets", [&asked](const std::string& word) { asked.sheets = *steps::sheetWayNamed(word); },
            "what bounds no volume: leave it (ask), drop it or thicken it")
        ->check(CLI::IsMember(steps::sheetWayNames()));
    repair
        ->add_option_function<std::string>(
            "--buried", [&asked](const std::string& word) { asked.buried = *steps::buriedWayNamed(word); },
            "bodies within bodies: material, whose skin goes (the default), voids, or kept as they are")
        ->check(CLI::IsMember(steps::buriedWayNames()));
    repair
        ->add_option(
            "--time-limit", asked.timeLimit,
            "seconds after which the best that there is by then is taken; else 5, and 10 for each 100 thousand "
            "triangles")
        ->check(CLI::PositiveNumber);
    repair->add_flag("--explain", o.explain, "tells which ways were tried, and what each would have left and lost");
    repair
        ->add_option(
            "--answer", o.answers,
            "ID=ANSWER to a question that an earlier run's JSON listed, as opening-1a2b3c4d=close; may be given "
            "again")
        ->allow_extra_args(false);
    repair->add_option("--answers", o.answersFile, "the same from a JSON file");
    repair
        ->add_option("--thickness", asked.thickness,
                     "of sheets that are thickened; else the wall of the brief where the unit is known, a thousandth "
                     "of the diagonal where not")
        ->check(CLI::PositiveNumber);
}

void addCompare(CLI::App& app, Options& o) {
    CLI::App* compare = app.add_subcommand("compare", "how far two surfaces are from each other");
    compare->add_option("A", o.input, "surface file")->required();
    compare->add_option("B", o.other, "surface file")->required();
    compare->add_flag("--align", o.align, "A is brought onto B first, however it lies");
    addJson(compare, o);
}

void addMeasure(CLI::App& app, Options& o) {
    CLI::App* measure = app.add_subcommand("measure", "the numbers of a part, or of a pick of it");
    measure->add_option("FILE", o.input, "surface file")->required();
    measure->add_option("--pick", o.pick, "triangles, as the pick of a step: ball:x,y,z,r, shell:n ...");
    measure->add_option("--density", o.density, "grams a cubic centimetre, for the mass")->check(CLI::PositiveNumber);
    addJson(measure, o);
}

void addSplit(CLI::App& app, Options& o) {
    CLI::App* split = app.add_subcommand("split", "one part made several, each a file; nothing is cut or changed");
    split->add_option("IN", o.input, "surface file")->required();
    split->add_option("-o,--output", o.output, "folder to write to, which may not have files of such names yet")
        ->required();
    split->add_option("--by", o.by, "bodies with their cavities, or regions")
        ->check(CLI::IsMember({"bodies", "regions"}))
        ->capture_default_str();
    split->add_option("--pick", o.pick, "or what is picked, and the rest: as the pick of a step");
    addJson(split, o);
}

void addPicture(CLI::App& app, Options& o) {
    std::vector<std::string> viewNames;
    viewNames.reserve(draw::namedViews.size());
    for (const auto& [name, view] : draw::namedViews) viewNames.emplace_back(name);
    CLI::App* picture = app.add_subcommand("picture", "draws a surface with what is found, without a display");
    picture->add_option("FILE", o.input, "surface file")->required();
    picture->add_option("-o,--output", o.output, "picture to write: .png")->required();
    picture->add_option("--from", o.from, "where it is looked at from")
        ->check(CLI::IsMember(viewNames))
        ->capture_default_str();
    picture->add_option("--cut", o.cut, "cut open across this axis, in the middle")
        ->check(CLI::IsMember({"x", "y", "z"}));
    picture->add_option("--size", o.size, "WIDTHxHEIGHT in pixels")->capture_default_str();
}

void addReport(CLI::App& app, Options& o) {
    CLI::App* report =
        app.add_subcommand("report", "what became of a part, as one file for somebody who was not there");
    report->add_option("IN", o.input, "surface file as it came")->required();
    report->add_option("OUT", o.other, "surface file as it was handed over")->required();
    report->add_option("-o,--output", o.output, "report to write: .html or .pdf")->required();
    report->add_option("--done", o.done,
                       "file with the JSON that run or repair said: what was done and why, and a recipe");
    addBrief(report, o);
}

void addBatch(CLI::App& app, Options& o) {
    BatchOptions& b = o.batch;
    CLI::App* batch = app.add_subcommand("batch", "repair, or a recipe, on many files, each in a process of its own");
    batch->add_option("INPUT", b.inputs, "surface files, and folders of them")->required();
    batch->add_option("-o,--output", b.output, "folder to write to")->required();
    auto* recipe = batch->add_option("--recipe", b.recipe, "steps from a JSON file, in place of the automatic repair");
    batch->add_flag("--repair", b.repair, "the automatic repair: what is done where no recipe is given")
        ->excludes(recipe);
    const auto handOn = [&](const char* name, const char* help, std::vector<std::string> allowed) {
        batch
            ->add_option_function<std::string>(
                name,
                [&b, name](const std::string& value) {
                    b.repairArguments.insert(b.repairArguments.end(), {name, value});
                },
                help)
            ->check(CLI::IsMember(std::move(allowed)))
            ->excludes(recipe);
    };
    handOn("--openings", "as of repair", {"ask", "close"});
    handOn("--sheets", "as of repair", steps::sheetWayNames());
    batch
        ->add_option_function<std::string>(
            "--answers",
            [&b](const std::string& file) {
                b.repairArguments.insert(b.repairArguments.end(), {"--answers", file});
            },
            "as of repair: a JSON file with the answers of each file under \"files\"")
        ->excludes(recipe);
    batch->add_option("--brief", b.brief, idsOf(steps::builtInBriefs()) + ", or a .json file")->capture_default_str();
    batch
        ->add_option("--names", b.names, "what files are called in the folder: {name} and {ext} are those of the input")
        ->capture_default_str();
    batch->add_option("--jobs", b.jobs, "so many at once")->check(CLI::Range(1U, 1024U))->capture_default_str();
    batch->add_option("--shard", b.shard, "i/n: only every n-th file, from the i-th on")->capture_default_str();
    batch->add_flag("--resume", b.resume,
                    "leaves alone what the report says is done, where the files are as they were");
    batch->add_option("--report", b.report, "a line of JSON for each file; else report.jsonl in the output folder");
    batch->add_option("--time-limit", b.secondsAFile, "seconds that a file may take")->check(CLI::PositiveNumber);
    batch->add_option("--memory-limit", b.gigabytesAFile, "gigabytes that a file may take")->check(CLI::PositiveNumber);
    batch->add_flag("--recursive", b.recursive, "folders within the folders as well");
    batch->add_flag("--watch", b.watch, "goes on with files that come into the folders, until Ctrl-C");
}

void addExample(CLI::App& app, Options& o) {
    CLI::App* example = app.add_subcommand("example", "the whole job on every surface file of a folder, as one table");
    example->add_option("FOLDER", o.input, "folder with surface files")->required();
    example->add_option("-o,--output", o.output, "folder to write to")->required();
}

// The nearest file of defaults: the user's own, else the site's (XDG Base Directory Specification). Empty: none.
std::string settingsFile() {
    const auto variable = [](const char* name, std::string fallback) {
        const char* value = std::getenv(name);
        return value && *value ? std::string(value) : std::move(fallback);
    };
    const std::string home = variable("HOME", "");
    std::string folders = variable("XDG_CONFIG_HOME", home.empty() ? "" : home + "/.config") + ":" +
                          variable("XDG_CONFIG_DIRS", "/etc/xdg");
    std::istringstream all(folders);
    for (std::string folder; std::getline(all, folder, ':');) {
        std::string file = folder + "/zither/zither-cli.ini";
        std::error_code none;
        if (!folder.empty() && std::filesystem::is_regular_file(file, none)) return file;
    }
    return {};
}

}  // namespace

Parsed parseArguments(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err) {
    Parsed parsed;
    Options& o = parsed.options;
    CLI::App app("Zither finds and mends what is wrong with triangle surfaces, and proves the file that it writes.",
                 "zither-cli");
    app.require_subcommand(1);
    app.fallthrough();  // general options may stand behind a call as well
    // Only defaults: what stands in the call goes before it.
    app.allow_config_extras(CLI::config_extras_mode::error);
    app.set_config("--settings", settingsFile(), "defaults: a file of lines as repair.sheets=thicken");
    app.set_version_flag("--version", "zither-cli " ZITHER_VERSION);
    app.add_flag("-q,--quiet", o.quiet, "nothing but errors besides the results");
    app.add_flag("-v,--verbose", o.verbose, "what is done and how long it takes, on standard error");
    app.add_option("--threads", o.threads, "at most so many at once; else as many as there are cores")
        ->check(CLI::Range(1, 4096));
    app.footer(fmt::format("Reads {}, told apart by content. Writes {}, by the file's extension.",
                           io::formatTitles("and"), fmt::join(io::writableExtensions(), ", ")));
    addCheck(app, o);
    addRun(app, o);
    addRepair(app, o);
    addCompare(app, o);
    addMeasure(app, o);
    addSplit(app, o);
    addPicture(app, o);
    addJson(app.add_subcommand("steps", "every step with its parameters"), o);
    addReport(app, o);
    addBatch(app, o);
    addExample(app, o);

    try {
        std::vector<std::string> reversed(arguments.rbegin(), arguments.rend());
        app.parse(reversed);
    } catch (const CLI::Success& help) {
        parsed.exitCode = app.exit(help, out, err) == 0 ? metAll : wrongCall;
        return parsed;
    } catch (const CLI::ParseError& error) {
        app.exit(error, err, err);
        parsed.exitCode = wrongCall;
        return parsed;
    }
    parsed.call = app.get_subcommands().front()->get_name();
    return parsed;
}

}  // namespace zither::cli
