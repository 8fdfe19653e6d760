// Headers that most rooms from here up include, compiled once. Nothing may rely on this: every file includes what it uses.
#pragma once

#include "check/surveyed.h"
#include "mesh/mesh_precompiled.h"
#include "mesh/parallel.h"
