package diagnose

import (
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

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

// addShares says of two mistakes in one query which cells each explains, where a query more may be run.
func (s *search) addShares(ctx context.Context) error {
	best, _ := s.best()
	if best == nil && len(s.d.Faults) == pair {
		s.addSharesOfData()
		return nil
	}
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
	s.d.Faults[1].Evidence += "; it alone: " + cellsWords(match.Match(s.c.Expected, first, s.c.Rules, s.c.Known))
	s.d.Faults[0].Evidence += "; added to the other mistake: " + cellsWords(match.Match(first, s.c.Got, s.c.Rules, s.c.Known))
	return nil
}

// addSharesOfData says that of two mistakes that changed data showed: what is left once the other one cannot matter.
func (s *search) addSharesOfData() {
	if len(s.findings) == 0 || s.findings[0].second == nil {
		return
	}
	f := s.findings[0]
	for i, other := range []intervention{*f.second, *f.first} {
		reference, ranReference := s.knownOn(s.c.Reference, stepsOn(s.c.Reference, other.steps))
		answer, ranAnswer := s.knownOn(s.c.Answer, stepsOn(s.c.Answer, other.steps))
		if len(other.aside) > 0 || !ranReference || !ranAnswer || reference == nil || answer == nil {
			continue
		}
		if r := match.Match(reference, answer, s.c.Rules, s.c.Known); !r.Matched {
			s.d.Faults[i].Evidence += "; without the other mistake: " + cellsWords(r)
		}
	}
}

// cellsWords say why tables differ, and which cells do: by column, those of the first rows, which are named by their text.
func cellsWords(r match.Result) string {
	const most = 3
	t := r.Tables.Expected
	texts := textColumns(t)
	rows := map[int][]string{} // by column
	for _, c := range r.Cells {
		row := fmt.Sprintf("row %d", c.ExpectedRow+1)
		if len(texts) > 0 && c.Column != texts[0] {
			row = t.Columns[texts[0]].Value(c.ExpectedRow).String()
		}
		rows[c.Column] = append(rows[c.Column], row)
	}
	var columns []string
	for _, column := range slices.Sorted(maps.Keys(rows)) {
		first := rows[column][:min(most, len(rows[column]))]
		words := "`" + t.Columns[column].Name + "` of " + strings.Join(first, ", ")
		if more := len(rows[column]) - len(first); more > 0 {
			words += fmt.Sprintf(" and %d more", more)
		}
		columns = append(columns, words)
	}
	if len(columns) == 0 {
		return r.Why
	}
	return r.Why + " (" + strings.Join(columns, "; ") + ")"
}

// pair is how many mistakes are found together.
const pair = 2

func rowsWords(r *fault.Rows) string {
	if r.Count == 1 {
		return fmt.Sprintf("one row of `%s` makes the difference", r.Table)
	}
	return fmt.Sprintf("%d rows of `%s` make the difference", r.Count, r.Table)
}
