package twin

import (
	"strings"
)

// clearShare is of how many of 1000 parents the rows in a part of a column are removed.
const clearShare, clearedParents = 30, 200 // by one clear, and by all of them

// clears take from a few parents the rows in the parts that a column's boundaries cut it into.
func (t *Table) clears(reference string, parents int64, bounds []Boundary, seed int) []Clear {
	var out []Clear
	for _, c := range t.Columns {
		if c.Nullable && !strings.EqualFold(c.Name, reference) {
			out = append(out, Clear{Reference: reference, Column: c.Name, Type: c.Type, Nulls: true})
		}
		for _, b := range bounds {
			if !strings.EqualFold(b.Column, c.Name) || strings.EqualFold(c.Name, reference) {
				continue
			}
			step := Clear{Reference: reference, Column: c.Name, Type: c.Type}
			if !c.Kind.Temporal() && !c.Amount {
				for _, v := range b.Values {
					if c.seen[v] {
						is, isNot := step, step
						is.Is, isNot.IsNot = v, v
						out = append(out, is, isNot)
					}
				}
				continue
			}
			out = append(out, step.parts(c.cuts(b.Values), seed, parents)...)
		}
	}
	return out
}

// removals take rows away: some at random, and all of some parents.
func (t *Table) removals(f *Facts, bounds []Boundary, drop, orphan, seed int, whole bool) []Step {
	var out []Step
	d := Drop{Share: drop}
	for _, c := range t.Columns {
		switch {
		case c.Unique:
		case c.Kind.Temporal():
			d.Months = append(d.Months, c.Name)
		case c.Distinct <= coverLimit:
			d.Values = append(d.Values, c.Name)
		}
	}
	if !whole && t.mayLoseAny() && !refersToItself(f, t) {
		out = append(out, d)
	}
	for _, l := range f.Links {
		if l.From.Table == t.Name && l.To.Table != t.Name && !l.Whole && !f.Table(l.To.Table).Lookup && t.mayLose(l.From.Column) {
			out = append(out, Orphan{l.From.Column, l.To.Table, l.To.Column, orphan})
			if !t.mayLoseAny() {
				continue
			}
			clears := t.clears(l.From.Column, f.Table(l.To.Table).Rows, bounds, seed)
			for _, c := range clears {
				c.Share = min(clearShare, clearedParents/len(clears))
				out = append(out, c)
			}
		}
	}
	return out
}

func refersToItself(f *Facts, t *Table) bool {
	for _, l := range f.Links {
		if l.From.Table == t.Name && l.To.Table == t.Name {
			return true
		}
	}
	return false
}

// parts are the clears below, above and between cuts: all of them where there are parents enough, else another for each cut with every
// seed.
func (c Clear) parts(cuts []string, seed int, parents int64) []Clear {
	var out []Clear
	for i, v := range cuts {
		above, below, between := c, c, c
		above.From, below.Before, between.From = v, v, v
		if i+1 < len(cuts) {
			between.Before = cuts[i+1]
		}
		kinds := []Clear{above, below, between}
		if parents < int64(8*len(cuts)) {
			kinds = kinds[(i+seed)%3 : (i+seed)%3+1]
		}
		out = append(out, kinds...)
	}
	return out
}
