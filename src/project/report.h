// What became of a part, for somebody who was not there: what came in, what was done and why, before and after, how far
// it is from what came in, pictures, and the verdict of the file as it stands on disk. One file that needs nothing
// else.
#pragma once

#include <string>
#include <vector>

#include "project/comparing.h"
#include "project/delivery.h"
#include "project/document.h"

namespace zither::project {

struct ReportStep {
    std::string name;
    std::string why;                     // of an automatic step
    std::vector<std::string> sentences;  // what it did
    double seconds = 0;
};

struct ReportSource {
    const Judged& input;
    const Judged& output;           // read back from disk
    const check::Surveyed& import;  // the input, moved as the steps have moved it
    const Compared& compared;
    std::vector<ReportStep> steps = {};
    std::string recipe = {};  // JSON that repeats it; empty: not known
    std::string madeBy = {};  // "zither-cli 0.1.0"
};

// SHA-256 of a file's bytes, in hexadecimal. Error: it cannot be read.
mesh::Outcome<std::string> digestOf(const std::filesystem::path& file);

// Every number in it is of the files as they were read. The same for any number of threads. Error: cancelled, or a file
// cannot be read.
mesh::Outcome<Document> reportOf(const ReportSource& source, mesh::Progress& progress);

// As the file's name says: .html or .pdf. Written whole or not at all. Error: another name, or it cannot be written.
mesh::Outcome<void> writeReport(const Document& report, const std::filesystem::path& file);
// Whether it can be written under that name; the same error.
mesh::Outcome<void> isReportName(const std::filesystem::path& file);

}  // namespace zither::project
