#!/usr/bin/env python3
"""Runs clang-tidy over the sources of src/, several to a translation unit.

Nearly all the time that clang-tidy takes goes into the standard library's and Qt's headers. Sources that are compiled
with the same flags are therefore included into one file and checked together; where names of theirs clash, the group is
halved until it compiles. What is found is reported at the source's own line.

  tidy.py BUILD            every source that BUILD/compile_commands.json knows in src/
  tidy.py BUILD FILE ...   these alone, one by one
"""
import json
import os
import shlex
import subprocess
import sys
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

GROUP = 12
# A source that is included is none of clang-tidy's business here.
NOT_IN_GROUPS = "-bugprone-suspicious-include"


def commands(build):
    """Source -> (flags, folder of the compiler), of each source in src/."""
    found = {}
    for entry in json.loads((build / "compile_commands.json").read_text()):
        source = Path(entry["file"]).resolve()
        folder = entry["directory"]
        words = shlex.split(entry["command"])[1:]
        output = words.index("-o")
        del words[output:output + 2]
        flags = tuple(w for w in words if w != "-c" and Path(folder, w).resolve() != source)
        found[source] = (flags, folder)
    return found


def compiles(unit, flags, folder):
    run = subprocess.run(["clang++", "-fsyntax-only", "-w", *flags, str(unit)], cwd=folder, capture_output=True)
    return run.returncode == 0


def tidy(unit, flags, folder, checks=()):
    call = ["clang-tidy", "--quiet", *checks, str(unit), "--", *flags]
    run = subprocess.run(call, cwd=folder, capture_output=True, text=True)
    return run.returncode == 0, run.stdout


def check_group(number, sources, flags, folder, build, report):
    """Checks the sources as one unit, or as two groups where they cannot be one. True: nothing was found."""
    if len(sources) == 1:
        good, text = tidy(sources[0], flags, folder)
        report(sources, good, text)
        return good
    unit = build / "units" / f"{number}.cpp"
    unit.write_text("".join(f'#include "{source}"\n' for source in sources))
    if compiles(unit, flags, folder):
        good, text = tidy(unit, flags, folder, [f"--checks={NOT_IN_GROUPS}"])
        report(sources, good, text)
        return good
    half = len(sources) // 2
    first = check_group(f"{number}a", sources[:half], flags, folder, build, report)
    return check_group(f"{number}b", sources[half:], flags, folder, build, report) and first


def main():
    build = Path(sys.argv[1]).resolve()
    here = Path.cwd()
    known = commands(build)
    (build / "units").mkdir(exist_ok=True)
    # clang-tidy looks for its settings beside what it is given.
    (build / "units" / ".clang-tidy").write_text((here / ".clang-tidy").read_text())
    groups = []
    if sys.argv[2:]:
        groups = [([Path(f).resolve()], *known[Path(f).resolve()]) for f in sys.argv[2:]]
    else:
        by_flags = {}
        for source, how in sorted(known.items()):
            if here / "src" in source.parents:
                by_flags.setdefault(how, []).append(source)
        for (flags, folder), sources in by_flags.items():
            groups += [(sources[i:i + GROUP], flags, folder) for i in range(0, len(sources), GROUP)]

    def report(sources, good, text):
        names = ", ".join(str(s.relative_to(here)) for s in sources)
        print(f"{'clean' if good else 'FOUND'}: {names}\n{'' if good else text}", flush=True)

    with ThreadPoolExecutor(os.cpu_count()) as pool:
        results = list(pool.map(lambda g: check_group(g[0], *g[1], build, report), enumerate(groups)))
    sys.exit(0 if all(results) else 1)


main()
