// What happened, for whoever has to find out why: what was asked for, how long it took, what went wrong and how much
// memory there was. Names of files, never what they hold. Quiet until it is told where to write; from any thread.
#pragma once

#include <filesystem>
#include <string>

#include "mesh/outcome.h"

namespace zither::project::journal {

// Lines with the time on standard error, from now on.
void writeToStandardError();
// The newest few megabytes, in files of which the oldest goes; the folder is made. Where that cannot be, it stays
// quiet: no work depends on it.
void writeTo(const std::filesystem::path& folder);

void note(const std::string& what);
void ended(const std::string& what, double seconds);
void failed(const std::string& what, const mesh::Error& error);

// The program, this machine and the last lines of the folder's file: to be pasted where a fault is told.
std::string recent(const std::string& program);

}  // namespace zither::project::journal
