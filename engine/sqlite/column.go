package sqlite

import (
	"fmt"
	"strconv"
	"strings"
	"time"

	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/engine"
)

// column gathers the cells of a result column, each of a type of its own.
type column struct {
	name     string
	declared string // type in the schema; "" for an expression
	cell     any    // the present row's
	cells    []any
	kinds    map[value.Kind]bool
}

// keep stores the present cell and gives its size in bytes.
func (c *column) keep() int64 {
	size := int64(24)
	if c.kinds == nil {
		c.kinds = map[value.Kind]bool{}
	}
	switch x := c.cell.(type) {
	case nil:
	case int64:
		c.kinds[value.Int] = true
	case float64:
		c.kinds[value.Float] = true
	case bool:
		c.kinds[value.Bool] = true
	case time.Time:
		c.kinds[c.temporal()] = true
	case []byte:
		c.kinds[value.Blob] = true
		c.cell = append([]byte(nil), x...)
		size += int64(len(x))
	case string:
		c.kinds[value.Text] = true
		size += int64(len(x))
	}
	c.cells = append(c.cells, c.cell)
	return size
}

// temporal is what a column that is declared as a date or time holds.
func (c *column) temporal() value.Kind {
	if strings.EqualFold(c.declared, "DATE") {
		return value.Date
	}
	return value.Timestamp
}

// kind is the narrowest kind that all cells have; text where they have none in common.
func (c *column) kind() value.Kind {
	if len(c.kinds) == 2 && c.kinds[value.Int] && c.kinds[value.Float] {
		return value.Float
	}
	if len(c.kinds) == 1 {
		for k := range c.kinds {
			return k
		}
	}
	return value.Text
}

// typed is the column under its kind.
func (c *column) typed() *table.Column {
	kind := c.kind()
	out := table.NewColumn(c.name, value.Type{Kind: kind}, len(c.cells))
	for _, cell := range c.cells {
		if cell == nil {
			out.AppendNull()
			continue
		}
		out.Append(cellOf(cell, kind))
	}
	return out
}

func cellOf(cell any, kind value.Kind) value.Value {
	switch x := cell.(type) {
	case int64:
		if kind == value.Float {
			return value.OfFloat(float64(x))
		}
		if kind == value.Int {
			return value.OfInt(x)
		}
	case float64:
		if kind == value.Float {
			return value.OfFloat(x)
		}
	case bool:
		if kind == value.Bool {
			return value.OfBool(x)
		}
	case []byte:
		if kind == value.Blob {
			return value.OfBlob(string(x))
		}
		return value.OfText(string(x))
	case time.Time:
		switch kind {
		case value.Date:
			return value.OfDate(floorDiv(x.Unix(), 86400))
		case value.Timestamp:
			return value.OfTimestamp(x.UnixMicro())
		}
	}
	return value.OfText(asText(cell))
}

func floorDiv(a, b int64) int64 {
	q := a / b
	if a%b < 0 {
		q--
	}
	return q
}

func asText(cell any) string {
	switch x := cell.(type) {
	case float64:
		return strconv.FormatFloat(x, 'g', -1, 64)
	case time.Time:
		return x.UTC().Format("2006-01-02 15:04:05")
	}
	return fmt.Sprint(cell)
}

func resultTooLarge(limits engine.Limits) string {
	return fmt.Sprintf("the result is larger than %d MB (limits: result)", limits.Result>>20)
}
