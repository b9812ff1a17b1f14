package table

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strconv"
	"strings"

	"tovrel/core/value"
)

// Cell is one written cell before its column's type is known.
type Cell struct {
	Text    string
	Null    bool
	Literal bool // certainly text, whatever it looks like
}

// Written is a list of written cells. Reading a large file needs no slice of them.
type Written interface {
	Len() int
	Cell(row int) Cell
}

// Cells is a slice of written cells.
type Cells []Cell

// Len is the number of cells.
func (c Cells) Len() int { return len(c) }

// Cell gives a cell, counted from 0.
func (c Cells) Cell(row int) Cell { return c[row] }

// FromCells makes a column from written cells; see FromWritten.
func FromCells(name string, cells []Cell) *Column { return FromWritten(name, Cells(cells)) }

// FromWritten makes a column from written cells. A column whose cells all parse as one type has that type; else it
// is text. Numbers with a point are decimals when all numbers have the same count of decimals, else floats; an exponent
// makes them floats. A column of nulls alone is text.
func FromWritten(name string, cells Written) *Column {
	t := InferWritten(cells)
	column, err := fromTyped(name, cells, t)
	if err != nil { // cannot be: the inferred type takes every cell
		column, _ = fromTyped(name, cells, value.Type{Kind: value.Text}) // which a text does in any case
	}
	if t.Kind == value.Text {
		column.Note = unheldNote(name, cells)
	}
	return column
}

// unheldNote tells why a column of numbers is one of texts: one of them is larger than any type of number; "" for another column.
func unheldNote(name string, cells Written) string {
	at := -1
	for i := range cells.Len() {
		c := cells.Cell(i)
		_, plain := value.PlainNumber(c.Text)
		switch {
		case c.Null:
		case c.Literal:
			return ""
		case value.Unheld(c.Text):
			at = i
		case !plain:
			return ""
		}
	}
	if at < 0 {
		return ""
	}
	return fmt.Sprintf("the column %s is read as text: no type holds the number %.30s in its row %d", name, cells.Cell(at).Text, at+1)
}

// FromCellsTyped makes a column of a given type; the error names the first cell that is not of it, counted from 1.
// A decimal type without a scale takes the largest one that occurs.
func FromCellsTyped(name string, cells []Cell, t value.Type) (*Column, error) {
	return fromTyped(name, Cells(cells), t)
}

func fromTyped(name string, cells Written, t value.Type) (*Column, error) {
	if t.Kind == value.Decimal && t.Scale == 0 {
		t.Scale = largestScale(cells)
		if t.Scale == 0 {
			t.Kind = value.Int
		}
	}
	column := NewColumn(name, t, cells.Len())
	for i := range cells.Len() {
		c := cells.Cell(i)
		if c.Null {
			column.AppendNull()
			continue
		}
		if t.Kind == value.Text {
			column.AppendText(c.Text)
			continue
		}
		v, err := value.Parse(c.Text, t)
		if err != nil {
			return nil, fmt.Errorf("row %d: %w", i+1, err)
		}
		column.Append(v)
	}
	return column, nil
}

// candidates are the types that a written column may have, the narrowest first; numbers are apart.
var candidates = []value.Kind{value.Bool, value.Date, value.Timestamp, value.TimestampTZ, value.Time}

// Infer finds the type of written cells; see InferWritten.
func Infer(cells []Cell) value.Type { return InferWritten(Cells(cells)) }

// InferWritten finds the type of written cells.
func InferWritten(cells Written) value.Type {
	known := false
	for i := range cells.Len() {
		c := cells.Cell(i)
		if c.Literal {
			return value.Type{Kind: value.Text}
		}
		known = known || !c.Null
	}
	if !known {
		return value.Type{Kind: value.Text}
	}
	if t, ok := inferNumber(cells); ok {
		return t
	}
	for _, kind := range candidates {
		if all(cells, value.Type{Kind: kind}) {
			return value.Type{Kind: kind}
		}
	}
	return value.Type{Kind: value.Text}
}

func all(cells Written, t value.Type) bool {
	for i := range cells.Len() {
		c := cells.Cell(i)
		if c.Null {
			continue
		}
		if _, err := value.Parse(c.Text, t); err != nil {
			return false
		}
	}
	return true
}

func inferNumber(cells Written) (value.Type, bool) {
	kind, scale, first := value.Int, 0, true
	for i := range cells.Len() {
		c := cells.Cell(i)
		if c.Null {
			continue
		}
		decimals, ok := value.PlainNumber(c.Text)
		special := c.Text == "NaN" || c.Text == "Infinity" || c.Text == "-Infinity"
		if !ok && !special {
			return value.Type{}, false
		}
		switch {
		case special || decimals < 0 || !first && decimals != scale:
			kind = value.Float
		case decimals > 0 && kind != value.Float:
			kind = value.Decimal
		}
		scale, first = max(scale, decimals), false
	}
	if kind != value.Decimal {
		scale = 0
	}
	return value.Type{Kind: kind, Scale: scale}, true
}

