package match

import (
	"cmp"
	"encoding/binary"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/zeebo/xxh3"

	"tovrel/core/table"
	"tovrel/core/value"
)

// digestDigits is to how many digits floats count in a digest: sums in another order differ in the last of their sixteen.
const digestDigits = 10

// Digest is a short text that two tables share when they say the same under rules: whatever their columns are called and in whichever
// order they and, unless order is strict, the rows stand. It serves where tables are too large to be kept whole: tables that only a
// tolerance makes equal may have different ones.
func Digest(t *table.Table, rules Rules) string {
	strict := rules.get("order").Value == "strict"
	columns := make([]hashedColumn, len(t.Columns))
	for i, c := range t.Columns {
		columns[i] = hashColumn(c, rules)
	}
	slices.SortStableFunc(columns, func(a, b hashedColumn) int { return cmp.Compare(a.whole, b.whole) })
	sum := uint64(t.Rows())
	var row []byte
	for r := range t.Rows() {
		row = row[:0]
		for _, c := range columns {
			row = binary.LittleEndian.AppendUint64(row, c.cells[r])
		}
		if strict {
			row = binary.LittleEndian.AppendUint64(row, uint64(r))
		}
		sum += xxh3.Hash(row) // rows are a multiset
	}
	return strconv.FormatInt(int64(len(columns)), 10) + "-" + strconv.FormatUint(sum, 16)
}

// hashedColumn is a column's cells as hashes, and a hash of all of them whatever their order.
type hashedColumn struct {
	cells []uint64
	whole uint64
}

func hashColumn(c *table.Column, rules Rules) hashedColumn {
	folded, zero := rules.column(c.Name, "text").Value == "fold", rules.column(c.Name, "null").Value == "zero"
	h := hashedColumn{cells: make([]uint64, c.Len())}
	for row := range c.Len() {
		h.cells[row] = xxh3.HashString(digestText(c.Value(row), folded, zero))
		h.whole += h.cells[row]
	}
	return h
}

// digestText is a cell as it counts in a digest: numbers by their value, whatever their type.
func digestText(v value.Value, folded, zero bool) string {
	switch {
	case v.IsNull() && zero:
		return "0"
	case v.IsNull():
		return "\x00"
	case v.Kind().Number():
		f, _ := v.Float64()
		if f == 0 || math.IsNaN(f) {
			f = math.Abs(f) // -0 is 0
		}
		return strconv.FormatFloat(f, 'g', digestDigits, 64)
	case v.Kind() == value.Text && folded:
		return foldText(v.Str())
	case v.Kind() == value.Text:
		return strings.TrimSpace(v.Str())
	}
	return v.String()
}
