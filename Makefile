# The commands of the project. `make demo` and `make test` need nothing but Go, Node and, for the tests, the right to
# install Debian's packages.
SHELL := /bin/bash
BIN   := bin/oldledger
ADDR  ?= 127.0.0.1:8470

.PHONY: demo test build console bench judge shots clean

demo: build
	./$(BIN) demo --listen $(ADDR)

build: console
	go build -o $(BIN) ./cmd/oldledger

console: server/console/dist/index.html

server/console/dist/index.html: console/package-lock.json $(shell find console/src -type f 2>/dev/null) console/index.html
	cd console && npm ci --no-audit --no-fund --loglevel=error && npm run build

test: console
	./.ci/needs chromium curl node:nodejs /usr/lib/python3/dist-packages/requests:python3-requests
	go vet ./...
	OLDLEDGER_BROWSER=required go test ./...

bench:
	go test -run '^$$' -bench . -benchtime 2s ./...

# Drawn pairs of schemas, every verdict held against an independent validator; `make test` draws a tenth of them.
PAIRS ?= 50000
judge:
	go test ./core/compare -run 'TestDrawn$$' -v -pairs $(PAIRS) -timeout 60m

shots: build
	./.ci/needs chromium Xvfb:xvfb xterm import:imagemagick
	go run ./tools/shots -bin $(BIN) -out docs/screenshots

clean:
	rm -rf bin server/console/dist/assets server/console/dist/index.html console/node_modules
