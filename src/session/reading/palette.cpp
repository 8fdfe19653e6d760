// Both papers in one table.
#include "session/reading/palette.h"

#include <algorithm>

namespace zither::session {
namespace paper {
namespace {

struct Sheet {
    std::uint32_t ground, sheet, raised, line, ink, quiet, chosen, spruce, wood, fails, picked, edge;
};
constexpr Sheet light = {0xEFE7DA, draw::ink::sheet, 0xFBF7EF, 0xD9CBB4, 0x222B2E, 0x757066,
                         0xE3D7C0, 0x4C6B5C,         0xB7824F, 0xB3134E, 0x3F7D9C, draw::ink::edge};
constexpr Sheet darker = {0x282D2E, 0x202526, 0x323839, 0x4A5152, 0xEAE2D3, 0xA8A194,
                          0x3F484A, 0x86B09A, 0xD8A873, 0xF2719B, 0x74B4D2, draw::ink::edge};

bool dark = false;

}  // namespace

bool isDark() {
    return dark;
}

void use(bool darkPaper) {
    dark = darkPaper;
    const Sheet& s = darkPaper ? darker : light;
    const auto set = [](QColor& colour, std::uint32_t rgb) { colour = QColor::fromRgb(rgb); };
    set(ground, s.ground);
    set(sheet, s.sheet);
    set(raised, s.raised);
    set(line, s.line);
    set(ink, s.ink);
    set(quiet, s.quiet);
    set(chosen, s.chosen);
    set(spruce, s.spruce);
    set(wood, s.wood);
    set(fails, s.fails);
    set(picked, s.picked);
    set(edge, s.edge);
}

}  // namespace paper

// Inks are dark enough for light paper: on dark paper they are as much lighter.
QColor inkOf(check::DefectClass defect) {
    const QColor own = QColor::fromRgb(defect->ink.rgb);
    if (!paper::isDark()) return own;
    constexpr float least = 0.66F;
    return QColor::fromHslF(own.hslHueF(), own.hslSaturationF(), std::max(own.lightnessF(), least));
}

}  // namespace zither::session
