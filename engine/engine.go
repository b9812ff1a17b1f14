// Package engine runs queries on frozen datasets, always in worker processes: a query written by a machine is hostile until
// proven otherwise. The package starts, watches and replaces workers; what a worker does with its database is in the
// package of each engine (duckdb).
package engine

import (
	"fmt"
	"strings"
	"time"

	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/table"
)

// DuckDB is the engine of datasets that are made of files, and the dialect of its queries.
const DuckDB = "duckdb"

// Limits bound one query.
type Limits struct {
	Time   time.Duration
	Memory int64 // bytes of a worker
	Rows   int
	Result int64 // bytes of a result
}

// DefaultLimits are those of a workspace that sets none.
func DefaultLimits() Limits {
	return Limits{Time: 30 * time.Second, Memory: 1 << 30, Rows: 1_000_000, Result: 256 << 20}
}

// Result is what a query gave.
type Result struct {
	Table *table.Table
	Tree  []byte // the query's serialised syntax tree, where it was asked for
	// the text that ran, where it is not the request's: of a syntax tree, in another dialect, or as of the dataset's today
	Instead string
	Rules   []string      // by which a query of another dialect was rewritten; nil where it was not
	Elapsed time.Duration // in the engine, without the way to the worker and back
}

// Failure is a query that gave nothing: refused, not understood, stopped or broken. Its code is of the query family.
type Failure struct {
	Code       fault.Code `json:"code"`
	Message    string     `json:"message"`
	Position   int        `json:"position"`             // byte offset in the query; -1 where unknown
	Candidates []string   `json:"candidates,omitempty"` // names that may have been meant
	Foreign    bool       `json:"foreign,omitempty"`    // no fault of the query: what it says in its dialect cannot be said in the engine's
}

// ErrMemory is what a failure for want of memory is (errors.Is), unlike one for too large a result.
var ErrMemory = &Failure{Code: fault.TooBig, Message: "out of memory", Position: -1}

// Is tells a failure by its code and message.
func (f *Failure) Is(target error) bool {
	other, ok := target.(*Failure)
	return ok && other.Code == f.Code && other.Message == f.Message
}

// Refused is the failure of a query that the gate refuses.
func Refused(r *sql.Refusal) *Failure {
	code := fault.Forbidden
	if r.Catalogue {
		code = fault.Catalogue
	}
	return &Failure{Code: code, Message: r.Why, Position: -1}
}

// Error is the message with the nearest names.
func (f *Failure) Error() string {
	if len(f.Candidates) == 0 {
		return f.Message
	}
	return fmt.Sprintf("%s; nearest: %s", f.Message, joinQuoted(f.Candidates))
}

func joinQuoted(names []string) string {
	var out strings.Builder
	for i, n := range names {
		if i > 0 {
			out.WriteString(", ")
		}
		out.WriteString(`"` + n + `"`)
	}
	return out.String()
}

// Column is a column of a frozen table with the engine's name of its type.
type Column struct {
	Name string `json:"name"`
	Type string `json:"type"`
}

// Table is a frozen table.
type Table struct {
	Name    string   `json:"name"`
	Rows    int64    `json:"rows"`
	Columns []Column `json:"columns"`
}
