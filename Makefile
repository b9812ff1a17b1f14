GO_TAGS := netgo,osusergo,duckdb_arrow
LDFLAGS := -s -w -linkmode external -extldflags "-static"

.PHONY: build
build: ## one static program, ./tovrel
	CGO_ENABLED=1 go build -trimpath -tags $(GO_TAGS) -ldflags '$(LDFLAGS)' -o tovrel .
