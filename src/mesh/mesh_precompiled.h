// Headers that most of the core includes, compiled once. Nothing may rely on this: every file includes what it uses.
#pragma once

#include <fmt/format.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <array>
#include <functional>
#include <optional>
#include <span>
#include <string>
#include <tl/expected.hpp>
#include <vector>
