package attempt

import (
	"context"

	"tovrel/cause"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/engine"
	"tovrel/expect"
)

// failed judges a query that does not run: what is wrong with it, whose dialect it is, and whether it would be right with that
// mended.
func (w *running) failed(ctx context.Context, t *task, a record.Attempt, f *engine.Failure) (judged, error) {
	found := cause.FailureFault(a.Query, f)
	if mended := cause.Mend(a.Query, f); mended != "" && w.plan.Diagnose.Runs > 0 {
		isRight, err := w.wouldBeRight(ctx, t, mended)
		if err != nil {
			return judged{}, err
		}
		if isRight {
			found.Query = mended
			found.Evidence += "; with that mended, the query gives what was expected"
		}
	}
	a.Judge(record.Seen{Broken: true, Why: f.Message, Faults: []fault.Fault{found}})
	if t.chosen.Question.Answer.Query != "" {
		a.Reference = t.chosen.Question.Answer.Query
	}
	return judged{attempt: a}, nil
}

// wouldBeRight runs a mended query and matches its answer.
func (w *running) wouldBeRight(ctx context.Context, t *task, sql string) (bool, error) {
	result, err := t.place.Pool.Query(ctx, engine.Request{SQL: sql, Dialect: w.dialect(t.place)})
	if _, own := expect.Failure(err); own {
		return false, nil
	}
	if err != nil {
		return false, err
	}
	expectations, err := t.place.Expectations(ctx, t.chosen)
	if err != nil {
		return false, ctx.Err() // the reference does not run: there is nothing to match
	}
	for _, e := range t.counting(expectations) {
		if match.Match(e.Table, result.Table, t.rules, e.Known).Matched {
			return true, nil
		}
	}
	return false, nil
}
