package match

import (
	"fmt"

	"tovrel/core/table"
	"tovrel/core/value"
)

// judgeOrder tells whether the answer's order is right, why not, and whether its rows stand in another order than the
// expected ones. All expected rows are paired.
func (m *matcher) judgeOrder(a alignment) (wrong string, reordered bool) {
	before := -1
	for _, j := range a.outcome.answerOf {
		reordered = reordered || j < before
		before = j
	}
	order := m.rules.get("order").Value
	if order == "strict" || order == "auto" && m.known.Hidden {
		return m.sameSequence(a), false
	}
	if keys := m.askedKeys(); len(keys) > 0 {
		return m.ranked(a, keys), reordered
	}
	return "", reordered
}

// askedKeys are the keys whose order counts: those of the rule, else of the reference query.
func (m *matcher) askedKeys() []Key {
	switch order := m.rules.get("order"); order.Value {
	case "ranked":
		keys, _ := parseRanking(order.Argument) // checked when the rule was set
		return m.resolve(keys)
	case "auto":
		return m.resolve(m.known.Ranking)
	}
	return nil
}

// sameSequence says at which row the sequence breaks. Equal rows may have been paired crosswise, so cells are compared;
// forgiven rows in between are passed over.
func (m *matcher) sameSequence(a alignment) string {
	row := 0
	for i := range a.outcome.answerOf {
		for a.outcome.forgive && row < m.answer.Rows() && !allEqual(a.outcome.comparers, i, row) {
			row++
		}
		if row >= m.answer.Rows() || !allEqual(a.outcome.comparers, i, row) {
			return fmt.Sprintf("row %d of the answer is not row %d of the expected table, and the order counts",
				min(row, m.answer.Rows()-1)+1, i+1)
		}
		row++
	}
	return ""
}

// resolve finds the columns of keys that only have a name; keys of unknown columns are left out with a note.
func (m *matcher) resolve(keys []Key) []Key {
	var out []Key
	for _, k := range keys {
		for i, c := range m.expected.Columns {
			if k.Column < 0 && k.Values == nil && fold(c.Name) == fold(k.Name) {
				k.Column = i
			}
		}
		if k.Values == nil && (k.Column < 0 || k.Column >= len(m.expected.Columns)) {
			m.note(fmt.Sprintf("order: the expected table has no column %q", k.Name))
			continue
		}
		if k.Values == nil {
			k.Name = m.expected.Columns[k.Column].Name
		}
		out = append(out, k)
	}
	return out
}

// keyColumn holds a key's values, a row for each expected one.
func (m *matcher) keyColumn(k Key) *table.Column {
	if k.Values != nil {
		return k.Values
	}
	return m.expected.Columns[k.Column]
}

// ranked says where the answer's rows break the order of the keys. Each answer row is judged by the expected row that it
// is paired with, so that a rounded answer is not taken for a tie that it is not.
func (m *matcher) ranked(a alignment, keys []Key) string {
	expectedOf := make([]int, m.answer.Rows())
	for j := range expectedOf {
		expectedOf[j] = -1
	}
	for i, j := range a.outcome.answerOf {
		if j >= 0 {
			expectedOf[j] = i
		}
	}
	last := -1 // the last answer row that was expected
	for row, i := range expectedOf {
		if i < 0 {
			continue
		}
		if last >= 0 {
			if k, ok := m.inOrder(keys, expectedOf[last], i); !ok {
				direction := "ascending"
				if k.Descending {
					direction = "descending"
				}
				return fmt.Sprintf("rows %d and %d of the answer are not in %s order of %s", last+1, row+1, direction, k.Name)
			}
		}
		last = row
	}
	return ""
}

// inOrder tells whether one expected row may stand before another, and by which key not.
func (m *matcher) inOrder(keys []Key, before, after int) (Key, bool) {
	for _, k := range keys {
		column := m.keyColumn(k)
		x, y := column.Value(before), column.Value(after)
		if x.IsNull() || y.IsNull() {
			if x.IsNull() && y.IsNull() {
				continue
			}
			return k, nullsInOrder(k, x.IsNull())
		}
		if m.tiedOn(column, k, before, after) {
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

// tiedOn tells whether two rows have the same key under the numbers rule.
func (m *matcher) tiedOn(c *table.Column, k Key, x, y int) bool {
	if !c.Type.Kind.Number() || c.IsNull(x) || c.IsNull(y) {
		return value.Compare(c.Value(x), c.Value(y)) == 0
	}
	if value.CompareNumbers(c.Value(x), c.Value(y)) == 0 {
		return true
	}
	r := columnRules{numbers: "shown"}
	if k.Values == nil {
		r = m.rulesOf(k.Column)
	}
	if c.Type.Kind == value.Int && !r.narrow {
		return false
	}
	return newComparer(pickCells(c, []int{x}), pickCells(c, []int{y}), r, 0).equal(0, 0)
}
