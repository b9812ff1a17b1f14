package sqltext

import (
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

// Shadowed is a query that sees tables changed: common table expressions take the tables' names, so that nothing is stored. Tables that no
// shadow names are as they are. It errs for a step that no view can make.
func Shadowed(query string, shadows []Shadow) (string, error) {
	var tables []string
	for _, s := range shadows {
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
	slices.Sort(tables)
	inner := strings.TrimRight(strings.TrimSpace(query), ";")
	if len(tables) == 0 {
		return inner, nil
	}
	return "WITH " + strings.Join(tables, ", ") + " SELECT * FROM (" + inner + "\n)", nil
}

// view is a table's rows after the steps.
func (s Shadow) view() (string, error) {
	var replaced, kept, added []string
	for _, step := range s.Steps {
		switch step := step.(type) {
		case twin.Overwrite:
			replaced = append(replaced, overwritten(step))
		case twin.Head:
			kept = append(kept, fmt.Sprintf("rowid < %d", step.Rows))
		case twin.Thin:
			kept = append(kept, fmt.Sprintf("hash(rowid, %d) %% %d <> 0", step.Seed, step.OneIn))
		case twin.Add:
			added = append(added, addedRow(step))
		default:
			return "", fmt.Errorf("no view makes the step %T of %s", step, s.Table)
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
	if len(added) > 0 {
		view += " UNION ALL VALUES " + strings.Join(added, ", ")
	}
	return view, nil
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
