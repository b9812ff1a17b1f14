package twin

import (
	"cmp"
	"slices"
	"strings"

	"tovrel/core/profile"
	"tovrel/core/value"
)

const (
	// mostGroupings, mostOrders and mostRunning bound the columns of a table that laws are looked for in.
	mostGroupings, mostOrders, mostRunning = 3, 4, 3
	// mostStates is up to how many values a column's values may follow one another.
	mostStates = 8
)

// Candidates are the laws that may hold on a dataset, in a fixed order: they are to be counted.
func Candidates(f *Facts) []Law {
	var out []Law
	for _, t := range f.Tables {
		if t.Rows < fewestLawful {
			continue
		}
		out = append(out, t.ordered()...)
		out = append(out, t.hierarchies()...)
		for _, tie := range t.Ties {
			if tie.Why == determine || tie.Why == "nearly "+determine {
				out = append(out, t.determines(tie))
			}
		}
		for i, c := range t.Columns {
			if c.Unique && c.Kind == value.Date {
				out = append(out, Law{Kind: EveryDay, Table: t.Name, Columns: []string{c.Name}})
			}
			if c.Unique && !c.Amount && !c.Kind.Temporal() {
				out = append(out, Law{Kind: Unlike, Table: t.Name, Columns: t.names([]int{i})})
			}
		}
		for _, key := range t.Keys {
			out = append(out, Law{Kind: Unlike, Table: t.Name, Columns: t.names(key)})
		}
		for _, by := range t.groupings() {
			out = append(out, t.grouped(by)...)
		}
	}
	for _, l := range f.Links {
		out = append(out, Law{Kind: Refers, Table: l.From.Table, Columns: []string{l.From.Column}, Other: l.To})
		out = append(out, f.orderedAcross(l)...)
	}
	return out
}

// groupings are the columns whose values may make groups: references first.
func (t *Table) groupings() []int {
	var out []int
	for i, c := range t.Columns {
		named := c.Kind == value.Int && !c.Amount || c.Kind == value.Text
		if !c.Unique && named && c.Distinct >= 3 {
			out = append(out, i)
		}
	}
	slices.SortStableFunc(out, func(a, b int) int {
		return cmp.Or(yes(t.Columns[b].Reference)-yes(t.Columns[a].Reference), cmp.Compare(t.Columns[b].Distinct, t.Columns[a].Distinct))
	})
	return out[:min(mostGroupings, len(out))]
}

func yes(b bool) int {
	if b {
		return 1
	}
	return 0
}

// moments are the columns with dates or moments.
func (t *Table) moments() []int {
	var out []int
	for i, c := range t.Columns {
		if c.Kind == value.Date || c.Kind == value.Timestamp || c.Kind == value.TimestampTZ {
			out = append(out, i)
		}
	}
	return out[:min(mostOrders, len(out))]
}

// ordered are the orders of two columns of a row: moments, and what the sample shows.
func (t *Table) ordered() []Law {
	var out []Law
	add := func(a, b int) {
		l := Law{Kind: Ordered, Table: t.Name, Columns: t.names([]int{a, b})}
		if !slices.ContainsFunc(out, func(o Law) bool { return slices.Equal(o.Columns, l.Columns) }) {
			out = append(out, l)
		}
	}
	for _, a := range t.moments() {
		for _, b := range t.moments() {
			if a != b && t.Columns[a].Kind == t.Columns[b].Kind {
				add(a, b)
			}
		}
	}
	for _, tie := range t.Ties {
		if tie.Why == "is never above" {
			add(tie.A, tie.B)
		}
	}
	return out
}

// hierarchies are the columns that may refer to the key of their own table, and are no reference to another one.
func (t *Table) hierarchies() []Law {
	var out []Law
	for k, key := range t.Columns {
		if !key.Unique || key.Kind != value.Int && key.Kind != value.Text {
			continue
		}
		for c, column := range t.Columns {
			// What lies at the top refers to nothing, or to itself.
			top := column.Nullable || strings.HasSuffix(strings.ToLower(column.Name), strings.ToLower(key.Name))
			if top && c != k && column.Kind == key.Kind && !column.Amount && !column.Reference && column.Distinct >= 2 && !column.Unique {
				out = append(out, Law{Kind: Forest, Table: t.Name, Columns: t.names([]int{c, k})})
			}
		}
	}
	return out
}

