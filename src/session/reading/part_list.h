// What the list of parts shows: parts, and the shells of the one in front that matter, in an order that can be chosen.
// As data, so that the widget only draws and tests can read.
#pragma once

#include <QString>
#include <optional>
#include <vector>

#include "session/workshop.h"

namespace zither::session {

// Within: as a tree, what lies inside under what lies around it, siblings by size.
enum class ShellOrder { Within, Damage, Depth };
QString nameOf(ShellOrder order);

struct ShellLine {
    std::size_t shell = 0;  // of the survey
    int indent = 0;
    QString title;
    QString detail;
    Veil::Shown shown = Veil::Shown::Full;
};
struct ShellList {
    std::vector<ShellLine> lines;
    std::size_t rest = 0;  // shells that are not named
};

// Of the part in front; at most so many by name. A part of one shell that matters lists none: it is the part itself.
ShellList shellsOf(const Workshop& workshop, ShellOrder order, std::size_t most);
// "14 shells · 3 matter", or triangles while a part is not judged yet.
QString detailOf(const Part& part);
// The shell that is chosen, or that was picked in last; nothing where there is none.
std::optional<std::size_t> linkedShell(const Workshop& workshop);

}  // namespace zither::session
