# Two commands do all set-up: make demo and make test.
PORT ?= 8080
DATA ?=
SHELL := /bin/bash
.DELETE_ON_ERROR:

GO_SOURCES := $(shell find cmd core internal web -name '*.go' -not -path '*/node_modules/*') $(shell find core internal -name '*.json' -o -name '*.sql') go.mod go.sum
WEB_SOURCES := $(shell find web/src web/public -type f -not -name schema.d.ts -not -name openapi.json -not -name core.wasm -not -name wasm_exec.js) web/index.html web/vite.config.ts web/package-lock.json

.PHONY: demo demo-reset test test-core test-web bench web setup-demo setup-test lint clean shots evaluate

demo: setup-demo web bin/corriente ## everything running with demo data
	@exec ./bin/corriente demo --addr 127.0.0.1:$(PORT) $(if $(DATA),--data $(DATA))

demo-reset: setup-demo web bin/corriente ## the demo from its beginning
	@exec ./bin/corriente demo --reset --addr 127.0.0.1:$(PORT) $(if $(DATA),--data $(DATA))

test: setup-test web lint test-web ## everything tested
	go vet ./...
	go test -timeout 30m $$(go list ./... | grep -v '^corriente/e2e$$')
	@# by itself, for its clocks; always, since what it drives is built while it runs
	go test -count=1 -timeout 30m ./e2e

test-web: web/node_modules/.installed ## what the interface does without a browser
	cd web && npm test --silent

bench: ## the figures of speed and memory
	go test -run '^$$' -bench . -benchmem ./core/...
	go test -run '^$$' -bench Years -benchtime 1x -timeout 30m -v ./internal/store
	go test -run '^$$' -bench FiftyOpenJobs -benchtime 1x ./internal/web

evaluate: bin/corriente ## how right the adviser is; takes minutes
	./bin/corriente evaluate --circuit starter --faults 1000 --seed 1

setup-demo:
	@./scripts/setup.sh demo

setup-test:
	@./scripts/setup.sh test

web: web/dist/index.html

web/node_modules/.installed: web/package-lock.json
	cd web && npm ci --no-audit --no-fund --loglevel=error
	@touch $@

# The interface's types come from the server's own OpenAPI document.
web/src/api/schema.d.ts: $(shell find internal core -name '*.go') web/node_modules/.installed
	go run ./cmd/corriente openapi --out web/src/api/openapi.json
	cd web && npx --no-install openapi-typescript src/api/openapi.json -o src/api/schema.d.ts

# The core for the browser, for work without a connection.
web/src/offline/core.wasm: $(shell find core cmd/corriente-wasm -name '*.go' -not -name '*_test.go') $(shell find core -name '*.json')
	GOOS=js GOARCH=wasm go build -trimpath -ldflags="-s -w" -o $@ ./cmd/corriente-wasm
	cp "$$(go env GOROOT)/lib/wasm/wasm_exec.js" web/src/offline/wasm_exec.js

web/dist/index.html: $(WEB_SOURCES) web/src/api/schema.d.ts web/src/offline/core.wasm
	cd web && npx --no-install vite build --logLevel warn

lint: web/src/api/schema.d.ts
	@test -z "$$(gofmt -l cmd core internal e2e web/*.go)" || { gofmt -l cmd core internal e2e web/*.go; echo "run gofmt -w on these"; exit 1; }
	cd web && npm run --silent check

bin/corriente: $(GO_SOURCES) web/dist/index.html
	go build -o $@ ./cmd/corriente

shots: setup-test bin/corriente ## refresh docs/screenshots from demo data
	go run ./e2e/shots

clean:
	rm -rf bin web/node_modules web/dist/assets web/dist/index.html
