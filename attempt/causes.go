package attempt

import (
	"context"
	"slices"

	"tovrel/cause"
	"tovrel/core/diagnose"
	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/expect"
)

// Unsearched tells a wrong answer whose cause has not been searched for. It is looked for behind tables alone, not behind words and charts.
func Unsearched(a record.Attempt) bool {
	isTable := a.Answer != "" && a.Chart == nil
	return a.Verdict == score.Wrong && !a.Searched && !a.Stance && isTable && cause.Searchable(a.Faults)
}

// wrongBeside tells that, beside columns that are missing, the columns that are there differ: that mistake counts first.
func wrongBeside(m *record.Match) bool {
	return m != nil && len(m.Cells)+len(m.Missing)+len(m.ExtraRows) > 0
}

// explain puts the cause of a wrong answer in place of "unexplained", where one is found. The place may be a twin of the question's own.
func (w *running) explain(ctx context.Context, place *Place, t *task, a *record.Attempt, got given, e expect.Expectation) error {
	c := diagnose.Case{Reference: e.Tree, Answer: got.tree, Expected: e.Table, Got: got.table, Rules: t.rules, Known: e.Known}
	budget := w.plan.Diagnose
	if place.Live {
		budget.Runs = min(budget.Runs, place.Edits)
	}
	found, err := place.Search.Find(ctx, c, budget, a.Ran)
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
	case len(found.Faults) > 0 && found.Faults[0].Edit == "" && !found.Shown && found.Faults[0].Code != fault.WrongLayout &&
		len(seen) > 0 &&
		seen[0].Certainty == fault.Proved && !wrongBeside(a.Match):
		a.Faults = slices.Concat(seen, found.Faults) // what the tables prove goes before what they hint at
	default:
		if len(found.Faults) > 0 && found.Faults[0].Certainty == fault.Possible {
			found.Faults[0].Evidence += "; " + cause.TriedWords(found)
		}
		a.Faults = slices.Concat(found.Faults, seen)
	}
	return nil
}
