// One part made several, and several made one. Nothing is cut or changed: every triangle goes with its bits.
#pragma once

#include <string>
#include <vector>

#include "check/surveyed.h"
#include "mesh/pick.h"

namespace zither::project {

struct Piece {
    std::string name;  // "hub 1", or the part's with that of the region
    mesh::Mesh mesh;
};

// A shell each, largest first; closed shells within another (its cavities) stay with it. `survey`: of the part.
std::vector<Piece> apartByBody(const check::Surveyed& part, const check::Survey& survey, const std::string& name);
// A region each, in their order; borders between them are open then.
std::vector<Piece> apartByRegion(const check::Surveyed& part, const std::string& name);
// What is picked, and the rest. One piece where nothing or all is picked.
std::vector<Piece> apartByPick(const check::Surveyed& part, const mesh::Pick& pick, const std::string& name);

// Names for their files, none twice: what no file system minds, in their order.
std::vector<std::string> fileNamesOf(const std::vector<Piece>& pieces);

// All of them as they stand, with the names of their regions: a part without any becomes one of its own name.
mesh::Mesh joined(const std::vector<Piece>& pieces);

}  // namespace zither::project
