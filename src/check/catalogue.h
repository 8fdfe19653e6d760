// Every class of defects. A new one: its own file with its descriptor, and one line in catalogue.cpp.
#pragma once

#include <span>

#include "check/defect_class.h"

namespace zither::check {

extern const DefectDescriptor openEdges;
extern const DefectDescriptor nonmanifoldEdges;
extern const DefectDescriptor nonmanifoldVertices;
extern const DefectDescriptor misoriented;
extern const DefectDescriptor duplicates;
extern const DefectDescriptor degenerate;
extern const DefectDescriptor selfIntersections;
extern const DefectDescriptor inwardShells;
extern const DefectDescriptor buriedShells;
extern const DefectDescriptor shells;
extern const DefectDescriptor slivers;
extern const DefectDescriptor needles;
extern const DefectDescriptor folds;
extern const DefectDescriptor hairGaps;
extern const DefectDescriptor voids;
extern const DefectDescriptor thinWalls;
extern const DefectDescriptor overhangs;
extern const DefectDescriptor narrowWalls;
extern const DefectDescriptor smallComponents;
extern const DefectDescriptor smallHoles;
extern const DefectDescriptor smallTunnels;
extern const DefectDescriptor undercuts;
extern const DefectDescriptor knifeEdges;
extern const DefectDescriptor outsideBuild;

// What is read by others than the class that tells it and its limit.
extern const Measure thinnest;    // infinite: nothing is thin
extern const Measure narrowest;   // infinite: nothing is too thin for the mesh
extern const Measure voidVolume;  // of all cavities within material

// In the order in which findings are listed; classes that use what others found come after them.
std::span<const DefectClass> catalogue();

// Place in the catalogue.
std::size_t indexOf(DefectClass defect);

}  // namespace zither::check
