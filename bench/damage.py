#!/usr/bin/env python3
"""Other surfaces of the kind of those in a folder: each file turned, torn, cut, coarsened ... one damage a file.

    bench/damage.py FOLDER OUT [--cli PATH] [--most TRIANGLES] [--kinds turned,half,...]

What comes out is binary STL, the same on every machine, and is measured with bench/field.py.
"""
import argparse
import math
import pathlib
import random
import struct
import subprocess
import sys

header = struct.Struct("<12fH")


def read(path):
    data = path.read_bytes()
    count = struct.unpack_from("<I", data, 80)[0]
    triangles = []
    for i in range(count):
        v = header.unpack_from(data, 84 + header.size * i)
        triangles.append([v[3:6], v[6:9], v[9:12]])
    return triangles


def write(path, triangles):
    with open(path, "wb") as file:
        file.write(b"\0" * 80 + struct.pack("<I", len(triangles)))
        for a, b, c in triangles:
            file.write(header.pack(0, 0, 0, *a, *b, *c, 0))


def each(triangles, change):
    return [[change(v) for v in t] for t in triangles]


def moved(triangles, change):
    """The same for equal corners."""
    known = {}
    return each(triangles, lambda v: known.setdefault(v, change(v)))


class Part:
    def __init__(self, name, triangles):
        self.triangles = triangles
        self.low = [min(v[k] for t in triangles for v in t) for k in range(3)]
        self.high = [max(v[k] for t in triangles for v in t) for k in range(3)]
        self.size = math.dist(self.low, self.high)
        self.random = random.Random(name)

    def gauss(self, by):
        return [self.random.gauss(0, by * self.size) for _ in range(3)]


def turned(p):
    w, x, y, z = (q / 2 for q in p.gauss(1 / p.size) + [p.random.gauss(0, 1)])
    length = math.sqrt(w * w + x * x + y * y + z * z)
    w, x, y, z = w / length, x / length, y / length, z / length
    rows = [
        [1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
        [2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
        [2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ]
    return each(p.triangles, lambda v: [sum(r[k] * v[k] for k in range(3)) for r in rows])


def coarse(p, cells):
    step = p.size / cells
    return each(p.triangles, lambda v: [round(c / step) * step for c in v])


def half(p):
    middle = [a + 0.6 * (b - a) for a, b in zip(p.low, p.high)]
    along = p.gauss(1)
    return [t for t in p.triangles if sum(along[k] * (sum(v[k] for v in t) / 3 - middle[k]) for k in range(3)) < 0]


def twice(p):
    out = []
    for t in p.triangles:
        out.append(t)
        if p.random.random() < 0.1:
            out.append(t if p.random.random() < 0.5 else [t[0], t[2], t[1]])
    return out


def another(p):
    by = [p.random.uniform(0.05, 0.2) * p.size for _ in range(3)]
    return p.triangles + each(p.triangles, lambda v: [v[k] + by[k] for k in range(3)])


def split(p):
    out = []
    for t in p.triangles:
        if p.random.random() >= 0.05:
            out.append(t)
            continue
        k = p.random.randrange(3)
        a, b, c = t[k], t[(k + 1) % 3], t[(k + 2) % 3]
        middle = [(x + y) / 2 for x, y in zip(a, b)]
        out += [[a, middle, c], [middle, b, c]]
    return out


def noise(p):
    """Zeros that came out of a rotation."""
    return each(
        p.triangles, lambda v: [c if abs(c) > 1e-6 * p.size else p.random.choice([1, 2, -1]) * 1.2e-16 * p.size for c in v]
    )


def loosely(p, by):
    out = []
    for t in each(p.triangles, lambda v: [c + g for c, g in zip(v, p.gauss(by))]):
        chance = p.random.random()
        out.append([t[0], t[0], t[1]] if chance < 0.01 else t)
        if chance > 0.98:
            out.append(t)
    return out


def spikes(p):
    return moved(
        p.triangles, lambda v: [c + g for c, g in zip(v, p.gauss(0.05))] if p.random.random() < 0.01 else v
    )


kinds = {
    "turned": turned,
    "grid": lambda p: coarse(p, 1500),
    "coarse": lambda p: coarse(p, 200),
    "digits": lambda p: each(p.triangles, lambda v: [float(f"{c:.4g}") for c in v]),
    "missing": lambda p: [t for t in p.triangles if p.random.random() > 0.02],
    "flipped": lambda p: [t if p.random.random() > 0.1 else [t[0], t[2], t[1]] for t in p.triangles],
    "half": half,
    "jitter": lambda p: moved(p.triangles, lambda v: [c + g for c, g in zip(v, p.gauss(2e-4))]),
    "loose": lambda p: each(p.triangles, lambda v: [c + g for c, g in zip(v, p.gauss(1e-7))]),
    # As exporters write them that lose count: corners apart, some triangles twice, some collapsed.
    "round-7": lambda p: loosely(p, 1e-7),
    "round-6": lambda p: loosely(p, 2e-6),
    "round-5": lambda p: loosely(p, 1e-5),
    "noise": noise,
    "twice": twice,
    "another": another,
    "split": split,
    "spikes": spikes,
    "far": lambda p: each(p.triangles, lambda v: [c + 1e3 * p.size for c in v]),
    "mirrored": lambda p: each(p.triangles, lambda v: [-1e-3 * v[0], 1e-3 * v[1], 1e-3 * v[2]]),
    "thin": lambda p: each(p.triangles, lambda v: [v[0], v[1], 0.01 * v[2]]),
}


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=pathlib.Path)
    parser.add_argument("out", type=pathlib.Path)
    parser.add_argument("--cli", default="build/release/zither-cli")
    parser.add_argument("--most", type=int, default=13000, help="triangles of a file; larger ones are left out")
    parser.add_argument("--kinds", default=",".join(kinds))
    options = parser.parse_args()
    options.out.mkdir(parents=True, exist_ok=True)
    plain = options.out / "plain.stl"
    for file in sorted(f for f in options.folder.iterdir() if f.is_file()):
        done = subprocess.run([options.cli, "run", str(file), "-o", str(plain), "--quiet"], capture_output=True)
        if done.returncode not in (0, 1) or not plain.exists():
            print(f"{file.name}: left out, it could not be read", file=sys.stderr)
            continue
        triangles = read(plain)
        plain.unlink()
        if 0 < len(triangles) <= options.most:
            for kind in options.kinds.split(","):
                write(options.out / f"{file.name}.{kind}.stl", kinds[kind](Part(file.name + kind, triangles)))
    print(f"{len(list(options.out.iterdir()))} files in {options.out}")


if __name__ == "__main__":
    sys.exit(main())
