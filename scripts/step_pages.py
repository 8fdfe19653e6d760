#!/usr/bin/env python3
"""docs/steps.md: every step as the catalogue tells it, with a part of the rig before and after.

  scripts/step_pages.py [--build FOLDER]            writes the page and draws the pictures anew
  scripts/step_pages.py [--build FOLDER] --words    writes the page alone
  scripts/step_pages.py [--build FOLDER] --check    fails where the page does not say what the catalogue says
"""
import argparse
import json
import pathlib
import subprocess
import sys
import tempfile

top = pathlib.Path(__file__).resolve().parent.parent
parser = argparse.ArgumentParser()
parser.add_argument("--build", default=str(top / "build/release"))
parser.add_argument("--check", action="store_true")
parser.add_argument("--words", action="store_true")
options = parser.parse_args()
build = pathlib.Path(options.build)
cli, rig = build / "zither-cli", build / "rig"

# Of a step: the part, the steps that go before, the call, and how it is looked at.
examples = {
    "clean": ("strainer", [], "clean", []),
    "stitch": ("hub", [], "stitch", []),
    "resolve": ("strainer", ["clean"], "resolve", []),
    "orient": ("spinner", [], "orient", []),
    "drop-shells": ("blade", [], "drop-shells", []),
    "fill": ("blade", ["clean"], "fill", []),
    "enclose": ("blade", [], "enclose", []),
    "thicken": ("fairing", [], "thicken thickness=4", ["--cut", "x"]),
    "hollow": ("spinner", ["orient", "enclose"], "hollow wall=6 drains=2 diameter=14", ["--cut", "y", "--from", "front"]),
    "offset": ("nacelle", [], "offset distance=3", ["--cut", "y", "--from", "front"]),
    "trim": ("nacelle", [], "trim at=-60", []),
    "flatten": ("nacelle", ["trim at=-60", "decimate percent=4"], "flatten", ["--from", "bottom"]),
    "place": ("nacelle", [], "place axis=x angle=90 to=floor", []),
    "scale": ("strainer", [], "scale factor=2", []),
    "mirror": ("spinner", [], "mirror axis=x", []),
    "fuse": ("duct-frame", [], "fuse", ["--cut", "z", "--from", "top"]),
    "wrap": ("strainer", [], "wrap triangles=30000", []),
    "decimate": ("nacelle", [], "decimate percent=5", []),
    "remesh": ("hub", ["stitch", "enclose"], "remesh length=8", []),
    "refine": ("nacelle", ["decimate percent=2"], "refine length=0 deviation=0.3 shape=curved", []),
    "brush": ("nacelle", [], "brush way=out width=40 strength=100 path="
              + ";".join(f"37,-37,{z}" for z in range(-40, 41, 5)), []),
    "soften": ("duct-frame", ["fuse"], "soften radius=2 ridge=50", []),
    "smooth": ("blade", ["clean", "enclose"], "smooth scale=6 deviation=0.5", []),
}
views = ["--size", "480x360"]


def run(*words):
    return subprocess.run([str(w) for w in words], capture_output=True, text=True, check=False)


def kind(parameter):
    if parameter.get("choices"):
        return " \\| ".join(parameter["choices"])
    unit = parameter["unit"] or "number"
    return {"unit": "length"}.get(unit, unit)


def page(catalogue):
    text = ["# Steps", "", "<!-- Written by scripts/step_pages.py from the catalogue; do not edit. -->", "",
            "Every step works on the command line (`zither-cli run IN -o OUT --step \"NAME key=value\"`), in recipes, and at",
            "the desk in the window, there with a preview. What is not given is proposed from the part, or has the default",
            "below. Where nothing else is said a step works on the pick as well (`pick=...`, see `command-line.md`).", ""]
    text += ["| step | |", "|---|---|"]
    text += [f"| [`{s['name']}`](#{s['name']}) | {s['summary']} |" for s in catalogue]
    for step in catalogue:
        name = step["name"]
        text += ["", f"## {name}", "", f"**{step['title']}.** {step['summary']}"]
        if step.get("whole_only"):
            text += ["", f"It works on the whole part: {step['whole_only']}."]
        if step["parameters"]:
            text += ["", "| parameter | | default | |", "|---|---|---|---|"]
            for p in step["parameters"]:
                default = "" if p["default"] is None else p["default"]
                text.append(f"| `{p['name']}` | {kind(p)} | {default} | {p['help']} |")
        if name in examples:
            part, before, call, view = examples[name]
            told = f"`{call}` on the rig's {part.replace('-', ' ')}"
            if before:
                told += " after " + ", ".join(f"`{b}`" for b in before)
            text += ["", f"| before | {told} |", "|---|---|",
                     f"| ![before]({pictures}/{name}-before.png) | ![after]({pictures}/{name}-after.png) |"]
    return "\n".join(text) + "\n"


def draw(name):
    part, before, call, view = examples[name]
    target = top / "docs" / pictures
    target.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as folder:
        start, end = pathlib.Path(folder) / "start.ply", pathlib.Path(folder) / "end.ply"
        for file, calls in ((start, before), (end, before + [call])):
            done = run(cli, "run", rig / f"{part}.stl", "-o", file, "-q", *[w for c in calls for w in ("--step", c)])
            if done.returncode > 1:
                sys.exit(f"{name}: {done.stderr}")
        for file, when in ((start, "before"), (end, "after")):
            done = run(cli, "picture", file, "-q", "-o", target / f"{name}-{when}.png", *views, *view)
            if done.returncode != 0:
                sys.exit(f"{name}: {done.stderr}")


pictures = "steps"
catalogue = json.loads(run(cli, "steps", "--json").stdout)
unknown = set(examples) - {s["name"] for s in catalogue}
if unknown:
    sys.exit(f"no such steps: {', '.join(sorted(unknown))}")
target = top / "docs/steps.md"
if options.check:
    missing = [f"{n}-{w}.png" for n in examples for w in ("before", "after")
               if not (top / "docs" / pictures / f"{n}-{w}.png").exists()]
    if missing:
        sys.exit(f"docs/steps lacks {', '.join(missing)}: run scripts/step_pages.py")
    if not target.exists() or target.read_text() != page(catalogue):
        sys.exit("docs/steps.md is out of date: run scripts/step_pages.py")
else:
    target.write_text(page(catalogue))
    for step in [] if options.words else catalogue:
        if step["name"] in examples:
            draw(step["name"])
