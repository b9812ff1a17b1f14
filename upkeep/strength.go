package upkeep

import (
	"context"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"

	"tovrel/attempt"
	"tovrel/cause"
	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/expect"
	"tovrel/trouble"
	"tovrel/workspace"
)

// Strength is how many edits of a question's reference query its expected answer tells from the right one.
type Strength struct {
	Question  string
	Edits     int // that run and are counted
	ToldApart int
	Survivors []Survivor
	Why       string // why nothing was tried; "" where something was
	Chosen    workspace.Chosen
	Rows      []*AddedRow         // that would tell survivors apart; looked for by Strengthen
	Codes     map[fault.Code]Told // by the edits' faults
}

// Told counts edits of one fault.
type Told struct{ Edits, Apart int }

// Survivor is an edit that the expected answer cannot tell from the right query.
type Survivor struct {
	Edit  string // in words
	Code  fault.Code
	Query string
	Row   *AddedRow // that would tell it apart; nil where none is known
}

// mostStrengthEdits bounds the edits of one question.
const mostStrengthEdits = 150

// harmless are edits that never change what is expected, by what the reference query is: they are left out. Order matters only where
// it was asked for; a count is whole already; an edit that leaves the same features is the same query in another form.
func harmless(c edit.Change, reference *sql.Tree, e expect.Expectation) bool {
	switch c.Edit.Name {
	case "round":
		if strings.HasPrefix(c.Before, "count(") { // whole already
			return true
		}
	case "drop-order", "reverse-order":
		if len(e.Known.Ranking) == 0 && len(reference.Outer().AskedOrder()) == 0 {
			return true
		}
	}
	return c.Mends || c.Tree.SameFeatures(reference)
}

// Strengths measures questions, several at once; each is called after each, one call at a time. The error is of a worker or the context.
func Strengths(ctx context.Context, p attempt.Plan, each func()) ([]Strength, error) {
	out := make([]Strength, len(p.Questions))
	var mu sync.Mutex
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(max(1, p.Judges))
	for i, c := range p.Questions {
		g.Go(trouble.Safe(func() error {
			s, err := strength(ctx, p, c)
			mu.Lock()
			defer mu.Unlock()
			out[i] = s
			each()
			return err
		}))
	}
	return out, g.Wait()
}

func strength(ctx context.Context, p attempt.Plan, c workspace.Chosen) (Strength, error) {
	out := Strength{Question: c.Name(), Chosen: c, Codes: map[fault.Code]Told{}}
	place := p.Places[c.Set.Dataset]
	expectations, err := place.Expectations(ctx, c)
	if err != nil {
		out.Why = err.Error()
		return out, ctx.Err()
	}
	if len(expectations) == 0 || expectations[0].Tree == nil {
		out.Why = "it has no reference query with a syntax tree"
		return out, nil
	}
	reference := expectations[0].Tree
	rules := c.Question.Rules.Over(c.Set.Rules.Over(p.Rules))
	seen := map[string]bool{reference.Key(): true}
	subject := edit.Subject{Tree: reference, Columns: place.Search.Columns,
		Values: func(column string) []string { return place.Search.ValuesOf(ctx, column) }}
	for _, change := range edit.Changes(subject) {
		key := change.Tree.Key()
		if out.Edits >= mostStrengthEdits {
			break
		}
		if seen[key] || harmless(change, reference, expectations[0]) {
			continue
		}
		seen[key] = true
		got, err := place.Search.Run(ctx, change.Tree, longestStrengthEdit)
		if err != nil {
			return out, err
		}
		if got.Table == nil {
			continue // it does not run: a translator that writes it fails
		}
		out.Edits++
		if matchesAny(ctx, expectations, rules, got) {
			out.Survivors = append(out.Survivors, Survivor{Edit: change.Words(), Code: change.Code, Query: got.Text})
			out.Codes[change.Code] = Told{out.Codes[change.Code].Edits + 1, out.Codes[change.Code].Apart}
		} else {
			out.ToldApart++
			out.Codes[change.Code] = Told{out.Codes[change.Code].Edits + 1, out.Codes[change.Code].Apart + 1}
		}
	}
	return out, nil
}

// longestStrengthEdit is how long an edited query may run.
const longestStrengthEdit = 2 * time.Second

// matchesAny tells whether a result is accepted under any reading.
func matchesAny(ctx context.Context, expectations []expect.Expectation, rules match.Rules, got cause.Edited) bool {
	for _, e := range expectations {
		whole, err := e.Whole(ctx)
		if err != nil {
			whole = e // what is behind the cut cannot be had: the answer itself must do
		}
		if match.Match(whole.Table, got.Table, rules, whole.Known).Matched {
			return true
		}
	}
	return false
}
