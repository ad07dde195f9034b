# Everything a fresh machine with Go, gcc and Node needs: make demo, make test.
TAGS    := sqlite_fts5
VERSION := $(shell git describe --tags --always --dirty 2>/dev/null || echo development)
GO      := go
BUILD   := $(GO) build -tags $(TAGS) -trimpath -ldflags "-s -w -X main.version=$(VERSION)"
DATA    ?= data/demo
ADDR    ?= 127.0.0.1:8420
UI      := $(shell find ui/src ui/public -type f 2>/dev/null) ui/index.html ui/vite.config.ts ui/package.json
export CGO_ENABLED := 1

.PHONY: demo build test lint types shots bench dev clean browser

build: bin/ebbe

bin/ebbe: internal/web/dist/index.html $(shell find cmd internal demo -name '*.go') go.mod go.sum
	$(BUILD) -o bin/ebbe ./cmd/ebbe

ui/node_modules/.package-lock.json: ui/package-lock.json ui/package.json
	cd ui && npm ci --no-audit --no-fund
	@touch $@

internal/web/dist/index.html: ui/node_modules/.package-lock.json $(UI)
	rm -rf internal/web/dist/assets
	cd ui && npx vite build
	@touch $@

demo: build
	./bin/ebbe demo --data $(DATA) --addr $(ADDR)

# The whole test: lint, the front end, every Go test, the real program in Chromium.
test: lint build browser
	$(GO) test -tags $(TAGS) -timeout 45m ./...

lint: ui/node_modules/.package-lock.json internal/web/dist/index.html
	@test -z "$$(gofmt -l cmd internal demo e2e bench)" || { gofmt -l cmd internal demo e2e bench; echo "run gofmt on these"; exit 1; }
	$(GO) vet -tags $(TAGS) ./...
	$(GO) tool staticcheck -tags $(TAGS) ./...
	$(GO) tool tygo generate
	@git diff --exit-code --stat -- ui/src/api/gen || { echo "the types of the front end were not up to date: commit them"; exit 1; }
	cd ui && npx tsc && npx eslint --max-warnings 0 src

types:
	$(GO) tool tygo generate

# Debian's Chromium, for the tests in the browser.
browser:
	@command -v chromium >/dev/null || { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends chromium fonts-liberation; }

shots: build browser
	EBBE_SHOTS=$(CURDIR)/docs/screenshots $(GO) test -tags $(TAGS),shots -count=1 -run TestShots ./e2e

bench: build browser
	$(GO) run -tags $(TAGS) ./bench

# Vite with reload on 5173, against the Go server on 8420.
dev: build
	./bin/ebbe demo --data $(DATA) & cd ui && npx vite; kill %1

clean:
	rm -rf bin data internal/web/dist/assets internal/web/dist/index.html ui/node_modules
