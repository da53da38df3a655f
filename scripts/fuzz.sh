#!/usr/bin/env bash
# Every fuzz target for a while, and then bodies drawn from the API's own schemas. What is found is kept by the go
# command under testdata/fuzz beside the test, and is tried by make test from then on.
# usage: scripts/fuzz.sh [TIME OR RUNS, such as 10s or 10000000x] [CALLS OF THE API]
set -euo pipefail
cd "$(dirname "$0")/.."
long=${1:-10s}
calls=${2:-100000}
grep -rl --include='*_test.go' '^func Fuzz' core internal | while read -r file; do
  grep -oE '^func Fuzz\w+' "$file" | while read -r _ name; do
    echo "== $(dirname "$file") $name" >&2
    go test -run '^$' -fuzz "^$name\$" -fuzztime "$long" "./$(dirname "$file")"
  done
done
echo "== the API" >&2
CORRIENTE_CALLS=$calls CORRIENTE_SEED=${CORRIENTE_SEED:-$RANDOM} go test -count=1 -timeout 3h -run TestWhateverFitsTheSchema ./internal/web
