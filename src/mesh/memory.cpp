// From /proc and the limits of the process.
#include "mesh/memory.h"

#include <fmt/format.h>
#include <malloc.h>
#include <sys/resource.h>

#include <algorithm>
#include <fstream>
#include <limits>
#include <sstream>

namespace zither::mesh {
namespace {

constexpr std::uint64_t unknown = std::numeric_limits<std::uint64_t>::max();

// The number behind a key of /proc files, in bytes; `unknown` where there is none.
std::uint64_t bytesOf(const char* file, const std::string& key) {
    std::ifstream in(file);
    for (std::string line; std::getline(in, line);) {
        if (!line.starts_with(key)) continue;
        std::istringstream rest(line.substr(key.size()));
        std::uint64_t kilobytes = 0;
        if (rest >> kilobytes) return kilobytes * 1024;
    }
    return unknown;
}

// A limit on the address space, less what is mapped.
std::uint64_t underLimit() {
    rlimit limit{};
    if (::getrlimit(RLIMIT_AS, &limit) != 0 || limit.rlim_cur == RLIM_INFINITY) return unknown;
    const std::uint64_t used = bytesOf("/proc/self/status", "VmSize:");
    return used == unknown || used > limit.rlim_cur ? 0 : limit.rlim_cur - used;
}

}  // namespace

std::uint64_t availableMemory() {
    return std::min(bytesOf("/proc/meminfo", "MemAvailable:"), underLimit());
}

std::uint64_t usedMemory() {
    const std::uint64_t used = bytesOf("/proc/self/status", "VmRSS:");
    return used == unknown ? 0 : used;
}

Outcome<void> enoughMemory(const std::string& what, std::uint64_t bytes) {
    const std::uint64_t free = availableMemory();
    if (bytes <= free) return {};
    return environment(
        fmt::format("{} wants about {} of memory, and {} are free: close other work, or work on a part of "
                    "it",
                    what, memoryText(bytes), memoryText(free)),
        errorcode::memory, what);
}

void returnFreedMemory() {
    // Set once, the limit does not follow what is freed, as it does by itself up to 32 MB.
    constexpr int largeArray = 1 << 18;
    ::mallopt(M_MMAP_THRESHOLD, largeArray);
    ::mallopt(M_TRIM_THRESHOLD, largeArray);
}

void returnSmallPieces() {
    ::malloc_trim(0);
}

std::string memoryText(std::uint64_t bytes) {
    constexpr double giga = 1e9;
    const double value = static_cast<double>(bytes);
    return value >= giga ? fmt::format("{:.1f} GB", value / giga) : fmt::format("{:.0f} MB", value / 1e6);
}

}  // namespace zither::mesh
