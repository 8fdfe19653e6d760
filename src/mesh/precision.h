// What a coordinate of a file can hold.
#pragma once

#include "mesh/mesh.h"

namespace zither::mesh {

enum class Precision { Single, Double };  // 32 or 64 bits a coordinate

// The nearest values of that precision. A store to memory that the compiler cannot skip makes sure that they are
// rounded.
mesh::Point rounded(Precision precision, const mesh::Point& p);

// Every coordinate is a value of that precision.
bool fitsPrecision(const mesh::Mesh& m, Precision precision);

// 32 bits where every coordinate is a 32-bit value, else 64.
Precision precisionOf(const mesh::Mesh& m);

// Rounds every coordinate and joins what is equal then; triangles keep their numbers, and may be collapsed. Returns how
// far vertices moved.
double roundAndJoin(Mesh& m, Precision precision);

// The distance from the magnitude to the next value.
double unitInLastPlace(Precision precision, double magnitude);

}  // namespace zither::mesh
