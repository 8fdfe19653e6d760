// zither-cli as a function, so that tests can call it: arguments in, text out, exit code back (definitions.md).
#pragma once

#include <string>
#include <vector>

#include "cli/console.h"

namespace zither::cli {

// 0: every requirement of the brief is met. 1: done, and at least one is not. 2: the call is wrong or a file cannot be
// read or written. 130: interrupted; every file is as it was.
int run(const std::vector<std::string>& arguments, const Console& console);

}  // namespace zither::cli
