package claim

import (
	"math"
	"slices"

	"tovrel/core/table"
)

// mostCells bounds of how many cells of a column pairs are formed.
const mostCells = 40

// significant is the number of digits that a said number shows.
func (n number) significant() int {
	if n.fraction {
		return 1
	}
	digits := 0
	for y := math.Abs(n.value) * math.Pow10(n.decimals-n.magnitude); y >= 1-1e-9; y /= 10 {
		digits++
	}
	if n.decimals == 0 {
		digits = max(1, digits-n.zeros)
	}
	return digits
}

// equals tells whether a said number states a value, percents also as hundredths.
func (n number) equals(x float64) bool {
	if n.states(x, false) >= rounded {
		return true
	}
	if n.percent && n.hundredth().states(x, false) >= rounded {
		return true
	}
	return n.open && n.reads(x, n.other.value*math.Pow10(n.magnitude), n.other.decimals, false) >= rounded
}

// hundredth is a percentage as a share.
func (n number) hundredth() number {
	n.value /= 100
	n.decimals += 2
	n.zeros = max(0, n.zeros-2)
	if n.other != nil {
		n.other = &reading{n.other.value / 100, n.other.decimals + 2}
	}
	return n
}

// supports tells whether a number is true without being asked: it stands in the question, in a row that the reference's cut leaves out,
// or follows from the expected cells.
func (j *judging) supports(c *said) bool {
	w := j.w
	if w.asks(c.n.value) || j.partsOf(c) || j.quotient[c] || j.inFull(c) || j.countsRows(c) {
		return true
	}
	for _, t := range []*table.Table{w.Table, w.Full} {
		if t == nil {
			continue
		}
		for _, column := range w.numbered {
			if column < len(t.Columns) && (follows(c, t, column) || j.complements(c, t, column)) {
				return true
			}
		}
	}
	return false
}

// partsOf tells whether a number and the others of its sentence that meet nothing add up to one that meets a cell: 12 boats, 9 of them
// red and
// 3 blue.
func (j *judging) partsOf(c *said) bool {
	sum, parts := 0.0, 0
	for _, other := range c.s.said {
		if !other.met && !other.n.percent && !other.negated {
			sum += other.n.value
			parts++
		}
	}
	return parts > 1 && slices.ContainsFunc(c.s.said, func(whole *said) bool {
		return whole.met && math.Abs(whole.n.value-sum) <= exact*math.Abs(sum)
	})
}

// inFull tells whether a number is that of the row of the reference's whole result with whose names it stands.
func (j *judging) inFull(c *said) bool {
	full := j.w.Full
	if full == nil {
		return false
	}
	rows := rowsWith(full, c.ties)
	if len(c.ties) == 0 && (c.other || c.compare) {
		rows = everyRow(full)
	}
	for _, row := range rows {
		for _, column := range j.w.numbered {
			if x, ok := numberOf(full, row, column); ok && c.n.equals(x) {
				return true
			}
		}
	}
	return false
}

// countsRows tells whether a number counts the rows that are expected, or from which they are taken.
func (j *judging) countsRows(c *said) bool {
	if j.w.Table.Rows() < 2 && j.w.Full == nil {
		return false
	}
	same := func(t *table.Table) bool {
		return t != nil && c.n.value == float64(t.Rows()) && c.n.decimals == 0 && !c.n.percent
	}
	return (same(j.w.Table) && j.w.Table.Rows() > 1 || same(j.w.Full)) && !j.sameMeasure(c)
}

// sameMeasure tells whether a number is named after an asked measure.
func (j *judging) sameMeasure(c *said) bool {
	for _, column := range j.w.numbered {
		if j.w.relation(c, column) == sameUnit {
			return true
		}
	}
	return false
}

