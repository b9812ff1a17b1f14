package diagnose

import (
	"maps"
	"slices"
	"strings"

	"tovrel/core/edit"
	"tovrel/core/sql"
	"tovrel/core/twin"
)

// What holds by chance on the data does not on smaller copies of them.

// copies is how many smaller copies there are: one lacks a quarter of the rows that nothing refers to, one an eighth of the parents with
// their children, one half of the rows that nothing refers to.
const copies = 3

// fewestParents is how many rows a table has of which an eighth is worth leaving out.
const fewestParents = 24

// smaller are the steps of the smaller copies, by table.
func (s *search) smaller() []map[string][]twin.Step {
	if s.copies == nil {
		read, kin := s.kin()
		for number := range copies {
			s.copies = append(s.copies, s.thinned(number, read, kin))
		}
	}
	return s.copies
}

func (s *search) thinned(number int, read []string, kin []kinship) map[string][]twin.Step {
	seed := 100 + number
	if number == 1 {
		if out := s.fewerParents(read, kin, seed); len(out) > 0 {
			return out
		}
	}
	out := map[string][]twin.Step{}
	for _, name := range read {
		if !slices.ContainsFunc(kin, func(k kinship) bool { return k.parent == name }) {
			out[name] = []twin.Step{twin.Thin{OneIn: []int{4, 4, 2}[number], Seed: seed}}
		}
	}
	return out
}

// fewerParents leaves out an eighth of the parents, and what refers to them; nil where there are too few.
func (s *search) fewerParents(read []string, kin []kinship, seed int) map[string][]twin.Step {
	var out map[string][]twin.Step
	for _, name := range read {
		isParent := slices.ContainsFunc(kin, func(k kinship) bool { return k.parent == name })
		if isParent && s.c.Rows[name] >= fewestParents {
			out = merged(out, map[string][]twin.Step{name: {twin.Thin{OneIn: 8, Seed: seed}}})
		}
	}
	for _, name := range read { // parents come first
		for _, k := range kin {
			if by := out[k.parent]; k.child == name && len(by) > 0 {
				out[name] = append(slices.Clone(out[name]), twin.Kept{Column: k.column, Table: k.parent, Key: k.key, By: by})
			}
		}
	}
	return out
}

// kinship is a table whose column refers to another's key.
type kinship struct{ child, column, parent, key string }

// kin are the tables that the two queries read and of which the rows are known, parents before their children; and which is whose parent,
// by the columns that the queries join.
func (s *search) kin() (read []string, all []kinship) {
	columns := lowerNames(s.c.Columns)
	for _, t := range []*sql.Tree{s.c.Reference, s.c.Answer} {
		for _, reading := range t.Readings(columns).Tables {
			for _, tie := range reading.Tied {
				k := kinship{reading.Table, tie.Column, tie.Other.Table, tie.With}
				if s.refers(k) && !slices.Contains(all, k) {
					all = append(all, k)
				}
			}
		}
		for _, name := range t.TablesRead() {
			if _, known := s.c.Rows[name]; known && !slices.Contains(read, name) {
				read = append(read, name)
			}
		}
	}
	slices.Sort(read)
	return parentsFirst(read, all), all
}

// parentsFirst orders tables; those that are each other's ancestors as they come.
func parentsFirst(tables []string, kin []kinship) []string {
	var out []string
	var add func(name string, below []string)
	add = func(name string, below []string) {
		if slices.Contains(out, name) || slices.Contains(below, name) {
			return
		}
		for _, k := range kin {
			if k.child == name {
				add(k.parent, append(slices.Clone(below), name))
			}
		}
		out = append(out, name)
	}
	for _, name := range tables {
		add(name, nil)
	}
	return out
}

// refers tells whether a column that is joined refers to the other table's key: the first column of a table is its key, as a rule; of two
// such, the smaller table is the parent.
func (s *search) refers(k kinship) bool {
	ofChild, ofParent := isFirst(s.c.Columns[k.child], k.column), isFirst(s.c.Columns[k.parent], k.key)
	return k.child != k.parent && ofParent && (!ofChild || s.c.Rows[k.parent] < s.c.Rows[k.child])
}

func merged(a, b map[string][]twin.Step) map[string][]twin.Step {
	out := map[string][]twin.Step{}
	maps.Copy(out, a)
	for name, steps := range b {
		out[name] = slices.Concat(out[name], steps)
	}
	return out
}

func isFirst(columns []edit.Column, name string) bool {
	return len(columns) > 0 && strings.EqualFold(columns[0].Name, name)
}
