# The commands of the project. `make demo` and `make test` need nothing but Go, Node and, for the tests, the right to
# install Debian's packages.
SHELL := /bin/bash
BIN   := bin/oldledger
ADDR  ?= 127.0.0.1:8470

.PHONY: demo test test-short race lint current pages build console bench judge soak shots clean

demo: build
	./$(BIN) demo --listen $(ADDR)

build: console
	go build -o $(BIN) ./cmd/oldledger

console: server/console/dist/index.html

PACKAGES := console/node_modules/.package-lock.json
server/console/dist/index.html: $(PACKAGES) $(shell find console/src -type f 2>/dev/null) console/index.html console/vite.config.ts
	cd console && npm run build

$(PACKAGES): console/package-lock.json
	cd console && npm ci --no-audit --no-fund --loglevel=error

# The drawn tests draw the same examples in every run, so that a run fails for what was changed and for nothing else;
# `make soak` draws others, and more of them.
SEED ?= 20261127
test: console
	./.ci/needs chromium curl node:nodejs /usr/lib/python3/dist-packages/{requests:python3-requests,httpx:python3-httpx}
	cd console && npm test
	go vet ./...
	RAPID_SEED=$(SEED) OLDLEDGER_BROWSER=required go test -timeout 20m ./server ./cli ./... # first what waits for a browser, beside what computes

# What can be waited for between two edits: without what takes long, and without a browser where there is none.
test-short:
	RAPID_SEED=$(SEED) RAPID_CHECKS=500 go test -short ./... # of which a fifth is drawn

# Where several act at once, under the race detector: what computes alone, and the service, which starts a ledger for each of its tests, are asked
# by `go test -race ./core/... ./server`, which takes its time.
race: export OLDLEDGER_BROWSER := none
race: export RAPID_CHECKS := 100
race: export RAPID_SEED := $(SEED)
race:
	go test -race -short ./client ./core/budget ./ledger/... ./server/site ./store

# The pages of the reference are components (*.templ), of which Go code is made and kept beside them.
TEMPL := bin/templ-0.3.1118
pages: $(TEMPL)
	$(TEMPL) fmt server/site
	$(TEMPL) generate -path server/site

$(TEMPL):
	GOBIN=$(CURDIR)/bin go install github.com/a-h/templ/cmd/templ@v0.3.1118
	mv bin/templ $@

LINTER := bin/golangci-lint-2.15.0
lint: $(LINTER) current
	$(LINTER) run ./...

# Whether the house is in form (arrows, lines, words), what is generated is current, and the console's linter.
current: $(TEMPL) $(PACKAGES)
	go test ./core
	$(TEMPL) generate -check -path server/site
	$(TEMPL) fmt -fail server/site
	cd console && npm run lint

$(LINTER):
	GOBIN=$(CURDIR)/bin go install github.com/golangci/golangci-lint/v2/cmd/golangci-lint@v2.15.0
	mv bin/golangci-lint $@

CHECKS ?= 1000
soak:
	RAPID_CHECKS=$(CHECKS) go test -timeout 120m $$(grep -rl --include=*_test.go 'rapid\.Check' . | xargs -n1 dirname | sort -u)

bench:
	go test -run '^$$' -bench . -benchtime 2s ./...

# Drawn pairs of schemas, every verdict held against an independent validator; `make test` draws a twentieth of them.
PAIRS ?= 50000
judge:
	go test ./core/compare -run 'TestDrawn' -v -pairs $(PAIRS) -timeout 60m

shots: build
	./.ci/needs chromium Xvfb:xvfb xterm import:imagemagick
	go run ./tools/shots -bin $(BIN) -out docs/screenshots

clean:
	rm -rf bin server/console/dist/assets server/console/dist/index.html console/node_modules