// follows tells whether a number is a total, a mean, or of two cells the sum, the difference or the ratio. What is not called so must
// show three digits.
func follows(c *said, t *table.Table, column int) bool {
	var cells []float64
	sum := 0.0
	for row := range t.Rows() {
		if x, ok := numberOf(t, row, column); ok {
			sum += x
			cells = append(cells, x)
		}
	}
	if len(cells) < 2 {
		return false
	}
	telling := c.n.significant() >= 3
	if (c.total || telling) && c.n.equals(sum) || telling && c.n.equals(sum/float64(len(cells))) {
		return true
	}
	cells = cells[:min(len(cells), mostCells)]
	for i, a := range cells {
		if (telling || c.n.percent) && sum != 0 && c.n.equals(a/sum) {
			return true
		}
		for k, b := range cells {
			if i != k && c.ofTwo(a, b, telling) {
				return true
			}
		}
	}
	return false
}

// ofTwo tells whether a number is the sum, the difference or the ratio of two cells.
func (c *said) ofTwo(a, b float64, telling bool) bool {
	if (c.delta || telling) && c.n.equals(math.Abs(a-b)) || (c.total || telling) && c.n.equals(a+b) {
		return true
	}
	if b == 0 {
		return false
	}
	return (c.delta || telling) && c.n.equals(math.Abs(a/b-1)) || telling && c.n.equals(a/b)
}

// complements tells whether a number is what a share leaves.
func (j *judging) complements(c *said, t *table.Table, column int) bool {
	fraction, ratio := j.w.ratio(column)
	if !ratio || !c.n.percent && !c.n.fraction {
		return false
	}
	for row := range t.Rows() {
		x, ok := numberOf(t, row, column)
		if ok && !fraction {
			x /= 100
		}
		if ok && c.n.equals(1-x) {
			return true
		}
	}
	return false
}

// quotients finds "918 of 1,500", whose quotient is an asked share.
func (j *judging) quotients() {
	j.quotient = map[*said]bool{}
	for i, c := range j.numbers {
		inAll := c.s.near(c.at-1).text == "in" && c.s.near(c.at-2).kind == amount // "1 in 4"
		if !c.whole && !inAll || i == 0 || c.n.value == 0 || j.numbers[i-1].s != c.s {
			continue
		}
		top := j.numbers[i-1]
		share := number{value: top.n.value / c.n.value, decimals: 12}
		for _, column := range j.w.numbered {
			fraction, ratio := j.w.ratio(column)
			if !ratio {
				continue
			}
			for row := range j.w.Table.Rows() {
				x, ok := numberOf(j.w.Table, row, column)
				if !fraction {
					x /= 100
				}
				if ok && math.Abs(share.value-x) <= 1e-4*math.Max(math.Abs(x), 1e-6) {
					j.quotient[top], j.quotient[c] = true, true
					j.byQuotient = append(j.byQuotient, cellAt{row, column})
				}
			}
		}
	}
}

func everyRow(t *table.Table) []int {
	rows := make([]int, t.Rows())
	for i := range rows {
		rows[i] = i
	}
	return rows
}

// rowsWith lists the rows of a table that hold names, of each column the first one; none where nothing is named.
func rowsWith(t *table.Table, names []name) []int {
	if len(names) == 0 {
		return nil
	}
	rows := everyRow(t)
	used := map[int]bool{}
	for i, n := range names {
		if n.column >= len(t.Columns) || used[n.column] {
			continue
		}
		var left []int
		for _, row := range rows {
			if !t.Columns[n.column].IsNull(row) && t.Columns[n.column].Value(row).String() == n.text {
				left = append(left, row)
			}
		}
		switch {
		case len(left) == 0 && i > 0 && anyIn(names[:i], t): // a farther name that does not go with the nearer ones
			continue
		case len(left) == 0:
			if sameTextElsewhere(names, n) {
				continue
			}
			return nil
		}
		used[n.column], rows = true, left
		if len(rows) == 1 {
			break
		}
	}
	if len(used) == 0 {
		return nil
	}
	return rows
}

// sameTextElsewhere tells whether a text is a name of several columns.
func sameTextElsewhere(names []name, n name) bool {
	for _, m := range names {
		if m.text == n.text && m.column != n.column {
			return true
		}
	}
	return false
}

// anyIn tells whether one of some names stands in a table.
func anyIn(names []name, t *table.Table) bool {
	for _, n := range names {
		if n.column < len(t.Columns) {
			for row := range t.Rows() {
				if t.Columns[n.column].Value(row).String() == n.text {
					return true
				}
			}
		}
	}
	return false
}
