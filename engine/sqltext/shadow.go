package sqltext

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"tovrel/core/twin"
)

// Shadow is a table as a query is to see it, under the table's own name: its rows after some steps.
type Shadow struct {
	Table string
	Steps []twin.Step
	// Once has the rows computed once for the whole query, so that all its parts see the same ones
	Once bool
}

// Shadowed is a query that sees tables changed: common table expressions take the tables' names, so that nothing is stored. Tables that
// no
// shadow names are as they are. It errs for a step that no view can make.
func Shadowed(query string, shadows []Shadow) (string, error) {
	ordered := slices.Clone(shadows)
	slices.SortFunc(ordered, func(a, b Shadow) int {
		return cmp.Or(cmp.Compare(a.looks(), b.looks()), strings.Compare(a.Table, b.Table))
	})
	var tables []string
	for _, s := range ordered {
		view, err := s.view()
		if err != nil {
			return "", err
		}
		word := " AS ("
		if s.Once {
			word = " AS MATERIALIZED ("
		}
		tables = append(tables, Name(s.Table)+word+view+")")
	}
	inner := strings.TrimRight(strings.TrimSpace(query), ";")
	if len(tables) == 0 {
		return inner, nil
	}
	return "WITH " + strings.Join(tables, ", ") + " SELECT * FROM (" + inner + "\n)", nil
}

// looks counts the steps that look at another table, which must come before.
func (s Shadow) looks() int {
	n := 0
	for _, step := range s.Steps {
		if _, is := step.(twin.Met); is {
			n++
		}
	}
	return n
}

// view is a table's rows after the steps. Conditions are of the rows as they were.
func (s Shadow) view() (string, error) {
	var replaced, kept, added, first []string
	for _, step := range s.Steps {
		switch step := step.(type) {
		case twin.Add:
			added = append(added, addedRow(step))
		case twin.FirstOf:
			first = append(first, firstOf(step))
			if step.Where != "" {
				kept = append(kept, "("+step.Where+")")
			}
		default:
			if cell := cellOf(step); cell != "" {
				replaced = append(replaced, cell)
			} else if condition := keeping(step); condition != "" {
				kept = append(kept, condition)
			} else {
				return "", fmt.Errorf("no view makes the step %T of %s", step, s.Table)
			}
		}
	}
	items := "*"
	if len(replaced) > 0 {
		items += " REPLACE (" + strings.Join(replaced, ", ") + ")"
	}
	view := "SELECT " + items + " FROM main." + Name(s.Table)
	if len(kept) > 0 {
		view += " WHERE " + strings.Join(kept, " AND ")
	}
	if len(first) > 0 {
		view += " QUALIFY " + strings.Join(first, " AND ")
	}
	if len(added) > 0 {
		view += " UNION ALL VALUES " + strings.Join(added, ", ")
	}
	return view, nil
}

// cellOf writes a step that changes the cells of a column; "" for any other.
func cellOf(step twin.Step) string {
	switch step := step.(type) {
	case twin.Overwrite:
		return overwritten(step)
	case twin.Take:
		return fmt.Sprintf("CAST(%s AS %s) AS %s", Name(step.Other), step.Type, Name(step.Column))
	case twin.Trade:
		c := Name(step.Column)
		return fmt.Sprintf("CASE %s WHEN %s THEN %s WHEN %s THEN %s ELSE %s END AS %s", c, Cast(&step.A, step.Type), Cast(&step.B,
			step.Type),
			Cast(&step.B, step.Type), Cast(&step.A, step.Type), c, c)
	case twin.Later:
		return fmt.Sprintf("CAST(%s + INTERVAL (%d) MONTH AS %s) AS %s", Name(step.Column), step.Months, step.Type, Name(step.Column))
	case twin.Fill:
		return fmt.Sprintf("coalesce(%s, %s) AS %s", Name(step.Column), Cast(&step.Value, step.Type), Name(step.Column))
	}
	return ""
}

// keeping writes a step that leaves rows out as the condition that the others meet; "" for any other.
func keeping(step twin.Step) string {
	switch step := step.(type) {
	case twin.Head:
		return fmt.Sprintf("rowid < %d", step.Rows)
	case twin.Thin:
		return fmt.Sprintf("hash(rowid, %d) %% %d <> 0", step.Seed, step.OneIn)
	case twin.Present:
		return Name(step.Column) + " IS NOT NULL"
	case twin.Agree:
		return "(" + holds(step.One) + ") = (" + holds(step.Other) + ")"
	case twin.Met:
		return fmt.Sprintf("%s IN (SELECT %s FROM %s WHERE %s)", Name(step.Column), Name(step.With), Name(step.Table), holds(step.Where))
	}
	return ""
}

// holds is a condition that is never null.
func holds(condition string) string {
	if condition == "" {
		return "true"
	}
	return "coalesce((" + condition + "), false)"
}

func firstOf(s twin.FirstOf) string {
	var columns []string
	for _, c := range s.Columns {
		columns = append(columns, Name(c))
	}
	return "row_number() OVER (PARTITION BY " + strings.Join(columns, ", ") + " ORDER BY rowid) = 1"
}

// overwritten is a column in which many rows, chosen by their number, have one of some values; as many others keep their own.
func overwritten(s twin.Overwrite) string {
	c := Name(s.Column)
	var b strings.Builder
	fmt.Fprintf(&b, "CASE hash(rowid, %d) %% %d", s.Seed, 2*len(s.Values))
	for i, v := range s.Values {
		fmt.Fprintf(&b, " WHEN %d THEN coalesce(TRY_CAST(%s AS %s), %s)", i, Text(v), s.Type, c)
	}
	fmt.Fprintf(&b, " ELSE %s END AS %s", c, c)
	return b.String()
}

func addedRow(s twin.Add) string {
	var cells []string
	for _, cell := range s.Cells {
		cells = append(cells, Cast(cell.Text, cell.Type))
	}
	return "(" + strings.Join(cells, ", ") + ")"
}
