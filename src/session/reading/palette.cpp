// Both papers in one table.
#include "session/reading/palette.h"

#include <algorithm>

#include "draw/inks.h"

namespace zither::session {

const Paper& lightPaper() {
    static const Paper paper = {
        .isDark = false,
        .ground = 0xEFE7DA,
        .sheet = draw::ink::sheet,
        .raised = 0xFBF7EF,
        .line = 0xD9CBB4,
        .ink = 0x222B2E,
        .quiet = 0x757066,
        .chosen = 0xE3D7C0,
        .spruce = 0x4C6B5C,
        .wood = 0xB7824F,
        .fails = 0xB3134E,
        .picked = 0x3F7D9C,
        .edge = draw::ink::edge,
    };
    return paper;
}

const Paper& darkPaper() {
    static const Paper paper = {
        .isDark = true,
        .ground = 0x282D2E,
        .sheet = 0x202526,
        .raised = 0x323839,
        .line = 0x4A5152,
        .ink = 0xEAE2D3,
        .quiet = 0xA8A194,
        .chosen = 0x3F484A,
        .spruce = 0x86B09A,
        .wood = 0xD8A873,
        .fails = 0xF2719B,
        .picked = 0x74B4D2,
        .edge = draw::ink::edge,
    };
    return paper;
}

namespace clay {
const QColor face = QColor::fromRgb(draw::ink::clay);
const QColor hatched = QColor::fromRgb(draw::ink::hatched);
const QColor cap = QColor::fromRgb(draw::ink::cap);
}  // namespace clay

// Inks are dark enough for light paper: on dark paper they are as much lighter.
QColor Paper::inkOf(check::DefectClass defect) const {
    const QColor own = QColor::fromRgb(defect->ink.rgb);
    if (!isDark) return own;
    constexpr float least = 0.66F;
    return QColor::fromHslF(own.hslHueF(), own.hslSaturationF(), std::max(own.lightnessF(), least));
}

}  // namespace zither::session
