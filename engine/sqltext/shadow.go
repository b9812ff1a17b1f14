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
	Table   string
	Columns []string // all of its columns, for a dialect that must list them
	Steps   []twin.Step
	// Once has the rows computed once for the whole query, so that all its parts see the same ones
	Once bool
}

// Shadowed is a query that sees tables changed: common table expressions take the tables' names, so that nothing is stored. Tables that
// no
// shadow names are as they are. It errs for a step that no view can make.
func Shadowed(query string, shadows []Shadow, in Dialect) (string, error) {
	ordered := slices.Clone(shadows)
	slices.SortFunc(ordered, func(a, b Shadow) int {
		return cmp.Or(cmp.Compare(a.looks(), b.looks()), strings.Compare(a.Table, b.Table))
	})
	var tables []string
	for _, s := range ordered {
		view, err := s.view(in)
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

// LeftOut is a query of the first rows of a table that the steps of a shadow leave out, with how many there are in a last column. It errs
// for a step that leaves none out.
func LeftOut(s Shadow, first int, in Dialect) (string, error) {
	var kept []string
	for _, step := range s.Steps {
		condition := in.keeping(step)
		if condition == "" {
			return "", fmt.Errorf("the step %T of %s leaves no rows out", step, s.Table)
		}
		kept = append(kept, condition)
	}
	return fmt.Sprintf("SELECT *, count(*) OVER () AS \"tovrel rows\" FROM main.%s WHERE NOT %s LIMIT %d", Name(s.Table),
		holds(strings.Join(kept, " AND ")), first), nil
}

// Changed is a query of how many of a table's rows the steps of a shadow leave out, add or change. It errs for a step that no view makes.
func Changed(s Shadow, in Dialect) (string, error) {
	view, err := s.view(in)
	if err != nil {
		return "", err
	}
	other := []string{"false"}
	for _, step := range s.Steps {
		if column, expression := in.cell(step, s.Table); column != "" {
			other = append(other, Name(column)+" IS DISTINCT FROM "+expression)
		}
	}
	all := "SELECT count(*) FROM main." + Name(s.Table)
	return fmt.Sprintf("SELECT abs((%s) - (SELECT count(*) FROM (%s))) + (%s WHERE %s)", all, view, all, strings.Join(other, " OR ")), nil
}

// looks counts the steps that look at another table, which must come before.
func (s Shadow) looks() int {
	n := 0
	for _, step := range s.Steps {
		switch step.(type) {
		case twin.Met, twin.Times:
			n++
		}
	}
	return n
}

// view is a table's rows after the steps. Conditions are of the rows as they were.
func (s Shadow) view(in Dialect) (string, error) {
	var kept, added, first []string
	var times string
	replaced := map[string]string{} // expressions by column
	for _, step := range s.Steps {
		switch step := step.(type) {
		case twin.Add:
			added = append(added, in.row(step))
		case twin.Times:
			times += timesJoin(step)
		case twin.FirstOf:
			first = append(first, firstOf(step))
			if step.Where != "" && !step.Rest {
				kept = append(kept, "("+step.Where+")")
			}
		default:
			if column, expression := in.cell(step, s.Table); column != "" {
				replaced[column] = expression
			} else if condition := in.keeping(step); condition != "" {
				kept = append(kept, condition)
			} else {
				return "", fmt.Errorf("no view makes the step %T of %s", step, s.Table)
			}
		}
	}
	view := "SELECT " + in.items(s.Columns, replaced, times != "")
	from := " FROM main." + Name(s.Table) + times
	if len(kept) > 0 {
		from += " WHERE " + strings.Join(kept, " AND ")
	}
	view += in.firsts(from, first)
	if len(added) > 0 {
		view += " UNION ALL VALUES " + strings.Join(added, ", ")
	}
	return view, nil
}

// cell is a column whose cells a step changes, with the expression of the new ones; "" for any other step.
func (in Dialect) cell(step twin.Step, table string) (column, expression string) {
	switch step := step.(type) {
	case twin.Set:
		return step.Column, in.set(step, table)
	case twin.Overwrite:
		return step.Column, in.overwritten(step)
	case twin.Take:
		return step.Column, in.as(Name(step.Other), step.Type)
	case twin.Trade:
		c, a, b := Name(step.Column), in.literal(step.A, step.Type), in.literal(step.B, step.Type)
		return step.Column, fmt.Sprintf("CASE %s WHEN %s THEN %s WHEN %s THEN %s ELSE %s END", c, a, b, b, a, c)
	case twin.Later:
		return step.Column, in.later(Name(step.Column), step.Type, step.Months)
	case twin.Fill:
		return step.Column, fmt.Sprintf("coalesce(%s, %s)", Name(step.Column), in.literal(step.Value, step.Type))
	case twin.Same:
		return step.Column, fmt.Sprintf("CASE WHEN %s IS NOT NULL THEN %s END", Name(step.Column), in.literal(step.Value, step.Type))
	case twin.Levels:
		c, has := Name(step.Column), "false"
		if step.Depth > 1 {
			has = fmt.Sprintf("%s IN (SELECT %s FROM main.%s WHERE %s IS NULL)", c, Name(step.Key), Name(step.Table), c)
		}
		return step.Column, fmt.Sprintf("CASE WHEN %s THEN %s END", has, c)
	}
	return "", ""
}

// keeping writes a step that leaves rows out as the condition that the others meet; "" for any other.
func (in Dialect) keeping(step twin.Step) string {
	switch step := step.(type) {
	case twin.Head:
		return fmt.Sprintf("rowid < %d", step.Rows)
	case twin.Thin:
		return in.drawn(step.Seed, step.OneIn) + " <> 0"
	case twin.Only:
		return in.numbered(step.Rows)
	case twin.Without:
		return in.without(step)
	case twin.Present:
		return Name(step.Column) + " IS NOT NULL"
	case twin.Agree:
		return "(" + holds(step.One) + ") = (" + holds(step.Other) + ")"
	case twin.Commonest:
		c := Name(step.With)
		return fmt.Sprintf("%s IN (SELECT %s FROM main.%s WHERE %s IS NOT NULL GROUP BY %s HAVING count(*) >= %d "+
			"ORDER BY count(*) DESC, %s LIMIT 1 OFFSET %d)", Name(step.Column), c, Name(step.Table), c, c, step.Rows, c, step.Place)
	case twin.Met:
		return fmt.Sprintf("%s IN (SELECT %s FROM %s WHERE %s)", Name(step.Column), Name(step.With), Name(step.Table), holds(step.Where))
	case twin.Kept:
		return in.kept(step)
	}
	return ""
}

// numbered is the condition that a row is one of some, counted from 0.
func (in Dialect) numbered(rows twin.Spans) string {
	parts, first := []string{"false"}, int64(0)
	if in.lite {
		first = 1 // as SQLite counts
	}
	for _, span := range rows {
		parts = append(parts, fmt.Sprintf("rowid BETWEEN %d AND %d", span[0]+first, span[1]-1+first))
	}
	return "(" + strings.Join(parts, " OR ") + ")"
}

// without is the condition that a row has none of some values.
func (in Dialect) without(s twin.Without) string {
	list := []string{}
	for _, v := range s.Values {
		list = append(list, in.literal(v, s.Type))
	}
	return fmt.Sprintf("coalesce(%s NOT IN (%s), true)", Name(s.Column), strings.Join(list, ", "))
}

// kept is the condition that a row has a parent among those that steps leave, or had none.
func (in Dialect) kept(s twin.Kept) string {
	var stays []string
	for _, step := range s.By {
		stays = append(stays, in.keeping(step))
	}
	among := func(not string) string {
		return fmt.Sprintf("%s IN (SELECT %s FROM main.%s WHERE %s IS NOT NULL AND %s%s)", Name(s.Column), Name(s.Key), Name(s.Table),
			Name(s.Key), not, holds(strings.Join(stays, " AND ")))
	}
	return "(coalesce(NOT " + among("NOT ") + ", true) OR " + among("") + ")"
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
	rest := ""
	if s.Rest && s.Where != "" {
		columns = append(columns, holds(s.Where))
		rest = " OR NOT " + holds(s.Where)
	}
	return "(row_number() OVER (PARTITION BY " + strings.Join(columns, ", ") + " ORDER BY rowid) = 1" + rest + ")"
}

// timesColumn is the column of what multiplies rows.
const timesColumn = `"tovrel met"`

// timesJoin multiplies rows.
func timesJoin(s twin.Times) string {
	return fmt.Sprintf(" JOIN (SELECT %s AS %s FROM %s) ON %s = %s", Name(s.With), timesColumn, Name(s.Table), timesColumn, Name(s.Column))
}

// overwritten is a column in which many rows, chosen by their number, have one of some values; as many others keep their own.
func (in Dialect) overwritten(s twin.Overwrite) string {
	c := Name(s.Column)
	var b strings.Builder
	fmt.Fprintf(&b, "CASE %s", in.drawn(s.Seed, 2*len(s.Values)))
	for i, v := range s.Values {
		fmt.Fprintf(&b, " WHEN %d THEN %s", i, in.tried(v, s.Type, c))
	}
	fmt.Fprintf(&b, " ELSE %s END", c)
	return b.String()
}
