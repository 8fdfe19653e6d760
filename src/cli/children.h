// Other processes: each has its own memory and ends by itself, whatever happens in it.
#pragma once

#include <chrono>
#include <cstdint>
#include <optional>
#include <string>
#include <vector>

#include "mesh/outcome.h"

namespace zither::cli {

// A program that runs beside this one; what it says is kept. Not copied; killed where it still runs in the end.
class Child {
public:
    // `memory`: bytes of address space that it may take; 0: as much as there is. Error: it could not be started.
    static mesh::Outcome<Child> start(const std::vector<std::string>& command, std::uint64_t memory);

    Child(Child&& other) noexcept;
    Child& operator=(Child&& other) noexcept;
    Child(const Child&) = delete;
    Child& operator=(const Child&) = delete;
    ~Child();

    // How it ended; nothing while it runs. Does not wait.
    struct End {
        int code = 0;    // where it ended by itself
        int signal = 0;  // that ended it; 0: none did
    };
    [[nodiscard]] std::optional<End> ended();
    // As Ctrl-C does: it leaves files as they were.
    void interrupt();
    void kill();
    [[nodiscard]] double seconds() const;
    // What it wrote until now.
    [[nodiscard]] std::string out() const;
    [[nodiscard]] std::string err() const;

private:
    Child() = default;

    int process_ = -1;
    int out_ = -1;  // files without a name
    int err_ = -1;
    std::optional<End> end_;
    std::chrono::steady_clock::time_point begun_ = std::chrono::steady_clock::now();
};

}  // namespace zither::cli
