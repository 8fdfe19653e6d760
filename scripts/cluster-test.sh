#!/usr/bin/env bash
# Runs a batch on a real cluster of one node on this machine (Slurm on loopback): eight shards over damaged variants of the
# rig, one of them killed midway and requeued; the merged report must be that of a run without a cluster. Needs root: it
# installs and starts munge and Slurm, in a folder of its own, and stops them again.
#   scripts/cluster-test.sh [BUILD]      BUILD: a build folder with zither-cli and the rig; else build/release
set -euo pipefail
cd "$(dirname "$0")/.."
build=$(cd "${1:-build/release}" && pwd)
scripts/packages.sh slurm-wlm munge
work=$(mktemp -d -t zither-cluster.XXXXXX)
node=$(hostname -s)
export SLURM_CONF=$work/slurm.conf

cleanup() {
  pkill -x slurmctld || true
  pkill -x slurmd || true
  [ -n "${started_munge:-}" ] && pkill -x munged || true
  rm -rf "$work"
}
trap cleanup EXIT

cat > "$SLURM_CONF" <<CONF
ClusterName=loopback
SlurmctldHost=$node(127.0.0.1)
AuthType=auth/munge
SlurmUser=root
SlurmdUser=root
ProctrackType=proctrack/pgid
TaskPlugin=task/none
SelectType=select/cons_tres
SelectTypeParameters=CR_CPU
StateSaveLocation=$work/state
SlurmdSpoolDir=$work/spool
SlurmctldPidFile=$work/slurmctld.pid
SlurmdPidFile=$work/slurmd.pid
SlurmctldLogFile=$work/slurmctld.log
SlurmdLogFile=$work/slurmd.log
MailProg=/bin/true
ReturnToService=2
RequeueExit=
NodeName=$node NodeAddr=127.0.0.1 CPUs=$(nproc) State=UNKNOWN
PartitionName=all Nodes=$node Default=YES MaxTime=INFINITE State=UP
CONF
sed -i '/^RequeueExit=$/d' "$SLURM_CONF"
mkdir -p "$work/state" "$work/spool" "$work/in" "$work/out" "$work/local"

if ! pgrep -x munged >/dev/null; then
  mkdir -p /run/munge && chown munge: /run/munge
  runuser -u munge -- munged
  started_munge=1
fi
slurmctld
slurmd
for _ in $(seq 60); do
  sinfo -h -o %T 2>/dev/null | grep -q idle && break
  sleep 0.5
done
sinfo -h -o %T | grep -q idle || { tail -20 "$work"/slurm*.log; echo "the node did not come up" >&2; exit 1; }

# Sixteen variants: the rig's parts, and each once more moved a little by their names.
for file in "$build"/rig/*.stl; do
  cp "$file" "$work/in/"
  cp "$file" "$work/in/again-$(basename "$file")"
done

echo "a run without a cluster" >&2
"$build/zither-cli" batch "$work/in" -o "$work/local" >/dev/null || [ $? -le 1 ]

echo "eight shards, one of them killed and requeued" >&2
export ZITHER_CLI=$build/zither-cli
job=$(sbatch --parsable --array=1-8 --export=ALL --output="$work/task-%a.log" share/zither/slurm/batch-array.sh "$work/in" "$work/out")
for _ in $(seq 200); do
  state=$(squeue -h -r -j "${job}_1" -o %T 2>/dev/null || true)
  [ "$state" = RUNNING ] && break
  sleep 0.05
done
scontrol requeue "${job}_1" && echo "task 1 was requeued while it was ${state:-gone}" >&2
for _ in $(seq 1200); do
  [ -z "$(squeue -h -j "$job" 2>/dev/null)" ] && break
  sleep 0.5
done
[ -z "$(squeue -h -j "$job")" ] || { squeue; echo "the job did not end" >&2; exit 1; }

LC_ALL=C sort -u "$work"/out/report-*.jsonl > "$work/out/report.jsonl"
python3 - "$work" <<'PY'
import json, pathlib, sys

work = pathlib.Path(sys.argv[1])


def timeless(value):
    if isinstance(value, dict):
        return {k: timeless(v) for k, v in value.items() if k not in ("seconds", "modified", "file", "output") or isinstance(v, dict)}
    return [timeless(v) for v in value] if isinstance(value, list) else value


def lines(folder):
    return [json.loads(line) for line in (work / folder / "report.jsonl").read_text().splitlines()]


local, cluster = lines("local"), lines("out")
assert len(local) == len(list((work / "in").iterdir())), len(local)
assert [x["file"] for x in local] == [x["file"] for x in cluster], "files differ"
for a, b in zip(local, cluster):
    assert timeless(a) == timeless(b), a["file"]
    name = pathlib.Path(a["output"]).name
    assert (work / "local" / name).read_bytes() == (work / "out" / name).read_bytes(), name
print(f"{len(local)} files: the merged report and every file are those of the run without a cluster")
PY
