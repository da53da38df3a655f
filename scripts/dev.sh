#!/usr/bin/env bash
# The demo for whoever changes it: the server is built and started anew when a Go file changes, the core for the browser
# too, and Vite shows a change of the interface at once. Ctrl-C ends all of it.
# usage: PORT=8080 DATA=folder scripts/dev.sh, or make dev
set -euo pipefail
cd "$(dirname "$0")/.."
port=${PORT:-8080}
page=${PAGE_PORT:-5173}
children=()
end() {
  trap - EXIT INT TERM
  kill "${children[@]}" 2>/dev/null || true
  wait
}
trap end EXIT INT TERM
skip=(-R '^web/' -R '^bin/' -R '^docs/' -R '^e2e/' -R '_test\.go$')
go tool reflex -s -d none -t 10s "${skip[@]}" -r '\.(go|json|sql)$' -- \
  bash -c "go build -o bin/corriente-dev ./cmd/corriente && exec ./bin/corriente-dev demo --addr 127.0.0.1:$port ${DATA:+--data '$DATA'}" &
children+=($!)
go tool reflex -d none "${skip[@]}" -r '^(core|cmd/corriente-wasm)/.*\.(go|json)$' -- \
  env GOOS=js GOARCH=wasm go build -trimpath -o web/src/offline/core.wasm ./cmd/corriente-wasm &
children+=($!)
echo "dev: open http://127.0.0.1:$page once the server below says it is ready" >&2
cd web
CORRIENTE_API="http://127.0.0.1:$port" npx --no-install vite --host 127.0.0.1 --port "$page" --strictPort --clearScreen false &
children+=($!)
wait -n
