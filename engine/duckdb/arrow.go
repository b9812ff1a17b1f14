package duckdb

import (
	"encoding/json"
	"fmt"
	"math/big"
	"strings"

	"github.com/apache/arrow-go/v18/arrow"
	"github.com/apache/arrow-go/v18/arrow/array"

	"tovrel/core/table"
	"tovrel/core/value"
)

// column says how a result column's arrays become cells.
type column struct {
	name  string
	typ   value.Type
	scale int64 // what a tick of a time or timestamp is in nanoseconds
}

func columnsOf(schema *arrow.Schema) ([]column, error) {
	columns := make([]column, schema.NumFields())
	for i, f := range schema.Fields() {
		t, unit := typeOf(f.Type)
		columns[i] = column{f.Name, t, unit}
	}
	return columns, nil
}

var units = map[arrow.TimeUnit]int64{arrow.Second: 1e9, arrow.Millisecond: 1e6, arrow.Microsecond: 1e3, arrow.Nanosecond: 1}

func typeOf(t arrow.DataType) (value.Type, int64) {
	switch x := t.(type) {
	case *arrow.Decimal128Type:
		if x.Scale == 0 { // sums of integers come as 128-bit numbers
			return value.Type{Kind: value.Int}, 0
		}
		return value.Type{Kind: value.Decimal, Scale: int(x.Scale)}, 0
	case *arrow.TimestampType:
		if x.TimeZone != "" {
			return value.Type{Kind: value.TimestampTZ}, units[x.Unit]
		}
		return value.Type{Kind: value.Timestamp}, units[x.Unit]
	case *arrow.Time64Type:
		return value.Type{Kind: value.Time}, units[x.Unit]
	case *arrow.Time32Type:
		return value.Type{Kind: value.Time}, units[x.Unit]
	}
	switch t.ID() {
	case arrow.BOOL:
		return value.Type{Kind: value.Bool}, 0
	case arrow.INT8, arrow.INT16, arrow.INT32, arrow.INT64, arrow.UINT8, arrow.UINT16, arrow.UINT32, arrow.UINT64:
		return value.Type{Kind: value.Int}, 0
	case arrow.FLOAT32, arrow.FLOAT64:
		return value.Type{Kind: value.Float}, 0
	case arrow.DATE32:
		return value.Type{Kind: value.Date}, 0
	case arrow.INTERVAL_MONTH_DAY_NANO:
		return value.Type{Kind: value.Interval}, 0
	case arrow.BINARY, arrow.LARGE_BINARY, arrow.FIXED_SIZE_BINARY:
		return value.Type{Kind: value.Blob}, 0
	case arrow.LIST, arrow.LARGE_LIST, arrow.FIXED_SIZE_LIST, arrow.STRUCT, arrow.MAP, arrow.DENSE_UNION, arrow.SPARSE_UNION:
		return value.Type{Kind: value.JSON}, 0
	}
	return value.Type{Kind: value.Text}, 0
}

// batchOf copies a record batch into a table; nil gives the columns without rows.
func batchOf(columns []column, batch arrow.RecordBatch) *table.Table {
	t := &table.Table{}
	for i, c := range columns {
		room := 0
		if batch != nil {
			room = int(batch.NumRows())
		}
		out := table.NewColumn(c.name, c.typ, room)
		if batch != nil {
			fill(out, batch.Column(i), c.scale)
		}
		t.Columns = append(t.Columns, out)
	}
	return t
}

func fill(out *table.Column, a arrow.Array, unit int64) {
	for row := range a.Len() {
		if a.IsNull(row) || a.DataType().ID() == arrow.NULL {
			out.AppendNull()
			continue
		}
		appendCell(out, a, row, unit)
	}
}

func appendCell(out *table.Column, a arrow.Array, row int, unit int64) {
	if n, ok := small(a, row); ok {
		out.AppendInt(n)
		return
	}
	switch x := a.(type) {
	case *array.Uint64:
		out.Append(value.OfBig(new(big.Int).SetUint64(x.Value(row))))
	case *array.Float64:
		out.AppendFloat(x.Value(row))
	case *array.Float32:
		out.AppendFloat(float64(x.Value(row)))
	case *array.Decimal128:
		out.Append(value.OfBigDecimal(x.Value(row).BigInt(), out.Type.Scale))
	case *array.Boolean:
		out.Append(value.OfBool(x.Value(row)))
	case *array.Date32:
		out.AppendInt(int64(x.Value(row)))
	case *array.Timestamp:
		out.AppendInt(micros(int64(x.Value(row)), unit))
	case *array.Time64:
		out.AppendInt(micros(int64(x.Value(row)), unit))
	case *array.Time32:
		out.AppendInt(micros(int64(x.Value(row)), unit))
	case *array.MonthDayNanoInterval:
		v := x.Value(row)
		out.Append(value.OfInterval(v.Months, v.Days, v.Nanoseconds/1000))
	case *array.String:
		out.AppendText(strings.Clone(x.Value(row)))
	case *array.LargeString:
		out.AppendText(strings.Clone(x.Value(row)))
	case *array.Binary:
		out.AppendText(string(x.Value(row)))
	case *array.Dictionary:
		appendCell(out, x.Dictionary(), x.GetValueIndex(row), unit)
	default:
		appendOther(out, a, row)
	}
}

// small is a whole number of at most 64 bits; false for a cell of another kind.
func small(a arrow.Array, row int) (int64, bool) {
	switch x := a.(type) {
	case *array.Int64:
		return x.Value(row), true
	case *array.Int32:
		return int64(x.Value(row)), true
	case *array.Int16:
		return int64(x.Value(row)), true
	case *array.Int8:
		return int64(x.Value(row)), true
	case *array.Uint32:
		return int64(x.Value(row)), true
	case *array.Uint16:
		return int64(x.Value(row)), true
	case *array.Uint8:
		return int64(x.Value(row)), true
	}
	return 0, false
}

// micros brings a tick of so many nanoseconds to microseconds; infinite times stay as they are.
func micros(tick, unit int64) int64 {
	const infinite = 1<<63 - 1
	switch {
	case tick == infinite || tick == -infinite || unit == 1e3:
		return tick
	case unit < 1e3:
		return tick / (1e3 / unit)
	}
	return tick * (unit / 1e3)
}

// appendOther writes a list, struct or map as JSON, and anything else as its text.
func appendOther(out *table.Column, a arrow.Array, row int) {
	if out.Type.Kind != value.JSON {
		out.AppendText(a.ValueStr(row))
		return
	}
	b, err := json.Marshal(a.GetOneForMarshal(row))
	if err != nil {
		b = fmt.Appendf(nil, "%q", a.ValueStr(row))
	}
	out.AppendText(string(b))
}
