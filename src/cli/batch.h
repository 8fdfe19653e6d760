// The same job on many files: each in a process of its own, so that none can stop the others.
#pragma once

#include <string>
#include <vector>

#include "cli/console.h"

namespace zither::cli {

struct BatchOptions {
    std::vector<std::string> inputs;  // files and folders
    std::string output;               // folder
    std::string names = "{name}-mended.{ext}";
    std::string recipe;                        // empty: the automatic repair
    bool repair = false;                       // said aloud; it is what is done without a recipe
    std::vector<std::string> repairArguments;  // handed on to `repair`
    std::string brief = "print";
    unsigned jobs = 1;
    unsigned threads = 0;       // of all jobs together; 0: as many as there are cores
    std::string shard = "1/1";  // i/n, i from 1: every n-th file, from the i-th on
    bool resume = false;        // what the report says is done and whose files are as they were is left alone
    std::string report;         // a line of JSON for each file; empty: OUTPUT/report.jsonl
    double secondsAFile = 0;    // 0: as long as it takes
    double gigabytesAFile = 0;  // 0: as much as there is
    bool recursive = false;     // folders within folders as well
    bool watch = false;         // goes on with files that come into the folders, until it is interrupted
};

// 0: every file that is written meets the brief. 1: some do not. 2: some could not be read, mended or written, or the
// call is wrong. 130: interrupted; finished files stay, and `resume` goes on from there. `program`: zither-cli.
int runBatch(const BatchOptions& options, const std::string& program, const Console& console);

}  // namespace zither::cli
