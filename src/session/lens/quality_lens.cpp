// How fit each triangle is, by one of several kinds.
#include "measure/quality.h"

#include "session/lens/colours.h"
#include "session/reading/number_text.h"

namespace zither::session {
namespace {

using measure::qualityKinds;

mesh::Outcome<Coat> coat(const LensView& view, mesh::Progress&) {
    const measure::QualityKind& kind = qualityKinds.at(view.kind);
    Legend legend;
    legend.title = text(kind.title);
    legend.title[0] = legend.title[0].toUpper();
    legend.unit = kind.unit == "deg" ? "°" : "";
    return coatOfValues(measure::qualityOfEach(view.part.mesh(), view.part.edges(), kind),
                        {kind.low, kind.high, kind.lessIsWorse}, std::move(legend));
}

constexpr auto kinds = [] {
    std::array<std::string_view, qualityKinds.size()> titles{};
    for (std::size_t i = 0; i < titles.size(); ++i) titles[i] = qualityKinds[i].title;
    return titles;
}();

}  // namespace

constinit const Lens qualityLens = {.name = "quality",
                                    .help =
                                        "How fit each triangle is for a mesh: its smallest angle, or another "
                                        "measure.",
                                    .measures = true,
                                    .kinds = kinds,
                                    .coat = coat};

}  // namespace zither::session
