// The whole job on every surface file of a folder, and one table of what came of it.
#pragma once

#include <string>

#include "cli/console.h"

namespace zither::cli {

// Judges, repairs, decimates to a third within a deviation of a thousandth of the part's size, exports, reads back.
// Where NAME.recipe.json lies beside a file its steps go on from there, to NAME-shaped.stl.
// Returns 0 where every file could be read and written, 2 otherwise, 130 where it was interrupted.
int runExample(const std::string& folder, const std::string& outputFolder, const Console& console);

}  // namespace zither::cli
