package diagnose

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/twin"
)

// The wide interventions take more from the data than one kind of mistake needs: that both queries give the same on what is left says
// little, so what they differ in must name the cause. They are tried where the narrow ones showed nothing, and prove nothing alone.

// fewestOfValue is how many rows a value must have for them to stand for all.
const fewestOfValue = 20

// severalValues is how many values of a column are tried.
const severalValues = 3

// oneValue keeps the rows with one value of what one side alone makes parts of: all rows are then one part.
func (s sides) oneValue() []intervention {
	reference, answer := usesOf(s.reference), usesOf(s.answer)
	var out []intervention
	for _, u := range usesIn(reference, answer) {
		c := s.column(u.table, u.column)
		if u.as != "parted" || reference[u] == answer[u] || c.Name == "" {
			continue
		}
		code, words := fault.GroupKeyMissing, fmt.Sprintf("it does not hold rows against those of their `%s`", u.column)
		if answer[u] {
			code, words = fault.GroupKeyExtra, fmt.Sprintf("it holds rows against those of their `%s` alone", u.column)
		}
		for place := range severalValues {
			out = append(out, intervention{
				steps: map[string][]twin.Step{u.table: {twin.Commonest{Column: c.Name, Table: u.table, With: c.Name, Place: place,
					Rows: fewestOfValue}}},
				words: fmt.Sprintf("with the rows of one `%s` of `%s` alone", c.Name, u.table), both: code, saysBoth: words})
		}
	}
	return out
}

// setAside leaves out of both queries what keeps some of the rows: limits and places in an order, then conditions on groups.
func (s sides) setAside() []intervention {
	without := func(clauses sql.Aside, words string, code fault.Code, says string) intervention {
		return intervention{aside: []sql.Aside{clauses}, words: words, mended: code, broken: code, both: code, saysMended: says,
			saysBroken: says, saysBoth: says}
	}
	limits := without(sql.Limits, "without limits and places in an order", fault.Limit, "it keeps other rows of the order")
	reference, answer := s.c.Reference.LargestOf(), s.c.Answer.LargestOf()
	if len(reference) > 0 && len(answer) > 0 && !slices.Equal(reference, answer) {
		limits = without(sql.Limits, limits.words, fault.WrongMeasure, "it keeps the largest of another column")
	}
	return []intervention{limits,
		without(sql.GroupConditions, "without the conditions on groups", fault.Having, "it keeps other groups")}
}

// usesIn are the uses of both sides, in a fixed order.
func usesIn(reference, answer map[use]bool) []use {
	var out []use
	for _, side := range []map[use]bool{reference, answer} {
		for u := range side {
			if !slices.Contains(out, u) {
				out = append(out, u)
			}
		}
	}
	slices.SortFunc(out, use.compare)
	return out
}

// constantKeys makes all values of a group key the same, where one side alone has it.
func (s sides) constantKeys() []intervention {
	reference, answer := usesOf(s.reference), usesOf(s.answer)
	var out []intervention
	for _, u := range usesIn(reference, answer) {
		c := s.column(u.table, u.column)
		if u.as != "grouped" || reference[u] == answer[u] || c.Name == "" {
			continue
		}
		i := intervention{steps: map[string][]twin.Step{u.table: {twin.Same{Column: c.Name, Type: c.Type, Value: anyOf(c.Kind)}}},
			words: fmt.Sprintf("with one `%s` for all rows of `%s`", c.Name, u.table)}
		if answer[u] {
			i.mended, i.both, i.saysMended = fault.GroupKeyExtra, fault.GroupKeyExtra, fmt.Sprintf("it groups by `%s` too", c.Name)
			i.saysBoth = i.saysMended
		} else {
			i.broken, i.both = fault.GroupKeyMissing, fault.GroupKeyMissing
			i.saysBroken = fmt.Sprintf("it does not group by `%s`", c.Name)
			i.saysBoth = i.saysBroken
		}
		out = append(out, i)
	}
	return out
}

// anyOf is a value of a kind of column, as text.
func anyOf(kind edit.Kind) string {
	switch kind {
	case edit.Number:
		return "1"
	case edit.Time:
		return "2031-01-01"
	}
	return "x"
}

// oneEach keeps one row for each group, parent and counted value, where the queries aggregate in different ways.
func (s sides) oneEach() []intervention {
	code, words := s.aggregation()
	if code == "" {
		return nil
	}
	reference, answer := usesOf(s.reference), usesOf(s.answer)
	distinct := append(s.c.Reference.DistinctColumns(), s.c.Answer.DistinctColumns()...)
	var out []intervention
	seen := map[place]bool{}
	for _, u := range usesIn(reference, answer) {
		counted := u.as == "measured" && slices.Contains(distinct, u.column)
		at := place{u.table, u.column}
		if u.as != "grouped" && u.as != "tied" && !counted || seen[at] {
			continue
		}
		seen[at] = true
		out = append(out, intervention{
			steps: map[string][]twin.Step{u.table: {twin.FirstOf{Columns: []string{u.column}, Where: plainOf(s.reference, u.table),
				Rest: true}}},
			words: fmt.Sprintf("with one row of `%s` for each `%s`", u.table, u.column), both: code, saysBoth: words})
	}
	return out
}

