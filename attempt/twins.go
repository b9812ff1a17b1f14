package attempt

import (
	"context"
	"fmt"
	"math"
	"slices"
	"time"

	"tovrel/cause"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/core/twin"
	"tovrel/engine"
	"tovrel/expect"
	"tovrel/history"
)

// Twin is a place of other rows, on which right answers are tried once more.
type Twin struct {
	Number int        // its seed
	Laws   []twin.Law // that it keeps
	Recipe []byte     // by which it can be made again, as JSON
	*Place
	kept lawful
}

// onTwins tries a right answer's query on the twins of its dataset, and where it is right on all of them, with rows that are made for the
// question. Where it agrees with no reading there, the answer was lucky: its faults are those that show on the first such twin.
func (w *running) onTwins(ctx context.Context, t *task, j *judged, query string, tree *sql.Tree) error {
	again := trial{task: t, query: query, tree: tree, right: j.attempt}
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
		if err := w.onTwin(ctx, again, one, j, expectations); err != nil {
			return err
		}
	}
	if len(t.place.Twins) == 0 || len(j.attempt.MissedOn) > 0 || t.place.Facts == nil {
		return nil
	}
	return w.onMade(ctx, again, j)
}

// onTwin tries a right answer's query on one twin. A twin that breaks a fact that it is to keep accuses nobody.
func (w *running) onTwin(ctx context.Context, again trial, on *Twin, j *judged, expectations []expect.Expectation) error {
	missed, err := again.missedAmong(ctx, on.Pool, expectations)
	if err != nil || missed == nil {
		j.attempt.Tried++
		return err
	}
	broken, err := on.Unlawful(ctx)
	if err != nil {
		return err
	}
	if broken != "" {
		j.attempt.Notes = append(j.attempt.Notes, fmt.Sprintf("twin %d does not count: it breaks the fact %q", on.Number, broken))
		return nil
	}
	j.attempt.Tried++
	if len(j.attempt.MissedOn) == 0 {
		shown, err := again.shownBy(ctx, on, missed)
		if err != nil {
			return err
		}
		where := fmt.Sprintf("on twin %d", on.Number)
		if err := w.lucky(ctx, again, seenOn{on.Place, "right on the sample, but not " + where + ": ", where, shown}, j,
			missed); err != nil {
			return err
		}
	}
	j.attempt.MissedOn = append(j.attempt.MissedOn, on.Fingerprint)
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

// trial is a right answer's query that is tried once more, on other rows.
type trial struct {
	*task
	query string
	tree  *sql.Tree      // of the query; nil for none
	right record.Attempt // as it was judged on the sample
}

// miss is how a query is not right on some data: it does not run, or gives another table.
type miss struct {
	failure *engine.Failure
	result  match.Result
	nearest expect.Expectation
	given   given
	ran     time.Duration
}

// missed tells how the query is not right on some data, of which what is expected there is asked first; nil where it is, or where that
// cannot be seen. The error is of a worker or the context.
func (t trial) missed(ctx context.Context, on expect.Queries) (*miss, error) {
	place := t.place
	expectations, err := expect.Answers(ctx, on, place.read, place.Briefing, t.chosen.Set, t.chosen.Question)
	if _, failed := expect.Failure(err); failed {
		return nil, nil // the reference does not run there: the data say nothing
	}
	if err != nil {
		return nil, err
	}
	return t.missedAmong(ctx, on, t.counting(expect.References(expectations)))
}

// missedAmong is missed where it is known what is expected.
func (t trial) missedAmong(ctx context.Context, on expect.Queries, expectations []expect.Expectation) (*miss, error) {
	if len(expectations) == 0 {
		return nil, nil
	}
	expectations = asOnSample(expectations, t.right)
	result, err := on.Query(ctx, engine.Request{SQL: t.query, Tree: true})
	if f, ok := expect.Failure(err); ok {
		if f.Code == fault.TooSlow || f.Code == fault.TooBig {
			return nil, nil
		}
		return &miss{failure: f, nearest: expectations[0]}, nil
	}
	if err != nil {
		return nil, err
	}
	if nothingAsked(result.Table, expectations) {
		return nil, nil // no row here meets what was asked for: none, null and zero are ways to say so
	}
	out := &miss{given: given{table: result.Table, tree: treeOf(result.Tree)}, ran: result.Elapsed}
	for i, e := range expectations {
		r, err := e.Meets(ctx, result.Table, t.rules)
		if err != nil || r.Matched {
			return nil, err
		}
		if tied, err := byTies(ctx, e, r, t.rules, out.given.tree, rowsOf(t.right)); tied || err != nil {
			return nil, err
		}
		if i == 0 || expect.Closer(r, out.result) {
			out.result, out.nearest = r, e
		}
	}
	return out, nil
}

// seenOn is on which data a right answer was not right.
type seenOn struct {
	place *Place
	but   string // in words, to begin with
	where string // before evidence
	shown evidence
}

// lucky makes a right answer a lucky one, for what was seen on other data.
func (w *running) lucky(ctx context.Context, again trial, on seenOn, j *judged, m *miss) error {
	a := &j.attempt
	a.Reading, a.Remarks = "", nil
	if m.failure != nil {
		why := on.but + m.failure.Message + on.shown.words
		a.Judge(record.Seen{Missed: true, Why: why, Faults: []fault.Fault{{Code: m.failure.Code, Certainty: fault.Proved, Evidence: why,
			Rows: on.shown.rows}}})
		return nil
	}
	seen := &record.Attempt{Ran: m.ran, Closeness: m.result.Closeness, Match: record.Compact(m.result)}
	seen.Judge(seenOf(m.result, nil))
	if w.plan.Diagnose.Runs > 0 && cause.Searchable(seen.Faults) {
		if err := w.explain(ctx, on.place, again.task, seen, m.given, m.nearest); err != nil {
			return err
		}
	}
	for i := range seen.Faults {
		seen.Faults[i].Evidence = on.where + ": " + seen.Faults[i].Evidence
	}
	if on.shown.rows != nil && len(seen.Faults) > 0 {
		seen.Faults[0].Rows = on.shown.rows
	}
	a.Judge(record.Seen{Missed: true, Why: on.but + m.result.Why + on.shown.words, Faults: seen.Faults})
	expected, got := history.Keep(m.result.Tables.Expected), history.Keep(m.result.Tables.Answer)
	a.OnSample, a.Expected, a.Answer, a.Match, a.Closeness = a.Answer, expected.Digest, got.Digest, seen.Match, seen.Closeness
	j.tables = append(j.tables, expected, got)
	return nil
}
