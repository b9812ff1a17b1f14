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
	Answer    string       // the query; "" for an answer without one
	Given     *table.Table // the table of such an answer
	Reference string       // "" without one
	Expected  *table.Table
	Rules     match.Rules
	Engine    string // by its name; "" for the default one
	Dialect   string // of the answer's query; "" for the embedded engine's
	Live      bool   // the dataset is a server's database as it is
	Budget    diagnose.Budget
}

// WhyResult is what a diagnosis by hand found.
type WhyResult struct {
	Match   match.Result
	Failure *engine.Failure // of the answer's query, which does not run
	Unread  []string        // what could not be done, and why
	Explained
}

// Explain diagnoses by hand. The error is of the reference query, a worker or the context.
func Explain(ctx context.Context, q expect.Queries, tables []engine.Table, w Why) (WhyResult, error) {
	e := expect.Expectation{Table: w.Expected}
	if w.Reference != "" {
		var err error
		if e, err = expect.FromReference(ctx, q, w.Reference, nil); err != nil {
			return WhyResult{}, err
		}
		if e, err = e.Whole(ctx); err != nil {
			return WhyResult{}, err
		}
	} else {
		e.Known.Rounded = expect.AllRounded(len(w.Expected.Columns))
	}
	got := engine.Result{Table: w.Given}
	if w.Given == nil {
		var err error
		got, err = q.Query(ctx, engine.Request{SQL: w.Answer, Tree: true, Dialect: w.Dialect})
		if f, own := expect.Failure(err); own {
			return WhyResult{Failure: f}, nil
		}
		if err != nil {
			return WhyResult{}, err
		}
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
	out.Unread = Unread(e, w.Answer != "" && c.Answer == nil)
	seen := out.Faults
	var err error
	out.Explained, err = NewSearch(q, tables, w.Engine, w.Live).Find(ctx, c, w.Budget, got.Elapsed)
	out.Faults = append(out.Faults, seen...)
	return out, err
}

// Unread says what could not be done for want of a query's syntax tree: some queries are written as only their own engine reads them.
func Unread(e expect.Expectation, answer bool) []string {
	var out []string
	if e.Reference != "" && e.Tree == nil {
		out = append(out, "the reference query is written as only its own engine reads it: its order and ties are not known here")
	}
	if answer {
		out = append(out, "the answer's query is written as only its own engine reads it: its cause was looked for in its table alone")
	}
	return out
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
