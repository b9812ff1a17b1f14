// Package table holds columns of typed cells, the currency of the core. It does not compare tables
// (core/match) and reads no files.
package table

import (
	"encoding/json"

	"tovrel/core/value"
)

// Table is a list of columns of the same length. Names may repeat.
type Table struct {
	Columns []*Column
}

// Rows is the number of rows.
func (t *Table) Rows() int {
	if t == nil || len(t.Columns) == 0 {
		return 0
	}
	return t.Columns[0].Len()
}

// Names lists the columns' names.
func (t *Table) Names() []string {
	names := make([]string, len(t.Columns))
	for i, c := range t.Columns {
		names[i] = c.Name
	}
	return names
}

// Row gives the cells of a row, counted from 0.
func (t *Table) Row(row int) []value.Value {
	cells := make([]value.Value, len(t.Columns))
	for i, c := range t.Columns {
		cells[i] = c.Value(row)
	}
	return cells
}

// CellTexts gives the cells of a row, counted from 0, as texts; nil for null.
func (t *Table) CellTexts(row int) []*string {
	texts := make([]*string, len(t.Columns))
	for i, c := range t.Columns {
		if !c.IsNull(row) {
			texts[i] = new(c.Value(row).String())
		}
	}
	return texts
}

// Pick is a table of some rows, counted from 0, in their order, sharing nothing that changes.
func (t *Table) Pick(rows []int) *Table {
	out := &Table{}
	for _, c := range t.Columns {
		kept := NewColumn(c.Name, c.Type, len(rows))
		for _, row := range rows {
			if c.IsNull(row) {
				kept.AppendNull()
			} else {
				kept.Append(c.Value(row))
			}
		}
		out.Columns = append(out.Columns, kept)
	}
	return out
}

// Head is a table of the first rows, sharing nothing that changes.
func (t *Table) Head(rows int) *Table {
	if rows >= t.Rows() {
		return t
	}
	head := &Table{}
	for _, c := range t.Columns {
		h := NewColumn(c.Name, c.Type, rows)
		for i := range rows {
			h.Append(c.Value(i))
		}
		head.Columns = append(head.Columns, h)
	}
	return head
}

// Rest is a table of the rows after the first ones, sharing nothing that changes.
func (t *Table) Rest(skip int) *Table {
	if skip <= 0 {
		return t
	}
	rest := &Table{}
	for _, c := range t.Columns {
		r := NewColumn(c.Name, c.Type, max(0, c.Len()-skip))
		for i := skip; i < c.Len(); i++ {
			r.Append(c.Value(i))
		}
		rest.Columns = append(rest.Columns, r)
	}
	return rest
}

// ColumnHead is a column's name and the name of its type, as outputs show them.
type ColumnHead struct {
	Name string `json:"name"`
	Type string `json:"type"`
}

// Heads lists the columns' names and types.
func (t *Table) Heads() []ColumnHead {
	heads := make([]ColumnHead, len(t.Columns))
	for i, c := range t.Columns {
		heads[i] = ColumnHead{c.Name, c.Type.String()}
	}
	return heads
}

// MarshalJSON gives {"columns": [{"name", "type"}], "rows": [[…]]} with the cells of value.Value.JSON. It errs for a column of an
// unknown type.
func (t *Table) MarshalJSON() ([]byte, error) {
	heads, err := json.Marshal(t.Heads())
	if err != nil {
		return nil, err
	}
	b := append(append([]byte(`{"columns":`), heads...), `,"rows":[`...)
	for r := range t.Rows() {
		if r > 0 {
			b = append(b, ',')
		}
		b = append(b, '[')
		for i, c := range t.Columns {
			if i > 0 {
				b = append(b, ',')
			}
			b = c.Value(r).AppendJSON(b)
		}
		b = append(b, ']')
	}
	return append(b, "]}"...), nil
}
