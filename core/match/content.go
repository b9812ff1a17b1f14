package match

import (
	"cmp"
	"math"
	"slices"

	"tovrel/core/table"
	"tovrel/core/value"
)

// maxTries bounds the search for columns by content; each try costs one pass over a pair of columns.
const maxTries = 2000

// fillByContent completes an alignment by content: for the expected columns without a counterpart it searches, by
// backtracking, answer columns under which the rows agree as wholes (the projections on the columns assigned so far are
// the same multisets). Where there is no such assignment, columns are taken by overlap if that is wanted.
func (m *matcher) fillByContent(a alignment, overlap bool) alignment {
	s := &contentSearch{m: m, taken: make([]bool, len(m.answer.Columns)), to: append([]int(nil), a.to...)}
	for i, j := range a.to {
		if j >= 0 {
			s.taken[j] = true
		} else {
			s.open = append(s.open, i)
		}
	}
	if len(s.open) == 0 {
		return a
	}
	filled := alignment{how: append([]How(nil), a.how...)}
	if !s.search(s.settled(a)) {
		if !overlap {
			return unaligned(len(a.to))
		}
		s.byOverlap()
	}
	for _, i := range s.open {
		if s.to[i] >= 0 {
			filled.how[i] = ByContent
		}
	}
	for _, i := range s.byKind() {
		filled.how[i] = ByPosition
	}
	filled.to = s.to
	return filled
}

type contentSearch struct {
	m          *matcher
	open       []int // expected columns without a counterpart
	to         []int
	taken      []bool
	tries      int
	candidates map[int][]int // plausible answer columns
	narrowed   map[int][]int // the likely ones among them
}

// hashes are the rows' hashes over the exact columns assigned so far.
type hashes struct{ e, a []uint64 }

// settled starts from the columns that are aligned already, as long as their projections agree; where they do not, the
// open columns are searched for by themselves.
func (s *contentSearch) settled(a alignment) hashes {
	h := hashes{make([]uint64, s.m.expected.Rows()), make([]uint64, s.m.answer.Rows())}
	for i, j := range a.to {
		if j < 0 {
			continue
		}
		if next, ok := s.extend(h, i, j); ok {
			h = next
		}
	}
	return h
}

// search assigns the open columns, those with the fewest candidates first.
func (s *contentSearch) search(h hashes) bool {
	s.candidates, s.narrowed = map[int][]int{}, map[int][]int{}
	for _, i := range s.open {
		for j := range s.m.answer.Columns {
			if !s.taken[j] && s.plausible(i, j) {
				s.candidates[i] = append(s.candidates[i], j)
			}
		}
	}
	for _, i := range s.open {
		if len(s.likely(i)) == 0 {
			return false
		}
	}
	order := append([]int(nil), s.open...)
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(len(s.likely(a)), len(s.likely(b))) })
	return s.assign(order, h)
}

func (s *contentSearch) assign(order []int, h hashes) bool {
	if len(order) == 0 {
		return s.holds()
	}
	i := order[0]
	for _, j := range s.likely(i) {
		if s.taken[j] {
			continue
		}
		if s.tries++; s.tries > maxTries {
			s.m.note("columns: the search by content was cut off after 2,000 tries")
			return false
		}
		next, ok := s.extend(h, i, j)
		if !ok {
			continue
		}
		s.to[i], s.taken[j] = j, true
		if s.assign(order[1:], next) {
			return true
		}
		s.to[i], s.taken[j] = -1, false
	}
	return false
}

// holds tells whether a whole assignment pairs all rows. Where every column had one likely candidate there is no other
// assignment to prefer, and exact columns were held against each other on the way.
func (s *contentSearch) holds() bool {
	choice, tolerant := false, false
	comparers := make([]*comparer, len(s.to))
	for i, j := range s.to {
		if j < 0 {
			continue
		}
		comparers[i] = s.m.comparer(i, j)
		tolerant = tolerant || !comparers[i].exact
		choice = choice || len(s.narrowed[i]) > 1
	}
	if !choice || !tolerant {
		return true
	}
	o := pairRows(comparers, s.m.expected.Rows(), s.m.answer.Rows())
	o.forgive = s.m.rules.get("rows").Value == "contains"
	return o.complete() || s.m.subset && len(o.extra) == 0
}

