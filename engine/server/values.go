package server

import (
	"fmt"
	"math"
	"strconv"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/table"
	"tovrel/core/value"
	"tovrel/engine"
)

// Reader gathers the rows of a result, which come as texts, and stops one that grows too large.
type Reader struct {
	Names  []string
	Kinds  []value.Kind
	limits engine.Limits
	cells  [][]table.Cell
	rows   int
	bytes  int64
}

// NewReader makes one for columns of some kinds.
func NewReader(names []string, kinds []value.Kind, limits engine.Limits) *Reader {
	return &Reader{Names: names, Kinds: kinds, limits: limits, cells: make([][]table.Cell, len(names))}
}

// Add takes a row over; a nil cell is null. The error is *engine.Failure where the result is too large.
func (r *Reader) Add(row [][]byte) error {
	const cellSize = 40 // bytes that a cell takes beside its text
	for i, c := range row {
		r.bytes += int64(len(c)) + cellSize
		r.cells[i] = append(r.cells[i], table.Cell{Text: string(c), Null: c == nil})
	}
	if r.rows++; r.rows > r.limits.Rows {
		return &engine.Failure{Code: fault.TooBig, Message: fmt.Sprintf("the result has more than %d rows (limits: rows)", r.limits.Rows),
			Position: -1}
	}
	if r.bytes > r.limits.Result {
		return &engine.Failure{Code: fault.TooBig, Message: fmt.Sprintf("the result is larger than %d MB (limits: result)",
			r.limits.Result>>20), Position: -1}
	}
	return nil
}

// Table is the result. A column with a cell that its kind cannot hold, such as a day without end, is one of texts.
func (r *Reader) Table() *table.Table {
	t := &table.Table{}
	for i, name := range r.Names {
		c, err := r.column(name, i)
		if err != nil {
			c, _ = table.FromCellsTyped(name, r.cells[i], value.Type{Kind: value.Text}) // which takes any text
		}
		t.Columns = append(t.Columns, c)
	}
	return t
}

func (r *Reader) column(name string, i int) (*table.Column, error) {
	kind := r.Kinds[i]
	switch kind {
	case value.Interval:
		return intervals(name, r.cells[i])
	case value.Blob, value.JSON:
		c := table.NewColumn(name, value.Type{Kind: kind}, r.rows)
		for _, cell := range r.cells[i] {
			if cell.Null {
				c.AppendNull()
			} else {
				c.AppendText(cell.Text)
			}
		}
		return c, nil
	case value.Bool:
		words := map[string]string{"t": "true", "f": "false"}
		for k, cell := range r.cells[i] {
			if word := words[cell.Text]; word != "" {
				r.cells[i][k].Text = word
			}
		}
	case value.Decimal:
		for _, cell := range r.cells[i] {
			if strings.EqualFold(cell.Text, "nan") || strings.Contains(strings.ToLower(cell.Text), "inf") {
				kind = value.Float
			}
		}
	}
	return table.FromCellsTyped(name, r.cells[i], value.Type{Kind: kind})
}

// intervals reads "1 year 2 mons 3 days 04:05:06.5", or a time of day that may be negative or have more than a day's hours.
func intervals(name string, cells []table.Cell) (*table.Column, error) {
	c := table.NewColumn(name, value.Type{Kind: value.Interval}, len(cells))
	for _, cell := range cells {
		if cell.Null {
			c.AppendNull()
			continue
		}
		v, err := Interval(cell.Text)
		if err != nil {
			return nil, err
		}
		c.Append(v)
	}
	return c, nil
}

// Float writes a number of some bits as Reader reads it.
func Float(x float64, bits int) string {
	if math.IsInf(x, 0) {
		return map[bool]string{true: "-Infinity", false: "Infinity"}[x < 0]
	}
	return strconv.FormatFloat(x, 'g', -1, bits)
}

// Interval reads an interval as servers write it. It errs where the text is none.
func Interval(text string) (value.Value, error) {
	var months, days int32
	var micros int64
	fields := strings.Fields(text)
	for i := 0; i < len(fields); i++ {
		if strings.Contains(fields[i], ":") {
			us, err := clock(fields[i])
			if err != nil {
				return value.Value{}, err
			}
			micros += us
			continue
		}
		n, err := strconv.ParseInt(fields[i], 10, 32)
		if err != nil || i+1 == len(fields) {
			return value.Value{}, fmt.Errorf("%q is no interval", text)
		}
		i++
		switch unit := strings.TrimSuffix(fields[i], "s"); unit {
		case "year":
			months += 12 * int32(n)
		case "mon":
			months += int32(n)
		case "day":
			days += int32(n)
		default:
			return value.Value{}, fmt.Errorf("%q is no interval", text)
		}
	}
	return value.OfInterval(months, days, micros), nil
}

// clock reads [-]hours:minutes:seconds[.fraction] as microseconds.
func clock(text string) (int64, error) {
	negative := strings.HasPrefix(text, "-")
	parts := strings.Split(strings.TrimLeft(text, "+-"), ":")
	if len(parts) != 3 {
		return 0, fmt.Errorf("%q is no time", text)
	}
	hours, err := strconv.ParseInt(parts[0], 10, 64)
	minutes, second := strconv.ParseInt(parts[1], 10, 64)
	seconds, third := strconv.ParseFloat(parts[2], 64)
	if err != nil || second != nil || third != nil {
		return 0, fmt.Errorf("%q is no time", text)
	}
	const second1, minute1, hour1 = 1_000_000, 60_000_000, 3_600_000_000
	us := hours*hour1 + minutes*minute1 + int64(seconds*second1+0.5)
	if negative {
		us = -us
	}
	return us, nil
}
