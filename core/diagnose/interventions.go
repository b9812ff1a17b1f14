package diagnose

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"strings"

	"tovrel/core/edit"
	"tovrel/core/fault"
	"tovrel/core/sql"
	"tovrel/core/twin"
)

// intervention is a change of the data under which one kind of mistake cannot matter, and what it is called by how it shows.
type intervention struct {
	steps map[string][]twin.Step // by table
	words string                 // what was done to the data
	// Mended is the fault where the answer is right on the changed data, and broken where the reference gives on it what the answer gave;
	// both where they agree there. "" proves nothing.
	mended, broken, both             fault.Code
	saysMended, saysBroken, saysBoth string        // what that means for the answer
	priority                         int           // lower ones are believed before others
	aside                            []sql.Aside   // clauses that both queries are without
	first, second                    *intervention // of two at once; the steps are those of both
	wide                             bool          // it takes so much from the data, or changes so much, that it proves nothing alone
}

// sides are what both queries read of the data.
type sides struct {
	reference, answer sql.Readings
	c                 Case
}

// sidesOf are what the two queries of a case read.
func sidesOf(c Case) sides {
	columns := lowerNames(c.Columns)
	return sides{c.Reference.Readings(columns), c.Answer.Readings(columns), c}
}

// interventions lists the narrow ones that fit two queries, in a fixed order.
func interventions(c Case) []intervention {
	s := sidesOf(c)
	var out []intervention
	for _, family := range []func() []intervention{s.conditions, s.exchanges, s.columns, s.nulls, s.childless, s.fanOut, s.distinct} {
		out = append(out, family()...)
	}
	slices.SortStableFunc(out, func(a, b intervention) int { return cmp.Compare(a.priority, b.priority) })
	return out
}

// lowerNames are the names of all tables' columns.
func lowerNames(all map[string][]edit.Column) map[string][]string {
	out := map[string][]string{}
	for table, columns := range all {
		for _, column := range columns {
			out[table] = append(out[table], strings.ToLower(column.Name))
		}
	}
	return out
}

func (s sides) column(table, name string) edit.Column {
	for _, c := range s.c.Columns[table] {
		if strings.EqualFold(c.Name, name) {
			return c
		}
	}
	return edit.Column{}
}

// place is a table with some of its columns.
type place struct{ table, columns string }

// held are the conditions of a query by what they are about.
func held(r sql.Readings) map[place][]sql.Held {
	out := map[place][]sql.Held{}
	for _, t := range r.Tables {
		for _, h := range t.Held {
			at := place{t.Table, strings.Join(h.Columns, ", ")}
			if !slices.ContainsFunc(out[at], func(o sql.Held) bool { return o.Condition == h.Condition }) {
				out[at] = append(out[at], h)
			}
		}
	}
	return out
}

func together(all []sql.Held) string {
	var out []string
	for _, h := range all {
		out = append(out, "("+h.Condition+")")
	}
	slices.Sort(out)
	return strings.Join(out, " AND ")
}

// said is a condition as people write it.
func said(all []sql.Held) string {
	var out []string
	for _, h := range all {
		out = append(out, h.Condition)
	}
	return strings.Join(out, " AND ")
}

func placesOf(all ...map[place][]sql.Held) []place {
	seen := map[place]bool{}
	for _, one := range all {
		for p := range one {
			seen[p] = true
		}
	}
	return slices.SortedFunc(maps.Keys(seen), func(a, b place) int {
		return cmp.Or(strings.Compare(a.table, b.table), strings.Compare(a.columns, b.columns))
	})
}

// conditions removes just the rows on which the two sides' conditions on a column differ.
func (s sides) conditions() []intervention {
	reference, answer := held(s.reference), held(s.answer)
	var out []intervention
	for _, p := range placesOf(reference, answer) {
		r, a := reference[p], answer[p]
		if together(r) == together(a) {
			continue
		}
		i := intervention{steps: map[string][]twin.Step{p.table: {twin.Agree{One: together(r), Other: together(a)}}}}
		switch {
		case len(a) == 0:
			code := lackCode(r, fault.FilterMissing)
			i.mended, i.broken, i.both = code, "", code
			i.words = fmt.Sprintf("without the rows of `%s` that do not meet `%s`", p.table, said(r))
			i.saysMended = fmt.Sprintf("it lacks `%s`", said(r))
		case len(r) == 0:
			code := lackCode(a, fault.FilterExtra)
			i.broken, i.both = code, code
			i.words = fmt.Sprintf("without the rows of `%s` that do not meet `%s`", p.table, said(a))
			i.saysBroken = fmt.Sprintf("it has `%s`, which does not belong", said(a))
		default:
			code := s.otherCode(p, r, a)
			i.mended, i.broken, i.both = code, code, code
			i.words = fmt.Sprintf("without the rows of `%s` on which `%s` and `%s` differ", p.table, said(r), said(a))
			i.saysMended = fmt.Sprintf("it uses `%s` where `%s` belongs", said(a), said(r))
			i.saysBroken = i.saysMended
		}
		out = append(out, i)
	}
	return out
}