// likely narrows a column's candidates to those with the same cells, where that is quickly told: columns of one type that
// compare exactly must have the same multiset of cells.
func (s *contentSearch) likely(i int) []int {
	if found, ok := s.narrowed[i]; ok {
		return found
	}
	m := s.m
	found := []int{}
	for _, j := range s.candidates[i] {
		e, a := m.expected.Columns[i], m.answer.Columns[j]
		whole := !m.subset && !m.reading && m.rules.get("rows").Value != "contains"
		if whole && (!m.alike(i, j) || !speaks(e, a) || !speaks(a, e)) {
			continue
		}
		if whole && e.Type == a.Type && m.comparer(i, j).exact && m.print(true, i, j) != m.print(false, i, j) {
			continue
		}
		found = append(found, j)
	}
	s.narrowed[i] = found
	return found
}

// speaks tells whether a text column's first cell is in the form of another column's type, where that has another one: else no
// comparison of the two need be made.
func speaks(c, other *table.Column) bool {
	if c.Type.Kind != value.Text || other.Type.Kind == value.Text || other.Type.Kind == value.JSON || other.Type.Kind == value.Blob {
		return true
	}
	for row := range c.Len() {
		if c.IsNull(row) {
			continue
		}
		inferred := table.Infer([]table.Cell{{Text: cellText(c, row)}}).Kind
		return inferred == other.Type.Kind || inferred.Number() && kindOf(other) == number || instant(inferred) && instant(other.Type.Kind)
	}
	return true
}

// alike tells whether two number columns have the same extremes and mean, within what rounding could change; other columns
// always pass. It needs each column once, where a comparer needs each pair.
func (m *matcher) alike(i, j int) bool {
	ec, ac := m.expected.Columns[i], m.answer.Columns[j]
	r := m.rulesOf(i)
	if !ec.Type.Kind.Number() || !ac.Type.Kind.Number() || r.null != "strict" || r.numbers != "shown" && r.numbers != "exact" {
		return true
	}
	e, a := m.columnSpread(true, i), m.columnSpread(false, j)
	slack := 1e-6 * math.Max(math.Abs(e.high), math.Abs(e.low))
	if ec.Type.Kind != value.Int {
		slack += 0.5
	}
	return e.nulls == a.nulls && math.Abs(e.low-a.low) <= slack && math.Abs(e.high-a.high) <= slack &&
		math.Abs(e.sum-a.sum) <= slack*float64(e.count+1)
}

func (m *matcher) columnSpread(expected bool, at int) spreadOf {
	key, c := [2]int{0, at}, (*table.Column)(nil)
	if expected {
		c = m.expected.Columns[at]
	} else {
		key[0], c = 1, m.answer.Columns[at]
	}
	s, known := m.spreads[key]
	if !known {
		l := lane{class: classTicks, scale: c.Type.Scale, nulls: c.Nulls(), ticks: c.Ints(), floats: c.Floats()}
		if l.ticks == nil {
			l = floatLane(c)
		}
		s = spread(&l)
		unit := l.unit()
		s.low, s.high, s.sum = s.low/unit, s.high/unit, s.sum/unit
		if m.spreads == nil {
			m.spreads = map[[2]int]spreadOf{}
		}
		m.spreads[key] = s
	}
	return s
}

// print is a hash of a column's multiset of cells, in the form in which columns of its own type meet.
func (m *matcher) print(expected bool, i, j int) uint64 {
	c := m.comparer(i, j)
	l, key := &c.e, [2]int{0, i}
	if !expected {
		l, key = &c.a, [2]int{1, j}
	}
	if p, ok := m.prints[key]; ok {
		return p
	}
	hashes := make([]uint64, max(len(l.ticks), len(l.floats), len(l.texts)))
	l.mixInto(hashes)
	if m.prints == nil {
		m.prints = map[[2]int]uint64{}
	}
	m.prints[key] = multiset(hashes)
	return m.prints[key]
}

