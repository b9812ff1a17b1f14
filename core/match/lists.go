package match

import (
	"encoding/json"
	"strings"

	"tovrel/core/table"
	"tovrel/core/value"
)

// matchLists compares an answer with lists in the cells of one column, such as [a, b] or "a, b", with a row for each item.
func matchLists(expected, answer *table.Table, rules Rules, known Known) (Result, bool) {
	if answer.Rows() == 0 || answer.Rows() >= expected.Rows() {
		return Result{}, false
	}
	for i, c := range answer.Columns {
		if c.Type.Kind != value.Text && c.Type.Kind != value.JSON {
			continue
		}
		long, ok := unfolded(answer, i, expected.Rows())
		if !ok {
			continue
		}
		if r := matchLong(expected, long, rules, known); r.Matched {
			r.addRemark(Crosstab)
			return r, true
		}
	}
	return Result{}, false
}

// unfolded gives a row for each item of the lists of a column; false where it does not come to so many rows.
func unfolded(t *table.Table, column, rows int) (*table.Table, bool) {
	cells := make([][]table.Cell, len(t.Columns))
	for row := range t.Rows() {
		items := []table.Cell{{Null: true}}
		if !t.Columns[column].IsNull(row) {
			items = itemsOf(t.Columns[column].Value(row).Str())
		}
		for _, item := range items {
			for c := range t.Columns {
				if c == column {
					cells[c] = append(cells[c], item)
					continue
				}
				cells[c] = append(cells[c], table.Cell{Text: t.Columns[c].Value(row).String(), Null: t.Columns[c].IsNull(row)})
			}
		}
		if len(cells[0]) > rows {
			return nil, false
		}
	}
	if len(cells[0]) != rows {
		return nil, false
	}
	out := &table.Table{}
	for c, column := range t.Columns {
		out.Columns = append(out.Columns, table.FromCells(column.Name, cells[c]))
	}
	return out, true
}

// itemsOf are the items of a list in a cell.
func itemsOf(text string) []table.Cell {
	var raw []json.RawMessage
	var out []table.Cell
	if json.Unmarshal([]byte(text), &raw) == nil {
		for _, one := range raw {
			out = append(out, table.CellFromJSON(one))
		}
		return out
	}
	text = strings.TrimSuffix(strings.TrimPrefix(strings.TrimSpace(text), "["), "]")
	for item := range strings.SplitSeq(strings.ReplaceAll(text, ";", ","), ",") {
		out = append(out, table.Cell{Text: strings.Trim(strings.TrimSpace(item), `'"`)})
	}
	return out
}