// grouped are the laws that may hold for each value of a column.
func (t *Table) grouped(by int) []Law {
	out := t.periods(by)
	running := 0
	for i, c := range t.Columns {
		if i == by || c.Unique {
			continue
		}
		if first, fits := c.Min.Small(); fits && c.Kind == value.Int && first >= 0 && first <= 1 {
			out = append(out, t.law(Counts, by, int(first), nil, i))
		}
		if len(c.values) == 2 || c.Kind == value.Bool {
			for _, v := range c.values {
				out = append(out, t.law(OneOf, by, 0, []string{v}, i))
			}
		}
		if c.Amount && running < mostRunning {
			running++
			for _, at := range t.moments() {
				out = append(out, t.law(Rises, by, 0, nil, at, i))
			}
		}
	}
	out = append(out, t.sumsSoFar(by)...)
	out = append(out, t.states(by)...)
	for _, key := range t.Keys {
		if at := slices.Index(key, by); len(key) == 2 && at >= 0 {
			out = append(out, t.law(Complete, by, 0, nil, key[1-at]))
		}
	}
	return out
}

// law is one of a group.
func (t *Table) law(kind LawKind, by, number int, values []string, columns ...int) Law {
	return Law{Kind: kind, Table: t.Name, By: t.Columns[by].Name, Columns: t.names(columns), Number: number, Values: values}
}

// periods are the laws about two moments, from one up to the other, and about the one that is open.
func (t *Table) periods(by int) []Law {
	var out []Law
	for _, from := range t.moments() {
		for _, to := range t.moments() {
			if from != to && t.Columns[from].Kind == t.Columns[to].Kind {
				out = append(out, t.law(NoOverlap, by, 0, nil, from, to), t.law(NoGap, by, 0, nil, from, to),
					t.law(NoGap, by, 1, nil, from, to))
			}
		}
		if t.Columns[from].Nullable {
			out = append(out, t.law(OneOpen, by, 0, nil, from))
		}
	}
	return out
}

// sumsSoFar are the amounts that may be what others came to so far.
func (t *Table) sumsSoFar(by int) []Law {
	var out []Law
	var amounts []int
	for i, c := range t.Columns {
		if c.Amount && i != by {
			amounts = append(amounts, i)
		}
	}
	amounts = amounts[:min(mostRunning, len(amounts))]
	for _, at := range t.moments() {
		for _, a := range amounts {
			for _, b := range amounts {
				if a != b {
					out = append(out, t.law(AddsUp, by, 0, nil, at, a, b))
				}
			}
		}
	}
	return out
}

// states are the columns whose values may follow one another in time: of each, all pairs of values at once.
func (t *Table) states(by int) []Law {
	var out []Law
	for i, c := range t.Columns {
		if i == by || c.Kind != value.Text || len(c.values) < 2 || len(c.values) > mostStates {
			continue
		}
		for _, at := range t.moments() {
			out = append(out, t.law(Follows, by, 0, nil, i, at))
		}
	}
	return out
}

// orderedAcross are the orders of moments of a child and of its parent.
func (f *Facts) orderedAcross(l Link) []Law {
	child, parent := f.Table(l.From.Table), f.Table(l.To.Table)
	if child == parent {
		return nil
	}
	var out []Law
	for _, c := range child.moments() {
		for _, p := range parent.moments() {
			for _, above := range []int{0, 1} {
				out = append(out, Law{Kind: OrderedAcross, Table: child.Name, Columns: []string{l.From.Column, child.Columns[c].Name},
					Other: profile.Place{Table: parent.Name, Column: parent.Columns[p].Name}, Values: []string{l.To.Column}, Number: above})
			}
		}
	}
	return out
}
