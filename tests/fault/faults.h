// Makes the n-th allocation, or the n-th system call on files, fail; and counts the memory that is in use. Linked into
// a test program of its own: it replaces the allocator and wraps the calls (linker option --wrap).
#pragma once

#include <cstddef>

namespace zither::tests {

// From now on the n-th allocation (from 1) throws std::bad_alloc, once; 0: none does.
void failAllocation(std::size_t n);
// True where an allocation has failed since.
bool allocationFailed();

// From now on the n-th read, write, fsync or rename fails with EIO, once; 0: none does.
void failFileCall(std::size_t n);
bool fileCallFailed();

// Bytes that are allocated now, and the most that were since resetPeak().
std::size_t bytesInUse();
std::size_t peakBytes();
void resetPeak();

}  // namespace zither::tests
