package twin

import (
	"slices"
	"strings"
)

// Set gives some rows of a column, by their numbers, other cells; the last that names a row counts.
type Set struct {
	Column, Type string
	Cells        []Put
}

// Put is what is put into the cells of some rows: a text, another column of the row, or the column's cell in another row; null where it is
// none of these.
type Put struct {
	Rows  Spans
	Text  *string
	Other string
	Of    *int64 // a row's number
}

func (Set) step() {}

// Made are changes of single rows of a table that may tell queries apart.
type Made struct {
	Table   *Table
	Changes []Change
	Gone    []Gone
}

// Change is a change of a row's cells, in which no fact is broken where the row fits.
type Change struct {
	Columns []string // of several, all become those of the row before: see Like
	Type    string   // of a single one
	Text    *string  // its value; nil for none
	Other   string   // another column whose value it takes; "" for none
	Order            // that the value must keep
	Filled  bool     // only where there is a value
}

// Like tells whether the change makes a row like the row before it.
func (c *Change) Like() bool { return !c.Filled }

// Gone are the rows of a child that refer to one parent: that they are gone breaks no fact of the two.
type Gone struct {
	Link
	With []Link // what refers to the child in turn, and goes with it
}

// ForQuestion plans changes of single rows that would tell queries apart: values on and beside what these compare columns with, the other
// values of a code, no value, rows like the one before, parents without children; of the columns that they name, in the tables that
// they read. The changes are within the facts of rows and columns; the laws must be held against what comes of them.
func ForQuestion(f *Facts, bounds []Boundary, reads, names func(name string) bool) []Made {
	var out []Made
	for _, t := range f.Tables {
		if !reads(t.Name) || t.Lookup || t.Rows < fewRows {
			continue
		}
		m := Made{Table: t}
		for _, s := range slices.Concat(t.salts(bounds), t.swaps(0), t.copies(0, f.whole(t))) {
			m.Changes = append(m.Changes, changes(s, names)...)
		}
		m.Gone = f.childless(t, reads)
		if len(m.Changes)+len(m.Gone) > 0 {
			out = append(out, m)
		}
	}
	return out
}

// changes are a step of a twin as changes of single rows.
func changes(s Step, names func(column string) bool) []Change {
	switch s := s.(type) {
	case Salt:
		if names(s.Column) {
			return []Change{{Columns: []string{s.Column}, Type: s.Type, Text: &s.Value, Order: s.Order, Filled: true}}
		}
	case Meet:
		return []Change{{Columns: []string{s.Column}, Other: s.Other, Order: s.Order, Filled: true}}
	case Blank:
		if names(s.Column) {
			return []Change{{Columns: []string{s.Column}, Filled: true}}
		}
	case Swap:
		var out []Change
		for _, v := range s.Values {
			if names(s.Column) {
				out = append(out, Change{Columns: []string{s.Column}, Type: s.Type, Text: &v, Filled: true})
			}
		}
		return out
	case Copy:
		return []Change{{Columns: s.Columns}}
	}
	return nil
}

// childless are the references of a table whose parents may be without rows in it, where that is read too.
func (f *Facts) childless(t *Table, reads func(table string) bool) []Gone {
	var out []Gone
	for _, l := range f.Links {
		may := l.From.Table == t.Name && l.To.Table != t.Name && reads(l.To.Table) && !l.Whole && !f.Table(l.To.Table).Lookup
		if !may || !t.mayLose(l.From.Column) || refersToItself(f, t) {
			continue
		}
		g := Gone{Link: l}
		for _, below := range f.Links {
			if below.To.Table == t.Name {
				g.With = append(g.With, below)
			}
		}
		out = append(out, g)
	}
	return out
}

// Named tells of names in lower case whether they are among some.
func Named(names []string) func(name string) bool {
	set := map[string]bool{}
	for _, n := range names {
		set[strings.ToLower(n)] = true
	}
	return func(name string) bool { return set[strings.ToLower(name)] }
}
