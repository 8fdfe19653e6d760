#!/bin/bash
# One shard of a batch for each task of a job array (docs/cluster.md):
#   sbatch --array=1-8 share/zither/slurm/batch-array.sh FOLDER OUT [more of zither-cli batch]
# A task that is requeued goes on where it was stopped.
#SBATCH --job-name=zither-batch
#SBATCH --requeue
#SBATCH --open-mode=append
set -euo pipefail
input=$1
output=$2
shift 2
# 0 and 1 are verdicts, not faults of the job.
code=0
"${ZITHER_CLI:-zither-cli}" batch "$input" -o "$output" --resume \
  --shard "$SLURM_ARRAY_TASK_ID/$SLURM_ARRAY_TASK_COUNT" \
  --report "$output/report-$SLURM_ARRAY_TASK_ID.jsonl" \
  --jobs "${SLURM_CPUS_PER_TASK:-1}" "$@" || code=$?
[ "$code" -le 1 ] && exit 0
exit "$code"
