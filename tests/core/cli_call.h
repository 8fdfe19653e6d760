// The command line called from a test: its code, and what it said.
#pragma once

#include <sstream>
#include <string>
#include <vector>

#include "cli/command_line.h"

namespace zither::tests {

struct Called {
    int code = 0;
    std::string out;
    std::string err;
};

inline Called callCli(const std::vector<std::string>& arguments) {
    std::ostringstream out;
    std::ostringstream err;
    const int code = cli::run(arguments, cli::Console{out, err});
    return {code, out.str(), err.str()};
}

}  // namespace zither::tests