// lackCode is the fault of conditions that one side alone has.
func lackCode(held []sql.Held, otherwise fault.Code) fault.Code {
	for _, h := range held {
		if !strings.HasSuffix(strings.ToUpper(h.Condition), "NULL") {
			return otherwise
		}
	}
	return fault.NullHandling
}

// otherCode is the fault of conditions that both sides have and that differ.
func (s sides) otherCode(p place, reference, answer []sql.Held) fault.Code {
	kind := edit.Other
	for _, name := range strings.Split(p.columns, ", ") {
		if of := s.column(p.table, name).Kind; kind != edit.Time {
			kind = of
		}
	}
	switch {
	case kind != edit.Text && sameEdges(reference, answer):
		return fault.Boundary
	case kind == edit.Time:
		return fault.TimeWindow
	}
	return fault.FilterValue
}

// exchanges exchanges two values that are compared with, and moves times by what periods differ.
func (s sides) exchanges() []intervention {
	reference, answer := held(s.reference), held(s.answer)
	var out []intervention
	for _, p := range placesOf(reference, answer) {
		r, a := reference[p], answer[p]
		if len(r) == 0 || len(a) == 0 || together(r) == together(a) {
			continue
		}
		column := s.column(p.table, p.columns)
		uses := fmt.Sprintf("it uses `%s` where `%s` belongs", said(a), said(r))
		if x, y := soleValue(r), soleValue(a); x != "" && y != "" && column.Kind != edit.Time {
			out = append(out, intervention{steps: map[string][]twin.Step{p.table: {twin.Trade{Column: column.Name,
				Type: column.Type, A: x,
				B: y}}}, words: fmt.Sprintf("with '%s' and '%s' exchanged in `%s`", x, y, column.Name), mended: fault.FilterValue,
				broken: fault.FilterValue, saysMended: uses, saysBroken: uses})
		}
		out = append(out, s.moved(p, uses)...)
	}
	return out
}

// use is a column of a table by what it is read for.
type use struct{ table, column, as string }

func (u use) compare(other use) int {
	return cmp.Or(strings.Compare(u.table, other.table), strings.Compare(u.as, other.as), strings.Compare(u.column, other.column))
}

// usesOf are the columns that a query reads, and for what.
func usesOf(r sql.Readings) map[use]bool {
	out := map[use]bool{}
	for _, u := range r.Uses {
		out[use{u.Reading.Table, u.Column, [...]string{"shown", "measured", "grouped", "parted"}[u.As]}] = true
	}
	for _, t := range r.Tables {
		for _, h := range t.Held {
			for _, c := range h.Columns {
				out[use{t.Table, c, "held"}] = true
			}
		}
		for _, tie := range t.Tied {
			out[use{t.Table, tie.Column, "tied"}] = true
		}
	}
	return out
}

// columns gives a column that one side reads the values of one that the other reads in its place.
func (s sides) columns() []intervention {
	reference, answer := usesOf(s.reference), usesOf(s.answer)
	only := func(mine, theirs map[use]bool) []use {
		var out []use
		for u := range mine {
			if !theirs[u] {
				out = append(out, u)
			}
		}
		slices.SortFunc(out, use.compare)
		return out
	}
	var out []intervention
	seen := map[[3]string]bool{}
	for _, r := range only(reference, answer) {
		for _, a := range only(answer, reference) {
			x, y := s.column(r.table, r.column), s.column(a.table, a.column)
			pair := [3]string{r.table, r.column, a.column}
			if r.table != a.table || r.as != a.as || x.Kind != y.Kind || r.column == a.column || seen[pair] {
				continue
			}
			seen[pair] = true
			code := s.columnCode(r, x)
			uses := fmt.Sprintf("it uses `%s` where `%s` belongs", y.Name, x.Name)
			take := func(to, from edit.Column) map[string][]twin.Step {
				return map[string][]twin.Step{r.table: {twin.Take{Column: to.Name, Other: from.Name, Type: to.Type}}}
			}
			out = append(out, intervention{steps: take(y, x), words: fmt.Sprintf("with `%s` the same as `%s`", y.Name, x.Name),
				mended: code,
				both:   code, saysMended: uses}, intervention{steps: take(x, y), words: fmt.Sprintf("with `%s` the same as `%s`",
				x.Name, y.Name),
				broken: code, saysBroken: uses})
		}
	}
	return out
}

