package match

import "sort"

// outcome is a one-to-one pairing of rows: for each expected row the answer row that equals it, and what is left.
type outcome struct {
	comparers []*comparer // by expected column; nil where the column has no counterpart
	answerOf  []int       // answer row of each expected row, -1 for none
	missing   []int       // expected rows without a counterpart, ascending
	extra     []int       // answer rows without a counterpart, ascending
	bounded   bool        // a group was too large for an exact pairing
	forgive   bool        // the answer may hold more rows
}

// complete tells whether every row has its counterpart, as far as the rules ask for it.
func (o *outcome) complete() bool { return len(o.missing) == 0 && (o.forgive || len(o.extra) == 0) }

// left counts the rows without a counterpart.
func (o *outcome) left() int {
	if o.forgive {
		return len(o.missing)
	}
	return len(o.missing) + len(o.extra)
}

// maxGroup bounds the exact pairing under several tolerance columns, by rows that the exact columns cannot tell apart.
const maxGroup = 5000

// pairRows pairs equal rows one to one. Columns that compare exactly are matched by hash; among rows that these
// cannot tell apart, one tolerance column is paired in sorted order (which is a largest pairing, since the acceptable
// range grows with the value) and several by a largest bipartite matching.
func pairRows(comparers []*comparer, expectedRows, answerRows int) *outcome {
	o := &outcome{comparers: comparers, answerOf: make([]int, expectedRows)}
	for i := range o.answerOf {
		o.answerOf[i] = -1
	}
	var tolerant []*comparer
	he, ha := make([]uint64, expectedRows), make([]uint64, answerRows)
	for _, c := range comparers {
		switch {
		case c == nil:
		case c.exact:
			c.e.mixInto(he)
			c.a.mixInto(ha)
		default:
			tolerant = append(tolerant, c)
		}
	}
	taken := make([]bool, answerRows)
	for _, g := range group(he, ha) {
		o.pairGroup(g, tolerant, taken)
	}
	for i, j := range o.answerOf {
		if j < 0 {
			o.missing = append(o.missing, i)
		}
	}
	for j, t := range taken {
		if !t {
			o.extra = append(o.extra, j)
		}
	}
	return o
}

// rowGroup holds the expected and answer rows that the exact columns cannot tell apart.
type rowGroup struct{ expected, answer []int }

// group gathers rows by hash, in the order in which expected rows first show them.
func group(he, ha []uint64) []rowGroup {
	index := make(map[uint64]int, len(he))
	var groups []rowGroup
	for row, h := range he {
		g, ok := index[h]
		if !ok {
			g = len(groups)
			index[h] = g
			groups = append(groups, rowGroup{})
		}
		groups[g].expected = append(groups[g].expected, row)
	}
	for row, h := range ha {
		if g, ok := index[h]; ok {
			groups[g].answer = append(groups[g].answer, row)
		}
	}
	return groups
}

func (o *outcome) pairGroup(g rowGroup, tolerant []*comparer, taken []bool) {
	pair := func(i, j int) {
		o.answerOf[i] = j
		taken[j] = true
	}
	switch {
	case len(g.answer) == 0:
	case len(tolerant) == 0:
		for n := range min(len(g.expected), len(g.answer)) {
			pair(g.expected[n], g.answer[n])
		}
	case len(tolerant) == 1:
		pairSorted(g, tolerant[0], pair)
	default:
		o.pairBipartite(g, tolerant, pair)
	}
}

// sortRows orders rows by a lane's position, ties by row.
func sortRows(rows []int, l *lane) []int {
	sorted := append([]int(nil), rows...)
	sort.SliceStable(sorted, func(x, y int) bool { return before(l, sorted[x], l, sorted[y]) })
	return sorted
}

func pairSorted(g rowGroup, c *comparer, pair func(i, j int)) {
	e, a := sortRows(g.expected, &c.e), sortRows(g.answer, &c.a)
	for i, j := 0, 0; i < len(e) && j < len(a); {
		switch {
		case c.equal(e[i], a[j]):
			pair(e[i], a[j])
			i, j = i+1, j+1
		case before(&c.e, e[i], &c.a, a[j]):
			i++
		default:
			j++
		}
	}
}

func allEqual(cs []*comparer, i, j int) bool {
	for _, c := range cs {
		if c != nil && !c.equal(i, j) {
			return false
		}
	}
	return true
}

// pairBipartite finds a largest one-to-one pairing under several tolerance columns by augmenting paths
// (Kuhn: The Hungarian method for the assignment problem, 1955, for the unweighted case).
func (o *outcome) pairBipartite(g rowGroup, cs []*comparer, pair func(i, j int)) {
	first := cs[0]
	e, a := sortRows(g.expected, &first.e), sortRows(g.answer, &first.a)
	if len(e) > maxGroup || len(a) > maxGroup {
		o.bounded = true
		for n := range min(len(e), len(a)) {
			if allEqual(cs, e[n], a[n]) {
				pair(e[n], a[n])
			}
		}
		return
	}
	edges := candidateEdges(e, a, cs)
	owner := make([]int, len(a))
	for j := range owner {
		owner[j] = -1
	}
	seen := make([]int, len(a))
	var augment func(i, round int) bool
	augment = func(i, round int) bool {
		for _, j := range edges[i] {
			if seen[j] == round {
				continue
			}
			seen[j] = round
			if owner[j] < 0 || augment(owner[j], round) {
				owner[j] = i
				return true
			}
		}
		return false
	}
	for i := range e {
		augment(i, i+1)
	}
	for j, i := range owner {
		if i >= 0 {
			pair(e[i], a[j])
		}
	}
}

// candidateEdges lists for each expected row the answer rows that equal it; both are sorted by the first column, so
// that only a window needs to be tried.
func candidateEdges(e, a []int, cs []*comparer) [][]int {
	first := cs[0]
	edges := make([][]int, len(e))
	start := 0
	for i, row := range e {
		at := first.e.position(row)
		width := first.width(at)
		for start < len(a) && first.a.position(a[start]) < at-width {
			start++
		}
		for j := start; j < len(a) && first.a.position(a[j]) <= at+width; j++ {
			if allEqual(cs, row, a[j]) {
				edges[i] = append(edges[i], j)
			}
		}
	}
	return edges
}
