#!/usr/bin/env bash
# Every fuzz target for a while, two at a time (FUZZ_AT_ONCE=1: one), and then bodies drawn from the API's own schemas. What is found is
# kept by the go command under testdata/fuzz beside the test, and is tried by make test from then on.
# usage: scripts/fuzz.sh [TIME OR RUNS, such as 10s or 10000000x] [CALLS OF THE API, 0 for none]
set -euo pipefail
cd "$(dirname "$0")/.."
long=${1:-10s}
calls=${2:-100000}
one() { # one TIME DIR NAME: says only how many were tried, where nothing is found
  local out
  out=$(go test -run '^$' -fuzz "^$3\$" -fuzztime "$1" -parallel 1 "./$2" 2>&1) && found=no || found=yes
  # When its time is over in the middle of one, the go command calls that a failure.
  if [ $found = yes ] && grep -q 'context deadline exceeded' <<<"$out" && ! grep -q 'Failing input' <<<"$out"; then found=no; fi
  if [ $found = no ]; then
    echo "   $2 $3: $(grep -oE 'execs: [0-9]+' <<<"$out" | tail -n 1)" >&2
    return
  fi
  printf '%s %s\n%s\n' "$2" "$3" "$out" >&2
  return 1
}
export -f one
grep -rlE --include='*_test.go' '^func Fuzz' core internal | sort | while read -r file; do
  grep -oE '^func Fuzz\w+' "$file" | while read -r _ name; do echo "$long $(dirname "$file") $name"; done
done | xargs -P "${FUZZ_AT_ONCE:-2}" -L 1 bash -c 'one "$@"' --
[ "$calls" = 0 ] && exit 0
echo "== the API" >&2
CORRIENTE_CALLS=$calls CORRIENTE_SEED=${CORRIENTE_SEED:-$RANDOM} go test -count=1 -timeout 3h -run TestWhateverFitsTheSchema ./internal/web
