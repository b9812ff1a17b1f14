package match

import (
	"cmp"
	"slices"

	"tovrel/core/value"
)

// maxSimilar bounds the search for the most similar rows, which is quadratic.
const maxSimilar = 300

// pairNearest pairs rows that have no equal counterpart with the row they most likely stand for, so that one wrong cell
// shows as one wrong cell: first by key columns found from the data, then by the most equal cells.
func (o *outcome) pairNearest(m *matcher) {
	if len(o.missing) == 0 || len(o.extra) == 0 {
		return
	}
	if key := o.bestKey(m); key != nil {
		o.pairByKey(key)
	}
	if len(o.missing) <= maxSimilar && len(o.extra) <= maxSimilar {
		o.pairSimilar()
	}
	if len(o.missing) == len(o.extra) && (o.columns() == 1 || m.expected.Rows() == 1 && m.answer.Rows() == 1) {
		pairs := map[int]int{} // there is no other column, or row, to tell them by
		for n, i := range o.missing {
			pairs[i] = o.extra[n]
		}
		o.take(pairs)
	}
}

// columns counts the aligned columns.
func (o *outcome) columns() int {
	n := 0
	for _, c := range o.comparers {
		if c != nil {
			n++
		}
	}
	return n
}

// bestKey is the set of up to three columns, unique in both tables, under which the most rows that are left find
// each other; earlier and fewer columns win ties. Nil where no rows find each other.
func (o *outcome) bestKey(m *matcher) []int {
	var usable []int
	for i, c := range o.comparers {
		if c != nil && c.exact && m.expected.Columns[i].Type.Kind != value.Float && len(usable) < 6 {
			usable = append(usable, i)
		}
	}
	type candidate struct {
		key  []int
		hits int
	}
	var found []candidate
	for _, key := range subsets(usable) {
		if n := o.keyHits(key); n > 0 {
			found = append(found, candidate{key, n})
		}
	}
	slices.SortStableFunc(found, func(a, b candidate) int { return cmp.Compare(b.hits, a.hits) })
	for _, c := range found[:min(len(found), maxKeys)] {
		if o.unique(c.key, m.expected.Rows(), true) && o.unique(c.key, m.answer.Rows(), false) {
			return c.key
		}
	}
	return nil
}

// maxKeys bounds how many candidate keys are held against the whole expected table.
const maxKeys = 12

// subsets lists the sets of one, two and three columns, in that order.
func subsets(columns []int) [][]int {
	var one, two, three [][]int
	for x, a := range columns {
		one = append(one, []int{a})
		for y := x + 1; y < len(columns); y++ {
			two = append(two, []int{a, columns[y]})
			for z := y + 1; z < len(columns); z++ {
				three = append(three, []int{a, columns[y], columns[z]})
			}
		}
	}
	return append(append(one, two...), three...)
}

// unique tells whether a key tells all rows of a table apart.
func (o *outcome) unique(key []int, rows int, expected bool) bool {
	seen := make(map[uint64]struct{}, min(rows, 1<<16))
	for row := range rows {
		seen[o.keyHash(key, row, expected)] = struct{}{}
		if len(seen) <= row {
			return false
		}
	}
	return true
}

// keyHits counts the rows that are left and find each other under a key.
func (o *outcome) keyHits(key []int) int {
	open := map[uint64]bool{}
	for _, row := range o.missing {
		open[o.keyHash(key, row, true)] = true
	}
	hits := 0
	for _, row := range o.extra {
		if h := o.keyHash(key, row, false); open[h] {
			hits++
			delete(open, h)
		}
	}
	return hits
}

func (o *outcome) keyHash(key []int, row int, expected bool) uint64 {
	var h uint64
	for _, i := range key {
		l := &o.comparers[i].a
		if expected {
			l = &o.comparers[i].e
		}
		cell := uint64(nullHash)
		if !l.null(row) {
			cell = l.hash(row)
		}
		h = mix(h*31 + cell)
	}
	return h
}

func (o *outcome) pairByKey(key []int) {
	open := map[uint64]int{}
	for _, row := range o.extra {
		h := o.keyHash(key, row, false)
		if _, ok := open[h]; !ok {
			open[h] = row
		}
	}
	pairs := map[int]int{}
	for _, row := range o.missing {
		h := o.keyHash(key, row, true)
		if j, ok := open[h]; ok {
			pairs[row] = j
			delete(open, h)
		}
	}
	o.take(pairs)
}

// pairSimilar pairs rows that are each other's nearest: that share the most cells, at least half of them, and among these
// stand closest to each other. Rows with several nearest ones stay alone, so that it does not matter which table is which.
func (o *outcome) pairSimilar() {
	columns := o.columns()
	for {
		forMissing := nearestOf(o.missing, o.extra, columns, o.equalCells)
		forExtra := nearestOf(o.extra, o.missing, columns, func(j, i int) int { return o.equalCells(i, j) })
		pairs := map[int]int{}
		for i, j := range forMissing {
			if back, ok := forExtra[j]; ok && back == i {
				pairs[i] = j
			}
		}
		if len(pairs) == 0 {
			return
		}
		o.take(pairs)
	}
}

// nearestOf finds for each row the one nearest row of the other table, where there is one.
func nearestOf(rows, others []int, columns int, equalCells func(row, other int) int) map[int]int {
	nearest := map[int]int{}
	for _, row := range rows {
		best, most, distance, several := -1, 0, 0, false
		for _, other := range others {
			n, d := equalCells(row, other), max(row-other, other-row)
			switch {
			case n == 0 || 2*n < columns:
			case n > most || n == most && d < distance:
				best, most, distance, several = other, n, d, false
			case n == most && d == distance:
				several = true
			}
		}
		if best >= 0 && !several {
			nearest[row] = best
		}
	}
	return nearest
}

func (o *outcome) equalCells(i, j int) int {
	n := 0
	for _, c := range o.comparers {
		if c != nil && c.equal(i, j) {
			n++
		}
	}
	return n
}

// take records pairs and removes their rows from what is left.
func (o *outcome) take(pairs map[int]int) {
	taken := map[int]bool{}
	var missing, extra []int
	for _, i := range o.missing {
		if j, ok := pairs[i]; ok {
			o.answerOf[i], taken[j] = j, true
			o.nearest = append(o.nearest, i)
		} else {
			missing = append(missing, i)
		}
	}
	for _, j := range o.extra {
		if !taken[j] {
			extra = append(extra, j)
		}
	}
	o.missing, o.extra = missing, extra
	slices.Sort(o.nearest)
}
