# The two commands that matter: `make demo` and `make test`.
VERSION := $(shell git describe --tags --always --dirty 2>/dev/null || echo development)
GO := CGO_ENABLED=0 go
UI_SOURCES := $(shell find ui/src -type f -not -path '*/generated/*' -not -name '*.gen.ts') ui/index.html ui/package.json ui/vite.config.ts

.PHONY: demo build test check clean ui dist audit

demo: build
	bin/hexachord demo

build: ui
	$(GO) build -trimpath -ldflags "-s -w -X main.version=$(VERSION) -X main.described=yes" -o bin/hexachord ./cmd/hexachord

ui: ui/dist/index.html

# not `npm ci`: it refuses a lock file that was written where some other platform's optional packages are not served
ui/node_modules/.package-lock.json: ui/package-lock.json
	cd ui && npm install --no-save --no-audit --no-fund
	@touch $@

# the front end's types, calls and constants come from the program itself
ui/openapi.json: $(shell find core format service store server -name '*.go' -not -name '*_test.go')
	$(GO) run ./cmd/hexachord constants > ui/src/model/constants.gen.ts
	$(GO) run ./cmd/hexachord openapi > $@.new && mv $@.new $@

ui/dist/index.html: ui/node_modules/.package-lock.json ui/openapi.json $(UI_SOURCES)
	rm -rf ui/dist/assets
	cd ui && npm run --silent types && npm run --silent build
	cp ui/openapi.json ui/dist/openapi.json

check: ui
	test -z "$$(gofmt -l $$(git ls-files '*.go'))"
	go vet ./... ./cmd/hearfit/...
	go tool staticcheck ./... ./cmd/hearfit/...
	cd ui && npm run --silent check

# installs what the tests need (through apt when missing), then runs all of them
test: build check
	sh e2e/needs.sh
	HEXACHORD_BIN=$(CURDIR)/bin/hexachord go test -timeout 20m ./... ./cmd/hearfit/...
	sh packaging/audit.sh

# the program for six platforms, with checksums, and Debian packages
dist: ui
	sh packaging/dist.sh

audit:
	sh packaging/audit.sh

clean:
	rm -rf bin dist ui/dist/assets ui/dist/index.html ui/dist/openapi.json ui/openapi.json ui/src/api/generated ui/src/model/constants.gen.ts ui/node_modules
