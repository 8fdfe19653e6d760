// Which ways of mending a part there are, the simplest first: from a few facts of its survey.
#pragma once

#include <vector>

#include "check/counts.h"
#include "steps/repair/way.h"

namespace zither::steps {

// What the ways are made from.
struct RepairFacts {
    check::Counts came;       // of the part as it came
    check::Counts ready;      // once surplus triangles are gone and cracks are closed; `came` where there are none
    bool hasCracks = false;   // stitching has something to close
    double openLeft = 0;      // share of the open edges that stitching leaves; 0 where none is open
    bool sewsAmiss = false;   // stitching ties edges and sets sides against each other: it joins what belongs apart
    bool onlyDamage = false;  // all that is open are holes in surfaces, which are closed: patches go on as these do
};

// Much of the part crosses itself, or hangs together in more than one way: local steps would go on for long. Closed
// bodies through each other are fused, however many there are.
bool isHeavy(const check::Counts& counts);

// Written as triangles that stand alone, most of it.
bool isLoose(const check::Counts& counts);

// What every way begins with.
std::vector<Stage> beginningOf(const check::Counts& came);

// In the order in which they are tried; none twice. Local steps come first where damage is local. What is a sheet and
// what an opening is told once cracks are closed and surplus is gone, whatever a person has answered.
std::vector<Way> candidatesFor(const RepairFacts& facts);

}  // namespace zither::steps
