// Headers that most files of steps, project and the command line include, compiled once. Nothing may rely on this:
// every file includes what it uses.
#pragma once

#include <nlohmann/json.hpp>

#include "holes/holes_precompiled.h"
#include "steps/all_steps.h"
