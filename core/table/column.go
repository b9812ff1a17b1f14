package table

import (
	"tovrel/core/value"
)

// Column is a named, typed vector of cells. Cells are kept in the narrowest vector that holds them all, so that
// a million rows stay small; a cell that does not fit moves the column to the wide vector.
type Column struct {
	Name string
	Type value.Type
	Note string // what its reader should know; "" for nothing

	rows   int
	nulls  []bool // nil while there is no null
	ints   []int64
	floats []float64
	texts  []string
	wide   []value.Value
	isWide bool
}

// NewColumn makes an empty column with room for a number of rows.
func NewColumn(name string, t value.Type, room int) *Column {
	c := &Column{Name: name, Type: t}
	switch c.store() {
	case storeInts:
		c.ints = make([]int64, 0, room)
	case storeFloats:
		c.floats = make([]float64, 0, room)
	case storeTexts:
		c.texts = make([]string, 0, room)
	default:
		c.isWide = true
	}
	return c
}

type store uint8

const (
	storeWide store = iota
	storeInts
	storeFloats
	storeTexts
)

func (c *Column) store() store {
	if c.isWide {
		return storeWide
	}
	switch c.Type.Kind {
	case value.Bool, value.Int, value.Decimal, value.Date, value.Time, value.Timestamp, value.TimestampTZ:
		return storeInts
	case value.Float:
		return storeFloats
	case value.Text, value.Blob, value.JSON:
		return storeTexts
	}
	return storeWide
}

// Len is the number of cells.
func (c *Column) Len() int { return c.rows }

// Append adds a cell, which must be null or of the column's kind (decimals: and scale).
func (c *Column) Append(v value.Value) {
	if v.IsNull() {
		c.AppendNull()
		return
	}
	switch c.store() {
	case storeInts:
		i, ok := v.Small()
		if !ok {
			c.widen()
			c.wide = append(c.wide, v)
			break
		}
		c.ints = append(c.ints, i)
	case storeFloats:
		f, _ := v.Float64()
		c.floats = append(c.floats, f)
	case storeTexts:
		c.texts = append(c.texts, v.Str())
	default:
		c.wide = append(c.wide, v)
	}
	c.added(false)
}

// AppendNull adds a null.
func (c *Column) AppendNull() {
	switch c.store() {
	case storeInts:
		c.ints = append(c.ints, 0)
	case storeFloats:
		c.floats = append(c.floats, 0)
	case storeTexts:
		c.texts = append(c.texts, "")
	default:
		c.wide = append(c.wide, value.Value{})
	}
	c.added(true)
}

// AppendInt adds a cell by its 64-bit payload (see value.Value.Small).
func (c *Column) AppendInt(i int64) {
	if c.isWide {
		c.wide = append(c.wide, c.small(i))
	} else {
		c.ints = append(c.ints, i)
	}
	c.added(false)
}

// AppendFloat adds a cell to a float column.
func (c *Column) AppendFloat(f float64) {
	c.floats = append(c.floats, f)
	c.added(false)
}

// AppendText adds a cell to a text, blob or JSON column.
func (c *Column) AppendText(s string) {
	c.texts = append(c.texts, s)
	c.added(false)
}

func (c *Column) added(null bool) {
	if null && c.nulls == nil {
		c.nulls = make([]bool, c.rows, max(cap(c.ints), cap(c.floats), cap(c.texts), cap(c.wide)))
	}
	if c.nulls != nil {
		c.nulls = append(c.nulls, null)
	}
	c.rows++
}

// widen moves all cells to the wide vector.
func (c *Column) widen() {
	wide := make([]value.Value, c.rows, c.rows+1)
	for i := range wide {
		wide[i] = c.Value(i)
	}
	c.wide, c.isWide, c.ints = wide, true, nil
}

// IsNull tells whether the cell of a row (from 0) is null.
func (c *Column) IsNull(row int) bool { return c.nulls != nil && c.nulls[row] }

// Value is the cell of a row, counted from 0.
func (c *Column) Value(row int) value.Value {
	if c.IsNull(row) {
		return value.Value{}
	}
	switch c.store() {
	case storeInts:
		return c.small(c.ints[row])
	case storeFloats:
		return value.OfFloat(c.floats[row])
	case storeTexts:
		return c.textual(c.texts[row])
	}
	return c.wide[row]
}

func (c *Column) small(i int64) value.Value {
	switch c.Type.Kind {
	case value.Bool:
		return value.OfBool(i != 0)
	case value.Decimal:
		return value.OfDecimal(i, c.Type.Scale)
	case value.Date:
		return value.OfDate(i)
	case value.Time:
		return value.OfTime(i)
	case value.Timestamp:
		return value.OfTimestamp(i)
	case value.TimestampTZ:
		return value.OfTimestampTZ(i)
	}
	return value.OfInt(i)
}

func (c *Column) textual(s string) value.Value {
	switch c.Type.Kind {
	case value.Blob:
		return value.OfBlob(s)
	case value.JSON:
		return value.OfJSON(s)
	}
	return value.OfText(s)
}

// Nulls tells of each cell whether it is null; nil where none is. The caller must not change it.
func (c *Column) Nulls() []bool { return c.nulls }

// Ints gives the cells' own vector of 64-bit payloads (null cells hold zero), or nil where the column has another. The
// caller must not change it.
func (c *Column) Ints() []int64 {
	if c.store() != storeInts {
		return nil
	}
	return c.ints
}

// Floats is the vector of a float column; see Ints.
func (c *Column) Floats() []float64 { return c.floats }

// Texts is the vector of a text, blob or JSON column; see Ints.
func (c *Column) Texts() []string { return c.texts }
