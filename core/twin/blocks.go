package twin

import (
	"slices"

	"tovrel/core/value"
)

// blocks gathers the columns that depend on each other.
func (t *Table) blocks(links []Link) {
	root := make([]int, len(t.Columns))
	for i := range root {
		root[i] = i
	}
	find := func(i int) int {
		for root[i] != i {
			i = root[i]
		}
		return i
	}
	for _, tie := range t.Ties {
		root[find(tie.B)] = find(tie.A)
	}
	fixed := t.identities(links)
	at := map[int]int{}
	for i, c := range t.Columns {
		r := find(i)
		b, known := at[r]
		if !known {
			b = len(t.Blocks)
			at[r] = b
			t.Blocks = append(t.Blocks, Block{})
		}
		t.Blocks[b].Columns = append(t.Blocks[b].Columns, i)
		t.Blocks[b].Unique = t.Blocks[b].Unique || c.Unique
		t.Blocks[b].Fixed = t.Blocks[b].Fixed || fixed[i]
	}
}

// identities are the columns that identify a row: those that others refer to, and the texts and whole numbers that never repeat. What is
// measured may be exchanged among rows.
func (t *Table) identities(links []Link) map[int]bool {
	out := map[int]bool{}
	for i, c := range t.Columns {
		if c.NearlyUnique && (c.Kind == value.Text || c.Kind == value.Int || c.Kind == value.Blob) {
			out[i] = true
		}
	}
	for i := range t.held {
		out[i] = true
	}
	for _, l := range links {
		if l.To.Table == t.Name {
			out[t.Column(l.To.Column)] = true
		}
	}
	return out
}

// CandidateKeys are the sets of two or three columns that no two rows of a sample agree in although chance would let some: they are to
// be counted over all rows.
func CandidateKeys(rows Rows) [][]int {
	var columns []int
	vectors := make([]*vector, len(rows.Sample.Columns))
	for i, c := range rows.Sample.Columns {
		vectors[i] = vectorOf(c, rows.Amount[i])
		measured := vectors[i].kind == value.Float || vectors[i].kind == value.Decimal || rows.Loose[i]
		if !rows.Unique[i] && !measured && vectors[i].distinct() > 1 && len(columns) < 10 {
			columns = append(columns, i)
		}
	}
	var found [][]int
	for size := 2; size <= 3; size++ {
		combinations(columns, size, func(set []int) {
			if !holdsAny(found, set) && distinctRows(vectors, set) {
				found = append(found, append([]int(nil), set...))
			}
		})
	}
	return found
}

func combinations(columns []int, size int, do func([]int)) {
	if size == 0 {
		do(nil)
		return
	}
	for i := range columns {
		combinations(columns[i+1:], size-1, func(rest []int) { do(append([]int{columns[i]}, rest...)) })
	}
}

func holdsAny(sets [][]int, set []int) bool {
	for _, s := range sets {
		all := true
		for _, c := range s {
			all = all && slices.Contains(set, c)
		}
		if all {
			return true
		}
	}
	return false
}

// distinctRows tells whether no two rows agree in a set of columns, and chance would let five pairs do.
func distinctRows(vectors []*vector, set []int) bool {
	n := len(vectors[set[0]].rank)
	expected := float64(n) * float64(n-1) / 2
	for _, c := range set {
		expected *= vectors[c].alike()
	}
	if expected < 5 {
		return false
	}
	seen := map[[3]int]bool{}
	for row := range n {
		var key [3]int
		null := false
		for i, c := range set {
			key[i] = vectors[c].rank[row]
			null = null || key[i] < 0
		}
		if null {
			continue
		}
		if seen[key] {
			return false
		}
		seen[key] = true
	}
	return true
}
