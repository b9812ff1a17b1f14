package match

import "slices"

// align finds the columns of the answer that stand for the expected ones.
//
// By name first; where rows then do not all match under `auto`, by content, which wins when it aligns every row and the
// names do not stand for each other's contents. Otherwise the names count. All this is tried with the columns as they
// stand, and only where that does not match, once more with each column read in the best way that the rules allow.
func (m *matcher) align() alignment {
	asTheyStand := m.alignOnce()
	if asTheyStand.complete() || m.swap[0] != "" || m.bothEmpty() {
		return asTheyStand
	}
	m.reading, m.best = true, map[[2]int]*comparer{}
	read := m.alignOnce()
	if read.complete() || better(read, asTheyStand) {
		return read
	}
	return asTheyStand
}

// better tells whether an alignment leaves less undone than another.
func better(a, b alignment) bool {
	if x, y := a.open(), b.open(); x != y {
		return x < y
	}
	return a.outcome.left() < b.outcome.left()
}

// open counts the expected columns without a counterpart.
func (a alignment) open() int {
	n := 0
	for _, c := range a.to {
		if c < 0 {
			n++
		}
	}
	return n
}

func (m *matcher) bothEmpty() bool { return m.expected.Rows() == 0 && m.answer.Rows() == 0 }

func (m *matcher) alignOnce() alignment {
	if known := m.asBefore(); known.complete() {
		return known
	}
	rule := m.rules.get("columns").Value
	if rule == "position" {
		return m.evaluate(m.byPosition())
	}
	named := m.byName()
	if rule == "name" {
		return m.evaluate(named)
	}
	if m.bothEmpty() {
		return m.evaluate(m.byPlace(named))
	}
	filled := m.evaluate(m.fillByContent(named, true))
	if filled.complete() || named.open() == len(named.to) {
		return filled
	}
	byContent := m.fillByContent(unaligned(len(m.expected.Columns)), false)
	if byContent.open() > 0 {
		return filled
	}
	free := m.evaluate(byContent)
	if !free.complete() || m.findSwap(named, free) {
		return filled
	}
	return free
}

// asBefore has the columns stand for each other that did on other rows; nothing where that is not known.
func (m *matcher) asBefore() alignment {
	a := unaligned(len(m.expected.Columns))
	if len(m.known.Columns) != len(a.to) {
		return a
	}
	for i, j := range m.known.Columns {
		if j < 0 || j >= len(m.answer.Columns) {
			return unaligned(len(a.to))
		}
		a.to[i], a.how[i] = j, ByPosition
	}
	return m.evaluate(a)
}

// byPlace gives the columns without a counterpart the free answer columns in their order. Tables without rows have no
// content to go by.
func (m *matcher) byPlace(a alignment) alignment {
	taken := m.takenBy(a)
	for i := range a.to {
		for j := range taken {
			if a.to[i] < 0 && !taken[j] {
				a.to[i], a.how[i], taken[j] = j, ByPosition, true
			}
		}
	}
	return a
}

// takenBy tells of each answer column whether an alignment uses it.
func (m *matcher) takenBy(a alignment) []bool {
	taken := make([]bool, len(m.answer.Columns))
	for _, j := range a.to {
		if j >= 0 {
			taken[j] = true
		}
	}
	return taken
}

func unaligned(columns int) alignment {
	a := alignment{to: make([]int, columns), how: make([]How, columns)}
	for i := range a.to {
		a.to[i] = -1
	}
	return a
}

func (m *matcher) byPosition() alignment {
	a := unaligned(len(m.expected.Columns))
	for i := range a.to {
		if i < len(m.answer.Columns) {
			a.to[i], a.how[i] = i, ByPosition
		}
	}
	return a
}

// byName takes for each expected column the first free answer column of the same name: to the letter, then folded, then by
// a synonym.
func (m *matcher) byName() alignment {
	a := unaligned(len(m.expected.Columns))
	taken := make([]bool, len(m.answer.Columns))
	itself := func(name string) string { return name }
	for _, pass := range []struct {
		key   func(answer string) string
		names func(expected string) []string // keys under which an answer column is one of that name
	}{
		{itself, func(e string) []string { return []string{e} }},
		{fold, func(e string) []string { return []string{fold(e)} }},
		{fold, m.synonyms},
	} {
		places := map[string][]int{} // of free answer columns, in their order
		for j, c := range m.answer.Columns {
			if !taken[j] {
				places[pass.key(c.Name)] = append(places[pass.key(c.Name)], j)
			}
		}
		for i, e := range m.expected.Columns {
			if a.to[i] >= 0 {
				continue
			}
			if j := firstFree(places, pass.names(e.Name)); j >= 0 {
				a.to[i], a.how[i], taken[j] = j, ByName, true
			}
		}
	}
	return a
}

// firstFree takes the first place that stands under one of the keys; -1 for none.
func firstFree(places map[string][]int, keys []string) int {
	best, of := -1, ""
	for _, k := range keys {
		if free := places[k]; len(free) > 0 && (best < 0 || free[0] < best) {
			best, of = free[0], k
		}
	}
	if best >= 0 {
		places[of] = places[of][1:]
	}
	return best
}

// synonyms are the folded synonyms of an expected column.
func (m *matcher) synonyms(expected string) []string {
	var out []string
	for _, s := range m.known.Synonyms[expected] {
		out = append(out, fold(s))
	}
	return out
}

func (m *matcher) synonymous(expected, answer string) bool {
	return slices.Contains(m.synonyms(expected), fold(answer))
}

// findSwap looks for two expected columns that would take each other's names: then the names count and the answer is
// wrong. It keeps the pair for the verdict.
func (m *matcher) findSwap(named, free alignment) bool {
	for i := range named.to {
		for j := i + 1; j < len(named.to); j++ {
			e := m.expected.Columns
			if named.to[i] >= 0 && named.to[j] >= 0 && fold(e[i].Name) != fold(e[j].Name) && named.to[i] == free.to[j] &&
				named.to[j] == free.to[i] {
				m.swap = [2]string{m.expected.Columns[i].Name, m.expected.Columns[j].Name}
				return true
			}
		}
	}
	return false
}

// evaluate pairs the rows of an alignment.
func (m *matcher) evaluate(a alignment) alignment {
	comparers := make([]*comparer, len(a.to))
	for i, j := range a.to {
		if j >= 0 {
			comparers[i] = m.comparer(i, j)
		}
	}
	a.outcome = pairRows(comparers, m.expected.Rows(), m.answer.Rows())
	a.outcome.forgive = m.rules.get("rows").Value == "contains"
	return a
}
