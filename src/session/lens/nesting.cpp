// What encloses a shell: cavities, and bodies hidden in others.
#include <algorithm>
#include <array>

#include "session/lens/colours.h"

namespace zither::session {
namespace {

// By how many closed shells enclose a shell: what a cavity is cut out of, and what hides inside, show apart.
mesh::Outcome<Coat> coat(const LensView& view, mesh::Progress&) {
    const check::Survey& survey = view.survey;
    Coat coat;
    coat.colours.resize(survey.shellOf.size());
    std::array<std::size_t, 4> shells{};
    std::uint32_t deepest = 0;
    for (const check::Shell& shell : survey.shells) {
        ++shells[shell.closed ? std::min<std::size_t>(shell.depth, 2) : 3];
        deepest = std::max(deepest, shell.depth);
    }
    for (std::size_t t = 0; t < coat.colours.size(); ++t) {
        const std::uint32_t shell = survey.shellOf[t];
        const bool closed = shell != mesh::noIndex && survey.shells[shell].closed;
        coat.colours[t] = !closed ? packed(QColor(0xB8, 0xB4, 0xA8))
                                  : ramp(0.22 + 0.6 * survey.shells[shell].depth / std::max(2.0, 1.0 * deepest));
    }
    coat.legend.title = "What encloses it";
    coat.legend.note = QString("light: nothing, %1   ·   darker: one shell, %2; more, %3   ·   grey: open, %4")
                           .arg(shells[0])
                           .arg(shells[1])
                           .arg(shells[2])
                           .arg(shells[3]);
    return coat;
}

}  // namespace

constinit const Lens nestingLens = {
    .name = "nesting", .help = "By how many closed shells a shell is enclosed.", .coat = coat};

}  // namespace zither::session
