#include <csignal>
#include <iostream>

#include "cli/command_line.h"

int main(int argc, char** argv) {
    // A file too large for the disk or a quota is an error to report, not a reason to die.
    std::signal(SIGXFSZ, SIG_IGN);
    return zither::cli::run({argv + 1, argv + argc}, std::cout, std::cerr);
}
