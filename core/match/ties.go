package match

import "tovrel/core/table"

// Cut is a reference query's last cut: what its result is without the cut, in its order, and how many rows it keeps.
type Cut struct {
	Full *table.Table
	Keep int
}

// tiedGroup is the part of a full result that a cut goes through: the rows before Fixed are certain, those from there to
// the end are tied at the edge.
type tiedGroup struct {
	candidates *table.Table
	fixed      int
}

// tiedGroup finds the rows that are tied with the last kept one under the keys; false where the cut goes through none.
func (m *matcher) tiedGroup(keys []Key) (tiedGroup, bool) {
	cut := m.known.Cut
	if cut.Keep < 1 || cut.Full.Rows() <= cut.Keep || len(keys) == 0 {
		return tiedGroup{}, false
	}
	full := &matcher{expected: cut.Full, answer: m.answer, rules: m.rules, known: m.known}
	edge := cut.Keep - 1
	same := func(row int) bool {
		for _, k := range keys {
			if !full.tiedOn(full.keyColumn(k), k, edge, row) {
				return false
			}
		}
		return true
	}
	first, end := edge, cut.Keep
	for first > 0 && same(first-1) {
		first--
	}
	for end < cut.Full.Rows() && same(end) {
		end++
	}
	return tiedGroup{cut.Full.Head(end), first}, end > cut.Keep
}

// fairCut judges an answer whose rows may be another choice among the tied ones, or all of them: then the rows it chose are
// what is expected. False where ties at the cut do not make it right.
func (m *matcher) fairCut() (Result, bool) {
	keys := m.askedKeys()
	g, cuts := m.tiedGroup(keys)
	if !cuts {
		return Result{}, false
	}
	known := m.known
	known.Cut = nil
	all := &matcher{expected: g.candidates, answer: m.answer, rules: m.rules, known: known, subset: true}
	a := all.align()
	if a.outcome == nil || len(a.outcome.extra) > 0 || a.open() > 0 {
		return Result{}, false
	}
	var chosen []int
	tied := 0
	for i, j := range a.outcome.answerOf {
		switch {
		case j >= 0:
			chosen = append(chosen, i)
			if i >= g.fixed {
				tied++
			}
		case i < g.fixed:
			return Result{}, false
		}
	}
	if tied != m.known.Cut.Keep-g.fixed && tied != g.candidates.Rows()-g.fixed {
		return Result{}, false
	}
	r := matchLong(pick(g.candidates, chosen), m.answer, m.rules, known.pick(chosen))
	if !r.Matched {
		return Result{}, false
	}
	r.addRemark(Tied)
	return r, true
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

// MayTie tells whether knowing what is behind the reference's cut could make a wrong answer right: only where every expected
// row that it lacks is tied with the last one.
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
	edge := m.expected.Rows() - 1
	for _, row := range lacking {
		for _, k := range keys {
			if !m.tiedOn(m.keyColumn(k), k, edge, row) {
				return false
			}
		}
	}
	return true
}
