package match

// align finds the columns of the answer that stand for the expected ones.
//
// By name first; where rows then do not all match under `auto`, by content, which wins when it aligns every row and the
// names do not stand for each other's contents. Otherwise the names count.
func (m *matcher) align() alignment {
	if m.rules.get("columns").Value == "position" {
		return m.evaluate(m.byPosition())
	}
	named := m.byName()
	if m.expected.Rows() == 0 && m.answer.Rows() == 0 {
		return m.evaluate(m.byPlace(named))
	}
	if m.rules.get("columns").Value == "name" {
		return m.evaluate(named)
	}
	filled := m.evaluate(m.fillByContent(named))
	if filled.complete() {
		return filled
	}
	free := m.fillByContent(unaligned(len(m.expected.Columns)))
	free = m.evaluate(free)
	if !free.complete() {
		return filled
	}
	if m.findSwap(named, free) {
		return filled
	}
	return free
}

// byPlace gives the columns without a counterpart the free answer columns in their order. Tables without rows have no
// content to go by.
func (m *matcher) byPlace(a alignment) alignment {
	taken := make([]bool, len(m.answer.Columns))
	for _, j := range a.to {
		if j >= 0 {
			taken[j] = true
		}
	}
	for i := range a.to {
		for j := range taken {
			if a.to[i] < 0 && !taken[j] {
				a.to[i], a.how[i], taken[j] = j, ByPosition, true
			}
		}
	}
	return a
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

// byName takes for each expected column the first free answer column of the same name: to the letter before folded.
func (m *matcher) byName() alignment {
	a := unaligned(len(m.expected.Columns))
	taken := make([]bool, len(m.answer.Columns))
	for _, same := range []func(x, y string) bool{
		func(x, y string) bool { return x == y },
		func(x, y string) bool { return fold(x) == fold(y) },
	} {
		for i, e := range m.expected.Columns {
			for j, c := range m.answer.Columns {
				if a.to[i] < 0 && !taken[j] && same(e.Name, c.Name) {
					a.to[i], a.how[i], taken[j] = j, ByName, true
				}
			}
		}
	}
	return a
}

// findSwap looks for two expected columns that would take each other's names: then the names count and the answer is
// wrong. It keeps the pair for the verdict.
func (m *matcher) findSwap(named, free alignment) bool {
	for i := range named.to {
		for j := i + 1; j < len(named.to); j++ {
			if named.to[i] >= 0 && named.to[j] >= 0 && named.to[i] == free.to[j] && named.to[j] == free.to[i] {
				m.swap = [2]string{m.expected.Columns[i].Name, m.expected.Columns[j].Name}
				return true
			}
		}
	}
	return false
}

// evaluate pairs the rows of an alignment, reading a column as rounded by the answer (clause c of `shown`) where that
// makes all rows match, or all those of that column among the rows that are paired.
func (m *matcher) evaluate(a alignment) alignment {
	comparers := make([]*comparer, len(a.to))
	for i, j := range a.to {
		if j >= 0 {
			comparers[i] = m.comparer(i, j)
		}
	}
	a.outcome = pairRows(comparers, m.expected.Rows(), m.answer.Rows())
	if len(a.outcome.missing) == 0 && len(a.outcome.extra) == 0 {
		return a
	}
	rounded, applies := make([]*comparer, len(comparers)), false
	for i, c := range comparers {
		rounded[i] = c
		if c == nil || m.rules.column(m.expected.Columns[i].Name, "numbers").Value != "shown" || c.mode != byValue {
			continue
		}
		if r := c.asAnswerRounded(); r != nil {
			rounded[i], applies = r, true
		}
	}
	if applies {
		if o := pairRows(rounded, m.expected.Rows(), m.answer.Rows()); len(o.missing) < len(a.outcome.missing) {
			a.outcome = o
		}
	}
	return a
}

func (m *matcher) comparer(i, j int) *comparer {
	e := m.expected.Columns[i]
	rounded := i < len(m.known.Rounded) && m.known.Rounded[i]
	return newComparer(e, m.answer.Columns[j], m.rules.column(e.Name, "numbers"), rounded)
}
