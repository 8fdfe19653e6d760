// The replaced allocator and the wrapped calls.
#include "tests/fault/faults.h"

#include <link.h>
#include <malloc.h>
#include <unistd.h>

#include <atomic>
#include <cerrno>
#include <cstdint>
#include <cstdio>
#include <cstdlib>
#include <new>
#include <string_view>

namespace {

// Where Embree's code lies in memory. Its own small allocations do not fail here: where the list of threads that build
// a tree cannot grow, it leaves a thread bound to a tree that is gone, and the next tree at that address is built in
// memory that was given back (3.13.5).
class CodeOfEmbree {
public:
    CodeOfEmbree() { dl_iterate_phdr(&find, this); }
    [[nodiscard]] bool holds(const void* address) const {
        const auto at = reinterpret_cast<std::uintptr_t>(address);
        return begin_ <= at && at < end_;
    }

private:
    static int find(dl_phdr_info* library, std::size_t /*size*/, void* self) {
        if (std::string_view(library->dlpi_name).find("/libembree3.") == std::string_view::npos) return 0;
        auto& code = *static_cast<CodeOfEmbree*>(self);
        for (int i = 0; i < library->dlpi_phnum; ++i) {
            const auto& segment = library->dlpi_phdr[i];
            if (segment.p_type != PT_LOAD || !(segment.p_flags & PF_X)) continue;
            code.begin_ = library->dlpi_addr + segment.p_vaddr;
            code.end_ = code.begin_ + segment.p_memsz;
        }
        return 1;
    }

    std::uintptr_t begin_ = 0;
    std::uintptr_t end_ = 0;
};

std::atomic<std::size_t> allocationsLeft = 0;
std::atomic<bool> failedAllocation = false;
std::atomic<std::size_t> fileCallsLeft = 0;
std::atomic<bool> failedFileCall = false;
std::atomic<std::size_t> inUse = 0;
std::atomic<std::size_t> peak = 0;

// True where this is the one that fails.
bool takes(std::atomic<std::size_t>& left) {
    std::size_t n = left.load();
    while (n > 0)
        if (left.compare_exchange_weak(n, n - 1)) return n == 1;
    return false;
}

// `caller`: where in the code it is asked for.
void* allocate(std::size_t size, std::size_t alignment, const void* caller) {
    static const CodeOfEmbree embree;
    if (allocationsLeft > 0 && !embree.holds(caller) && takes(allocationsLeft)) {
        failedAllocation = true;
        throw std::bad_alloc();
    }
    void* p = alignment > alignof(std::max_align_t)
                  ? std::aligned_alloc(alignment, (size + alignment - 1) / alignment * alignment)
                  : std::malloc(size ? size : 1);
    if (!p) throw std::bad_alloc();
    const std::size_t now = inUse += malloc_usable_size(p);
    std::size_t most = peak.load();
    while (now > most && !peak.compare_exchange_weak(most, now)) {
    }
    return p;
}

void release(void* p) {
    if (!p) return;
    inUse -= malloc_usable_size(p);
    std::free(p);
}

}  // namespace

void* operator new(std::size_t size) {
    return allocate(size, 0, __builtin_return_address(0));
}
void* operator new[](std::size_t size) {
    return allocate(size, 0, __builtin_return_address(0));
}
// Temporary buffers of the library's sorts.
void* operator new(std::size_t size, const std::nothrow_t&) noexcept {
    try {
        return allocate(size, 0, __builtin_return_address(0));
    } catch (const std::bad_alloc&) {
        return nullptr;
    }
}
void* operator new(std::size_t size, std::align_val_t alignment) {
    return allocate(size, static_cast<std::size_t>(alignment), __builtin_return_address(0));
}
void* operator new[](std::size_t size, std::align_val_t alignment) {
    return allocate(size, static_cast<std::size_t>(alignment), __builtin_return_address(0));
}
void operator delete(void* p) noexcept {
    release(p);
}
void operator delete[](void* p) noexcept {
    release(p);
}
void operator delete(void* p, std::size_t) noexcept {
    release(p);
}
void operator delete[](void* p, std::size_t) noexcept {
    release(p);
}
void operator delete(void* p, std::align_val_t) noexcept {
    release(p);
}
void operator delete[](void* p, std::align_val_t) noexcept {
    release(p);
}
void operator delete(void* p, std::size_t, std::align_val_t) noexcept {
    release(p);
}
void operator delete[](void* p, std::size_t, std::align_val_t) noexcept {
    release(p);
}

extern "C" {
ssize_t __real_read(int descriptor, void* buffer, size_t size);
ssize_t __real_write(int descriptor, const void* buffer, size_t size);
int __real_fsync(int descriptor);
int __real_rename(const char* from, const char* to);

ssize_t __wrap_read(int descriptor, void* buffer, size_t size);
ssize_t __wrap_write(int descriptor, const void* buffer, size_t size);
int __wrap_fsync(int descriptor);
int __wrap_rename(const char* from, const char* to);
}

namespace {
bool failsNow() {
    if (!takes(fileCallsLeft)) return false;
    failedFileCall = true;
    errno = EIO;
    return true;
}
}  // namespace

ssize_t __wrap_read(int descriptor, void* buffer, size_t size) {
    return failsNow() ? -1 : __real_read(descriptor, buffer, size);
}
ssize_t __wrap_write(int descriptor, const void* buffer, size_t size) {
    return failsNow() ? -1 : __real_write(descriptor, buffer, size);
}
int __wrap_fsync(int descriptor) {
    return failsNow() ? -1 : __real_fsync(descriptor);
}
int __wrap_rename(const char* from, const char* to) {
    return failsNow() ? -1 : __real_rename(from, to);
}

namespace zither::tests {

void failAllocation(std::size_t n) {
    failedAllocation = false;
    allocationsLeft = n;
}
bool allocationFailed() {
    return failedAllocation;
}
void failFileCall(std::size_t n) {
    failedFileCall = false;
    fileCallsLeft = n;
}
bool fileCallFailed() {
    return failedFileCall;
}
std::size_t bytesInUse() {
    return inUse;
}
std::size_t peakBytes() {
    return peak;
}
void resetPeak() {
    peak = inUse.load();
}

}  // namespace zither::tests
