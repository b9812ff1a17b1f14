package cause

import (
	"context"
	"fmt"

	"tovrel/core/diagnose"
	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/expect"
)

// Why is a diagnosis by hand: the answer's query against a reference query, or against a table alone.
type Why struct {
	Answer    string // the query
	Reference string // "" without one
	Expected  *table.Table
	Rules     match.Rules
	Budget    diagnose.Budget
}

// WhyResult is what a diagnosis by hand found.
type WhyResult struct {
	Match   match.Result
	Failure *engine.Failure // of the answer's query, which does not run
	Explained
}

// Explain diagnoses by hand. The error is of the reference query, a worker or the context.
func Explain(ctx context.Context, q expect.Queries, tables []engine.Table, w Why) (WhyResult, error) {
	e := expect.Expectation{Table: w.Expected}
	if w.Reference != "" {
		var err error
		if e, err = expect.FromReference(ctx, q, w.Reference); err != nil {
			return WhyResult{}, err
		}
		if e, err = e.Whole(ctx); err != nil {
			return WhyResult{}, err
		}
	} else {
		e.Known.Rounded = expect.AllRounded(len(w.Expected.Columns))
	}
	got, err := q.Query(ctx, engine.Request{SQL: w.Answer, Tree: true})
	if f, own := expect.Failure(err); own {
		return WhyResult{Failure: f}, nil
	}
	if err != nil {
		return WhyResult{}, err
	}
	out := WhyResult{Match: match.Match(e.Table, got.Table, w.Rules, e.Known)}
	if out.Match.Matched {
		return out, nil
	}
	out.Faults = out.Match.Faults
	if !Searchable(out.Faults) {
		return out, nil
	}
	c := diagnose.Case{Reference: e.Tree, Expected: e.Table, Got: got.Table, Rules: w.Rules, Known: e.Known}
	if tree, err := sql.Read(got.Tree); err == nil && len(got.Tree) > 0 {
		c.Answer = tree
	}
	seen := out.Faults
	out.Explained, err = NewSearch(q, tables).Find(ctx, c, w.Budget, got.Elapsed)
	out.Faults = append(out.Faults, seen...)
	return out, err
}

// TriedWords say what was tried in vain.
func TriedWords(e Explained) string {
	words := fmt.Sprintf("%d edits of the queries were tried, and none gives this answer", len(e.Tried))
	if e.Ended != "" {
		words += ", within " + e.Ended
	}
	return words
}

// TriedWords say what a diagnosis tried in vain.
func (e Explained) TriedWords() string { return TriedWords(e) }
