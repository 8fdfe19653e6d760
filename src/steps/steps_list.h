// Descriptors of the steps, one file each.
#pragma once

#include "arrange/settle.h"
#include "steps/step.h"

namespace zither::steps {

Step cleanStep();
Step stitchStep();
Step orientStep();
Step dropShellsStep();
Step fillStep();
Step bridgeStep();
Step decimateStep();
Step fuseStep();
Step subtractStep();
Step intersectStep();
Step settleStep();
Step closeHandlesStep();
Step wrapStep();
Step removeStep();
Step mendStep();
Step flipStep();
Step moveVertexStep();
Step collapseEdgeStep();
Step swapEdgeStep();
Step resolveStep();
Step refineSliversStep();

// What settling did, as a record.
Record settleRecord(const arrange::Settled& r);

// "3 holes", "1 hole": a count with its noun.
std::string counted(std::size_t count, std::string_view noun, std::string_view plural = {});

// "(1.5, 2, 3)": a place as people read it.
std::string placeText(const mesh::Point& p);

// A length as people read it: three significant digits.
std::string lengthText(double length);

}  // namespace zither::steps