func largestScale(cells Written) int {
	scale := 0
	for i := range cells.Len() {
		c := cells.Cell(i)
		if _, frac, ok := strings.Cut(c.Text, "."); ok && !c.Null {
			scale = max(scale, len(frac))
		}
	}
	return scale
}

// Ragged says that a row has another number of cells than the header.
type Ragged struct{ Row, Cells, Columns int }

func (e *Ragged) Error() string {
	return fmt.Sprintf("row %d has %d cells where there are %d columns", e.Row, e.Cells, e.Columns)
}

// FromRows makes a table from names and rows of written cells. The error is *Ragged for a row of another length.
func FromRows(names []string, rows [][]Cell) (*Table, error) {
	t := &Table{}
	for i, row := range rows {
		if len(row) != len(names) {
			return nil, &Ragged{i + 1, len(row), len(names)}
		}
	}
	for c, name := range names {
		cells := make([]Cell, len(rows))
		for r, row := range rows {
			cells[r] = row[c]
		}
		t.Columns = append(t.Columns, FromCells(name, cells))
	}
	return t, nil
}

// CellFromJSON reads one JSON value as a written cell: null, numbers and booleans by their literal, strings as
// literal text, lists and objects as their JSON text.
func CellFromJSON(raw json.RawMessage) Cell {
	raw = bytes.TrimSpace(raw)
	switch {
	case len(raw) == 0 || string(raw) == "null":
		return Cell{Null: true}
	case raw[0] == '"':
		var s string
		if json.Unmarshal(raw, &s) != nil {
			s = string(raw)
		}
		return Cell{Text: s, Literal: true}
	case raw[0] == '{' || raw[0] == '[':
		var b bytes.Buffer
		if json.Compact(&b, raw) != nil {
			return Cell{Text: string(raw), Literal: true}
		}
		return Cell{Text: b.String(), Literal: true}
	}
	text := string(raw)
	if strings.HasPrefix(text, "-0") && strings.Trim(text, "-0.") == "" {
		text = strconv.Itoa(0) // -0 is 0
	}
	return Cell{Text: text}
}

// jsonTable is {"columns": [name or {"name", "type"}], "rows": [[…]]}.
type jsonTable struct {
	Columns []json.RawMessage   `json:"columns"`
	Rows    [][]json.RawMessage `json:"rows"`
}

// FromJSON reads {"columns": [...], "rows": [[...]]}; a column is a name, or a name with the type that MarshalJSON
// wrote. Without types they are inferred. It errs where that is no such object, or a row has other cells than there are columns.
func FromJSON(body []byte) (*Table, error) {
	var doc jsonTable
	decoder := json.NewDecoder(bytes.NewReader(body))
	if err := decoder.Decode(&doc); err != nil {
		return nil, fmt.Errorf(`not a table of the form {"columns": [...], "rows": [[...]]}: %w`, err)
	}
	if doc.Columns == nil {
		return nil, fmt.Errorf(`no "columns" in the table; write {"columns": ["a"], "rows": [[1]]}`)
	}
	t := &Table{}
	for r, row := range doc.Rows {
		if len(row) != len(doc.Columns) {
			return nil, &Ragged{r + 1, len(row), len(doc.Columns)}
		}
	}
	for c, raw := range doc.Columns {
		cells := make([]Cell, len(doc.Rows))
		for r, row := range doc.Rows {
			cells[r] = CellFromJSON(row[c])
		}
		column, err := columnFromJSON(raw, cells)
		if err != nil {
			return nil, fmt.Errorf("column %d: %w", c+1, err)
		}
		t.Columns = append(t.Columns, column)
	}
	return t, nil
}

func columnFromJSON(raw json.RawMessage, cells []Cell) (*Column, error) {
	var name string
	if json.Unmarshal(raw, &name) == nil {
		return FromCells(name, cells), nil
	}
	var head ColumnHead
	if err := json.Unmarshal(raw, &head); err != nil {
		return nil, fmt.Errorf(`neither a name nor {"name", "type"}: %w`, err)
	}
	kind, ok := value.KindNamed(head.Type)
	if !ok {
		return FromCells(head.Name, cells), nil
	}
	if column, err := FromCellsTyped(head.Name, cells, value.Type{Kind: kind}); err == nil {
		return column, nil
	}
	return FromCells(head.Name, cells), nil // a kind without a written form, such as an interval
}
