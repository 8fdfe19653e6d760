// What came with which step since the import.
#include <algorithm>
#include <array>

#include "project/provenance.h"
#include "session/lens/colours.h"
#include "session/reading/number_text.h"
#include "session/reading/palette.h"

namespace zither::session {
namespace {

// What came with each step, by the colour of its turn; what it did is said beside its name.
mesh::Outcome<Coat> coat(const LensView& view, mesh::Progress&) {
    const mesh::Mesh& m = view.part.mesh();
    const std::vector<PastStop>& past = view.past;
    struct Turn {
        const char* name;
        QColor ink;
    };
    static const std::array<Turn, 6> turns = {{{"blue", QColor(0x2F, 0x6F, 0x8F)},
                                               {"plum", QColor(0x8A, 0x4F, 0x7D)},
                                               {"moss", QColor(0x5B, 0x7F, 0x2E)},
                                               {"rust", QColor(0xB0, 0x5A, 0x1E)},
                                               {"fir", QColor(0x1F, 0x4E, 0x4A)},
                                               {"red", QColor(0x9A, 0x2C, 0x3F)}}};
    const auto turnOf = [](std::size_t stop) -> const Turn& { return turns[(stop - 1) % turns.size()]; };
    std::vector<project::PastSurface> stops;
    stops.reserve(past.size());
    for (const PastStop& stop : past) stops.push_back({stop.part->shared(), stop.motion});
    const std::vector<std::uint32_t> first = project::firstStopWith(m, stops);
    std::vector<std::size_t> counts(past.size() + 1, 0);
    Coat coat;
    coat.colours.resize(m.triangles.size());
    for (std::size_t t = 0; t < coat.colours.size(); ++t) {
        ++counts[first[t]];
        coat.colours[t] = packed(first[t] == 0 ? clay::face : turnOf(first[t]).ink);
    }
    coat.legend.title = "Change since the import, by step";
    const double whole = std::max<double>(1, static_cast<double>(m.triangles.size()));
    coat.legend.note =
        QString("clay: bit-identical, %1 %").arg(100 * static_cast<double>(counts[0]) / whole, 0, 'f', 1);
    for (std::size_t s = 1; s < past.size(); ++s) {
        if (counts[s] == 0) continue;
        coat.legend.note += QString("\n%1: %2, %3 %4")
                                .arg(turnOf(s).name, QString::fromStdString(past[s].label))
                                .arg(counts[s])
                                .arg(text(past[s].brings));
    }
    return coat;
}

}  // namespace

constinit const Lens changeLens = {
    .name = "change", .help = "What came with which step; the rest is bit-identical to the import.", .coat = coat};

}  // namespace zither::session
