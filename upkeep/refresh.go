package upkeep

import (
	"context"

	"golang.org/x/sync/errgroup"

	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/trouble"
)

// Refreshed is what an answer of a golden set is on the data of today.
type Refreshed struct {
	Question *golden.Question
	Reading  string // title; "" for the question's own answer
	Answer   *golden.Answer
	Written  *table.Table // nil where there is none, or it cannot be read
	Now      *table.Table // what its reference query gives; nil without one
	Failure  error        // of the reference query
	Differs  bool
	Match    match.Result // of what is written and what is computed
}

// Refresh computes every answer of a set that has a reference query, and holds it against what is written. The error is of a worker or
// the context; a reference that does not run is in what it gives.
func Refresh(ctx context.Context, q expect.Queries, read expect.Tables, set *golden.Set, parallel int) ([]Refreshed, error) {
	var all []Refreshed
	for _, question := range set.Each() {
		if question.Base == nil || question.Answer.Table != nil { // for a role only what stands under a heading of its own is written
			all = append(all, Refreshed{Question: question, Answer: &question.Answer})
		}
		for _, r := range question.Readings {
			all = append(all, Refreshed{Question: question, Reading: r.Title, Answer: &r.Answer})
		}
	}
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(max(1, parallel))
	for i := range all {
		g.Go(trouble.Safe(func() error { return all[i].compute(ctx, q, read, set) }))
	}
	return all, g.Wait()
}

func (r *Refreshed) compute(ctx context.Context, q expect.Queries, read expect.Tables, set *golden.Set) error {
	if r.Answer.Table != nil || r.Answer.File != "" {
		if t, err := expect.Written(read, set, *r.Answer); err == nil { // one that cannot be read is written anew
			r.Written = t
		}
	}
	if r.Answer.Query == "" {
		return nil
	}
	result, err := q.Query(ctx, engine.Request{SQL: r.Answer.Query})
	if _, own := expect.Failure(err); own {
		r.Failure = expect.Placed(r.Answer.Query, err)
		return nil
	}
	if err != nil {
		return err
	}
	r.Now = result.Table
	if r.Written == nil {
		r.Differs = true
		return nil
	}
	r.Match = match.Match(r.Written, r.Now, expect.AsWritten, match.Known{Rounded: expect.AllRounded(len(r.Written.Columns))})
	r.Differs = !r.Match.Matched
	return nil
}
