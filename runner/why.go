package runner

import (
	"context"
	"fmt"

	"tovrel/core/diagnose"
	"tovrel/core/match"
	"tovrel/core/query"
	"tovrel/core/table"
	"tovrel/engine"
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
func Explain(ctx context.Context, q Queries, tables []engine.Table, w Why) (WhyResult, error) {
	e := Expectation{Table: w.Expected}
	if w.Reference != "" {
		var err error
		if e, err = FromReference(ctx, q, w.Reference); err != nil {
			return WhyResult{}, err
		}
		if e, err = e.whole(ctx); err != nil {
			return WhyResult{}, err
		}
	} else {
		e.Known.Rounded = all(len(w.Expected.Columns))
	}
	got, err := q.Query(ctx, engine.Request{SQL: w.Answer, Tree: true})
	if f, own := Failure(err); own {
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
	if !searchable(out.Faults) {
		return out, nil
	}
	c := diagnose.Case{Reference: e.tree, Expected: e.Table, Got: got.Table, Rules: w.Rules, Known: e.Known}
	if tree, err := query.Read(got.Tree); err == nil && len(got.Tree) > 0 {
		c.Answer = tree
	}
	seen := out.Faults
	out.Explained, err = newEdits(q, tables).find(ctx, c, w.Budget, got.Elapsed)
	out.Faults = append(out.Faults, seen...)
	return out, err
}

// triedWords say what was tried in vain.
func triedWords(e Explained) string {
	words := fmt.Sprintf("%d edits of the queries were tried, and none gives this answer", len(e.Tried))
	if e.Ended != "" {
		words += ", within " + e.Ended
	}
	return words
}

// TriedWords say what a diagnosis tried in vain.
func (e Explained) TriedWords() string { return triedWords(e) }
