// The command line's answers for people.
#pragma once

#include <string>

#include "measure/deviation.h"
#include "project/delivery.h"

namespace zither::cli {

std::string checkReport(const project::Judged& judged, const steps::Brief& brief);
std::string processReport(const project::Judged& input, const project::Judged& output,
                          const steps::RepairResult& changed, const measure::Comparison& comparison);
std::string compareReport(const measure::Comparison& c);
std::string stepsReport();

}  // namespace zither::cli
