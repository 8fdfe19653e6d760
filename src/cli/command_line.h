// zither-cli as a function, so that tests can call it: arguments in, text out, exit code back (definitions.md).
#pragma once

#include <iosfwd>
#include <string>
#include <vector>

namespace zither::cli {

// 0: every requirement of the brief is met. 1: done, and at least one is not. 2: the call is wrong or a file cannot be
// read or written. Results go to `out`, everything else to `err`.
int run(const std::vector<std::string>& arguments, std::ostream& out, std::ostream& err);

}  // namespace zither::cli
