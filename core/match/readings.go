package match

import (
	"maps"
	"slices"
	"strings"

	"tovrel/core/table"
	"tovrel/core/value"
)

// comparer is how a pair of columns is compared: as they stand, or, once readings are tried, in the way of the rules under
// which the most cells agree.
func (m *matcher) comparer(i, j int) *comparer {
	if c := m.best[[2]int{i, j}]; c != nil {
		return c
	}
	c := m.plain(i, j)
	if m.reading {
		c = m.bestReading(i, j, c)
		m.best[[2]int{i, j}] = c
	}
	return c
}

// plain compares a pair of columns as they stand.
func (m *matcher) plain(i, j int) *comparer {
	key := [2]int{i, j}
	if m.plainly[key] == nil {
		if m.plainly == nil {
			m.plainly = map[[2]int]*comparer{}
		}
		m.plainly[key] = m.newPlain(i, j)
	}
	return m.plainly[key]
}

func (m *matcher) newPlain(i, j int) *comparer {
	return newComparer(m.expected.Columns[i], m.answer.Columns[j], m.rulesOf(i), m.rounded(i))
}

// rounded is to how many decimals an expected column's numbers are already rounded; 0 where they are not.
func (m *matcher) rounded(i int) int {
	if i >= len(m.known.Rounded) || !m.known.Rounded[i] || !m.expected.Columns[i].Type.Kind.Number() {
		return 0
	}
	d, known := m.decimals[i]
	if !known {
		d = mostDecimals(m.expected.Columns[i])
		if m.decimals == nil {
			m.decimals = map[int]int{}
		}
		m.decimals[i] = d
	}
	return d
}

// bestReading decides a column as a whole: the reading under which the most cells agree, the plain one where none is better.
func (m *matcher) bestReading(i, j int, plain *comparer) *comparer {
	others := m.readings(i, j, plain)
	if len(others) == 0 {
		return plain
	}
	best, most := plain, m.agreeing(plain)
	for _, c := range others {
		if n := m.agreeing(c); n > most {
			best, most = c, n
		}
	}
	return best
}

// agreeing counts the cells that two columns share as multisets.
func (m *matcher) agreeing(c *comparer) int {
	o := pairRows([]*comparer{c}, m.expected.Rows(), m.answer.Rows())
	return m.expected.Rows() - len(o.missing)
}

// readings are the other ways of the rules to read a pair of columns: the answer rounded, a code for its label, another
// scale, another format.
func (m *matcher) readings(i, j int, plain *comparer) []*comparer {
	r := m.rulesOf(i)
	e, a := m.expected.Columns[i], m.answer.Columns[j]
	var out []*comparer
	add := func(e, a *table.Column, remark Remark) {
		if e == nil || a == nil {
			return
		}
		c := newComparer(e, a, r, m.rounded(i))
		c.remark = remark
		out = append(out, c)
		if rounded := c.asAnswerRounded(r); rounded != nil {
			rounded.remark = remark
			out = append(out, rounded)
		}
	}
	if rounded := plain.asAnswerRounded(r); rounded != nil {
		out = append(out, rounded)
	}
	if r.labels != nil {
		ne, na := relabel(e, a, r.labels)
		add(ne, na, Relabelled)
	}
	if a.Type.Kind.Number() && e.Type.Kind.Number() {
		switch r.scale {
		case "fraction":
			add(e, rescale(a, 2), Rescaled)
		case "percent":
			add(e, rescale(a, -2), Rescaled)
		}
	}
	if r.read {
		for _, pair := range reformatted(e, a) {
			add(pair[0], pair[1], Reformatted)
		}
	}
	return out
}

// codesOf turns labels by their codes into codes by their labels; of several codes with one label the first counts.
func codesOf(labels map[string]string) map[string]string {
	codes := make(map[string]string, len(labels))
	for _, code := range slices.Sorted(maps.Keys(labels)) {
		if _, taken := codes[labels[code]]; !taken {
			codes[labels[code]] = code
		}
	}
	return codes
}

// relabel reads the answer's codes as labels, or its labels as codes, when all cells of both columns fit that; nil else.
// Codes are compared by their text.
func relabel(e, a *table.Column, labels map[string]string) (*table.Column, *table.Column) {
	codes := codesOf(labels)
	if within(e, codes) {
		if read := translate(a, labels); read != nil {
			return asText(e), read
		}
	}
	if within(e, labels) {
		if read := translate(a, codes); read != nil {
			return asText(e), read
		}
	}
	return nil, nil
}

// within tells whether every cell that is not null is a key.
func within(c *table.Column, keys map[string]string) bool {
	for i := range c.Len() {
		if _, ok := keys[cellText(c, i)]; !ok && !c.IsNull(i) {
			return false
		}
	}
	return true
}

// translate maps every cell; nil where one has no translation.
func translate(c *table.Column, to map[string]string) *table.Column {
	if !within(c, to) {
		return nil
	}
	return mapped(c, func(i int) string { return to[cellText(c, i)] })
}

func asText(c *table.Column) *table.Column {
	return mapped(c, func(i int) string { return cellText(c, i) })
}

func mapped(c *table.Column, to func(row int) string) *table.Column {
	out := table.NewColumn(c.Name, value.Type{Kind: value.Text}, c.Len())
	for i := range c.Len() {
		if c.IsNull(i) {
			out.AppendNull()
		} else {
			out.AppendText(to(i))
		}
	}
	return out
}

func cellText(c *table.Column, row int) string { return strings.TrimSpace(c.Value(row).String()) }

// rescale divides a number column by 10^digits.
func rescale(c *table.Column, digits int) *table.Column {
	t := c.Type
	if t.Kind != value.Float {
		t = value.Type{Kind: value.Decimal, Scale: c.Type.Scale + digits}
		if t.Scale <= 0 {
			t = value.Type{Kind: value.Int}
		}
	}
	out := table.NewColumn(c.Name, t, c.Len())
	for i := range c.Len() {
		out.Append(value.Shift(c.Value(i), -digits, t))
	}
	return out
}
