// What the view needs of a mesh, prepared beside the window: the scene that rays are asked of, for drawing and picking,
// and lines of the findings; corners for a graphics card where there is one.
#pragma once

#include <QColor>
#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "check/surveyed.h"
#include "mesh/outcome.h"
#include "mesh/pick.h"
#include "mesh/progress.h"
#include "project/portrait.h"

namespace zither::session {

struct Display {
    check::SurveyedPtr part;
    mesh::Box box;
    mesh::Point origin = mesh::Point::Zero();
    std::vector<project::DefectLines> lines;
    // Of a glimpse: quickly made; nullptr: the part's own.
    std::unique_ptr<const space::RayScene> quickRays = nullptr;

    [[nodiscard]] const mesh::Mesh& mesh() const { return part->mesh(); }
    [[nodiscard]] const space::RayScene& rays() const { return quickRays ? *quickRays : part->rays(); }
    // Where a ray from the eye meets the part first; nothing where it does not. `unseen`: one flag a triangle, those
    // set are not met; empty: none is.
    struct Met {
        mesh::TriangleId triangle;
        double along = 0;  // in lengths of the direction
    };
    [[nodiscard]] std::optional<Met> met(const mesh::Point& from, const mesh::Point& direction,
                                         std::span<const std::uint8_t> unseen = {}) const;
};

mesh::Outcome<std::shared_ptr<const Display>> prepareDisplay(const check::SurveyedPtr& part,
                                                             const check::Survey& survey, mesh::Progress& progress);

// The same without lines, which are known once it was judged.
std::shared_ptr<const Display> displayWithoutLines(const check::SurveyedPtr& part);
// The same before that; of a large part with rays that are asked more slowly but can be asked sooner.
std::shared_ptr<const Display> glimpseOf(const check::SurveyedPtr& part);

// For a card: three corners a triangle, three floats a corner, relative to `origin`, so that a part far from zero loses
// no digits.
std::vector<float> cornersForCard(const Display& display);

// The picked triangles in the colour of picks, the others as they are.
void paintPick(std::vector<std::uint32_t>& colours, const mesh::Mesh& m, const mesh::Pick& pick, const QColor& ink);

}  // namespace zither::session
