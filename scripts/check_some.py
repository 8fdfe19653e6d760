#!/usr/bin/env python3
"""Builds and runs only the tests whose names match: scripts/check_some.py PRESET PATTERN...

A test of GoogleTest is found in the sources, so that the program it stands in is known before anything is built; what is
no such test is one of ctest (floors, schemas, installed-library ...), which needs everything.
"""
import os
import pathlib
import re
import subprocess
import sys

top = pathlib.Path(__file__).resolve().parent.parent
preset, patterns = sys.argv[1], [re.compile(p) for p in sys.argv[2:]]
programs = {"core": "zither-core-tests", "window": "zither-window-tests", "fault": "zither-fault-tests"}
ran, failed = 0, []


def run(command, **more):
    print("+", " ".join(command), flush=True)
    return subprocess.run(command, **more).returncode


def wanted(name):
    return any(p.search(name) for p in patterns)


for folder, program in programs.items():
    found = set()
    for source in sorted((top / "tests" / folder).glob("*.cpp")):
        for suite, test in re.findall(r"^TEST(?:_F|_P)?\((\w+),\s*(\w+)\)", source.read_text(), re.M):
            if wanted(f"{suite}.{test}"):
                found.add(f"{suite}.{test}")
    if not found:
        continue
    if run([str(top / "scripts" / "build.sh"), preset, program]) != 0:
        sys.exit(1)
    # A test with parameters has its instance before its suite, and the parameter behind its name.
    names = ":".join(f"{name}:*/{name}/*:{name}/*" for name in sorted(found))
    command = [str(top / "build" / preset / program), "--gtest_filter=" + names]
    if folder == "window":
        command = ["xvfb-run", "-a", "-s", "-screen 0 1280x800x24"] + command
    ran += len(found)
    if run(command, cwd=top / "build" / preset, env={**os.environ, "LIBGL_ALWAYS_SOFTWARE": "1"}) != 0:
        failed.append(program)

others = set(re.findall(r"add_test\(NAME ([\w-]+)", (top / "tests" / "CMakeLists.txt").read_text())) - {"window", "faults"}
chosen = sorted(name for name in others if wanted(name))
if chosen:
    if run([str(top / "scripts" / "build.sh"), preset]) != 0:
        sys.exit(1)
    ran += len(chosen)
    if run(["ctest", "--output-on-failure", "-R", "|".join(f"^{name}" for name in chosen)], cwd=top / "build" / preset) != 0:
        failed.append("ctest")

if ran == 0:
    sys.exit("no test matches " + ", ".join(sys.argv[2:]))
if failed:
    sys.exit("failed: " + ", ".join(failed))
