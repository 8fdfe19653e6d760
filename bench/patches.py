#!/usr/bin/env python3
"""How far patches are from what was there: solids with a piece cut out, of which the truth is known.

    bench/patches.py [--cli build/release/zither-cli]

Prints for each solid by how much its volume is off, in per cent, after `repair --openings close`, and after flat or taut
patches (`fill way=flat`), and whether the repaired file is a solid.
"""
import argparse
import json
import math
import pathlib
import struct
import subprocess
import tempfile

AROUND = 64


def write(path, triangles):
    with open(path, "wb") as file:
        file.write(b"\0" * 80 + struct.pack("<I", len(triangles)))
        for a, b, c in triangles:
            file.write(struct.pack("<12fH", 0, 0, 0, *a, *b, *c, 0))


def grid(point, columns, rows):
    triangles = []
    for i in range(columns):
        for j in range(rows):
            a, b, c, d = point(i, j), point(i + 1, j), point(i + 1, j + 1), point(i, j + 1)
            triangles += [[a, b, c], [a, c, d]]
    return [t for t in triangles if len(set(t)) == 3]


def turned(profile):
    """Around the z axis; a profile of (distance from it, height) from the bottom to the top."""

    def point(i, j):
        r, z = profile[j]
        angle = 2 * math.pi * (i % AROUND) / AROUND
        return (r * math.cos(angle), r * math.sin(angle), z) if r else (0.0, 0.0, z)

    return grid(point, AROUND, len(profile) - 1)


def line(a, b, parts):
    return [(a[0] + (b[0] - a[0]) * t / parts, a[1] + (b[1] - a[1]) * t / parts) for t in range(parts)]


def box(parts, side):
    triangles = []
    x, y, z, o = (side, 0, 0), (0, side, 0), (0, 0, side), (0, 0, 0)
    for corner, u, v in ((o, y, x), (z, x, y), (o, x, z), (y, z, x), (o, z, y), (x, y, z)):
        triangles += grid(
            lambda i, j: tuple(corner[k] + (u[k] * i + v[k] * j) / parts for k in range(3)), parts, parts
        )
    return triangles


def ring():
    def point(i, j):
        a, b = 2 * math.pi * (i % AROUND) / AROUND, 2 * math.pi * (j % 32) / 32
        r = 10 + 4 * math.cos(b)
        return (r * math.cos(a), r * math.sin(a), 4 * math.sin(b))

    return grid(point, AROUND, 32)


def cut(triangles, centre, radius):
    return [t for t in triangles if math.dist([sum(p[k] for p in t) / 3 for k in range(3)], centre) > radius]


def solids():
    cap = line((0, 0), (10, 0), 6)
    top = line((10, 20), (0, 20), 6) + [(0, 20)]
    cylinder = turned(cap + line((10, 0), (10, 20), 12) + top)
    ball = turned(
        [(10 * math.sin(math.pi * k / 32) if 0 < k < 32 else 0, -10 * math.cos(math.pi * k / 32)) for k in range(33)]
    )
    fillet = [(7 + 3 * math.sin(math.pi / 2 * k / 8), 3 - 3 * math.cos(math.pi / 2 * k / 8)) for k in range(8)]
    filleted = turned(line((0, 0), (7, 0), 4) + fillet + line((10, 3), (10, 20), 10) + top)
    cone = turned(cap + line((10, 0), (0, 20), 14) + [(0, 20)])
    block = box(16, 20)
    half = 10 * math.sqrt(0.5)
    return {
        "ball": (ball, (half, 0, half), 4),
        "cylinder, wall": (cylinder, (10, 0, 10), 4),
        "ring, outside": (ring(), (14, 0, 0), 3),
        "ring, inside": (ring(), (6, 0, 0), 2.5),
        "cone, wall": (cone, (5, 0, 10), 3),
        "cone, tip": (cone, (0, 0, 20), 3),
        "fillet": (filleted, (9.1, 0, 0.9), 3),
        "fillet, where it ends": (filleted, (10, 0, 3), 3),
        "cylinder, edge": (cylinder, (10, 0, 20), 4),
        "cylinder, much of its edge": (cylinder, (half, half, 0), 6),
        "block, face": (block, (10, 10, 20), 4),
        "block, edge": (block, (10, 0, 20), 4),
        "block, corner": (block, (20, 20, 20), 4),
    }


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--cli", default="build/release/zither-cli")
    options = parser.parse_args()

    def said(*words):
        done = subprocess.run([options.cli, *map(str, words), "--json"], capture_output=True, text=True, check=False)
        return json.loads(done.stdout.strip().split("\n")[-1])

    with tempfile.TemporaryDirectory() as name:
        folder = pathlib.Path(name)
        whole, torn, out = (folder / f"{n}.stl" for n in ("whole", "torn", "out"))
        print(f"{'':28}{'repair %':>10}{'flat %':>10}")
        for solid, (triangles, centre, radius) in solids().items():
            write(whole, triangles)
            write(torn, cut(triangles, centre, radius))
            true = said("check", whole)["volume"]
            repaired = said("repair", torn, "-o", out, "--overwrite", "--openings", "close")["output"]
            flat = said("run", torn, "-o", out, "--overwrite", "--step", "fill meant=close way=flat")["output"]
            off = [100 * (o["volume"] - true) / true for o in (repaired, flat)]
            print(f"{solid:28}{off[0]:10.3f}{off[1]:10.3f}  {'solid' if repaired['solid'] else 'open'}", flush=True)


if __name__ == "__main__":
    main()
