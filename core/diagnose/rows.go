package diagnose

import (
	"context"
	"errors"
	"fmt"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/twin"
)

// removal are the steps that leave rows of a table out: rows that make a difference. The zero value leaves none out.
type removal struct {
	table string
	steps []twin.Step
}

// removedBy is what steps leave out, where they do nothing else and to one table alone.
func removedBy(steps map[string][]twin.Step) removal {
	if len(steps) != 1 {
		return removal{}
	}
	for table, all := range steps {
		for _, step := range all {
			switch step.(type) {
			case twin.Agree, twin.Present, twin.Met:
			default:
				return removal{}
			}
		}
		return removal{table, all}
	}
	return removal{}
}

// removedBetween is what an edit makes a query take or leave: the rows on which the conditions of the two on one column differ.
func (s *search) removedBetween(h hit) removal {
	from := s.c.Reference
	if h.repair {
		from = s.c.Answer
	}
	columns := lowerNames(s.c.Columns)
	differ := sides{reference: from.Readings(columns), answer: h.Tree.Readings(columns), c: s.c}.conditions()
	if len(differ) != 1 {
		return removal{}
	}
	return removedBy(differ[0].steps)
}

// addRows adds to the main fault the rows that make its difference, where a query more may be run.
func (s *search) addRows(ctx context.Context) error {
	if s.w.LeftOut == nil || len(s.removals) == 0 || s.removals[0].table == "" || s.runs >= s.w.Runs {
		return nil
	}
	s.runs++
	rows, err := s.w.LeftOut(ctx, s.removals[0].table, s.removals[0].steps)
	if err != nil && !errors.Is(err, ErrSlow) {
		return err
	}
	if rows != nil && rows.Count > 0 {
		s.d.Faults[0].Rows = rows
		s.d.Faults[0].Evidence += "; " + rowsWords(rows)
	}
	return nil
}

// addShares says of two mistakes in one query what each makes of the difference, where a query more may be run.
func (s *search) addShares(ctx context.Context) error {
	best, _ := s.best()
	if best == nil || best.extra == nil || len(s.d.Faults) != pair || s.d.Trees[0] != best.Tree || s.runs >= s.w.Runs {
		return nil
	}
	s.runs++
	first, err := s.w.Run(ctx, best.extra.Tree)
	if err != nil && !errors.Is(err, ErrSlow) {
		return err
	}
	if first == nil {
		return nil
	}
	s.d.Faults[1].Evidence += "; it alone: " + match.Match(s.c.Expected, first, s.c.Rules, s.c.Known).Why
	s.d.Faults[0].Evidence += "; added to the other mistake: " + match.Match(first, s.c.Got, s.c.Rules, s.c.Known).Why
	return nil
}

// pair is how many mistakes are found together.
const pair = 2

func rowsWords(r *fault.Rows) string {
	if r.Count == 1 {
		return fmt.Sprintf("one row of `%s` makes the difference", r.Table)
	}
	return fmt.Sprintf("%d rows of `%s` make the difference", r.Count, r.Table)
}
