package match

import "slices"

// outcome is a one-to-one pairing of rows: for each expected row the answer row that equals it, and what is left.
type outcome struct {
	comparers []*comparer // by expected column; nil where the column has no counterpart
	answerOf  []int       // answer row of each expected row, -1 for none
	missing   []int       // expected rows without a counterpart, ascending
	extra     []int       // answer rows without a counterpart, ascending
	nearest   []int       // expected rows that are paired with a row that is not equal, ascending
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
			atOnce(func() { c.e.mixInto(he) }, func() { c.a.mixInto(ha) })
		default:
			tolerant = append(tolerant, c)
		}
	}
	taken := make([]bool, answerRows)
	groups := groupRows(he, ha)
	for g := range groups.count() {
		o.pairGroup(groups, g, tolerant, taken)
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

// atOnce does the same work for both tables on two processors. A panic of either is one of the caller.
func atOnce(expected, answer func()) {
	done := make(chan any, 1)
	go func() {
		defer func() { done <- recover() }()
		answer()
	}()
	expected()
	if value := <-done; value != nil {
		panic(value)
	}
}

// rowGroups holds, as chains, the expected and answer rows of each group that the exact columns cannot tell apart.
type rowGroups struct {
	firstE, firstA []int32 // by group; -1 for none
	nextE, nextA   []int32 // by row; -1 for the last
}

func (g *rowGroups) count() int { return len(g.firstE) }

// rows lists a chain.
func rows(first int32, next []int32) []int {
	var out []int
	for r := first; r >= 0; r = next[r] {
		out = append(out, int(r))
	}
	return out
}

// groupRows gathers rows by hash, in an open-addressed table: a million groups of one row each must stay cheap.
func groupRows(he, ha []uint64) *rowGroups {
	size := 16
	for size < 2*len(he) {
		size *= 2
	}
	mask := uint64(size - 1)
	slots := make([]int32, size) // group + 1
	var hashes []uint64
	g := &rowGroups{nextE: make([]int32, len(he)), nextA: make([]int32, len(ha))}
	find := func(h uint64) (slot uint64, group int32) {
		for slot = h & mask; slots[slot] != 0; slot = (slot + 1) & mask {
			if hashes[slots[slot]-1] == h {
				return slot, slots[slot] - 1
			}
		}
		return slot, -1
	}
	for row := len(he) - 1; row >= 0; row-- { // from the end, so that chains run forward
		slot, group := find(he[row])
		if group < 0 {
			group = int32(len(hashes))
			slots[slot] = group + 1
			hashes = append(hashes, he[row])
			g.firstE, g.firstA = append(g.firstE, -1), append(g.firstA, -1)
		}
		g.nextE[row] = g.firstE[group]
		g.firstE[group] = int32(row)
	}
	for row := len(ha) - 1; row >= 0; row-- {
		if _, group := find(ha[row]); group >= 0 {
			g.nextA[row] = g.firstA[group]
			g.firstA[group] = int32(row)
		}
	}
	return g
}

// rowGroup is one group as lists.
type rowGroup struct{ expected, answer []int }

func (o *outcome) pairGroup(groups *rowGroups, at int, tolerant []*comparer, taken []bool) {
	pair := func(i, j int) {
		o.answerOf[i] = j
		taken[j] = true
	}
	e, a := groups.firstE[at], groups.firstA[at]
	if a < 0 {
		return
	}
	if groups.nextE[e] < 0 && groups.nextA[a] < 0 { // one of each, as mostly
		if allEqual(tolerant, int(e), int(a)) {
			pair(int(e), int(a))
		}
		return
	}
	g := rowGroup{rows(e, groups.nextE), rows(a, groups.nextA)}
	switch {
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
	slices.SortStableFunc(sorted, func(x, y int) int { return order(l, x, l, y) })
	return sorted
}

func pairSorted(g rowGroup, c *comparer, pair func(i, j int)) {
	e, a := sortRows(g.expected, &c.e), sortRows(g.answer, &c.a)
	for i, j := 0, 0; i < len(e) && j < len(a); {
		switch {
		case c.equal(e[i], a[j]):
			pair(e[i], a[j])
			i, j = i+1, j+1
		case order(&c.e, e[i], &c.a, a[j]) < 0:
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
	owner := make([]int, len(a))
	for j := range owner {
		owner[j] = -1
	}
	open := firstChoice(e, a, cs, owner)
	if len(open) == 0 {
		for j, i := range owner {
			if i >= 0 {
				pair(e[i], a[j])
			}
		}
		return
	}
	edges := candidateEdges(e, a, cs)
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
	for _, i := range open {
		augment(i, i+1)
	}
	for j, i := range owner {
		if i >= 0 {
			pair(e[i], a[j])
		}
	}
}

// firstChoice pairs rows of sorted groups with the first free equal row in the window, and lists the expected rows that
// found none; a largest pairing grows from there.
func firstChoice(e, a []int, cs []*comparer, owner []int) (open []int) {
	window := newWindow(a, cs[0])
	for i, row := range e {
		found := false
		from, to := window.of(row)
		for j := from; j < to && !found; j++ {
			if owner[j] < 0 && allEqual(cs, row, a[j]) {
				owner[j], found = i, true
			}
		}
		if !found {
			open = append(open, i)
		}
	}
	return open
}

// window gives, for expected rows in sorted order, the span of sorted answer rows that can equal them by one column.
type window struct {
	c        *comparer
	a        []int
	from, to int
}

func newWindow(a []int, c *comparer) *window { return &window{c: c, a: a} }

func (w *window) of(row int) (from, to int) {
	at := w.c.e.position(row)
	width := w.c.width(at)
	for w.from < len(w.a) && w.c.a.position(w.a[w.from]) < at-width {
		w.from++
	}
	w.to = max(w.to, w.from)
	for w.to < len(w.a) && w.c.a.position(w.a[w.to]) <= at+width {
		w.to++
	}
	return w.from, w.to
}

// candidateEdges lists for each expected row the answer rows that equal it; both are sorted by the first column, so
// that only a window needs to be tried.
func candidateEdges(e, a []int, cs []*comparer) [][]int {
	edges := make([][]int, len(e))
	w := newWindow(a, cs[0])
	for i, row := range e {
		from, to := w.of(row)
		for j := from; j < to; j++ {
			if allEqual(cs, row, a[j]) {
				edges[i] = append(edges[i], j)
			}
		}
	}
	return edges
}
