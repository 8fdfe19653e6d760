// Which shells of the part in front are drawn as ghosts, or not at all, so that others can be seen and picked. A shell
// is known by its box and size: one that a step leaves alone stays as it is shown.
#pragma once

#include <QObject>
#include <array>
#include <map>
#include <memory>
#include <span>
#include <vector>

#include "mesh/pick.h"
#include "session/state/bench.h"
#include "session/state/parts.h"

namespace zither::session {

class Looks;

class Veil : public QObject {
    Q_OBJECT
public:
    explicit Veil(const Bench& bench);

    enum class Shown { Full, Ghost, Not };
    [[nodiscard]] Shown of(const check::Shell& shell) const;
    void set(const check::Shell& shell, Shown how);
    // All others become ghosts, or go.
    void only(const check::Shell& shell, Shown others);
    void showAll();
    [[nodiscard]] bool any() const;

    // What is drawn of a surface.
    struct Flags {
        std::vector<std::uint8_t> hidden;         // one a triangle: it is not there
        std::vector<std::uint8_t> faint;          // it is a ghost, or not there
        std::vector<project::DefectLines> lines;  // of what is drawn full
    };
    // Of what is shown; nullptr: everything.
    [[nodiscard]] std::shared_ptr<const Flags> flags() const;
    // What clicks go through: one flag a triangle; empty: nothing.
    [[nodiscard]] std::span<const std::uint8_t> faintOf(const Display& display) const;
    // The triangles of the kept surface that are ghosts, or not there.
    [[nodiscard]] mesh::Pick faintPick() const;

Q_SIGNALS:
    void changed();

private:
    using Key = std::array<double, 8>;  // box, triangles, area
    static Key keyOf(const check::Shell& shell);
    void tell();

    const Parts& parts_;
    const Looks& looks_;
    std::map<std::uint64_t, std::map<Key, Shown>> ofPart_;
    mutable std::shared_ptr<const Flags> flags_;
    mutable check::SurveyedPtr flagsOf_;  // the surface that they were made for
};

}  // namespace zither::session
