#!/usr/bin/env python3
"""The floors of the house, read from the build files: draws docs/floors.svg, and checks that arrows point down.

  scripts/floors.py           draws the picture anew
  scripts/floors.py --check   fails where a room includes one that it does not stand on, two rooms stand on each other,
                              Qt is used below session, or the picture is out of date
"""
import pathlib
import re
import sys

top = pathlib.Path(__file__).resolve().parent.parent
build = (top / "src/CMakeLists.txt").read_text()
rooms = {}
for call in re.finditer(r"zither_room\((\w+)([^)]*)\)", build):
    words = call.group(2).split()
    floors, taking = [], None
    for word in words:
        if word in ("WINDOW", "SHELVES", "FLOORS", "PACKAGES", "INTERNAL"):
            taking = word
        elif taking == "FLOORS":
            floors.append(word)
    rooms[call.group(1)] = floors

below = {}


def standing_on(room, path=()):
    if room in path:
        sys.exit("rooms stand on each other: " + " -> ".join(path + (room,)))
    if room not in below:
        found = set(rooms[room])
        for other in rooms[room]:
            found |= standing_on(other, path + (room,))
        below[room] = found
    return below[room]


for room in rooms:
    standing_on(room)
level = {}
for room in sorted(rooms, key=lambda r: len(below[r])):
    level[room] = 1 + max((level[other] for other in below[room]), default=0)

wrong = []
for room in rooms:
    for file in sorted((top / "src" / room).rglob("*.*")):
        if file.suffix not in (".h", ".cpp"):
            continue
        text = file.read_text()
        for include in re.findall(r'#include "(\w+)/', text):
            if include != room and include in rooms and include not in below[room]:
                wrong.append(f"{file.relative_to(top)}: includes {include}/, which {room} does not stand on")
        if room not in ("session", "desktop") and re.search(r"#include <Q[A-Z]", text):
            wrong.append(f"{file.relative_to(top)}: Qt below session")

height, width, left = 46, 118, 70
highest = max(level.values())
rows = {n: sorted(r for r in rooms if level[r] == n) for n in range(1, highest + 1)}
at = {}
for n, names in rows.items():
    for i, name in enumerate(names):
        at[name] = (left + i * (width + 22), 20 + (highest - n) * (height + 22))
wide = left + max(len(names) for names in rows.values()) * (width + 22)
svg = [f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}" height="{20 + highest * (height + 22)}" '
       'font-family="Inter, sans-serif" font-size="14">',
       '<rect width="100%" height="100%" fill="#F6F1E6"/>']
for room, floors in rooms.items():
    # Only what is not reached by another room already.
    direct = [f for f in floors if not any(f in below[g] for g in floors)]
    for other in direct:
        x1, y1 = at[room]
        x2, y2 = at[other]
        svg.append(f'<line x1="{x1 + width / 2}" y1="{y1 + height}" x2="{x2 + width / 2}" y2="{y2}" stroke="#B7824F"/>')
for n in rows:
    svg.append(f'<text x="12" y="{20 + (highest - n) * (height + 22) + 28}" fill="#757066">floor {n}</text>')
for room, (x, y) in at.items():
    svg.append(f'<rect x="{x}" y="{y}" width="{width}" height="{height}" rx="5" fill="#FBF7EF" stroke="#D9CBB4"/>')
    svg.append(f'<text x="{x + width / 2}" y="{y + 28}" text-anchor="middle" fill="#222B2E">{room}</text>')
svg.append("</svg>\n")
picture = "\n".join(svg)
target = top / "docs/floors.svg"
if sys.argv[1:] == ["--check"]:
    if not target.exists() or target.read_text() != picture:
        wrong.append("docs/floors.svg is out of date: run scripts/floors.py")
    print("\n".join(wrong))
    sys.exit(1 if wrong else 0)
target.write_text(picture)
print("\n".join(wrong))
