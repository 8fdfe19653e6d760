#!/usr/bin/env python3
"""Asks of the tests whether they notice wrong programs: turns one comparison of the core at a time into its neighbour
(< into <=, == into != ...), builds the core's tests and runs those of that room.

  scripts/mutants.py [--count 300] [--seed 1] [--rooms check arrange enclose] [--build FOLDER] [--report FILE]

Works in the tree that it stands in, and puts every file back: run it in a copy that is built. Prints each mutant that
no test noticed, with its place; whether such a one changes anything at all is for a person to say.
"""
import argparse
import json
import pathlib
import random
import re
import subprocess
import time

top = pathlib.Path(__file__).resolve().parent.parent
parser = argparse.ArgumentParser()
parser.add_argument("--count", type=int, default=300)
parser.add_argument("--seed", type=int, default=1)
parser.add_argument("--rooms", nargs="+", default=["check", "arrange", "enclose"])
parser.add_argument("--build", default=str(top / "build/release"))
parser.add_argument("--report", default="mutants.json")
options = parser.parse_args()

# What tests a room, the quickest first.
tests = {
    "check": "SimpleFans*:EdgeRuns*:SelfIntersections*:CrossingPairs*:ShellList*:TightShells*:Needles*:InwardShells*:"
             "Findings*:Survey.*:Surveyed*:SurveyOptions*:DefectClasses*:Voids*:Wall*:KnifeEdges*:Undercuts*:Overhangs*:"
             "Build*:Shape*:Chains*:Law*:Numbers*:Conditions*",
    "arrange": "Pieces*:ArrangeMirror*:Fuse*:Settle*:Spots*:Fit.*:Resolve*:Cover*:Trim.*",
    "enclose": "MinimumCut*:Cells*:Candidates*:Enclose*:Thicken*:Places*:BrokenParts*:Questions*:AutomaticRepair*",
}
turned = {"<": "<=", "<=": "<", ">": ">=", ">=": ">", "==": "!=", "!=": "=="}
# An operator between blanks, as the layout of the house has comparisons; arrows, templates and includes have none.
comparison = re.compile(r"(?<=[\w\)\]]) (<=|>=|==|!=|<|>) (?=[\w\(\-!*&])")


def places():
    for room in options.rooms:
        for file in sorted((top / "src" / room).glob("*.cpp")):
            for number, line in enumerate(file.read_text().split("\n")):
                code = line.split("//")[0]
                if code.lstrip().startswith(("#", "template")):
                    continue
                for found in comparison.finditer(code):
                    yield room, file, number, found.start(1), found.group(1)


def quiet(command, limit):
    try:
        return subprocess.run(command, cwd=options.build, capture_output=True, timeout=limit, check=False).returncode
    except subprocess.TimeoutExpired:
        return None


chosen = list(places())
random.Random(options.seed).shuffle(chosen)
results = []
for room, file, number, column, operator in chosen[: options.count]:
    text = file.read_text()
    lines = text.split("\n")
    line = lines[number]
    lines[number] = line[:column] + turned[operator] + line[column + len(operator) :]
    begun = time.time()
    try:
        file.write_text("\n".join(lines))
        if quiet(["ninja", "zither-core-tests"], 900) != 0:
            outcome = "does not build"
        else:
            code = quiet(["./zither-core-tests", "--gtest_fail_fast", "--gtest_brief=1", f"--gtest_filter={tests[room]}"], 300)
            outcome = "survived" if code == 0 else "caught" if code is not None else "caught (no end)"
    finally:
        file.write_text(text)
    results.append({"file": str(file.relative_to(top)), "line": number + 1, "from": operator, "to": turned[operator],
                    "code": line.strip(), "outcome": outcome, "seconds": round(time.time() - begun, 1)})
    print(f"{outcome:16} {file.relative_to(top)}:{number + 1}: {operator} -> {turned[operator]}: {line.strip()}", flush=True)
    pathlib.Path(options.report).write_text(json.dumps(results, indent=1) + "\n")
quiet(["ninja", "zither-core-tests"], 900)
built = [r for r in results if r["outcome"] != "does not build"]
caught = sum(r["outcome"].startswith("caught") for r in built)
print(f"{caught} of {len(built)} caught")
