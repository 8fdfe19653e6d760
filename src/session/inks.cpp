#include "session/inks.h"

#include <array>

namespace zither::session {

const Ink& inkOf(check::DefectClass defect) {
    // In the order of DefectClass.
    static const std::array<Ink, 10> inks = {{
        {QColor(0x0B, 0x7A, 0x75), Glyph::Ring, "Open edges",
         "The surface ends here: only one triangle lies at these edges, so water could get through."},
        {QColor(0x6B, 0x3F, 0xA0), Glyph::Star, "Non-manifold edges",
         "Three or more triangles meet in one edge: no inside or outside can be told there."},
        {QColor(0x6B, 0x3F, 0xA0), Glyph::Star, "Non-manifold vertices",
         "Pieces of surface hang together in a single point only."},
        {QColor(0x9A, 0x6B, 0x00), Glyph::Hatch, "Facing",
         "Neighbours face opposite ways: inside and outside change across these edges."},
        {QColor(0x6F, 0x6A, 0x00), Glyph::DoubleBar, "Duplicates",
         "Triangles that stand on the same three corners as another one."},
        {QColor(0x33, 0x51, 0x8E), Glyph::Needle, "Degenerate",
         "Triangles without area: their corners lie on one line."},
        {QColor(0xB3, 0x13, 0x4E), Glyph::Cross, "Self-intersecting",
         "Triangles that cut through or touch each other."},
        {QColor(0x9A, 0x6B, 0x00), Glyph::Hatch, "Inward shells",
         "Closed shells that face the wrong way for what encloses them."},
        {QColor(0x2E, 0x7D, 0x32), Glyph::Dots, "Shells", "Pieces of surface that share no edge with each other."},
        {QColor(0x33, 0x51, 0x8E), Glyph::Needle, "Slivers", "Triangles with a corner sharper than the brief allows."},
    }};
    return inks[static_cast<std::size_t>(defect)];
}

}  // namespace zither::session
