// Whether there is room for work that wants much memory: it is asked before the work begins.
#pragma once

#include <cstdint>
#include <string>

#include "mesh/outcome.h"

namespace zither::mesh {

// Bytes that this process can still take, by the system's own estimate and the limits set for it; the largest number
// where nothing is known.
std::uint64_t availableMemory();

// Bytes that this process has in memory; 0 where that is not known.
std::uint64_t usedMemory();

// An Error of the environment where `bytes` are clearly not to be had: "WHAT wants about 12 GB of memory, and 7.1 GB
// are free ...". What is needed is an estimate; so is the answer.
[[nodiscard]] Outcome<void> enoughMemory(const std::string& what, std::uint64_t bytes);

// From now on large arrays go back to the system as soon as they are freed. The C library would keep what a step freed,
// in pieces that the next one cannot use: up to a third more at the peak. For the start of a program.
void returnFreedMemory();
// What was freed in small pieces goes back as well, now: after much has gone. Tens of milliseconds.
void returnSmallPieces();

// "1.2 GB".
std::string memoryText(std::uint64_t bytes);

}  // namespace zither::mesh
