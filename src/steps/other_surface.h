// A second surface that a step is told by its file.
#pragma once

#include <string>

#include "io/surface_file.h"
#include "steps/parameter.h"
#include "steps/record.h"

namespace zither::steps {

// Reads it and brings its lengths into the part's unit (`a.unit`). Where the units differ, or only one of the two knows
// its unit, the record says what was done. Error: as io::readSurface.
Outcome<io::Surface> readOther(const Arguments& a, const std::string& file, Record& record, mesh::Progress& progress);

}  // namespace zither::steps
