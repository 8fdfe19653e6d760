// A lens: how the part is drawn, with its legend. A new one is its own file with its descriptor, and one line in
// catalogue.cpp; the bar, the menu, the keys and the tests read it from there.
#pragma once

#include <QString>
#include <cstdint>
#include <functional>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "check/surveyed.h"
#include "mesh/motion.h"
#include "mesh/outcome.h"
#include "mesh/progress.h"
#include "session/reading/number_text.h"
#include "session/reading/palette.h"

namespace zither::session {

struct Legend {
    QString title;
    QString unit;
    double low = 0;
    double high = 0;
    bool continuous = false;
    std::vector<std::uint32_t> histogram;
    QString note;
};

// Colours by triangle, as 0xAABBGGRR.
struct Coat {
    std::vector<std::uint32_t> colours;  // empty: the clay's own colour
    std::vector<float> values;           // that the histogram counts, one a triangle; empty: none
    std::vector<float> atVertices = {};  // where the quantity is smooth: drawn blended between vertices; else empty
    bool darkIsLow = false;              // of values
    Legend legend;
};

// A stop on the way to the surface, for lenses that look back.
struct PastStop {
    std::string label;
    std::string_view brings;  // as steps::Step; nothing for the import
    check::SurveyedPtr part;
    std::optional<mesh::Motion> motion = {};  // by which it moved the part
};

// What a lens looks at.
struct LensView {
    const check::Surveyed& part;
    const check::Survey& survey;
    const std::vector<PastStop>& past;  // from the import to the part itself, never empty
    const check::SurveyedPtr& import;   // as the steps since have moved it
    const Paper& paper;
    Numbers numbers;
    std::size_t kind = 0;  // of Lens::kinds
};

struct Lens {
    std::string_view name;  // on its button
    std::string_view help;  // one sentence
    bool measures = false;  // it tells a number of each triangle
    // What it can be chosen to show; empty: one thing.
    std::span<const std::string_view> kinds = {};
    // May take long; nullptr: the part as it is.
    mesh::Outcome<Coat> (*coat)(const LensView& view, mesh::Progress& progress) = nullptr;
};

extern const Lens plainLens;
extern const Lens facingLens;
extern const Lens shellsLens;
extern const Lens nestingLens;
extern const Lens changeLens;
extern const Lens deviationLens;
extern const Lens qualityLens;
extern const Lens wallLens;
extern const Lens slopeLens;
extern const Lens addedLens;

std::span<const std::reference_wrapper<const Lens>> lenses();

}  // namespace zither::session
