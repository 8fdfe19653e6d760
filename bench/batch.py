#!/usr/bin/env python3
"""Many files by one call: bench/batch.py CLI FOLDER [COUNT [JOBS...]]

Makes COUNT parts (1000: balls, boxes and rings with holes, flips, doubles, specks and crossings, by a seed), every
fiftieth of them a hostile file, runs `batch --repair` on them with one job and with two (a thread each), and says what came of them: how many
were done, how many were told, whether both runs gave the same files, how long they took, and how the memory of the call grew.
"""
import hashlib
import json
import math
import os
import random
import struct
import subprocess
import sys
import time
from pathlib import Path


def grid(around, along, point, closed):
    at = [[point(i / around, j / along) for j in range(along + (0 if closed else 1))] for i in range(around)]
    triangles = []
    for i in range(around):
        for j in range(along):
            a, b = at[i][j], at[(i + 1) % around][j]
            c, d = at[i][(j + 1) % len(at[i])], at[(i + 1) % around][(j + 1) % len(at[i])]
            triangles += [(a, b, c), (b, d, c)]
    return [t for t in triangles if len(set(t)) == 3]


def ball(r, centre, n):
    def point(u, v):
        s = math.sin(math.pi * v) if 0 < v < 1 else 0.0
        return (centre[0] + r * s * math.cos(2 * math.pi * u), centre[1] + r * s * math.sin(2 * math.pi * u),
                centre[2] + r * math.cos(math.pi * v))
    return grid(2 * n, n, point, False)


def ring(r, thick, n):
    def point(u, v):
        q = r + thick * math.cos(2 * math.pi * v)
        return (q * math.cos(2 * math.pi * u), q * math.sin(2 * math.pi * u), thick * math.sin(2 * math.pi * v))
    return grid(2 * n, n, point, True)


def part(random_):
    n = random_.randint(10, 24)
    m = ring(10, 3, n) if random_.random() < 0.4 else ball(10, (0, 0, 0), n)
    if random_.random() < 0.5:
        m += ball(4, (9, random_.uniform(-2, 2), 0), n // 2)
    for _ in range(random_.randint(0, 4)):
        del m[random_.randrange(len(m))]
    for _ in range(random_.randint(0, 6)):
        i = random_.randrange(len(m))
        m[i] = (m[i][0], m[i][2], m[i][1])
    m += [m[random_.randrange(len(m))] for _ in range(random_.randint(0, 3))]
    if random_.random() < 0.3:
        m += ball(0.05, (25, 0, 0), 4)
    return m


def stl(triangles):
    return b" " * 80 + struct.pack("<I", len(triangles)) + b"".join(
        struct.pack("<12fH", 0, 0, 0, *t[0], *t[1], *t[2], 0) for t in triangles)


def hostile(random_, which):
    good = stl(part(random_))
    return [
        b"", b"\0" * 83, random_.randbytes(5000), b"solid nothing\nendsolid\n", b"PK\x03\x04" + random_.randbytes(300),
        b"ply\nformat ascii 1.0\nelement vertex 4000000000\nend_header\n", b"OFF\n99999999 99999999 0\n", b"v 1 2\nf 1 2 3\n",
        b" " * 80 + struct.pack("<I", 2) + struct.pack("<12fH", *([math.nan] * 12), 0) * 2, good[:84] + good[84:120],
    ][which % 10]


def run(cli, folder, out, jobs):
    report = out / "report.jsonl"
    began = time.monotonic()
    call = subprocess.Popen([cli, "batch", str(folder), "-o", str(out), "--repair", "--jobs", str(jobs), "--threads",
                             str(jobs), "--quiet"],
                            stdout=subprocess.DEVNULL)
    memory = {}
    while call.poll() is None:
        try:
            done = sum(1 for _ in out.glob("*-mended.stl"))
            rss = int(next(l for l in open(f"/proc/{call.pid}/status") if l.startswith("VmRSS")).split()[1])
            memory[done] = rss
        except (OSError, StopIteration):
            pass
        time.sleep(0.2)
    seconds = time.monotonic() - began
    states = {}
    for line in open(report):
        state = json.loads(line)["state"]
        states[state] = states.get(state, 0) + 1
    return seconds, states, memory


def main():
    cli, folder = sys.argv[1], Path(sys.argv[2])
    count = int(sys.argv[3]) if len(sys.argv) > 3 else 1000
    parts = folder / "parts"
    parts.mkdir(parents=True)
    bad = 0
    for i in range(count):
        random_ = random.Random(i)
        if i % 50 == 49:
            (parts / f"part{i:04}.stl").write_bytes(hostile(random_, bad))
            bad += 1
        else:
            (parts / f"part{i:04}.stl").write_bytes(stl(part(random_)))
    results = {}
    for jobs in [int(j) for j in sys.argv[4:]] or (1, 2):
        out = folder / f"out{jobs}"
        seconds, states, memory = run(cli, parts, out, jobs)
        digest = hashlib.sha256()
        files = sorted(out.glob("*-mended.stl"))
        for f in files:
            digest.update(f.name.encode() + f.read_bytes())
        early = next((kb for done, kb in sorted(memory.items()) if done >= count // 10), 0)
        late = memory[max(memory)] if memory else 0
        results[jobs] = (seconds, digest.hexdigest())
        print(f"{jobs} jobs: {seconds:.1f} s, {len(files)} files of {count - bad} parts and {bad} hostile ones, {states}; "
              f"memory of the call {early} kB after a tenth, {late} kB at the end")
    if len(results) == 2:
        print(f"twice as many jobs: {results[1][0] / results[2][0]:.2f} times as fast; the same files: "
              f"{results[1][1] == results[2][1]}")


if __name__ == "__main__":
    main()
