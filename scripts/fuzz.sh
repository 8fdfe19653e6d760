#!/usr/bin/env bash
# Fuzzes everything that comes from outside: scripts/fuzz.sh SECONDS [target...]. The seconds are shared by the targets;
# what is found stays in build/fuzz/found and makes the script fail. Corpora grow in build/fuzz/corpus.
set -euo pipefail
cd "$(dirname "$0")/.."
seconds=$1
shift
targets=("$@")
[ ${#targets[@]} -gt 0 ] || targets=(stl obj ply off 3mf zip any recipe brief step pick)
scripts/packages.sh clang libclang-rt-14-dev
if [ ! -f build/fuzz/build.ninja ]; then
  cmake --preset fuzz -DCMAKE_CXX_COMPILER_LAUNCHER=ccache >&2
fi
cmake --build --preset fuzz --target zither-fuzz zither-corpus >&2
mkdir -p build/fuzz/found
build/fuzz/zither-corpus build/fuzz/corpus
each=$((seconds / ${#targets[@]}))
[ "$each" -gt 0 ] || each=1
failed=0
total=0
for t in "${targets[@]}"; do
  log=build/fuzz/found/$t.log
  if ! ZITHER_FUZZ=$t ASAN_OPTIONS=allocator_may_return_null=0 build/fuzz/zither-fuzz "build/fuzz/corpus/$t" \
      -artifact_prefix="build/fuzz/found/$t-" -max_total_time="$each" -timeout=10 -rss_limit_mb=4096 -max_len=8192 \
      -print_final_stats=1 >"$log" 2>&1; then
    echo "$t: FOUND something; see $log and build/fuzz/found/$t-*" >&2
    tail -n 30 "$log" >&2
    failed=1
  fi
  runs=$(sed -n 's/^stat::number_of_executed_units: *//p' "$log" | tail -n 1)
  total=$((total + ${runs:-0}))
  echo "$t: ${runs:-0} runs"
done
echo "$total runs in all"
exit "$failed"
