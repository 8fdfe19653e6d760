#!/usr/bin/env python3
"""docs/schemas/recipe.schema.json, made from the catalogue of steps.

  scripts/schemas.py [--build FOLDER]            writes it anew
  scripts/schemas.py [--build FOLDER] --check    fails where it is not what the catalogue says, or where the program and
                                                 the schema do not agree on recipes that are right and wrong
"""
import argparse
import json
import pathlib
import subprocess
import sys
import tempfile

import jsonschema

top = pathlib.Path(__file__).resolve().parent.parent
parser = argparse.ArgumentParser()
parser.add_argument("--build", default=str(top / "build/release"))
parser.add_argument("--check", action="store_true")
options = parser.parse_args()
cli = pathlib.Path(options.build) / "zither-cli"
file = top / "docs/schemas/recipe.schema.json"


def value(parameter):
    if parameter.get("choices"):
        return {"enum": parameter["choices"]}
    if parameter["min"] is None:
        return {"type": ["string", "null"]}
    if isinstance(parameter["min"], bool):
        return {"type": ["boolean", "number"]}
    return {"type": "number", "minimum": parameter["min"], "maximum": parameter["max"]}


def step(described):
    parameters = {p["name"]: value(p) for p in described["parameters"]}
    parameters |= {name: {} for name in described["retired"]}
    return {
        "type": "object",
        "required": ["name"],
        "additionalProperties": False,
        "properties": {
            "name": {"const": described["name"]},
            "pick": {"type": "string"},
            "only_if": {"type": "string"},
            "parameters": {"type": "object", "additionalProperties": False, "properties": parameters},
        },
    }


def schema():
    steps = json.loads(subprocess.run([cli, "steps", "--json"], capture_output=True, text=True, check=True).stdout)
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Zither recipe",
        "type": "object",
        "required": ["zither", "steps"],
        "additionalProperties": False,
        "properties": {
            "zither": {"const": 1},
            "title": {"type": "string"},
            "comment": {},
            "repair": {
                "type": "object",
                "additionalProperties": False,
                "properties": {
                    "openings": {"enum": ["ask", "close"]},
                    "sheets": {"enum": ["ask", "drop", "thicken"]},
                    "thickness": {"type": "number", "minimum": 0},
                    "buried": {"enum": ["material", "void", "keep"]},
                    "max_deviation": {"type": "number", "minimum": 0},
                    "time_limit": {"type": "number", "minimum": 0},
                    "answers": {"type": "object", "additionalProperties": {"type": "string"}},
                },
            },
            "steps": {"type": "array", "items": {"oneOf": [step(s) for s in steps]}},
        },
    }


def recipe(*steps, **more):
    return {"zither": 1, "steps": list(steps)} | more


right = [
    recipe(),
    recipe({"name": "clean"}),
    recipe({"name": "decimate", "parameters": {"percent": 50, "shape": "even", "lock-borders": True}}),
    recipe({"name": "fill", "only_if": "boundary_edges", "parameters": {"way": "smooth"}}, title="Mine", comment="why"),
    recipe(repair={}),
    recipe({"name": "clean"}, repair={"openings": "close", "sheets": "drop", "thickness": 0.8, "answers": {}}),
    recipe({"name": "enclose", "parameters": {"worse": "put-back", "bits": 32}}),
]
wrong = [
    {"zither": 2, "steps": []},
    {"zither": 1},
    recipe(stepz=[]),
    recipe({"name": "decimte"}),
    recipe({"name": "clean", "params": {}}),
    recipe({"name": "clean", "parametres": {}}),
    recipe({"name": "fill", "onlyif": "boundary_edges"}),
    recipe({"name": "decimate", "parameters": {"percnt": 50}}),
    recipe({"name": "decimate", "parameters": {"percent": 500}}),
    recipe({"name": "decimate", "parameters": {"percent": "50"}}),
    recipe({"name": "fill", "parameters": {"way": "smoth"}}),
    recipe({"name": "clean", "pick": 3}),
    recipe(repair=True),
    recipe(repair={"opening": "close"}),
    recipe(repair={"sheets": "keep"}),
    recipe(repair={"thickness": -1}),
    recipe(repair={"answers": {"0011": 3}}),
]


def accepted_by_schema(text, made):
    return jsonschema.Draft202012Validator(made).is_valid(text)


def accepted_by_program(text, folder):
    box = folder / "box.off"
    box.write_text("OFF\n4 4 0\n0 0 0\n1 0 0\n0 1 0\n0 0 1\n3 0 2 1\n3 0 1 3\n3 1 2 3\n3 2 0 3\n")
    (folder / "recipe.json").write_text(json.dumps(text))
    words = [cli, "run", box, "--dry-run", "--recipe", folder / "recipe.json"]
    return subprocess.run(words, capture_output=True, check=False).returncode != 2


made = schema()
if not options.check:
    file.write_text(json.dumps(made, indent=2) + "\n")
    sys.exit(0)
if json.loads(file.read_text()) != made:
    sys.exit(f"{file.relative_to(top)} is not what the catalogue says: run scripts/schemas.py")
with tempfile.TemporaryDirectory() as name:
    for texts, expected in ((right, True), (wrong, False)):
        for text in texts:
            for who, does in (("schema", accepted_by_schema(text, made)),
                              ("program", accepted_by_program(text, pathlib.Path(name)))):
                if does != expected:
                    sys.exit(f"the {who} {'refuses' if expected else 'accepts'} {json.dumps(text)}")
