#!/usr/bin/env bash
# Runs clang-tidy over src/ (or the files named). Needs the Debian packages clang and clang-tidy.
set -euo pipefail
cd "$(dirname "$0")/.."
# Each time, as files come and go.
cmake -S . -B build/tidy -G Ninja -DCMAKE_BUILD_TYPE=Release -DCMAKE_DISABLE_PRECOMPILE_HEADERS=ON -DZITHER_TESTS=OFF -DZITHER_BENCH=OFF >/dev/null
exec python3 scripts/tidy.py build/tidy "$@"
