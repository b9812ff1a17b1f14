package view

import (
	"tovrel/core/table"
	"tovrel/core/value"
)

// tableGrid shows a table: numbers with the same decimals and grouped digits for people, full precision for machines.
func tableGrid(t *table.Table) *Grid {
	g := &Grid{Main: true}
	for _, c := range t.Columns {
		g.Columns = append(g.Columns, Column{Name: c.Name, Right: c.Type.Kind.Number()})
	}
	for r := range t.Rows() {
		row := make([]Cell, len(t.Columns))
		for i, c := range t.Columns {
			row[i] = valueCell(c, r, table.DisplayDecimals(c))
		}
		g.Rows = append(g.Rows, row)
	}
	return g
}

// shownColumn shows single cells of a column, which may be long, with the same decimals.
type shownColumn struct {
	column   *table.Column
	decimals int
}

// newShownColumn takes the decimals from the rows that are shown.
func newShownColumn(c *table.Column, rows []int) shownColumn {
	shown := table.NewColumn(c.Name, c.Type, len(rows))
	for _, r := range rows {
		shown.Append(c.Value(r))
	}
	return shownColumn{c, table.DisplayDecimals(shown)}
}

func (s shownColumn) cell(row int) Cell { return valueCell(s.column, row, s.decimals) }

func valueCell(c *table.Column, row, decimals int) Cell {
	v := c.Value(row)
	switch {
	case v.IsNull():
		return Cell{Text: "", Shown: "NULL", Tone: Faint}
	case c.Type.Kind == value.Int:
		return Cell{Text: v.String(), Shown: v.String()} // an identifier or a year must not be grouped
	case c.Type.Kind.Number():
		return Cell{Text: v.String(), Shown: grouped(table.DisplayNumber(v, decimals))}
	case v.String() == "":
		return Cell{Text: "", Shown: "''", Tone: Faint, Empty: true}
	}
	return Cell{Text: v.String()}
}

// Written shows a table that is already laid out as text.
func Written(laidOut string) Screen {
	return Screen{Parts: []Part{{Table: laidOut}}}
}
