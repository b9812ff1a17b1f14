package twin

import (
	"fmt"
	"math"
	"slices"

	"tovrel/core/profile"
	"tovrel/core/value"
)

// acrossLooks are the ties that columns of two tables can have.
var acrossLooks = []look{bounds, offset, partOfDate, proportional}

// across finds the dependencies between a child's columns and its parent's: then the child's column stays with its reference, and the
// parent's with its key.
func (f *Facts) across(j Joined) Link {
	child, parent := f.Table(j.Link.From.Table), f.Table(j.Link.To.Table)
	key, reference := parent.Column(j.Link.To.Column), child.Column(j.Link.From.Column)
	link := Link{From: j.Link.From, To: j.Link.To}
	refers := vectorOf(j.Child.Columns[reference], false)
	for p, pc := range j.Parent.Columns {
		if p == key {
			continue
		}
		a := vectorOf(pc, parent.Columns[p].Amount)
		for c, cc := range j.Child.Columns {
			if c == reference {
				continue
			}
			b := vectorOf(cc, child.Columns[c].Amount)
			why, flipped := tied(a, b, acrossLooks)
			if once := pairs(refers, b); why == "" && len(once) > 0 { // rows of one parent count once, else every parent would prove it
				why, _ = tied(a.of(once), b.of(once), []look{determines})
			}
			if why != "" && !(soft(why) && a.nulls+b.nulls > 0) {
				room := roomOf(why, flipped)
				child.tie(c, reference, why+" its parent's "+pc.Name, room)
				parent.tie(p, key, why+" its children's "+cc.Name, -room)
				if room == NoRoom { // an order is a law
					child.found = append(child.found, Found{Table: child.Name, Rows: bothFilled(a, b),
						Says: fmt.Sprintf("%s.%s %s %s by %s",
							parent.Name, pc.Name, why, cc.Name, j.Link.From.Column), ties: []Tie{child.Ties[len(child.Ties)-1]}})
				}
			}
		}
	}
	if j.Sums != nil {
		link.Whole = f.sums(j, child, parent, key, reference)
	}
	return link
}

// pairs are the first rows of each pair of values of two columns.
func pairs(a, b *vector) []int {
	seen := map[[2]int]bool{}
	var out []int
	for row := range a.rank {
		pair := [2]int{a.rank[row], b.rank[row]}
		if !seen[pair] {
			seen[pair] = true
			out = append(out, row)
		}
	}
	return out
}

// roomOf is in which direction a child's value may move when its parent's is never above it, or never below it where that is flipped.
func roomOf(why string, flipped bool) Room {
	switch {
	case why != "is never above":
		return NoRoom
	case flipped:
		return MayFall
	}
	return MayRise
}

func (t *Table) tie(a, b int, why string, room Room) {
	if a != b && !t.has(a, b) {
		t.Ties = append(t.Ties, Tie{A: a, B: b, Why: why, Room: room})
	}
}

// sums tells whether a column of the parent sums its children up.
func (f *Facts) sums(j Joined, child, parent *Table, key, reference int) bool {
	whole := false
	for p := range parent.Columns {
		a := vectorOf(j.Sums.Columns[p], true)
		if !a.number() && !a.temporal() || p == key || a.distinct() < 3 {
			continue
		}
		for s, of := range j.SumOf {
			broken := differing(a, vectorOf(j.Sums.Columns[len(parent.Columns)+s], true))
			if broken < 0 {
				continue
			}
			whole = true
			parent.tie(p, key, "sums up its children", NoRoom)
			if says := parent.Columns[p].Name + " is " + of.Says + " by " + child.Name + "." + j.Link.From.Column; !parent.says(says) {
				parent.found = append(parent.found, Found{Table: parent.Name, Says: says, Rows: bothFilled(a, a), Broken: broken,
					ties: []Tie{parent.Ties[len(parent.Ties)-1]}, link: &Link{From: j.Link.From, To: j.Link.To}})
			}
			if c := child.Column(of.Of); c >= 0 {
				child.tie(c, reference, "is summed up by its parent's "+parent.Columns[p].Name, NoRoom)
			} else {
				child.tie(reference, child.identity(), "is counted by its parent's "+parent.Columns[p].Name, NoRoom)
			}
		}
	}
	return whole
}

// says tells whether a dependency was found, by what it says.
func (t *Table) says(words string) bool {
	return slices.ContainsFunc(t.found, func(d Found) bool { return d.Says == words })
}

// identity is the first column that never repeats, else the first.
func (t *Table) identity() int {
	for i, c := range t.Columns {
		if c.Unique {
			return i
		}
	}
	return 0
}

// differing is in how many rows two columns are not the same, where they nearly are; -1 where they are not, or in too few rows.
func differing(a, b *vector) int {
	n, broken := 0, 0
	for row := range a.at {
		x, y := a.at[row], b.at[row]
		if math.IsNaN(x) && (math.IsNaN(y) || y == 0) {
			continue
		}
		n++
		if math.IsNaN(x) || math.IsNaN(y) || math.Abs(x-y) > a.half()+1e-9*math.Abs(x) {
			broken++
		}
	}
	if n-broken < 5 || broken > mostBroken(n) {
		return -1
	}
	return broken
}

// mostLookups is how many rows a table of codes has at most.
const mostLookups = 200

// lookups finds the tables that only give codes their labels, and the references to tables by codes of other names.
func (f *Facts) lookups(vectors map[string][]*vector) {
	for _, t := range f.Tables {
		if t.Rows > mostLookups {
			continue
		}
		labels, used := true, false
		for _, c := range t.Columns {
			labels = labels && (c.Kind == value.Text || c.Unique)
		}
		for key, c := range t.Columns {
			if !c.Unique || c.Kind != value.Text {
				continue
			}
			for _, other := range f.Tables {
				for i, from := range vectors[other.Name] {
					if other != t && from.texts != nil && from.distinct() >= 2 && !from.unique() && within(from, vectors[t.Name][key]) {
						f.refer(Link{From: profile.Place{Table: other.Name, Column: other.Columns[i].Name},
							To: profile.Place{Table: t.Name, Column: c.Name}})
						used = true
					}
				}
			}
		}
		t.Lookup = labels && used
	}
}

// refer adds a reference that is not known yet.
func (f *Facts) refer(l Link) {
	for _, known := range f.Links {
		if known.From == l.From && known.To == l.To {
			return
		}
	}
	f.Links = append(f.Links, l)
}

func within(from, key *vector) bool {
	known := map[string]bool{}
	for _, text := range key.texts {
		known[text] = true
	}
	for _, text := range from.texts {
		if !known[text] {
			return false
		}
	}
	return true
}
