// zither-cli: its console, and Ctrl-C.
#include <unistd.h>

#include <atomic>
#include <csignal>
#include <exception>
#include <iostream>
#include <new>

#include "cli/command_line.h"
#include "mesh/memory.h"

namespace {
std::atomic<bool> interrupted = false;
static_assert(std::atomic<bool>::is_always_lock_free, "a signal may come at any time");

void interrupt(int) {
    interrupted = true;
}
}  // namespace

int main(int argc, char** argv) {
    zither::mesh::returnFreedMemory();
    // A file too large for the disk or a quota is an error to report, not a reason to die.
    std::signal(SIGXFSZ, SIG_IGN);
    // A scheduler that takes a job back asks with the second one.
    for (const int asked : {SIGINT, SIGTERM}) std::signal(asked, interrupt);
    const zither::cli::Console console{std::cout, std::cerr, ::isatty(STDERR_FILENO) != 0, false, &interrupted};
    try {
        return zither::cli::run({argv + 1, argv + argc}, console);
    } catch (const std::bad_alloc&) {
        std::cerr << "zither-cli: there was not enough memory; every file is as it was\n";
    } catch (const std::exception& e) {
        std::cerr << "zither-cli: a fault in the program: " << e.what() << "\n";
    }
    return 2;
}
