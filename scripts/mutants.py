#!/usr/bin/env python3
"""Asks of the tests whether they notice wrong programs: turns one comparison of the core at a time into its neighbour
(< into <=, == into != ...) and runs the core's tests of that room.

  scripts/mutants.py [--count 300] [--seed 1] [--rooms check arrange enclose] [--copy FOLDER] [--report FILE] [--jobs 2]

All chosen comparisons are built at once, in a copy of the tree and of build/release, each with a switch that the variable
ZITHER_MUTANT throws; so a mutant costs a run of tests and no build. The copy is mounted over the tree for the build (in a
namespace of its own), so that what does not change is not compiled again. Prints each mutant that no test noticed, with
its place; whether such a one changes anything at all is for a person to say.
"""
import argparse
import concurrent.futures
import json
import os
import pathlib
import random
import re
import shutil
import subprocess
import tempfile
import time

top = pathlib.Path(__file__).resolve().parent.parent
parser = argparse.ArgumentParser()
parser.add_argument("--count", type=int, default=300)
parser.add_argument("--seed", type=int, default=1)
parser.add_argument("--rooms", nargs="+", default=["check", "arrange", "enclose"])
parser.add_argument("--copy", default=str(pathlib.Path(tempfile.gettempdir()) / "zither-mutants"))
parser.add_argument("--report", default="mutants.json")
parser.add_argument("--jobs", type=int, default=2)
options = parser.parse_args()
copy = pathlib.Path(options.copy)

# What tests a room, the quickest first; what survives these meets all that the core has.
tests = {
    "check": "SimpleFans*:EdgeRuns*:SelfIntersections*:CrossingPairs*:ShellList*:TightShells*:Needles*:InwardShells*:"
             "Findings*:Survey.*:Surveyed*:SurveyOptions*:DefectClasses*:Voids*:Wall*:KnifeEdges*:Undercuts*:Overhangs*:"
             "Build*:Shape*:Chains*:Law*:Numbers*:Conditions*",
    "arrange": "Pieces*:ArrangeMirror*:Fuse*:Settle*:Spots*:Fit.*:Resolve*:Cover*:Trim.*",
    "enclose": "MinimumCut*:Cells*:Candidates*:Enclose*:Thicken*:Places*:BrokenParts*:Questions*:AutomaticRepair*",
}
every = "-Parity*:FaultLoop*:*Loop*"
turned = {"<": "<=", "<=": "<", ">": ">=", ">=": ">", "==": "!=", "!=": "=="}
# An operator between blanks, as the layout of the house has comparisons; arrows, templates and includes have none.
comparison = re.compile(r"(?<=[\w\)\]]) (<=|>=|==|!=|<|>) (?=[\w\(\-!*&])")

# `a < switched<7> < b` is `a < b`, or `a <= b` where mutant 7 is asked for: both operators bind as the one they replace.
switches = """\
#pragma once
#include <cstdlib>
namespace zither_mutants {
inline int chosen = 0;
[[gnu::constructor(101)]] inline void choose() { if (const char* n = std::getenv("ZITHER_MUTANT")) chosen = std::atoi(n); }
template <int N> struct Switch {};
template <int N> inline constexpr Switch<N> switched{};
template <int N, class A> struct Left { const A& a; };
#define ZITHER_SWITCH(OP, OTHER) \\
    template <int N, class A> Left<N, A> operator OP(const A& a, Switch<N>) { return {a}; } \\
    template <int N, class A, class B> bool operator OP(Left<N, A> l, const B& b) { return chosen == N ? l.a OTHER b : l.a OP b; }
ZITHER_SWITCH(<, <=)
ZITHER_SWITCH(<=, <)
ZITHER_SWITCH(>, >=)
ZITHER_SWITCH(>=, >)
ZITHER_SWITCH(==, !=)
ZITHER_SWITCH(!=, ==)
}  // namespace zither_mutants
"""


