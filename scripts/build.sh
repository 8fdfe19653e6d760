#!/usr/bin/env bash
# Configures once and builds a preset: scripts/build.sh release|debug|sanitize [target...]
set -euo pipefail
cd "$(dirname "$0")/.."
preset=$1
shift
if [ ! -f "build/$preset/build.ninja" ]; then
  cmake --preset "$preset" -DCMAKE_CXX_COMPILER_LAUNCHER=ccache >&2
fi
cmake --build --preset "$preset" ${1:+--target "$@"} >&2
