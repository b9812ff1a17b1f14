// Package expect finds what a question expects: the result of its reference query at full precision with the order, the cut and the
// rounding that the query asks for, or the table as it is written, and what the briefing says of its columns. It judges no answer.
package expect

import (
	"context"
	"fmt"

	"tovrel/core/briefing"
	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/engine"
)

// Expectation is one accepted answer of a question: the table and what its reference query tells beyond it.
type Expectation struct {
	Reading   string // title; "" for the question's own
	Reference string // the query; "" for a written table
	Table     *table.Table
	Known     match.Known
	Tree      *sql.Tree  // of the reference; nil without one
	items     []sql.Item // by column, what the reference shows there; nil without one
	behind    *behindCut // nil where nothing is, or it is known already
}

// Queries runs queries on a dataset. It is *engine.Pool but for tests.
type Queries interface {
	Query(ctx context.Context, r engine.Request) (engine.Result, error)
}

// Tables reads expected files.
type Tables func(set *golden.Set, a golden.Answer) (*table.Table, error)

// Answers gives what a question accepts, its own answer first, then its readings. Where there is a reference query its result at full
// precision is expected, else the table as written. It errs where a reference query does not run or a table cannot be read, which may
// be *engine.Failure; else the error is of a worker or the context.
func Answers(ctx context.Context, q Queries, read Tables, b *briefing.Briefing, set *golden.Set,
	question *golden.Question) ([]Expectation, error) {
	var out []Expectation
	add := func(title string, a golden.Answer) error {
		if a.Empty() {
			return nil
		}
		e, err := expectOne(ctx, q, read, set, a)
		if err != nil {
			return err
		}
		e.Reading = title
		e.brief(b)
		out = append(out, e)
		return nil
	}
	if err := add("", question.Answer); err != nil {
		return nil, err
	}
	for _, r := range question.Readings {
		if err := add(r.Title, r.Answer); err != nil {
			return nil, fmt.Errorf("reading %q: %w", r.Title, err)
		}
	}
	return out, nil
}
