#!/usr/bin/env bash
# Makes docs/screenshots anew from the Skerry rig.
set -euo pipefail
here=$(cd "$(dirname "$0")/.." && pwd)
"$here/scripts/packages.sh"
"$here/scripts/build.sh" release zither-shots rig
LIBGL_ALWAYS_SOFTWARE=1 xvfb-run -a -s "-screen 0 1400x900x24" "$here/build/release/zither-shots" "$here/build/release/rig" "${1:-$here/docs/screenshots}"
