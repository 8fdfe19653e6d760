#!/usr/bin/env bash
# Installs the core as a library into a folder of its own, builds the example of docs/library.md against it, and repairs a
# part with it: scripts/library-test.sh BUILD
set -euo pipefail
cd "$(dirname "$0")/.."
build=$1
work=$(mktemp -d)
trap 'rm -rf "$work"' EXIT
cmake --build "$build" --target public-headers >/dev/null
cmake --install "$build" --component dev --prefix "$work/installed" >"$work/log"
# Nothing of the source tree or of this build may be needed.
! grep -rlE "$PWD/(src|build)" "$work/installed/lib" --include='*.cmake' || { echo "it points back here"; exit 1; }
cp -r share/zither/examples/repair-a-file "$work/program"
cmake -S "$work/program" -B "$work/program/build" -G Ninja -DCMAKE_PREFIX_PATH="$work/installed" >>"$work/log"
cmake --build "$work/program/build" >>"$work/log" 2>&1 || { tail -20 "$work/log"; exit 1; }
"$work/program/build/repair-a-file" "$build/rig/hub.stl" "$work/hub.stl" || [ $? -eq 1 ]
"$build/zither-cli" check "$work/hub.stl" | grep -q "solid yes"
# A program that counts needs no package of the rooms above; a component that is not there is named.
cp -r share/zither/examples/count-defects "$work/counting"
absent=()
for package in SQLite3 OpenSSL zstd spdlog nlohmann_json PNG; do absent+=("-DCMAKE_DISABLE_FIND_PACKAGE_$package=ON"); done
cmake -S "$work/counting" -B "$work/counting/build" -G Ninja -DCMAKE_PREFIX_PATH="$work/installed" "${absent[@]}" >>"$work/log"
cmake --build "$work/counting/build" >>"$work/log" 2>&1 || { tail -20 "$work/log"; exit 1; }
{ "$work/counting/build/count-defects" "$build/rig/hub.stl" || [ $? -eq 1 ]; } | grep -q "^holes [1-9]"
sed -i 's/COMPONENTS check io/COMPONENTS chek/' "$work/counting/CMakeLists.txt"
cmake -S "$work/counting" -B "$work/counting/other" -G Ninja -DCMAKE_PREFIX_PATH="$work/installed" >"$work/refused" 2>&1 &&
  { echo "a component that is not there was found"; exit 1; }
grep -q "no component 'chek'" "$work/refused"
# Internals stay in the house.
[ ! -e "$work/installed/include/zither/enclose/cells.h" ]
# The page shows the program that was built.
python3 - <<'END'
page = open("docs/library.md").read()
for name in ("main.cpp", "CMakeLists.txt"):
    if open("share/zither/examples/repair-a-file/" + name).read().strip() not in page:
        raise SystemExit("docs/library.md shows another " + name)
END