def places():
    for room in options.rooms:
        for file in sorted((top / "src" / room).glob("*.cpp")):
            for number, line in enumerate(file.read_text().split("\n")):
                code = line.split("//")[0]
                if code.lstrip().startswith(("#", "template")) or "constexpr" in code:
                    continue
                for found in comparison.finditer(code):
                    yield room, file.relative_to(top), number, found.start(1), found.group(1)


def write(mutants, touched):
    """The copy's sources with a switch at each of the mutants."""
    files = {file: [] for file in touched}
    for index, mutant in mutants.items():
        files[mutant[1]].append((mutant[2], mutant[3], mutant[4], index))
    for file, switched in files.items():
        lines = (top / file).read_text().split("\n")
        for number, column, operator, index in sorted(switched, reverse=True):
            line = lines[number]
            end = column + len(operator)
            lines[number] = f"{line[:column]}{operator} zither_mutants::switched<{index}> {operator}{line[end:]}"
        text = f'#include "{copy}/switches.h"\n#line 1\n' + "\n".join(lines)
        if (copy / "tree" / file).read_text() != text:
            (copy / "tree" / file).write_text(text)


def build():
    script = (f"mount --bind {copy}/tree {top} && cd {top}/build/release && "
              f"ninja -k 0 zither-core-tests zither-cli zither-demo")
    done = subprocess.run(["unshare", "-m", "sh", "-c", script], capture_output=True, text=True, check=False)
    return done.returncode, done.stdout + done.stderr


def run(index, mutant):
    begun = time.time()
    outcome = "survived"
    for chosen in (tests[mutant[0]], every):
        try:
            done = subprocess.run(
                [str(copy / "tree/build/release/zither-core-tests"), "--gtest_fail_fast", "--gtest_brief=1",
                 f"--gtest_filter={chosen}"],
                env={**os.environ, "ZITHER_MUTANT": str(index)}, cwd=copy, capture_output=True, timeout=900, check=False)
            if done.returncode != 0:
                outcome = "caught"
                break
        except subprocess.TimeoutExpired:
            outcome = "caught (no end)"
            break
    room, file, number, column, operator = mutant
    code = (top / file).read_text().split("\n")[number].strip()
    print(f"{outcome:16} {file}:{number + 1}: {operator} -> {turned[operator]}: {code}", flush=True)
    return {"file": str(file), "line": number + 1, "column": column, "from": operator, "to": turned[operator],
            "code": code, "outcome": outcome, "seconds": round(time.time() - begun, 1)}


# Only a copy of an earlier run is taken away.
if copy.exists() and any(copy.iterdir()) and not (copy / "switches.h").exists():
    raise SystemExit(f"{copy} holds something else: name another folder with --copy")
shutil.rmtree(copy, ignore_errors=True)
copy.mkdir(parents=True)
(copy / "switches.h").write_text(switches)
subprocess.run(["cp", "-a", str(top), str(copy / "tree")], check=True)
chosen = list(places())
random.Random(options.seed).shuffle(chosen)
# Some do not compile, where a comparison is a constant of the language's; a few more stand by.
waiting = dict(enumerate(chosen[: options.count + options.count // 10], start=1))
touched = {mutant[1] for mutant in waiting.values()}
while True:
    write(waiting, touched)
    code, output = build()
    if code == 0:
        break
    bad = {(file, int(line)) for file, line in
           re.findall(r"(src/\w+/\w+\.cpp):(\d+):\d+: (?:error|  required from here)", output)}
    out = [i for i, m in waiting.items() if (str(m[1]), m[2] + 1) in bad]
    if not out:
        raise SystemExit(output[-4000:])
    for index in out:
        del waiting[index]
mutants = list(waiting.items())[: options.count]
print(f"{len(mutants)} mutants built", flush=True)
results = []
with concurrent.futures.ThreadPoolExecutor(options.jobs) as pool:
    for result in pool.map(lambda m: run(*m), mutants):
        results.append(result)
        pathlib.Path(options.report).write_text(json.dumps(results, indent=1) + "\n")
caught = sum(r["outcome"].startswith("caught") for r in results)
print(f"{caught} of {len(results)} caught")
