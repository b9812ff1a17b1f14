package attempt

import (
	"context"
	"slices"

	"tovrel/cause"
	"tovrel/core/diagnose"
	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/sql"
	"tovrel/core/table"
	"tovrel/expect"
)

// Unsearched tells a wrong answer whose cause has not been searched for.
func Unsearched(a record.Attempt) bool {
	return a.Verdict == score.Wrong && !a.Searched && !a.Stance && cause.Searchable(a.Faults)
}

// explain puts the cause of a wrong answer in place of "unexplained", where one is found.
func (w *running) explain(ctx context.Context, t *task, a *record.Attempt, answer *table.Table, e expect.Expectation) error {
	return w.explainOn(ctx, t.place, t, a, answer, e, t.tree)
}

// wrongBeside tells that, beside columns that are missing, the columns that are there differ: that mistake counts first.
func wrongBeside(m *record.Match) bool {
	return m != nil && len(m.Cells)+len(m.Missing)+len(m.ExtraRows) > 0
}

// explainOn searches on a place, which may be a twin of the question's own.
func (w *running) explainOn(ctx context.Context, place *Place, t *task, a *record.Attempt, answer *table.Table, e expect.Expectation, written []byte) error {
	c := diagnose.Case{Reference: e.Tree, Expected: e.Table, Got: answer, Rules: t.rules, Known: e.Known}
	if tree, err := sql.Read(written); err == nil && len(written) > 0 {
		c.Answer = tree
	}
	found, err := place.Edits.Find(ctx, c, w.plan.Diagnose, a.Ran)
	if err != nil {
		return err
	}
	a.Searched = true
	seen := a.Faults
	if seen[0].Code == fault.Unexplained {
		seen = seen[1:]
	}
	switch {
	case len(found.Faults) == 0 && len(seen) < len(a.Faults):
		a.Faults[0].Evidence += "; " + cause.TriedWords(found)
	case len(found.Faults) > 0 && found.Faults[0].Edit == "" && found.Faults[0].Code != fault.WrongLayout && len(seen) > 0 && seen[0].Certainty == fault.Proved && !wrongBeside(a.Match):
		a.Faults = slices.Concat(seen, found.Faults) // what the tables prove goes before what they hint at
	default:
		if len(found.Faults) > 0 && found.Faults[0].Certainty == fault.Possible {
			found.Faults[0].Evidence += "; " + cause.TriedWords(found)
		}
		a.Faults = slices.Concat(found.Faults, seen)
	}
	return nil
}
