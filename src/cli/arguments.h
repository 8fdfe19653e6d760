// What the command line was given.
#pragma once

#include <iosfwd>
#include <optional>
#include <string>
#include <vector>

#include "cli/batch.h"
#include "project/job.h"

namespace zither::cli {

// Exit codes of definitions.md.
inline constexpr int metAll = 0;
inline constexpr int notMet = 1;
inline constexpr int wrongCall = 2;
inline constexpr int wasInterrupted = 130;

// Everything that the calls can be given.
struct Options {
    std::vector<std::string> files;
    std::string input;
    std::string output;
    std::string other;
    bool align = false;
    std::string pick;
    double density = 0;
    std::string brief = "print";
    std::vector<std::string> steps;
    std::string recipe;
    steps::RepairAsked repair;
    std::vector<std::string> answers;  // "ID=WORD"
    std::string answersFile;
    bool explain = false;    // which ways were tried
    bool strict = false;     // a step that does nothing is a failure
    bool overwrite = false;  // the output may be the input
    std::string from = "iso";
    std::string size = "1280x800";
    std::string cut;
    std::string done;  // what `run` or `repair` said, as JSON
    std::string by = "bodies";
    BatchOptions batch;
    int threads = 0;  // 0: as many as there are cores
    std::string format;
    bool dryRun = false;
    bool json = false;
    bool quiet = false;
    bool verbose = false;
};

struct Parsed {
    std::string call;  // "check", "run" ...
    Options options;
    std::optional<int> exitCode;  // help was printed, or the call is wrong
};
Parsed parseArguments(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

}  // namespace zither::cli
