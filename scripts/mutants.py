#!/usr/bin/env python3
"""Asks of the tests whether they notice wrong programs: turns one comparison of the core at a time into its neighbour
(< into <=, == into != ...) and runs the core's tests in which the two ever say different things, the quickest first.

  scripts/mutants.py [--count 300] [--seed 1] [--rooms check arrange enclose] [--copy FOLDER] [--report FILE] [--jobs 2]

All chosen comparisons are built at once, in a copy of the tree and of build/release, each with a switch that the variable
ZITHER_MUTANT throws; so a mutant costs a run of tests and no build. Suites that fail without a mutant are not asked; one
that takes ten times as long with a mutant has noticed it. The copy is mounted over the tree for the build (in a namespace
of its own), so that what does not change is not compiled again. Prints each mutant that no test noticed, with its place;
whether such a one changes anything at all is for a person to say.
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
parser.add_argument("--budget", type=float, default=120,
                    help="seconds of suites, as they take without a mutant, that one mutant is asked of, the quickest first")
options = parser.parse_args()
copy = pathlib.Path(options.copy)

# Not asked: what runs other programs or takes minutes by itself.
left_out = re.compile(r"Parity|Loop")
turned = {"<": "<=", "<=": "<", ">": ">=", ">=": ">", "==": "!=", "!=": "=="}
# An operator between blanks, as the layout of the house has comparisons; arrows, templates and includes have none.
comparison = re.compile(r"(?<=[\w\)\]]) (<=|>=|==|!=|<|>) (?=[\w\(\-!*&])")

# `a < switched<7> < b` is `a < b`, or `a <= b` where mutant 7 is asked for: both operators bind as the one they replace.
# What the two would have said differently is noted, so that a mutant meets only tests in which it says something else.
switches = """\
#pragma once
#include <cstdio>
#include <cstdlib>
namespace zither_mutants {
inline int chosen = 0;
inline bool differs[4096] = {};
[[gnu::constructor(101)]] inline void choose() { if (const char* n = std::getenv("ZITHER_MUTANT")) chosen = std::atoi(n); }
[[gnu::destructor]] inline void tell() {
    const char* name = std::getenv("ZITHER_MUTANT_LOG");
    std::FILE* file = name ? std::fopen(name, "a") : nullptr;
    if (!file) return;
    for (int n = 0; n < 4096; ++n) if (differs[n]) std::fprintf(file, "%d\\n", n);
    std::fclose(file);
}
inline bool say(int n, bool is, bool other) {
    if (is != other && !differs[n]) differs[n] = true;
    return chosen == n ? other : is;
}
template <int N> struct Switch {};
template <int N> inline constexpr Switch<N> switched{};
template <int N, class A> struct Left { const A& a; };
#define ZITHER_SWITCH(OP, OTHER) \\
    template <int N, class A> Left<N, A> operator OP(const A& a, Switch<N>) { return {a}; } \\
    template <int N, class A, class B> bool operator OP(Left<N, A> l, const B& b) { return say(N, l.a OP b, l.a OTHER b); }
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


def test(suite, environment, limit=900.0):
    """How a suite ended (0: passed) and how long it took."""
    begun = time.time()
    try:
        done = subprocess.run(
            [str(copy / "tree/build/release/zither-core-tests"), "--gtest_fail_fast", "--gtest_brief=1",
             f"--gtest_filter={suite}*"],
            env={**os.environ, "ZITHER_TIME_FACTOR": "100", **environment}, cwd=copy, capture_output=True,
            timeout=limit, check=False)
        return done.returncode, time.time() - begun
    except subprocess.TimeoutExpired:
        return "no end", time.time() - begun


def baseline():
    """Every suite without any mutant: how long it takes, and which mutants say something else in it."""
    listed = subprocess.run([str(copy / "tree/build/release/zither-core-tests"), "--gtest_list_tests"],
                            capture_output=True, text=True, check=True).stdout
    suites = [line.split()[0] for line in listed.split("\n") if re.match(r"\S+\.(\s|$)", line) and not left_out.search(line)]

    def one(suite):
        log = copy / "logs" / suite.replace("/", "_")
        outcome, seconds = test(suite, {"ZITHER_MUTANT_LOG": str(log)})
        if outcome != 0:
            print(f"not asked: {suite} fails without a mutant ({outcome})", flush=True)
            return suite, seconds, set()
        return suite, seconds, {int(n) for n in log.read_text().split()} if log.exists() else set()

    (copy / "logs").mkdir()
    with concurrent.futures.ThreadPoolExecutor(options.jobs) as pool:
        return sorted(pool.map(one, suites), key=lambda s: s[1])


def run(index, mutant, suites):
    begun = time.time()
    asked = [(suite, seconds) for suite, seconds, differing in suites if index in differing]
    outcome = "survived" if asked else "never differs"
    spent = 0.0
    for suite, seconds in asked:
        spent += seconds
        if spent > options.budget and spent > seconds:
            outcome = "survived the quick ones"
            break
        ended, _ = test(suite, {"ZITHER_MUTANT": str(index)}, 30 + 10 * seconds)
        if ended != 0:
            outcome = f"caught by {suite}"
            break
    room, file, number, column, operator = mutant
    code = (top / file).read_text().split("\n")[number].strip()
    print(f"{outcome:30} {file}:{number + 1}: {operator} -> {turned[operator]}: {code}", flush=True)
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
suites = baseline()
print(f"{len(suites)} suites, {sum(s[1] for s in suites):.0f} s", flush=True)
results = []
with concurrent.futures.ThreadPoolExecutor(options.jobs) as pool:
    for result in pool.map(lambda m: run(*m, suites), mutants):
        results.append(result)
        pathlib.Path(options.report).write_text(json.dumps(results, indent=1) + "\n")
caught = sum(r["outcome"].startswith("caught") for r in results)
print(f"{caught} of {len(results)} caught")
