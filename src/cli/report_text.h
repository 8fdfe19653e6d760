// The command line's answers for people.
#pragma once

#include <string>
#include <vector>

#include "project/job.h"
#include "project/json.h"

namespace zither::cli {

std::string checkReport(const project::Judged& judged, const steps::Brief& brief);
// `warnings` stand first.
// The log of a repair's search.
std::string triedReport(const std::vector<steps::TriedWayLog>& tried);

std::string processReport(const project::Judged& input, const project::Delivered& delivered,
                          const steps::RepairResult& changed, const std::vector<std::string>& warnings);
// What the steps would do; of steps that were run and not kept.
std::string dryReport(const project::Judged& input, const steps::RepairResult& would);
std::string compareReport(const project::Compared& compared, const project::TwoSurfaces& two);
std::string numbersReport(const std::string& file, const measure::Numbers& n, const project::MassAsked& mass);
std::string stepsReport();

}  // namespace zither::cli