// extend adds a pair of columns to the rows' hashes; false when the projections then differ. Columns under tolerance
// leave the hashes as they are and are compared by what tolerance does not change.
func (s *contentSearch) extend(h hashes, i, j int) (hashes, bool) {
	c := s.m.comparer(i, j)
	if s.m.subset || s.m.rules.get("rows").Value == "contains" {
		agreeing := s.m.agreeing(c)
		return h, s.m.subset && agreeing == s.m.answer.Rows() || !s.m.subset && agreeing == s.m.expected.Rows()
	}
	if !c.exact {
		return h, sameSpread(c)
	}
	var next hashes
	var e, a uint64
	atOnce(func() {
		next.e = append([]uint64(nil), h.e...)
		c.e.mixInto(next.e)
		e = multiset(next.e)
	}, func() {
		next.a = append([]uint64(nil), h.a...)
		c.a.mixInto(next.a)
		a = multiset(next.a)
	})
	return next, e == a
}

// multiset is a hash of a list that does not depend on its order.
func multiset(list []uint64) uint64 {
	var sum uint64
	for _, h := range list {
		sum += mix(h)
	}
	return sum + uint64(len(list))
}

// sameSpread tells whether two columns under tolerance agree in their nulls, extremes and sum, within what rounding to
// the fewer decimals could change.
func sameSpread(c *comparer) bool {
	e, a := spread(&c.e), spread(&c.a)
	if e.nulls != a.nulls || e.count != a.count {
		return false
	}
	slack := 1e-7*math.Max(math.Abs(e.high), math.Abs(e.low)) + 1e-9
	if c.mode != byValue {
		slack += c.width(math.Max(math.Abs(e.high), math.Abs(e.low)))
	}
	return math.Abs(e.low-a.low) <= slack && math.Abs(e.high-a.high) <= slack &&
		math.Abs(e.sum-a.sum) <= slack*float64(e.count+1)
}

type spreadOf struct {
	low, high, sum float64
	count, nulls   int
}

func spread(l *lane) spreadOf {
	s := spreadOf{low: math.Inf(1), high: math.Inf(-1)}
	for row := range max(len(l.floats), len(l.ticks)) {
		if l.null(row) {
			s.nulls++
			continue
		}
		f := 0.0
		if l.class == classFloat {
			f = l.floats[row]
		} else {
			f = float64(l.ticks[row])
		}
		if math.IsNaN(f) || math.IsInf(f, 0) {
			continue
		}
		s.low, s.high, s.sum, s.count = math.Min(s.low, f), math.Max(s.high, f), s.sum+f, s.count+1
	}
	if s.count == 0 {
		s.low, s.high = 0, 0
	}
	return s
}

// byOverlap gives each open column the free plausible answer column that shares the most cells with it, the largest
// overlap first. Columns that share nothing stay open.
func (s *contentSearch) byOverlap() {
	for {
		bestI, bestJ, most := -1, -1, 0
		for _, i := range s.open {
			for _, j := range s.candidates[i] {
				if s.to[i] >= 0 || s.taken[j] {
					continue
				}
				if n := s.m.agreeing(s.m.comparer(i, j)); n > most {
					bestI, bestJ, most = i, j, n
				}
			}
		}
		if bestI < 0 {
			return
		}
		s.to[bestI], s.taken[bestJ] = bestJ, true
	}
}

// byKind gives the columns that are still open, in their order, the free answer columns of their kind, where there are no
// more of these than needed: the answer then meant them, with other values. It lists the columns it filled.
func (s *contentSearch) byKind() []int {
	var filled []int
	for _, k := range []kind{number, text, moment} {
		var open, free []int
		for _, i := range s.open {
			if s.to[i] < 0 && kindOf(s.m.expected.Columns[i]) == k {
				open = append(open, i)
			}
		}
		for j, c := range s.m.answer.Columns {
			if !s.taken[j] && kindOf(c) == k {
				free = append(free, j)
			}
		}
		if len(free) > len(open) {
			continue
		}
		for n, j := range free {
			s.to[open[n]], s.taken[j] = j, true
			filled = append(filled, open[n])
		}
	}
	return filled
}

func (m *matcher) note(text string) {
	if slices.Contains(m.notes, text) {
		return
	}
	m.notes = append(m.notes, text)
}
