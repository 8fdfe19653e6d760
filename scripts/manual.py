#!/usr/bin/env python3
"""Manual pages and shell completion, made from what zither-cli says of itself.

  scripts/manual.py ZITHER-CLI FOLDER    writes zither-cli.1, zither.1 and zither-cli.bash into the folder
"""
import json
import pathlib
import re
import subprocess
import sys

cli, folder = sys.argv[1], pathlib.Path(sys.argv[2])
folder.mkdir(parents=True, exist_ok=True)


def says(*words):
    return subprocess.run([cli, *words], capture_output=True, text=True, check=True).stdout


def roff(text):
    text = text.replace("\\", "\\e").replace("-", "\\-")
    return "\n".join("\\&" + line if line.startswith((".", "'")) else line for line in text.splitlines())


version = says("--version").split()[-1]
calls = re.findall(r"^  ([a-z]+) {2,}(.*)$", says("--help").split("Subcommands:")[1], re.M)
steps = json.loads(says("steps", "--json"))
options = {}
page = [f'.TH ZITHER\\-CLI 1 "" "Zither {version}" "User commands"', ".SH NAME",
        "zither\\-cli \\- finds and mends what is wrong with triangle surfaces, and proves the file that it writes",
        ".SH SYNOPSIS", ".B zither\\-cli", ".I CALL", "[options]", ".SH CALLS"]
for name, about in calls:
    help_text = says(name, "--help")
    options[name] = sorted(set(re.findall(r"--[a-z][a-z-]*", help_text)))
    page += [f".SS {name}", roff(about), ".PP", ".nf", roff(help_text.strip()), ".fi"]
page += [".SH STEPS", "Of", ".B run", "and recipes; lengths are in the file's unit."]
for step in steps:
    page += [".TP", ".B " + roff(step["name"]), roff(step["summary"])]
    for p in step["parameters"]:
        page += [".br", ".I " + roff(p["name"]), roff(f"({p['unit'] or 'number'}): {p['help']}")]
page += [".SH EXIT STATUS", ".TP", ".B 0", "Every requirement of the brief is met.", ".TP", ".B 1", "Done, and at least one is not.",
         ".TP", ".B 2", "The call is wrong, or a file cannot be read or written; then nothing was written.", ".TP", ".B 130",
         "Interrupted; every file is as it was.", ".SH SEE ALSO", ".BR zither (1)"]
(folder / "zither-cli.1").write_text("\n".join(page) + "\n")

(folder / "zither.1").write_text("\n".join([
    f'.TH ZITHER 1 "" "Zither {version}" "User commands"', ".SH NAME",
    "zither \\- a window in which triangle surfaces are looked at, mended and handed over", ".SH SYNOPSIS", ".B zither",
    "[\\fIFILE\\fR ...]", ".SH DESCRIPTION",
    "Opens surface files and projects (.zither). F1 helps with what is on the desk, Shift+F1 lists all keys, Ctrl+K finds commands.",
    ".SH FILES", ".TP", roff("~/.config/zither/zither.conf"), "Settings.", ".TP", roff("~/.local/share/zither/zither/unsaved/"),
    "Work that was not saved when a session ended.", ".SH SEE ALSO", ".BR zither\\-cli (1)"]) + "\n")

(folder / "zither-cli.bash").write_text("""# Completion of zither-cli, made by scripts/manual.py.
_zither_cli() {
  local word=${COMP_WORDS[COMP_CWORD]} call=${COMP_WORDS[1]:-} before=${COMP_WORDS[COMP_CWORD-1]}
  if [ "$COMP_CWORD" -eq 1 ]; then
    COMPREPLY=($(compgen -W "%s --help --version" -- "$word"))
  elif [ "$before" = --step ]; then
    COMPREPLY=($(compgen -W "%s" -- "$word"))
  elif [[ $word == -* ]]; then
    case $call in
%s    esac
  fi
}
complete -o default -F _zither_cli zither-cli
""" % (" ".join(name for name, _ in calls), " ".join(step["name"] for step in steps),
       "".join(f'      {name}) COMPREPLY=($(compgen -W "{" ".join(words)}" -- "$word")) ;;\n' for name, words in options.items())))
