package attempt

import (
	"context"
	"fmt"
	"math"
	"slices"

	"tovrel/cause"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/history"
)

// Twin is a place of other rows, on which right answers are tried once more.
type Twin struct {
	Number int // its seed
	*Place
}

// onTwins tries a right answer's query on the twins of its dataset. Where it agrees with no reading there, the answer was lucky: its
// faults are those that show on the first such twin.
func (w *running) onTwins(ctx context.Context, t *task, j *judged, query string) error {
	for _, one := range t.place.Twins {
		expectations, err := one.Expectations(ctx, t.chosen)
		if err != nil {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			continue // the reference does not run there: the twin says nothing
		}
		expectations = t.counting(expect.References(expectations))
		if len(expectations) == 0 {
			return nil // what is expected is written down: it holds on the sample only
		}
		missed, err := w.missed(ctx, t, one, query, asOnSample(expectations, j.attempt), rowsOf(j.attempt))
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

// asOnSample has an answer's columns stand for those of what it was right for that they stood for on the sample.
func asOnSample(expectations []expect.Expectation, a record.Attempt) []expect.Expectation {
	if a.Match == nil || slices.Contains(a.Remarks, match.Crosstab) {
		return expectations
	}
	out := slices.Clone(expectations)
	for i := range out {
		if out[i].Reading != a.Reading {
			continue
		}
		out[i].Known.Columns = make([]int, len(a.Match.Columns))
		for _, pair := range a.Match.Columns {
			if pair.Expected < len(a.Match.Columns) {
				out[i].Known.Columns[pair.Expected] = pair.Answer
			}
		}
	}
	return out
}

// rowsOf is how many rows were expected where an answer was right.
func rowsOf(a record.Attempt) int {
	if a.Match == nil {
		return 0
	}
	return len(a.Match.AnswerOf)
}

// byTies tells whether an answer misses what is expected by ties alone, which the sample does not have: only the first key of the
// reference's order counts, and where both queries keep the ends of an order, one keeps as many as on the sample and the other all that
// share the last place.
func byTies(ctx context.Context, e expect.Expectation, r match.Result, rules match.Rules, tree *sql.Tree, rows int) (bool, error) {
	first, err := e.MeetsFirst(ctx, r.Tables.Answer, rules)
	if err != nil || first.Matched {
		return first.Matched, err
	}
	ends := e.Tree != nil && tree != nil && e.Tree.Cuts() && tree.Cuts()
	surplus := len(r.Cells) == 0 && (len(r.Missing) == 0) != (len(r.ExtraRows) == 0)
	return ends && surplus && min(r.Tables.Expected.Rows(), r.Tables.Answer.Rows()) == rows, nil
}

// nothingAsked tells whether an answer and all that is expected say that there is nothing.
func nothingAsked(answer *table.Table, expectations []expect.Expectation) bool {
	for _, e := range expectations {
		if !saysNothing(e.Table) {
			return false
		}
	}
	return saysNothing(answer)
}

// saysNothing tells a table without rows, or with one row of nulls, zeros and what no number is: a mean of none by division.
func saysNothing(t *table.Table) bool {
	if t.Rows() > 1 {
		return false
	}
	for _, c := range t.Columns {
		for row := range c.Len() {
			if f, isNumber := c.Value(row).Float64(); !c.IsNull(row) && (!isNumber || f != 0 && !math.IsNaN(f)) {
				return false
			}
		}
	}
	return true
}

// luck makes a right answer a lucky one, for what was seen on a twin.
func (j *judged) luck(seen *judged) {
	a, on := &j.attempt, seen.attempt
	a.Judge(record.Seen{Missed: true, Why: on.Why, Faults: on.Faults})
	a.Reading, a.Remarks = "", nil
	if len(seen.tables) > 0 {
		a.OnSample, a.Expected, a.Answer, a.Match, a.Closeness = a.Answer, on.Expected, on.Answer, on.Match, on.Closeness
		j.tables = append(j.tables, seen.tables...)
	}
}

// missed tells why a query is not right on a twin; nil where it is, or where it could not be seen. Rows is how many were expected on the
// sample.
func (w *running) missed(ctx context.Context, t *task, on *Twin, query string, expectations []expect.Expectation,
	rows int) (*judged, error) {
	but := fmt.Sprintf("right on the sample, but not on twin %d: ", on.Number)
	result, err := on.Pool.Query(ctx, engine.Request{SQL: query, Tree: true})
	if f, ok := expect.Failure(err); ok {
		if f.Code == fault.TooSlow || f.Code == fault.TooBig {
			return nil, nil
		}
		return &judged{attempt: record.Attempt{Why: but + f.Message,
			Faults: []fault.Fault{{Code: f.Code, Certainty: fault.Proved, Evidence: but + f.Message}}}}, nil
	}
	if err != nil {
		return nil, err
	}
	if nothingAsked(result.Table, expectations) {
		return nil, nil // no row here meets what was asked for: none, null and zero are ways to say so
	}
	tree := treeOf(result.Tree)
	best, nearest := match.Result{}, -1
	for i, e := range expectations {
		r, err := e.Meets(ctx, result.Table, t.rules)
		if err != nil {
			return nil, err
		}
		if r.Matched {
			return nil, nil
		}
		if tied, err := byTies(ctx, e, r, t.rules, tree, rows); tied || err != nil {
			return nil, err
		}
		if nearest < 0 || expect.Closer(r, best) {
			best, nearest = r, i
		}
	}
	expected, got := history.Keep(best.Tables.Expected), history.Keep(best.Tables.Answer)
	out := &judged{tables: []history.Stored{expected, got}, attempt: record.Attempt{Ran: result.Elapsed, Closeness: best.Closeness,
		Match: record.Compact(best), Expected: expected.Digest, Answer: got.Digest}}
	a := &out.attempt
	a.Judge(seenOf(best, nil))
	a.Why = but + best.Why
	if w.plan.Diagnose.Runs > 0 && cause.Searchable(a.Faults) {
		if err := w.explain(ctx, on.Place, t, a, given{table: result.Table, tree: tree}, expectations[nearest]); err != nil {
			return nil, err
		}
	}
	for i := range a.Faults {
		a.Faults[i].Evidence = fmt.Sprintf("on twin %d: %s", on.Number, a.Faults[i].Evidence)
	}
	return out, nil
}
