// A way of mending: stages one after the other, each of which does only what the part calls for.
#pragma once

#include <algorithm>
#include <string>
#include <vector>

namespace zither::steps {

enum class Stage {
    Clean,            // surplus triangles go
    Stitch,           // cracks are closed as proposed, and what that leaves is cleaned
    StitchApart,      // the same, but not where edges of three triangles would come of it: sheets stay beside bodies
    Orient,           // one direction, outwards
    Specks,           // small open shells go
    Local,            // the links of steps/repair/local.h, until nothing improves
    LocalUnstitched,  // the same, but what looks like cracks is left apart
    Enclose,          // full is told from empty
    EncloseCovered,   // the same, with plates over all that no rounding holds
};

struct Way {
    std::vector<Stage> stages;

    bool operator==(const Way&) const = default;
    [[nodiscard]] bool has(Stage stage) const { return std::find(stages.begin(), stages.end(), stage) != stages.end(); }
    [[nodiscard]] bool encloses() const {
        return !stages.empty() && (stages.back() == Stage::Enclose || stages.back() == Stage::EncloseCovered);
    }
};

// "clean, stitch, enclose".
std::string nameOf(const Way& way);

}  // namespace zither::steps
