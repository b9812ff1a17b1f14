package twin

import (
	"slices"
	"strings"
)

// Found is a dependency that was found on a sample, and by which columns stay together: what twins keep beside the laws.
type Found struct {
	Table  string
	Says   string
	Rows   int // of the sample, on which it was seen
	Broken int // of these, that break it: it nearly holds
	ties   []Tie
	link   *Link // whose children are summed up; nil for none
}

// Words say it in a line; a briefing may repeat it to deny it.
func (d Found) Words() string { return d.Table + ": " + d.Says }

// note remembers a dependency of a table's columns by a tie, unless a law will say it.
func (t *Table) note(tie Tie, a, b *vector) {
	if tie.Why == "is never above" || strings.HasSuffix(tie.Why, determine) {
		return
	}
	t.found = append(t.found, Found{Table: t.Name, Says: t.Columns[tie.A].Name + " " + tie.Why + " " + t.Columns[tie.B].Name,
		Rows: bothFilled(a, b), ties: []Tie{tie}})
}

// bothFilled is in how many rows two columns have values.
func bothFilled(a, b *vector) int {
	n := 0
	for row := range a.rank {
		if a.rank[row] >= 0 && b.rank[row] >= 0 {
			n++
		}
	}
	return n
}

// Found are the dependencies of all tables.
func (f *Facts) Found() []Found {
	var out []Found
	for _, t := range f.Tables {
		out = append(out, t.found...)
	}
	return out
}

// Deny takes away what need not be kept, by its words: a dependency, or that no two rows are the same in some columns.
func (f *Facts) Deny(words []string) {
	for _, t := range f.Tables {
		t.found = slices.DeleteFunc(t.found, func(d Found) bool {
			if !slices.Contains(words, d.Words()) {
				return false
			}
			for _, tie := range d.ties {
				t.Ties = slices.DeleteFunc(t.Ties, func(o Tie) bool { return o == tie })
			}
			for i := range f.Links {
				if d.link != nil && f.Links[i].From == d.link.From && f.Links[i].To == d.link.To {
					f.Links[i].Whole = false
				}
			}
			return true
		})
		denied := func(columns []int) bool {
			return slices.Contains(words, Law{Kind: Unlike, Table: t.Name, Columns: t.names(columns)}.Words())
		}
		t.Keys = slices.DeleteFunc(t.Keys, denied)
		for i, c := range t.Columns {
			if denied([]int{i}) {
				c.Unique, c.NearlyUnique = false, false
			}
		}
		t.Ties = slices.DeleteFunc(t.Ties, func(tie Tie) bool {
			return strings.HasSuffix(tie.Why, determine) && slices.Contains(words, t.determines(tie).Words())
		})
	}
}

// determines is a tie as a law.
func (t *Table) determines(tie Tie) Law {
	return Law{Kind: Determines, Table: t.Name, Columns: t.names([]int{tie.A, tie.B})}
}

// Determined are the columns of words such as "code determines label"; false where that is not what they say. A nil table has none.
func (t *Table) Determined(words string) (one, other string, is bool) {
	one, other, is = strings.Cut(words, " "+determine+" ")
	if !is || t == nil || t.Column(one) < 0 || t.Column(other) < 0 {
		return "", "", false
	}
	return one, other, true
}
