// Area and volume, shell by shell.
#pragma once

#include <vector>

#include "mesh/edges.h"

namespace zither::measure {

struct ShellMass {
    double area = 0;
    double volume = 0;  // signed; of an open shell it says nothing
};

// Of each group of triangles; collapsed ones are in none.
std::vector<ShellMass> massOfShells(const mesh::Mesh& m, const mesh::Groups& shells);

}  // namespace zither::measure