func (s sides) columnCode(u use, c edit.Column) fault.Code {
	switch {
	case u.as == "tied":
		return fault.JoinKey
	case c.Kind == edit.Time:
		return fault.TimeWindow
	case u.as == "held":
		return fault.FilterValue
	case u.as == "grouped" || u.as == "parted":
		return s.groupCode(c)
	case u.as == "measured" && c.Kind == edit.Number:
		return fault.WrongMeasure
	case c.Kind == edit.Text:
		return fault.Label
	}
	return fault.WrongMeasure
}

// groupCode is the fault of another group key: finer where the answer has more rows, coarser where it has fewer.
func (s sides) groupCode(c edit.Column) fault.Code {
	rows, expected := s.c.Got.Rows(), s.c.Expected.Rows()
	switch {
	case rows > expected:
		return fault.GroupKeyExtra
	case rows < expected || c.Kind != edit.Text:
		return fault.GroupKeyMissing
	}
	return fault.Label
}

// nulls drops the rows without a value in a column that is used, and fills measures.
func (s sides) nulls() []intervention {
	var out []intervention
	both := maps.Clone(usesOf(s.reference))
	maps.Copy(both, usesOf(s.answer))
	seen := map[use]bool{}
	for _, u := range slices.SortedFunc(maps.Keys(both), func(a, b use) int {
		return cmp.Or(strings.Compare(a.table, b.table), strings.Compare(a.column, b.column), strings.Compare(a.as, b.as))
	}) {
		key := use{u.table, u.column, ""}
		c := s.column(u.table, u.column)
		if seen[key] || u.as == "held" || c.Name == "" {
			continue
		}
		seen[key] = true
		mended, broken := fault.NullHandling, fault.NullHandling
		if both[use{u.table, u.column, "tied"}] {
			mended, broken = fault.JoinRowsAdded, fault.JoinRowsLost
			if s.tested(u.table) {
				mended, broken = fault.NullHandling, fault.NullHandling // NOT IN over nulls
			}
		}
		out = append(out, intervention{steps: map[string][]twin.Step{u.table: {twin.Present{Column: c.Name}}},
			words: fmt.Sprintf("without the rows of `%s` that have no `%s`", u.table, c.Name), mended: mended, broken: broken,
			saysMended: "it keeps these rows", saysBroken: "it leaves these rows out", priority: 1})
		if u.as == "measured" && c.Kind == edit.Number {
			out = append(out, intervention{steps: map[string][]twin.Step{u.table: {twin.Fill{Column: c.Name, Type: c.Type, Value: "0"}}},
				words: fmt.Sprintf("with zero where `%s` has no `%s`", u.table, c.Name), mended: fault.NullHandling,
				broken: fault.NullHandling, saysMended: fmt.Sprintf("it lets a missing `%s` make more than itself missing", c.Name),
				saysBroken: fmt.Sprintf("it takes a missing `%s` for zero", c.Name), priority: 1})
		}
	}
	return out
}

// tested tells whether a query only asks whether rows of a table exist.
func (s sides) tested(table string) bool {
	is := func(t *sql.Reading) bool { return t.Table == table && t.Tested }
	return slices.ContainsFunc(s.answer.Tables, is) || slices.ContainsFunc(s.reference.Tables, is)
}

