// Descriptors of the steps, one file each.
#pragma once

#include "steps/step.h"

namespace zither::steps {

Step cleanStep();
Step weldStep();
Step orientStep();
Step dropShellsStep();
Step fillStep();
Step decimateStep();

// "3 holes", "1 hole": a count with its noun.
std::string counted(std::size_t count, std::string_view noun, std::string_view plural = {});

// A length as people read it: three significant digits.
std::string lengthText(double length);

}  // namespace zither::steps
