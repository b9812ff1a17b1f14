# Builds and tests need Go, gcc and g++; everything else is fetched as Go modules.
TAGS     := netgo,osusergo,duckdb_arrow
LDFLAGS  := -s -w -linkmode external -extldflags "-static"
TOOLS    := $(CURDIR)/.tools
EMBEDDED := $(shell find demo/workspace core translator page engine -type f -not -name '*.go' -not -path '*/testdata/*')
SOURCES  := $(shell find . -name '*.go' -not -name '*_test.go' -not -path './bench/*') $(EMBEDDED) go.mod go.sum
COMMIT   := $(shell git rev-parse --short HEAD 2>/dev/null)

STATICCHECK := honnef.co/go/tools/cmd/staticcheck@v0.8.2
REVIVE      := github.com/mgechev/revive@v1.13.0

.PHONY: race count mutate shapes replies coverage schemas build test lint bench screenshots demo fuzz tidy-check clean

build: tovrel ## one static program, ./tovrel

# The linker warns of functions that need glibc at run time; none of them is reached without network access.
tovrel: $(SOURCES)
	CGO_ENABLED=1 go build -trimpath -tags $(TAGS) -ldflags '$(LDFLAGS) -X tovrel/cli.commit=$(COMMIT)' -o $@ . 2>build.log || (cat build.log; exit 1)
	@rm -f build.log

demo: build ## the whole job on made-up data, in ./demo-workspace
	./tovrel demo demo-workspace

test: build ## all tests, the built program among them
	go test -timeout 40m -tags duckdb_arrow ./...

lint: $(TOOLS)/staticcheck $(TOOLS)/revive
	test -z "$$(gofmt -l $$(git ls-files '*.go'))"
	go vet -tags duckdb_arrow ./...
	$(TOOLS)/staticcheck -tags duckdb_arrow ./...
	$(TOOLS)/revive -config revive.toml -set_exit_status ./...

tidy-check: ## go mod tidy changes nothing
	go mod tidy -diff

race: ## the core, attempts, histories and the pool with the race detector
	go test -timeout 40m -race -tags duckdb_arrow -skip 'Linear|FalseAlarms|Coverage|Power|Gallery|Sums' ./core/... ./attempt ./history
	go test -timeout 40m -race -tags duckdb_arrow -run 'Types|Faults|KilledWorker|Cancelled|Batches' ./engine

FUZZTIME ?= 60s
# The end of its time sometimes reaches the fuzzer in the middle of a call: it then fails with "context deadline exceeded" and no input that fails.
FUZZED = grep -q 'context deadline exceeded' .fuzz.log && ! grep -q -e 'Failing input' -e 'panic:' .fuzz.log
fuzz: ## every fuzz target for FUZZTIME
	@for file in $$(git ls-files '*_test.go' | xargs grep -l '^func Fuzz' | sort); do \
		for target in $$(sed -n 's/^func \(Fuzz[A-Za-z]*\)(.*/\1/p' $$file); do \
			echo "$$target in $$(dirname $$file)"; \
			go test -tags duckdb_arrow -run '^$$' -fuzz "^$$target\$$" -fuzztime $(FUZZTIME) -fuzzminimizetime 5x ./$$(dirname $$file) > .fuzz.log 2>&1 || { $(FUZZED) && echo "ok, ended with its time" > .fuzz.log; } || { cat .fuzz.log; exit 1; }; \
			tail -1 .fuzz.log; \
		done; \
	done; rm -f .fuzz.log

count: ## lines of code and of tests by package
	@go run ./bench/count

SEED ?= $(shell date +%s)
PLACES ?= 100
IN ?=
mutate: ## one-line defects in PLACES chosen by SEED (below IN), and how many of them make a test fail; about an hour
	go run -tags duckdb_arrow ./bench/mutate -seed $(SEED) -count $(PLACES) -in "$(IN)"

replies: ## how drawn replies in words are judged, on a fresh SEED
	go run ./bench/replies -seed $(SEED)

coverage: ## how often the intervals of accuracies and differences hold the truth; some minutes
	go run ./bench/coverage -seed $(SEED)

WORLDS ?= 24
shapes: build ## causes of generated wrong answers, on WORLDS schemas of a fresh SEED; about three quarters of an hour
	go run -tags duckdb_arrow ./bench/shapes -seed $(SEED) -worlds $(WORLDS) ./tovrel

PART ?=
bench: build ## beside the raw engine, as ratios; PART= one of slice run import why match keeping versus page warehouse team, or several
	@mkdir -p $(TOOLS)
	CGO_ENABLED=1 go build -tags $(TAGS) -ldflags '$(LDFLAGS)' -o $(TOOLS)/bench ./bench 2>/dev/null
	$(TOOLS)/bench $(PART) ./tovrel

schemas: build ## docs/schema from the program
	@mkdir -p docs/schema
	for name in $$(./tovrel schema --help | tr '\n' ' ' | sed -n 's/^The schemas: \([^.]*\)\..*/\1/p' | tr -d ','); do ./tovrel schema $$name > docs/schema/$$name.json; done

screenshots: build ## docs/screenshots from the demo data
	docs/screenshots/make.sh

clean:
	rm -rf tovrel demo-workspace $(TOOLS)

$(TOOLS)/staticcheck:
	GOBIN=$(TOOLS) go install $(STATICCHECK)

$(TOOLS)/revive:
	GOBIN=$(TOOLS) go install $(REVIVE)
