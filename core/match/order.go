package match

import (
	"fmt"

	"tovrel/core/table"
	"tovrel/core/value"
)

// judgeOrder tells whether the answer's order is right, why not, and whether its rows stand in another order than the
// expected ones. All rows are paired.
func (m *matcher) judgeOrder(a alignment) (wrong string, reordered bool) {
	for i, j := range a.outcome.answerOf {
		reordered = reordered || i != j
	}
	order := m.rules.get("order")
	switch {
	case order.Value == "strict", order.Value == "auto" && m.known.Hidden:
		return m.sameSequence(a), false
	case order.Value == "ranked":
		keys, _ := parseRanking(order.Argument) // checked when the rule was set
		return m.ranked(a, m.resolve(keys)), reordered
	case order.Value == "auto" && len(m.known.Ranking) > 0:
		return m.ranked(a, m.resolve(m.known.Ranking)), reordered
	}
	return "", reordered
}

// sameSequence says at which row the sequence breaks. Equal rows may have been paired crosswise, so cells are compared.
func (m *matcher) sameSequence(a alignment) string {
	for row := range a.outcome.answerOf {
		if !allEqual(a.outcome.comparers, row, row) {
			return fmt.Sprintf("row %d of the answer is not row %d of the expected table, and the order counts", row+1, row+1)
		}
	}
	return ""
}

// resolve finds the columns of keys that only have a name; keys of unknown columns are left out with a note.
func (m *matcher) resolve(keys []Key) []Key {
	var out []Key
	for _, k := range keys {
		for i, c := range m.expected.Columns {
			if k.Column < 0 && fold(c.Name) == fold(k.Name) {
				k.Column = i
			}
		}
		if k.Column < 0 || k.Column >= len(m.expected.Columns) {
			m.note(fmt.Sprintf("order: the expected table has no column %q", k.Name))
			continue
		}
		k.Name = m.expected.Columns[k.Column].Name
		out = append(out, k)
	}
	return out
}

// ranked says where the answer's rows break the order of the keys. Each answer row is judged by the expected row that it
// is paired with, so that a rounded answer is not taken for a tie that it is not.
func (m *matcher) ranked(a alignment, keys []Key) string {
	expectedOf := make([]int, m.answer.Rows())
	for i, j := range a.outcome.answerOf {
		if j >= 0 {
			expectedOf[j] = i
		}
	}
	for row := 1; row < len(expectedOf); row++ {
		if k, ok := m.inOrder(keys, expectedOf[row-1], expectedOf[row]); !ok {
			direction := "ascending"
			if k.Descending {
				direction = "descending"
			}
			return fmt.Sprintf("rows %d and %d of the answer are not in %s order of %s", row, row+1, direction, k.Name)
		}
	}
	return ""
}

// inOrder tells whether one expected row may stand before another, and by which key not.
func (m *matcher) inOrder(keys []Key, before, after int) (Key, bool) {
	for _, k := range keys {
		column := m.expected.Columns[k.Column]
		x, y := column.Value(before), column.Value(after)
		if x.IsNull() || y.IsNull() {
			if x.IsNull() && y.IsNull() {
				continue
			}
			return k, nullsInOrder(k, x.IsNull())
		}
		if m.tied(k.Column, before, after) {
			continue
		}
		c := value.Compare(x, y)
		return k, c == 0 || c < 0 != k.Descending
	}
	return Key{}, true
}

func nullsInOrder(k Key, nullBefore bool) bool {
	switch k.Nulls {
	case "first":
		return nullBefore
	case "last":
		return !nullBefore
	}
	return true // unsaid: either end
}

// tied tells whether two expected rows have the same key under the numbers rule.
func (m *matcher) tied(column, x, y int) bool {
	c := m.expected.Columns[column]
	if !c.Type.Kind.Number() {
		return value.Compare(c.Value(x), c.Value(y)) == 0
	}
	self := newComparer(pairOf(c, x), pairOf(c, y), m.rules.column(c.Name, "numbers"), false)
	return self.equal(0, 0)
}

// pairOf is a column of one cell.
func pairOf(c *table.Column, row int) *table.Column {
	one := table.NewColumn(c.Name, c.Type, 1)
	one.Append(c.Value(row))
	return one
}
