// Headers that most tests of the core include, compiled once. Nothing may rely on this: every file includes what it
// uses.
#pragma once

#include <gtest/gtest.h>

#include <Eigen/Geometry>
#include <map>
#include <nlohmann/json.hpp>
#include <numbers>
#include <random>
#include <set>
#include <string>
#include <vector>

#include "mesh/mesh.h"
