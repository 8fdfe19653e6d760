// Headers that most tests of the core include, compiled once. Nothing may rely on this: every file includes what it
// uses.
#pragma once

#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <random>

#include "steps/steps_precompiled.h"
