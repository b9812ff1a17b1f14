package match

import (
	"cmp"
	"slices"

	"tovrel/core/table"
)

// Cut is a reference query's last cut: what its result is without the cut, in its order, and which rows it keeps.
type Cut struct {
	Full   *table.Table
	From   int   // rows that an OFFSET skips
	Keep   int   // rows kept after them, in each part
	Places []int // by row of Full, from 0, its place within its part; nil where that is its place in Full
	Parts  []int // by row of Full, the part it belongs to, as PARTITION BY makes them; nil where all are one
	Keys   []Key // by which it cuts, with Values by row of Full; nil where these are the keys whose order was asked for
}

// kept tells whether the cut keeps the row in a place of its part.
func (c *Cut) kept(place int) bool { return place >= c.From && place < c.From+c.Keep }

// tieClass is a run of rows of one part that are tied on the keys of a cut, and how many of them it keeps.
type tieClass struct {
	rows []int // of the whole result
	kept int
}

// cutThrough tells whether the cut keeps some of the tied and leaves others.
func (c tieClass) cutThrough() bool { return c.kept > 0 && c.kept < len(c.rows) }

// tieClasses groups the rows that the cut keeps at least one of with those they are tied with.
func (m *matcher) tieClasses() []tieClass {
	cut := m.known.Cut
	keys := cut.Keys
	if keys == nil {
		keys = m.askedKeys()
	}
	if cut.Keep < 1 || len(keys) == 0 {
		return nil
	}
	full := &matcher{expected: cut.Full, answer: m.answer, rules: m.rules, known: m.known}
	var classes []tieClass
	var now tieClass
	end := func() {
		if now.kept > 0 {
			classes = append(classes, now)
		}
		now = tieClass{}
	}
	for at, row := range cut.inOrder() {
		place, part := cut.place(row, at)
		if len(now.rows) > 0 {
			_, before := cut.place(now.rows[0], 0)
			if before != part || !full.tiedOnAll(keys, now.rows[0], row) {
				end()
			}
		}
		if cut.Places == nil && place >= cut.From+cut.Keep && len(now.rows) == 0 {
			break // nothing further on is kept
		}
		now.rows = append(now.rows, row)
		if cut.kept(place) {
			now.kept++
		}
	}
	end()
	return classes
}

// inOrder lists the rows of the whole result part by part, in their places.
func (c *Cut) inOrder() []int {
	rows := make([]int, c.Full.Rows())
	for i := range rows {
		rows[i] = i
	}
	if c.Places != nil {
		slices.SortStableFunc(rows, func(a, b int) int {
			return cmp.Or(cmp.Compare(c.Parts[a], c.Parts[b]), cmp.Compare(c.Places[a], c.Places[b]))
		})
	}
	return rows
}

// place is a row's place within its part, and the part.
func (c *Cut) place(row, at int) (place, part int) {
	if c.Places == nil {
		return at, 0
	}
	return c.Places[row], c.Parts[row]
}

func (m *matcher) tiedOnAll(keys []Key, x, y int) bool {
	for _, k := range keys {
		if !m.tiedOn(m.keyColumn(k), k, x, y) {
			return false
		}
	}
	return true
}

// fairCut judges an answer whose rows may be another choice among the tied ones, or all of them: then the rows it chose are
// what is expected. False where ties at the cut do not make it right.
func (m *matcher) fairCut() (Result, bool) {
	classes := m.tieClasses()
	cuts := false
	var candidates []int
	for _, c := range classes {
		cuts = cuts || c.cutThrough()
		candidates = append(candidates, c.rows...)
	}
	if !cuts {
		return Result{}, false
	}
	slices.Sort(candidates)
	full := m.known.Cut.Full
	known := m.known
	known.Cut = nil
	all := &matcher{expected: pick(full, candidates), answer: m.answer, rules: m.rules, known: known, subset: true}
	a := all.align()
	if a.outcome == nil || len(a.outcome.extra) > 0 || a.open() > 0 {
		return Result{}, false
	}
	taken := map[int]bool{} // rows of the whole result that the answer has
	var chosen []int
	for i, j := range a.outcome.answerOf {
		if j >= 0 {
			taken[candidates[i]] = true
			chosen = append(chosen, candidates[i])
		}
	}
	for _, c := range classes {
		if n := c.count(taken); n != c.kept && n != len(c.rows) {
			return Result{}, false
		}
	}
	r := matchLong(pick(full, chosen), m.answer, m.rules, known.pick(chosen))
	if !r.Matched {
		return Result{}, false
	}
	r.addRemark(Tied)
	return r, true
}

func (c tieClass) count(taken map[int]bool) int {
	n := 0
	for _, row := range c.rows {
		if taken[row] {
			n++
		}
	}
	return n
}

// pick is the table of some rows.
func pick(t *table.Table, rows []int) *table.Table {
	out := &table.Table{}
	for _, c := range t.Columns {
		out.Columns = append(out.Columns, pickCells(c, rows))
	}
	return out
}

func pickCells(c *table.Column, rows []int) *table.Column {
	out := table.NewColumn(c.Name, c.Type, len(rows))
	for _, r := range rows {
		out.Append(c.Value(r))
	}
	return out
}

// pick keeps the key values of some rows.
func (k Known) pick(rows []int) Known {
	ranking := append([]Key(nil), k.Ranking...)
	for i, key := range ranking {
		if key.Values != nil {
			ranking[i].Values = pickCells(key.Values, rows)
		}
	}
	k.Ranking = ranking
	return k
}

// MayTie tells whether knowing what is behind the reference's LIMIT could make a wrong answer right: only where every expected
// row that it lacks is tied with the last one, or behind an OFFSET with the first.
func MayTie(r Result, rules Rules, known Known) bool {
	m := &matcher{expected: r.Tables.Expected, answer: r.Tables.Answer, rules: rules, known: known}
	keys := m.askedKeys()
	if r.Matched || len(keys) == 0 || rules.get("ties").Value != "fair" {
		return false
	}
	lacking := append([]int(nil), r.Missing...)
	for _, c := range r.Cells {
		lacking = append(lacking, c.ExpectedRow)
	}
	last := m.expected.Rows() - 1
	for _, row := range lacking {
		if !m.tiedOnAll(keys, last, row) && !m.tiedOnAll(keys, 0, row) {
			return false
		}
	}
	return true
}
