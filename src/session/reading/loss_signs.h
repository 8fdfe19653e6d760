// How what is lost and what is added are drawn: on their string, on the part, at the desk.
#pragma once

#include <QColor>

#include "check/glyph.h"

namespace zither::session {

struct Sign {
    const check::Glyph* glyph = nullptr;
    QColor ink;
};

namespace sign {
// A ring with a bar: taken away; with a cross: put there.
inline constexpr check::Glyph ringBar = check::glyph::line(check::glyph::ring, {-0.55, 0}, {0.55, 0});
inline constexpr check::Glyph ringCross = check::glyph::line(ringBar, {0, -0.55}, {0, 0.55});

inline const Sign lost{&ringBar, QColor(0x9C, 0x3A, 0x10)};
inline const Sign added{&ringCross, QColor(0x2A, 0x5E, 0x9B)};
}  // namespace sign

}  // namespace zither::session