// childless drops the rows of a table that nothing refers to.
func (s sides) childless() []intervention {
	var out []intervention
	seen := map[string]bool{}
	for _, readings := range []sql.Readings{s.reference, s.answer} {
		for _, t := range readings.Tables {
			for _, tie := range t.Tied {
				conditions := []string{""}
				if where := together(tie.Other.Held); where != "" {
					conditions = append(conditions, where)
				}
				for _, where := range conditions {
					key := strings.Join([]string{t.Table, tie.Column, tie.Other.Table, tie.With, where}, "\x00")
					if seen[key] || t.Table == tie.Other.Table {
						continue
					}
					seen[key] = true
					words := fmt.Sprintf("without the rows of `%s` that have no counterpart in `%s`", t.Table, tie.Other.Table)
					if where != "" {
						words += " with `" + said(tie.Other.Held) + "`"
					}
					mended := fault.JoinRowsAdded
					if !slices.ContainsFunc(s.answer.Tables, func(r *sql.Reading) bool { return r.Table == tie.Other.Table }) {
						mended = fault.JoinMissing
					}
					out = append(out, intervention{steps: map[string][]twin.Step{t.Table: {twin.Met{Column: tie.Column,
						Table: tie.Other.Table,
						With:  tie.With, Where: where}}}, words: words, mended: mended, broken: fault.JoinRowsLost,
						saysMended: "it keeps these rows", saysBroken: "it leaves these rows out", priority: 1})
				}
			}
		}
	}
	return out
}

// joins tells whether a query reads a table for more than to ask whether rows exist.
func joins(r sql.Readings, table string) bool {
	return slices.ContainsFunc(r.Tables, func(t *sql.Reading) bool { return t.Table == table && !t.Tested })
}

// fanOut keeps one row for each row that a join multiplies.
func (s sides) fanOut() []intervention {
	var out []intervention
	seen := map[string]bool{}
	for _, t := range s.answer.Tables {
		if t.Tested || joins(s.reference, t.Table) {
			continue
		}
		for _, tie := range t.Tied {
			if seen[t.Table+"."+tie.Column] {
				continue
			}
			seen[t.Table+"."+tie.Column] = true
			first := twin.FirstOf{Columns: []string{tie.Column}, Where: together(t.Held)}
			met := twin.Met{Column: tie.With, Table: t.Table, With: tie.Column}
			words := fmt.Sprintf("with one row of `%s` for each `%s`", t.Table, tie.Column)
			says := fmt.Sprintf("its join with `%s` counts rows more than once", t.Table)
			out = append(out, intervention{steps: map[string][]twin.Step{t.Table: {first}}, words: words, mended: fault.JoinFanOut,
				saysMended: says}, intervention{steps: map[string][]twin.Step{t.Table: {first}, tie.Other.Table: {met}}, words: words +
				" and none of `" + tie.Other.Table + "` without one", both: fault.JoinFanOut, saysMended: says, priority: 2})
		}
	}
	return out
}

// distinct keeps one row for each value that one side alone counts once.
func (s sides) distinct() []intervention {
	counted := func(t *sql.Tree, r sql.Readings) map[use]bool {
		out := map[use]bool{}
		names := t.DistinctColumns()
		for _, u := range r.Uses {
			if u.As == sql.Measured && slices.Contains(names, u.Column) {
				out[use{u.Reading.Table, u.Column, ""}] = true
			}
		}
		return out
	}
	reference, answer := counted(s.c.Reference, s.reference), counted(s.c.Answer, s.answer)
	plain := func(r sql.Readings, table string) string {
		for _, t := range r.Tables {
			if t.Table == table {
				return together(t.Held)
			}
		}
		return ""
	}
	var out []intervention
	all := maps.Clone(reference)
	maps.Copy(all, answer)
	for _, u := range slices.SortedFunc(maps.Keys(all), func(a, b use) int {
		return cmp.Or(strings.Compare(a.table, b.table), strings.Compare(a.column, b.column))
	}) {
		if reference[u] == answer[u] {
			continue
		}
		i := intervention{words: fmt.Sprintf("with one row of `%s` for each `%s`", u.table, u.column), priority: 1}
		if reference[u] {
			i.steps = map[string][]twin.Step{u.table: {twin.FirstOf{Columns: []string{u.column}, Where: plain(s.reference, u.table)}}}
			i.mended, i.saysMended = fault.Distinct, fmt.Sprintf("it counts a `%s` more than once", u.column)
		} else {
			i.steps = map[string][]twin.Step{u.table: {twin.FirstOf{Columns: []string{u.column}, Where: plain(s.answer, u.table)}}}
			i.broken, i.saysBroken = fault.Distinct, fmt.Sprintf("it counts a `%s` once", u.column)
		}
		out = append(out, i)
	}
	return out
}
