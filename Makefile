# Wexo's tasks. `make demo` and `make test` are all a fresh machine needs.
.PHONY: build demo test check console generate bench screenshots clean tools names

GO_FILES := $(shell find cmd internal demo console/embed.go tools api -name '*.go' -o -name '*.sql' -o -name '*.yaml' -o -name '*.txtar' 2>/dev/null)
CONSOLE_FILES := $(shell find console/src console/public -type f 2>/dev/null) console/index.html console/vite.config.ts api/openapi.yaml
NPM := npm --prefix console --no-audit --no-fund --loglevel=error

build: bin/wexo

bin/wexo: console/dist/index.html $(GO_FILES) go.mod go.sum
	CGO_ENABLED=0 go build -trimpath -o bin/wexo ./cmd/wexo

console: console/dist/index.html

console/node_modules/.package-lock.json: console/package.json console/package-lock.json
	$(NPM) ci
	@touch $@

console/dist/index.html: console/node_modules/.package-lock.json $(CONSOLE_FILES)
	cd console && npx --no-install vite build --logLevel warn

demo: build
	./bin/wexo demo $(DEMO)

# Writes the generated Go and TypeScript of the API contract.
generate: console/node_modules/.package-lock.json
	go tool oapi-codegen -config api/server.yaml api/openapi.yaml
	go tool oapi-codegen -config api/client.yaml api/openapi.yaml
	cd console && npm run --silent types

# What tests drive: a real browser. Installed from Debian's packages where it is missing and we may.
tools:
	@command -v chromium >/dev/null || { \
	  if [ "$$(id -u)" = 0 ] && command -v apt-get >/dev/null; then \
	    echo "Installing Chromium from Debian's packages."; \
	    apt-get update -qq && DEBIAN_FRONTEND=noninteractive apt-get install -y -qq --no-install-recommends chromium >/dev/null; \
	  else echo "The browser tests need /usr/bin/chromium: install the package chromium." >&2; exit 1; fi; }

check: console/node_modules/.package-lock.json
	@test -z "$$(gofmt -l cmd internal demo tools console/embed.go)" || { gofmt -l cmd internal demo tools console/embed.go; echo "run gofmt -w on these" >&2; exit 1; }
	go vet ./...
	cd console && npm run --silent check

test: tools build check
	go test -race ./...

bench: build
	go run ./tools/bench

# Refreshes docs/screenshots from a fresh demo.
screenshots: build tools
	bash tools/shots/take.sh

clean:
	rm -rf bin console/dist/assets console/dist/index.html console/node_modules
