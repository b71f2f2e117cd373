# Wexo's tasks. `make demo` and `make test` are all a fresh machine needs.
.PHONY: build demo test check generated console generate bench conformance attack walk screenshots clean tools

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
	go run ./tools/classes
	go run ./tools/schemas
	go run ./tools/reference
	cd console && npm run --silent types

# What tests need beside Go and Node.js, from Debian's packages.
tools:
	@bash tools/install.sh

check: console/node_modules/.package-lock.json
	@test -z "$$(gofmt -l cmd internal demo tools api console/embed.go)" || { gofmt -l cmd internal demo tools api console/embed.go; echo "run gofmt -w on these" >&2; exit 1; }
	go vet ./...
	cd console && npm run --silent check

# Fails where generated code does not follow from the contract any more.
generated: generate
	@! git rev-parse --git-dir >/dev/null 2>&1 || git diff --exit-code --stat -- internal/server/api/api.gen.go internal/client/client.gen.go console/src/api/schema.gen.ts console/src/classes.gen.ts console/src/glossary.gen.ts docs \
	  || { echo "generated code was not up to date; commit what make generate wrote" >&2; exit 1; }

# The browser tests come last and alone: a browser wants the machine for itself.
test: tools build generated check
	go test -race -timeout 30m $$(go list ./... | grep -v '^wexo/console$$')
	WEXO_WORLDS=5000 go test -run 'TestVerdictsHoldAsLongAsTheySay|TestNeedsAndSurveyAgree$$' ./internal/survey
	WEXO_WORLDS=3000 go test -run TestNoSilentYes ./internal/cli
	WEXO_WORLDS=100000 go test -run TestAgainstBruteForce ./internal/core/rule
	go run ./tools/walk -quick
	go test ./console

# Compares versions and ranges with the reference implementations, 200,000 questions each.
conformance: tools
	go test -run TestConformance -timeout 2h -v ./tools/conformance -args -pairs 200000 -seed 1

bench: build tools
	go run ./tools/bench

# Breaks it on purpose, some minutes long; ATTACK=-short is what runs with the tests.
attack: build tools
	go run ./tools/attack $(ATTACK)

# Follows README and docs as a new user would, from a clean clone and in a clean home. What runs
# with the tests is the quick half: it uses what is built here.
walk: tools
	go run ./tools/walk

# Refreshes docs/screenshots from a fresh demo.
screenshots: build tools
	bash tools/shots/take.sh

clean:
	rm -rf bin console/dist/assets console/dist/index.html console/node_modules