// plainOf are a query's conditions on a table that all of its rows must meet.
func plainOf(r sql.Readings, table string) string {
	for _, t := range r.Tables {
		if t.Table == table {
			return together(slices.DeleteFunc(slices.Clone(t.Held), func(h sql.Held) bool { return h.Part }))
		}
	}
	return ""
}

// aggregation is how two queries aggregate differently: the first that fits; "" for none.
func (s sides) aggregation() (fault.Code, string) {
	reference, answer := s.c.Reference.Aggregates(), s.c.Answer.Aggregates()
	ratio := func(a sql.Aggregate) bool { return a.Ratio && (a.Function == "avg" || a.Function == "mean") }
	distinct := func(a sql.Aggregate) bool { return a.Distinct }
	switch {
	case s.joinedByAnswer():
		return fault.JoinFanOut, "it counts rows more than once"
	case slices.ContainsFunc(reference, ratio) != slices.ContainsFunc(answer, ratio):
		return fault.RatioOfAverages, "it makes a ratio of averages or an average of ratios"
	case slices.ContainsFunc(reference, distinct) != slices.ContainsFunc(answer, distinct):
		return fault.Distinct, "it counts the same more than once, or once"
	case !slices.Equal(functionsOf(reference), functionsOf(answer)):
		return fault.AggregateFunction, "it aggregates by another function"
	}
	return "", ""
}

// joinedByAnswer tells whether the answer alone joins a table that can multiply rows.
func (s sides) joinedByAnswer() bool {
	return slices.ContainsFunc(s.answer.Tables, func(t *sql.Reading) bool { return !t.Tested && !joins(s.reference, t.Table) })
}

func functionsOf(all []sql.Aggregate) []string {
	var out []string
	for _, a := range all {
		out = append(out, a.Function)
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// unitMeasures makes every value of a measure one, where both sides take the same rows of its table and measure in different ways.
func (s sides) unitMeasures() []intervention {
	reference, answer := usesOf(s.reference), usesOf(s.answer)
	var out []intervention
	for _, u := range usesIn(reference, answer) {
		c := s.column(u.table, u.column)
		if u.as != "measured" || c.Kind != edit.Number || !s.sameRows(u.table) {
			continue
		}
		code, words := s.aggregation()
		if code == fault.JoinFanOut {
			continue
		}
		if code == "" && reference[u] != answer[u] {
			code, words = fault.WrongMeasure, fmt.Sprintf("it measures another column than `%s`", c.Name)
			if answer[u] {
				words = fmt.Sprintf("it measures `%s`", c.Name)
			}
		}
		if code == "" {
			continue
		}
		out = append(out, intervention{steps: map[string][]twin.Step{u.table: {twin.Same{Column: c.Name, Type: c.Type, Value: "1"}}},
			words: fmt.Sprintf("with 1 for every `%s` of `%s`", c.Name, u.table), both: code, saysBoth: words})
	}
	return out
}

// sameRows tells whether both sides hold and tie a table's columns alike.
func (s sides) sameRows(table string) bool {
	return slices.Equal(treated(s.reference, table), treated(s.answer, table))
}

func treated(r sql.Readings, table string) []string {
	var out []string
	for _, t := range r.Tables {
		if t.Table != table {
			continue
		}
		for _, h := range t.Held {
			out = append(out, h.Condition)
		}
		for _, tie := range t.Tied {
			out = append(out, strings.Join([]string{tie.Column, tie.Other.Table, tie.With}, " "))
		}
	}
	slices.Sort(out)
	return slices.Compact(out)
}

// oneKey keeps one value of what one side alone joins on.
func (s sides) oneKey() []intervention {
	var out []intervention
	for _, pair := range [][2]sql.Readings{{s.reference, s.answer}, {s.answer, s.reference}} {
		for _, t := range pair[0].Tables {
			for _, tie := range t.Tied {
				both := reads(pair[1], t.Table) && reads(pair[1], tie.Other.Table)
				if !both || tied(pair[1], t.Table, tie) || t.Table == tie.Other.Table {
					continue
				}
				for place := range severalValues {
					of := twin.Commonest{Column: tie.Column, Table: t.Table, With: tie.Column, Place: place, Rows: fewestOfValue}
					with := of
					with.Column = tie.With
					out = append(out, intervention{
						steps: map[string][]twin.Step{t.Table: {of}, tie.Other.Table: {with}},
						words: fmt.Sprintf("with the rows of one `%s` alone", tie.Column), both: fault.JoinKey,
						saysBoth: fmt.Sprintf("it does not join `%s` and `%s` on `%s` as it ought to", t.Table, tie.Other.Table,
							tie.Column)})
				}
			}
		}
	}
	return out
}

func reads(r sql.Readings, table string) bool {
	return slices.ContainsFunc(r.Tables, func(t *sql.Reading) bool { return t.Table == table })
}

func tied(r sql.Readings, table string, tie sql.Tied) bool {
	is := func(o sql.Tied) bool {
		return o.Column == tie.Column && o.With == tie.With && o.Other.Table == tie.Other.Table
	}
	return slices.ContainsFunc(r.Tables, func(t *sql.Reading) bool { return t.Table == table && slices.ContainsFunc(t.Tied, is) })
}
