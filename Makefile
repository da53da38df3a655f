# Two commands do all set-up: make demo and make test. make help lists the rest.
PORT ?= 8080
DATA ?=
SHELL := /bin/bash
.DELETE_ON_ERROR:
.DEFAULT_GOAL := help

GO_SOURCES := $(shell find cmd core internal web -name '*.go' -not -path '*/node_modules/*') $(shell find core internal -name '*.json' -o -name '*.sql') go.mod go.sum
WEB_SOURCES := $(shell find web/src web/public -type f -not -name schema.d.ts -not -name openapi.json -not -name core.wasm -not -name wasm_exec.js) web/index.html web/vite.config.ts web/package-lock.json

# Tests wait for what they want to see; what hangs for good ends some day all the same.
GO_TEST := go test -timeout 3h
# What starts goroutines is tested under the race detector as well.
RACE := ./internal/bench ./internal/scpi ./internal/serialline
# Of the server, what goes on beside a request: the rest is one request after another, ten minutes longer.
RACE_WEB := 'Servers|Foreseen|AtOnce|Live|Nonsense|Events|Quick|Person|Twice|OpensNoTraces|Pieces'
# Of the store and of the traces, the tests in which several goroutines share something.
RACE_STORE := 'Race|Concurrent|Told|Doubles|Pieces|Sweep|InTurn'
RACE_TRACE := 'PiecesSideBySide|FasterSamples|Dropouts'
# Of the reasoning, the tests in which many goroutines weigh at once: the rest is the same code, minutes longer.
RACE_DIAGNOSE := 'TestAdviserIsSafeForConcurrentUse|TestGrowingJob|TestWhatTheTradeConcludes|TestPicturesAndWords|TestLearnedRates'
# What takes minutes is begun first, so that it does not run alone at the end.
LONG_CORE := ./core/trace ./core/evaluate ./core/diagnose
LONG_SERVER := ./internal/web ./internal/store
stage = @echo "== $(1)" >&2

.PHONY: help demo demo-reset dev test test-core test-server test-web test-browser test-fuzz test-last race bench fuzz sbom web setup-demo setup-test lint lint-shrink clean shots install deb evaluate

help: ## this list
	@grep -hE '^[a-z-]+:.*## ' $(MAKEFILE_LIST) | sed -E 's/^([a-z-]+):.*## /\1\t/' | expand -t 16

demo: setup-demo web bin/corriente ## everything running with demo data, address printed
	@exec ./bin/corriente demo --addr 127.0.0.1:$(PORT) $(if $(DATA),--data $(DATA))

demo-reset: setup-demo web bin/corriente ## the demo from its beginning
	@exec ./bin/corriente demo --reset --addr 127.0.0.1:$(PORT) $(if $(DATA),--data $(DATA))

dev: setup-demo web/src/api/schema.d.ts web/src/offline/core.wasm ## the demo, built anew at every change, address printed
	@PORT=$(PORT) DATA=$(DATA) exec ./scripts/dev.sh

test: setup-test lint test-core test-server race test-web test-last ## everything; by stage: the targets named here
	$(call stage,all stages passed)

test-core: ## the job and its computation
	$(call stage,core)
	$(GO_TEST) $(LONG_CORE) ./core/...

test-server: setup-test web/dist/index.html ## API, database, files, command line
	$(call stage,server)
	$(GO_TEST) $(LONG_SERVER) ./cmd/... ./internal/... ./scripts/... ./packaging/...

race: setup-test web/dist/index.html ## what starts goroutines, under the race detector
	$(call stage,race detector)
	@# one core each for the server, which takes longest, and for the rest
	@$(MAKE) --no-print-directory -j2 --output-sync=target race-server race-rest

.PHONY: race-server race-rest
race-server:
	$(GO_TEST) -race -short -run $(RACE_WEB) ./internal/web
race-rest:
	$(GO_TEST) -race -short -run $(RACE_TRACE) ./core/trace
	$(GO_TEST) -race -short -run $(RACE_DIAGNOSE) ./core/diagnose
	$(GO_TEST) -race -short -run Keeper ./internal/backup
	$(GO_TEST) -race -short -run $(RACE_STORE) ./internal/store
	$(GO_TEST) -race -short $(RACE)

test-web: web/node_modules/.installed web/src/api/schema.d.ts web/src/offline/core.wasm ## the interface without a browser
	$(call stage,interface)
	cd web && npm test --silent

test-browser: setup-test web ## the interface in a real browser
	$(call stage,browser)
	@# always, since what it drives is built while it runs
	$(GO_TEST) -count=1 ./e2e

test-fuzz: setup-test web/dist/index.html ## every parser for ten seconds
	$(call stage,fuzzing)
	./scripts/fuzz.sh 10s 0

# The browser waits for pages a good part of its time: fuzzing takes what it leaves.
test-last: setup-test web
	@FUZZ_AT_ONCE=1 nice -n 19 $(MAKE) --no-print-directory test-fuzz & fuzz=$$!; \
	$(MAKE) --no-print-directory test-browser; browser=$$?; \
	wait $$fuzz; fuzz=$$?; exit $$((browser | fuzz))

bench: ## the figures of speed and memory
	go test -run '^$$' -bench . -benchmem ./core/...
	go test -run '^$$' -bench Years -benchtime 1x -timeout 30m -v ./internal/store
	go test -run '^$$' -bench 'FiftyOpenJobs|FiftyTechnicians' -benchtime 1x -timeout 30m ./internal/web

fuzz: setup-test web/dist/index.html ## every parser for ten seconds, the API for 100,000 calls; scripts/fuzz.sh for longer
	./scripts/fuzz.sh

evaluate: bin/corriente ## how right the adviser is; takes minutes
	./bin/corriente evaluate --circuit starter --faults 1000 --seed 1

setup-demo:
	@./scripts/setup.sh demo

setup-test:
	@./scripts/setup.sh test

web: web/dist/index.html ## the interface, built

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

lint: web/src/api/schema.d.ts web/src/offline/core.wasm ## what can be said of the code without running it
	$(call stage,lint)
	@test -z "$$(gofmt -l cmd core internal e2e scripts packaging web/*.go)" || { gofmt -l cmd core internal e2e scripts packaging web/*.go; echo "run gofmt -w on these"; exit 1; }
	go vet ./...
	go tool staticcheck ./...
	go tool errcheck -ignoretests -exclude scripts/errcheck.txt ./...
	go run ./scripts/shape
	cd web && npm run --silent check

lint-shrink: ## take mended functions off scripts/shape/offenders.txt
	go run ./scripts/shape -shrink

bin/corriente: $(GO_SOURCES) web/dist/index.html
	go build -o $@ ./cmd/corriente

bin/corriente.cdx.json: bin/corriente web/node_modules/.installed
	go run ./scripts/components

sbom: bin/corriente.cdx.json ## what the program is made of (CycloneDX), and the licences' notices, in bin/

install: web bin/corriente bin/corriente.cdx.json ## on this machine: program, systemd unit, configuration; as root
	@./packaging/build.sh install $(ROOT)

deb: web bin/corriente bin/corriente.cdx.json ## a Debian package in bin/
	@./packaging/build.sh deb bin

shots: setup-test bin/corriente ## refresh docs/screenshots from demo data
	go run ./e2e/shots

clean: ## all that was built
	rm -rf bin web/node_modules web/dist/assets web/dist/index.html
