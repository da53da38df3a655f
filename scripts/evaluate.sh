#!/usr/bin/env bash
# The whole evaluation, resumable: run it again and it goes on where it stood. It
# grows in rounds, so that a run cut short has as many machines of every family.
# usage: scripts/evaluate.sh FOLDER [MACHINES]; then corriente evaluate --table FOLDER
set -euo pipefail
cd "$(dirname "$0")/.."
out=${1:?"name a folder for the finished machines"}
n=${2:-5000}
bin=${CORRIENTE:-./bin/corriente}
export GOGC=${GOGC:-400}
mkdir -p "$out"
families="starter contactor_motor blower_module blower_resistor wiper two_wire_motor window traction actuator"
for round in 3 12 40 100; do
  part() { local k=$(( n * $1 * round / 10000 )); echo $(( k > 0 ? k : 1 )); }
  run() { local name=$1; shift; "$bin" evaluate --circuit "$f" --seed 1 --store "$out/$f-$name.jsonl" "$@" > /dev/null; }
  for f in $families; do
    run adviser --faults "$(part 100)"
    echo "$f: $round of 100"
  done
  for f in $families; do
    run textbook --faults "$(part 20)" --policy textbook
    run random --faults "$(part 6)" --policy random
    run wide --faults "$(part 20)" --spread 0.45
    run twice --faults "$(part 20)" --spread 0.6
    run noise --faults "$(part 20)" --slips 0.02 --wrong 0.02
    run triple --faults "$(part 20)" --triple
    run second --faults "$(part 20)" --second
    echo "$f: $round of 100, the other columns"
  done
done
