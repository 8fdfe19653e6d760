// Pieces of surface that share no edge, each in a colour of its own.
#include <cmath>

#include "session/lens/colours.h"
#include "session/reading/palette.h"

namespace zither::session {
namespace {

mesh::Outcome<Coat> coat(const LensView& view, mesh::Progress&) {
    const check::Survey& survey = view.survey;
    Coat coat;
    coat.colours.resize(survey.shellOf.size());
    for (std::size_t t = 0; t < coat.colours.size(); ++t) {
        const std::uint32_t shell = survey.shellOf[t];
        if (shell == mesh::noIndex) {
            coat.colours[t] = packed(view.paper.quiet);
            continue;
        }
        // Golden-angle hues in earth tones: neighbours in number differ, none shouts.
        const int hue = static_cast<int>(std::fmod(28 + 137.508 * shell, 360));
        coat.colours[t] = packed(
            QColor::fromHsl(hue, 70 + static_cast<int>(shell * 31 % 50), 150 + static_cast<int>(shell * 17 % 50)));
    }
    coat.legend.title = QString("%1 shells").arg(survey.counts.shells);
    return coat;
}

}  // namespace

constinit const Lens shellsLens = {
    .name = "shells", .help = "Each piece of surface in a colour of its own.", .coat = coat};

}  // namespace zither::session
