package engine

import (
	"encoding/binary"
	"errors"
	"math"
	"math/big"

	"tovrel/core/table"
	"tovrel/core/value"
)

// A batch is a count of rows, then each column: a byte that says how its cells are written, and its cells, each behind a
// byte that is 0 for null.
const (
	cellsInts byte = iota
	cellsFloats
	cellsTexts
	cellsWide
)

func encodeBatch(t *table.Table) []byte {
	b := binary.LittleEndian.AppendUint32(nil, uint32(t.Rows()))
	for _, c := range t.Columns {
		b = encodeColumn(b, c)
	}
	return b
}

func encodeColumn(b []byte, c *table.Column) []byte {
	ints, floats, texts := c.Ints(), c.Floats(), c.Texts()
	form := cellsWide
	switch {
	case ints != nil:
		form = cellsInts
	case floats != nil:
		form = cellsFloats
	case texts != nil:
		form = cellsTexts
	}
	b = append(b, form)
	for row := range c.Len() {
		if c.IsNull(row) {
			b = append(b, 0)
			continue
		}
		b = append(b, 1)
		switch form {
		case cellsInts:
			b = binary.LittleEndian.AppendUint64(b, uint64(ints[row]))
		case cellsFloats:
			b = binary.LittleEndian.AppendUint64(b, math.Float64bits(floats[row]))
		case cellsTexts:
			b = binary.LittleEndian.AppendUint32(b, uint32(len(texts[row])))
			b = append(b, texts[row]...)
		default:
			b = encodeWide(b, c.Value(row))
		}
	}
	return b
}

// encodeWide writes an interval by its parts and a number of any size by its digits.
func encodeWide(b []byte, v value.Value) []byte {
	if v.Kind() == value.Interval {
		months, days, us := v.IntervalParts()
		b = binary.LittleEndian.AppendUint32(b, uint32(months))
		b = binary.LittleEndian.AppendUint32(b, uint32(days))
		return binary.LittleEndian.AppendUint64(b, uint64(us))
	}
	digits := ""
	if unscaled, _ := v.Unscaled(); unscaled != nil {
		digits = unscaled.String()
	}
	b = binary.LittleEndian.AppendUint32(b, uint32(len(digits)))
	return append(b, digits...)
}

var errBatch = errors.New("the worker sent a broken batch")

// batchReader takes a batch apart; after the first short read all others give zero and bad is set.
type batchReader struct {
	b   []byte
	bad bool
}

func (r *batchReader) take(n int) []byte {
	if n < 0 || n > len(r.b) {
		r.bad = true
		r.b = nil
		return make([]byte, min(max(n, 0), 8))
	}
	head := r.b[:n]
	r.b = r.b[n:]
	return head
}

func (r *batchReader) byte() byte     { return r.take(1)[0] }
func (r *batchReader) uint32() uint32 { return binary.LittleEndian.Uint32(r.take(4)) }
func (r *batchReader) uint64() uint64 { return binary.LittleEndian.Uint64(r.take(8)) }

// decodeBatch appends a batch's rows to a table.
func decodeBatch(t *table.Table, body []byte) error {
	r := &batchReader{b: body}
	rows := int(r.uint32())
	for _, c := range t.Columns {
		form := r.byte()
		if !fits(form, c.Type.Kind) {
			return errBatch
		}
		for range rows {
			if r.bad {
				return errBatch
			}
			if r.byte() == 0 {
				c.AppendNull()
				continue
			}
			r.cell(c, form)
		}
	}
	if r.bad {
		return errBatch
	}
	return nil
}

// fits tells whether a column's cells can be written in a form.
func fits(form byte, kind value.Kind) bool {
	switch form {
	case cellsInts:
		return kind == value.Bool || kind == value.Int || kind == value.Decimal || kind.Temporal()
	case cellsFloats:
		return kind == value.Float
	case cellsTexts:
		return kind == value.Text || kind == value.Blob || kind == value.JSON
	}
	return form == cellsWide
}

func (r *batchReader) cell(c *table.Column, form byte) {
	switch form {
	case cellsInts:
		c.AppendInt(int64(r.uint64()))
	case cellsFloats:
		c.AppendFloat(math.Float64frombits(r.uint64()))
	case cellsTexts:
		c.AppendText(string(r.take(int(r.uint32()))))
	default:
		c.Append(r.wide(c.Type))
	}
}

func (r *batchReader) wide(t value.Type) value.Value {
	if t.Kind == value.Interval {
		months, days, us := int32(r.uint32()), int32(r.uint32()), int64(r.uint64())
		return value.OfInterval(months, days, us)
	}
	unscaled, ok := new(big.Int).SetString(string(r.take(int(r.uint32()))), 10)
	if !ok {
		r.bad = true
		return value.Value{}
	}
	return value.OfBigDecimal(unscaled, t.Scale)
}
