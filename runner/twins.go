package runner

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"tovrel/core/fault"
	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/query"
	"tovrel/core/run"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/engine"
	"tovrel/history"
)

// Twin is a place of other rows, on which right answers are tried once more.
type Twin struct {
	Number int // its seed
	*Place
}

// ReferenceTrees gives the syntax trees of the reference queries of some sets, readings included; a query that does not parse has none.
func ReferenceTrees(ctx context.Context, q Queries, sets []*golden.Set, dataset string) ([]*query.Tree, error) {
	var out []*query.Tree
	for _, set := range sets {
		if set.Dataset != dataset {
			continue
		}
		for _, question := range set.All() {
			answers := []golden.Answer{question.Answer}
			for _, r := range question.Readings {
				answers = append(answers, r.Answer)
			}
			for _, a := range answers {
				tree, err := parsed(ctx, q, a.Query)
				if err != nil {
					return nil, err
				}
				if tree != nil {
					out = append(out, tree)
				}
			}
		}
	}
	return out, nil
}

// Boundaries are what the reference queries of some sets compare a dataset's columns with.
func Boundaries(ctx context.Context, q Queries, sets []*golden.Set, dataset string) ([]twin.Boundary, error) {
	trees, err := ReferenceTrees(ctx, q, sets, dataset)
	if err != nil {
		return nil, err
	}
	var failed error
	bounds := twin.Boundaries(trees, func(formula string) string {
		result, err := q.Query(ctx, engine.Request{SQL: "SELECT CAST(" + formula + " AS VARCHAR)"})
		if _, refused := Failure(err); refused || err == nil && result.Table.Columns[0].IsNull(0) {
			return ""
		}
		if err != nil {
			failed = err
			return ""
		}
		return result.Table.Columns[0].Value(0).String()
	})
	return bounds, failed
}

// parsed is a query's syntax tree; nil where it does not parse or the engine has none.
func parsed(ctx context.Context, q Queries, sql string) (*query.Tree, error) {
	if sql == "" {
		return nil, nil
	}
	result, err := q.Query(ctx, engine.Request{SQL: sql, Tree: true, ParseOnly: true})
	if _, failed := Failure(err); failed || err == nil && len(result.Tree) == 0 {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return query.Read(result.Tree)
}

// onTwins tries a right answer's query on the twins of its dataset. Where it agrees with no reading there, the answer was lucky: its
// faults are those that show on the first such twin.
func (w *running) onTwins(ctx context.Context, t *task, j *judged, sql string) error {
	for _, one := range t.place.Twins {
		expectations, err := one.expectations(ctx, t.chosen)
		if err != nil {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			continue // the reference does not run there: the twin says nothing
		}
		expectations = t.counting(references(expectations))
		if len(expectations) == 0 {
			return nil // what is expected is written down: it holds on the sample only
		}
		missed, err := w.missed(ctx, t, one, sql, expectations)
		if err != nil {
			return err
		}
		j.attempt.Tried++
		if missed == nil {
			continue
		}
		if len(j.attempt.MissedOn) == 0 {
			j.luck(missed)
		}
		j.attempt.MissedOn = append(j.attempt.MissedOn, one.Fingerprint)
	}
	return nil
}

// luck makes a right answer a lucky one, for what was seen on a twin.
func (j *judged) luck(seen *judged) {
	a, on := &j.attempt, seen.attempt
	a.Verdict, a.Reading, a.Remarks, a.Faults, a.Why = score.Lucky, "", nil, on.Faults, on.Why
	if len(seen.tables) > 0 {
		a.OnSample, a.Expected, a.Answer, a.Match, a.Closeness = a.Answer, on.Expected, on.Answer, on.Match, on.Closeness
		j.tables = append(j.tables, seen.tables...)
	}
}

// references are the accepted answers that a query gives: only these can be had on other rows.
func references(all []Expectation) []Expectation {
	return slices.DeleteFunc(slices.Clone(all), func(e Expectation) bool { return e.Reference == "" })
}

// missed tells why a query is not right on a twin; nil where it is, or where it could not be seen.
func (w *running) missed(ctx context.Context, t *task, on *Twin, sql string, expectations []Expectation) (*judged, error) {
	but := fmt.Sprintf("right on the sample, but not on twin %d: ", on.Number)
	result, err := on.pool.Query(ctx, engine.Request{SQL: sql, Tree: true})
	if f, ok := Failure(err); ok {
		if f.Code == fault.TooSlow || f.Code == fault.TooBig {
			return nil, nil
		}
		return &judged{attempt: run.Attempt{Why: but + f.Message, Faults: []fault.Fault{{Code: f.Code, Certainty: fault.Proved, Evidence: but + f.Message}}}}, nil
	}
	if err != nil {
		return nil, err
	}
	best, nearest := match.Result{}, -1
	for i, e := range expectations {
		r, err := e.meets(ctx, result.Table, t.rules)
		if err != nil {
			return nil, err
		}
		if r.Matched {
			return nil, nil
		}
		if nearest < 0 || closer(r, best) {
			best, nearest = r, i
		}
	}
	expected, got := history.Keep(best.Tables.Expected), history.Keep(best.Tables.Answer)
	out := &judged{tables: []history.Stored{expected, got}, attempt: run.Attempt{Verdict: score.Wrong, Ran: result.Elapsed, Faults: best.Faults, Why: but + best.Why,
		Closeness: best.Closeness, Match: run.Compact(best), Expected: expected.Digest, Answer: got.Digest}}
	a := &out.attempt
	if len(a.Faults) == 0 {
		a.Faults = []fault.Fault{{Code: fault.Unexplained, Certainty: fault.Possible, Evidence: best.Why}}
	}
	if w.plan.Diagnose.Runs > 0 && searchable(a.Faults) {
		if err := w.explainOn(ctx, on.Place, t, a, result.Table, expectations[nearest], result.Tree); err != nil {
			return nil, err
		}
	}
	for i := range a.Faults {
		a.Faults[i].Evidence = fmt.Sprintf("on twin %d: %s", on.Number, a.Faults[i].Evidence)
	}
	return out, nil
}

// meets holds an answer against one accepted answer, with what is behind its cut where that counts.
func (e Expectation) meets(ctx context.Context, answer *table.Table, rules match.Rules) (match.Result, error) {
	r := match.Match(e.Table, answer, rules, e.Known)
	if e.behind == nil || r.Matched || e.behind.probe.TopN == nil && !match.MayTie(r, rules, e.Known) {
		return r, nil
	}
	whole, err := e.whole(ctx)
	if err != nil {
		return r, err
	}
	return match.Match(whole.Table, answer, rules, whole.Known), nil
}

// TwinVerdict tries a query on twins by hand: on how many it is not what the reference query gives. The error is of the reference query
// on the sample, a worker or the context.
func TwinVerdict(ctx context.Context, twins []Queries, reference, answer string, rules match.Rules) (missed int, err error) {
	for _, q := range twins {
		e, err := FromReference(ctx, q, reference)
		if _, failed := Failure(errors.Unwrap(err)); failed {
			continue
		}
		if err != nil {
			return missed, err
		}
		result, err := q.Query(ctx, engine.Request{SQL: answer})
		if _, failed := Failure(err); failed {
			missed++
			continue
		}
		if err != nil {
			return missed, err
		}
		r, err := e.meets(ctx, result.Table, rules)
		if err != nil {
			return missed, err
		}
		if !r.Matched {
			missed++
		}
	}
	return missed, nil
}
