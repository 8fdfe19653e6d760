// A project as a file (.zither, SQLite): parts with every stop of their tracks, each surface once, packed, as what it
// differs by where that is smaller; docs/file-formats.md has the tables. What is written survives a power cut; what is
// damaged is told, and the rest is read.
#pragma once

#include <cstdint>
#include <filesystem>
#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "project/track.h"

namespace zither::project {

struct StoredPart {
    std::string name;
    std::string file;    // that it was read from; empty: none
    std::string format;  // as io::Format::name
    std::string unit = "mm";
    bool unitAssumed = true;
    std::vector<std::string> remarks = {};
    std::vector<std::string> notKept = {};
    Track track;
    std::map<StopId, std::vector<steps::Listed>> left = {};  // what a repair left for a person, by stop
};

struct Project {
    std::vector<StoredPart> parts;
    std::optional<std::size_t> front;
    std::string window = "{}";             // what a window keeps besides: an object of JSON
    std::vector<std::string> damage = {};  // what could not be read, in sentences
};

// The file stays open, and locked for others, as long as this is. Not for several threads.
class Store {
public:
    // Both: an Error says that it is open elsewhere, no project, made by a newer Zither, or what the system says.
    // Where there is a project already it is that one, whose content the next save replaces.
    static mesh::Outcome<Store> create(const std::filesystem::path& file);
    static mesh::Outcome<Store> open(const std::filesystem::path& file);

    Store(Store&&) noexcept;
    Store& operator=(Store&&) noexcept;
    ~Store();

    // All of it or nothing. Writes only surfaces and stops that are not there yet. Error also where the file was moved
    // away, removed or replaced meanwhile: then nothing is written.
    mesh::Outcome<void> save(const Project& project, mesh::Progress& progress);
    mesh::Outcome<Project> load(mesh::Progress& progress);
    // Of its parts, without reading them.
    [[nodiscard]] mesh::Outcome<std::vector<std::string>> partNames() const;
    // Something was done to some of them.
    [[nodiscard]] bool hasSteps() const;

    [[nodiscard]] const std::filesystem::path& file() const;
    // Bytes of surfaces that the last save wrote; for tests.
    [[nodiscard]] std::uint64_t written() const;

private:
    struct Open;
    explicit Store(std::unique_ptr<Open> open);
    std::unique_ptr<Open> open_;
};

}  // namespace zither::project
