#!/usr/bin/env python3
"""One line a file: what the program makes of surfaces in a folder (kept outside the repository).

    bench/field.py FOLDER [--jobs N] [--only WORD] [--cli PATH] [--out FOLDER] -- repair [OPTION ...]
    bench/field.py FOLDER -- run --step enclose

Counts are those of the written file, read back; seconds and memory are of the whole call. Needles: of the import, then
of the result.
"""
import argparse
import concurrent.futures
import json
import os
import pathlib
import subprocess
import sys
import tempfile
import threading
import time


def call(cli, file, out, arguments, limit):
    target = out / (file.name + ".stl")
    command = [cli, arguments[0], str(file), "-o", str(target), "--json", "--quiet", *arguments[1:]]
    start = time.time()
    with tempfile.TemporaryFile("w+") as told, tempfile.TemporaryFile("w+") as errors:
        process = subprocess.Popen(command, stdout=told, stderr=errors)
        timer = threading.Timer(limit, process.kill)
        timer.start()
        # The largest memory is known of this very process.
        _, status, used = os.wait4(process.pid, 0)
        process.returncode = os.waitstatus_to_exitcode(status)
        late = not timer.is_alive()
        timer.cancel()
        seconds = time.time() - start
        if late:
            return file, None, (seconds, 0), f"longer than {limit} s"
        told.seek(0)
        errors.seek(0)
        if process.returncode not in (0, 1):
            return file, None, (seconds, 0), f"code {process.returncode}: {errors.read().strip()[-200:]}"
        return file, json.load(told), (seconds, used.ru_maxrss / 1024), ""


def line(file, result, used, error):
    if result is None:
        return f"{file.name:26} {error}"
    seconds, megabytes = used
    before, after = result["input"], result["output"]
    counts = after["counts"]
    bad = {
        "open": counts["boundary_edges"],
        "nonmanifold": counts["nonmanifold_edges"] + counts["nonmanifold_vertices"],
        "misoriented": counts["misoriented_edges"] + counts["inward_shells"],
        "crossing": counts["self_intersecting_pairs"],
    }
    needles = before["counts"].get("needles", 0), counts.get("needles", 0)
    if any(needles):
        bad["needles"] = f"{needles[0]} to {needles[1]}"
    pieces = sum(not p["speck"] for p in result["lost_pieces"])
    left = " ".join(f"{key} {value}" for key, value in bad.items() if value)
    return (
        f"{file.name:26} {before['counts']['triangles']:8} {'solid' if before['solid'] else '-':5} -> "
        f"{counts['triangles']:8} {'solid' if after['solid'] else '-':5} lost {100 * result['lost']:7.3f} "
        f"({100 * result['lost_listed']:.3f} specks) pieces {pieces:3} added {100 * result['added']:7.3f} "
        f"kept {100 * result['kept']:6.2f} {seconds:6.1f} s {megabytes:5.0f} MB  {left}"
    )


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("folder", type=pathlib.Path)
    parser.add_argument("--jobs", type=int, default=1)
    parser.add_argument("--only", default="")
    parser.add_argument("--cli", default="build/release/zither-cli")
    parser.add_argument("--out", type=pathlib.Path)
    parser.add_argument("--limit", type=float, default=120)
    at = sys.argv.index("--") if "--" in sys.argv else len(sys.argv)
    options = parser.parse_args(sys.argv[1:at])
    arguments = sys.argv[at + 1 :] or ["repair"]
    files = sorted(f for f in options.folder.iterdir() if f.is_file() and options.only in f.name)
    out = options.out or pathlib.Path(tempfile.mkdtemp(prefix="zither-field-"))
    out.mkdir(exist_ok=True)
    solid = lossless = needles = 0
    most = 0.0
    with concurrent.futures.ThreadPoolExecutor(options.jobs) as pool:
        for file, result, used, error in pool.map(
            lambda f: call(options.cli, f, out, arguments, options.limit), files
        ):
            print(line(file, result, used, error), flush=True)
            if result is None:
                continue
            kept = result["lost"] - result["lost_listed"] <= 0.002 and all(p["speck"] for p in result["lost_pieces"])
            lossless += kept
            solid += kept and result["output"]["solid"]
            needles += result["output"]["counts"].get("needles", 0)
            most = max(most, used[1])
    print(f"{len(files)} files: {solid} solid with nothing lost, {lossless} with nothing lost, "
          f"{needles} needles, at most {most:.0f} MB; results in {out}")


if __name__ == "__main__":
    sys.exit(main())
