// What steps that move a part as a whole share.
#pragma once

#include "steps/step.h"

namespace zither::steps {

inline constexpr std::string_view movesAsOne = "it moves as one";

// The part where the motion brings it, rounded as the motion says. What was solid is solid: where rounding breaks it,
// it is mended there (fit/fit.h). The record says what rounding cost. Error: cancelled, or coordinates that the
// precision cannot hold.
Outcome<StepOutput> movePart(const Surveyed& s, const mesh::Motion& motion, Record record, Progress& progress);

// "10 x 20 x 30".
std::string sizeText(const mesh::Box& box);

// A turn, a mirroring or a scale that leaves a point where it is.
mesh::Motion about(const mesh::Point& fixed, const Eigen::Matrix3d& linear);

// Of the part, once it is moved; not rounded.
mesh::Box boxAfter(const Mesh& m, const mesh::Motion& motion);

}  // namespace zither::steps
