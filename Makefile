# Everything a fresh machine with Go, gcc and Node needs: make demo, make test.
TAGS    := sqlite_fts5
VERSION := $(shell git describe --tags --always --dirty 2>/dev/null || echo development)
GO      := go
BUILD   := $(GO) build -tags $(TAGS) -trimpath -ldflags "-s -w -X main.version=$(VERSION)"
DATA    ?= data/demo
ADDR    ?= 127.0.0.1:8420
UI      := $(shell find ui/src ui/public -type f 2>/dev/null) ui/index.html ui/pdf.html ui/vite.config.ts ui/vite.pdf.config.ts ui/package.json
# The rooms in which things happen side by side.
RACED   := ./internal/mailsync ./internal/outbox ./internal/runner ./internal/journal ./internal/web
export CGO_ENABLED := 1

.PHONY: demo build test check fuzz cuts lint types shots bench dev clean browser servers

build: bin/ebbe

bin/ebbe: internal/web/dist/index.html internal/web/dist/notices.json $(shell find cmd internal demo -name '*.go') go.mod go.sum
	$(BUILD) -o bin/ebbe ./cmd/ebbe

ui/node_modules/.package-lock.json: ui/package-lock.json ui/package.json
	cd ui && npm ci --no-audit --no-fund
	@touch $@

internal/web/dist/index.html: ui/node_modules/.package-lock.json $(UI)
	rm -rf internal/web/dist/assets
	cd ui && npx vite build && npx vite build --config vite.pdf.config.ts
	@touch $@

# The licences of everything that ships with Ebbe, shown in Setup.
internal/web/dist/notices.json: cmd/notices/main.go go.mod go.sum ui/node_modules/.package-lock.json
	$(GO) run ./cmd/notices . $@

demo: build
	./bin/ebbe demo --data $(DATA) --addr $(ADDR)

# The whole test: lint, the front end, every Go test, the real program in Chromium,
# and Ebbe against Debian's mailbox server and transfer agent.
test: lint build browser servers
	cd ui && npx vitest run
	$(GO) test -tags $(TAGS) -timeout 45m ./...
	$(GO) test -tags $(TAGS) -race -short $(RACED)

# For in between: lint, and all tests but those in the browser and against servers.
check: lint
	cd ui && npx vitest run
	$(GO) test -tags $(TAGS) -short -timeout 10m $$($(GO) list -tags $(TAGS) ./... | grep -v '^ebbe/e2e')

# Each fuzz target for a minute; what they find is kept beside the tests and runs with them.
fuzz: internal/web/dist/index.html
	@for p in $$(grep -rl '^func Fuzz' --include=*_test.go internal | xargs -n1 dirname | sort -u); do \
		for f in $$(grep -h '^func Fuzz' $$p/*_test.go | sed 's/func \(Fuzz[A-Za-z]*\).*/\1/'); do \
			echo "$$p $$f"; $(GO) test -tags $(TAGS) -run '^$$' -fuzz "^$$f$$" -fuzztime 1m ./$$p || exit 1; \
		done; \
	done

lint: ui/node_modules/.package-lock.json internal/web/dist/index.html internal/web/dist/notices.json
	@test -z "$$(gofmt -l cmd internal demo e2e bench)" || { gofmt -l cmd internal demo e2e bench; echo "run gofmt on these"; exit 1; }
	$(GO) mod tidy -diff
	$(GO) vet -tags $(TAGS) ./...
	$(GO) tool staticcheck -tags $(TAGS) ./...
	$(GO) tool tygo generate
	@git diff --exit-code --stat -- ui/src/api/gen || { echo "the types of the front end were not up to date: commit them"; exit 1; }
	cd ui && npx tsc --incremental --tsBuildInfoFile node_modules/.cache/tsc.json && npx eslint --cache --cache-location node_modules/.cache/eslint/ --max-warnings 0 src && npx prettier --cache --log-level warn --check .

# Works with a browser and a program that are killed 200 times at a time of chance: nothing
# typed or decided is missing afterwards, and nothing is there twice.
cuts: build browser
	EBBE_CUTS=200 $(GO) test -tags $(TAGS) -count=1 -v -timeout 60m -run TestCuts ./e2e

types:
	$(GO) tool tygo generate

# Debian's Chromium, for the tests in the browser, with fonts for what its own do not have.
browser:
	@command -v chromium >/dev/null && fc-list 2>/dev/null | grep -q IPAMincho || { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends chromium fontconfig fonts-liberation fonts-ipafont-mincho fonts-hosny-amiri culmus; }

# Debian's mailbox server (Dovecot) and transfer agent (Postfix), for the tests
# against servers; without them those say so and are left out.
servers:
	@command -v dovecot >/dev/null && command -v postfix >/dev/null || { apt-get update -q && DEBIAN_FRONTEND=noninteractive apt-get install -y -q --no-install-recommends dovecot-imapd postfix; } || echo "the servers could not be installed: the tests against them are left out"

shots: build browser
	EBBE_SHOTS=$(CURDIR)/docs/screenshots $(GO) test -tags $(TAGS),shots -count=1 -run TestShots ./e2e

bench: build browser
	$(GO) run -tags $(TAGS) ./bench

# Vite with reload on 5173, against the Go server on 8420.
dev: build
	./bin/ebbe demo --data $(DATA) & cd ui && npx vite; kill %1

clean:
	rm -rf bin data internal/web/dist/assets internal/web/dist/index.html internal/web/dist/notices.json ui/node_modules
