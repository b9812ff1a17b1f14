package table

import (
	"encoding/json"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/value"
)

func cells(texts ...string) []Cell {
	out := make([]Cell, len(texts))
	for i, s := range texts {
		out[i] = Cell{Text: s, Null: s == "∅", Literal: strings.HasPrefix(s, "'")}
		out[i].Text = strings.TrimPrefix(s, "'")
	}
	return out
}

// TestInfer holds which type written cells have: the narrowest that takes all of them.
func TestInfer(t *testing.T) {
	for _, c := range []struct {
		cells []Cell
		want  string
		scale int
	}{
		{cells("1", "2", "∅"), "integer", 0},
		{cells("1.50", "2.25"), "decimal", 2},
		{cells("1.5", "2.25"), "float", 0}, // unlike decimals: measured, not counted
		{cells("1", "2.5"), "float", 0},
		{cells("1e3", "2"), "float", 0},
		{cells("NaN", "1"), "float", 0},
		{cells("-Infinity"), "float", 0},
		{cells("007", "008"), "text", 0}, // codes
		{cells("1", "x"), "text", 0},
		{cells("'1", "2"), "text", 0}, // certainly a text
		{cells("true", "FALSE", "∅"), "boolean", 0},
		{cells("true", "1"), "text", 0},
		{cells("2031-06-30", "2031-07-01"), "date", 0},
		{cells("2031-06-30", "2031-06-31"), "text", 0},
		{cells("2031-06-30 10:00", "2031-06-30T10:00:01"), "timestamp", 0},
		{cells("2031-06-30 10:00Z"), "timestamptz", 0},
		{cells("10:00", "23:59:59"), "time", 0},
		{cells("∅", "∅"), "text", 0},
		{cells(), "text", 0},
		{cells(""), "text", 0},
		{cells("1e400", "2"), "text", 0},
	} {
		got := Infer(c.cells)
		require.Equal(t, c.want, got.Kind.String(), "%v", c.cells)
		require.Equal(t, c.scale, got.Scale, "%v", c.cells)
	}
}

// TestInferTakesAll: a column of the inferred type holds every cell, in whatever order the cells stand; its values are written as they were
// where they are whole numbers, decimals of one scale or texts.
func TestInferTakesAll(t *testing.T) {
	one := rapid.SampledFrom([]string{"∅", "1", "-5", "2.50", "0.25", "1.5", "1e3", "true", "2031-06-30", "2031-06-30 10:00", "x", "",
		"NaN", "1e400"})
	rapid.Check(t, func(t *rapid.T) {
		texts := rapid.SliceOfN(one, 0, 6).Draw(t, "cells")
		written := cells(texts...)
		column := FromCells("c", written)
		require.Equal(t, len(texts), column.Len())
		for i, c := range written {
			require.Equal(t, c.Null, column.IsNull(i), "%v", texts)
			if c.Null {
				continue
			}
			if kind := column.Type.Kind; kind == value.Text || kind == value.Int || kind == value.Decimal {
				require.Equal(t, c.Text, column.Value(i).String(), "%v", texts)
			}
		}
		reversed := make([]Cell, len(written))
		for i, c := range written {
			reversed[len(written)-1-i] = c
		}
		require.Equal(t, column.Type, FromCells("c", reversed).Type, "%v: the order of the cells does not count", texts)
	})
}

// TestUnheldNote: a column of numbers that is a text says why, and where.
func TestUnheldNote(t *testing.T) {
	require.Equal(t, "the column size is read as text: no type holds the number 1e400 in its row 3", FromCells("size", cells("1", "∅",
		"1e400")).Note)
	require.Empty(t, FromCells("size", cells("1", "x", "1e400")).Note, "a text stands beside it")
	require.Empty(t, FromCells("size", cells("'1", "1e400")).Note)
	require.Empty(t, FromCells("size", cells("1", "2")).Note)
}

func TestFromCellsTyped(t *testing.T) {
	column, err := FromCellsTyped("c", cells("1.5", "2.25", "∅"), value.Type{Kind: value.Decimal})
	require.NoError(t, err)
	require.Equal(t, value.Type{Kind: value.Decimal, Scale: 2}, column.Type, "the largest scale that occurs")
	require.Equal(t, "1.50", column.Value(0).String())
	require.True(t, column.IsNull(2))
	column, err = FromCellsTyped("c", cells("1", "2"), value.Type{Kind: value.Decimal})
	require.NoError(t, err)
	require.Equal(t, value.Int, column.Type.Kind, "decimals without decimals are whole numbers")
	_, err = FromCellsTyped("c", cells("1", "∅", "x"), value.Type{Kind: value.Int})
	require.EqualError(t, err, `row 3: "x" is not of type integer`)
	column, err = FromCellsTyped("c", cells("1", "007"), value.Type{Kind: value.Text})
	require.NoError(t, err)
	require.Equal(t, "007", column.Value(1).String())
}

func TestFromRows(t *testing.T) {
	table, err := FromRows([]string{"a", "b"}, [][]Cell{cells("1", "x"), cells("2", "∅")})
	require.NoError(t, err)
	require.Equal(t, []string{"a", "b"}, table.Names())
	require.Equal(t, 2, table.Rows())
	require.Equal(t, []ColumnHead{{"a", "integer"}, {"b", "text"}}, table.Heads())
	require.Equal(t, []value.Value{value.OfInt(2), {}}, table.Row(1))
	_, err = FromRows([]string{"a", "b"}, [][]Cell{cells("1", "x"), cells("2")})
	require.EqualError(t, err, "row 2 has 1 cells where there are 2 columns")
	var ragged *Ragged
	require.ErrorAs(t, err, &ragged)
	require.Equal(t, Ragged{2, 1, 2}, *ragged)
	require.Zero(t, (*Table)(nil).Rows())
	require.Zero(t, (&Table{}).Rows())
}

// TestParts: the head and the rest of a table are the table.
func TestParts(t *testing.T) {
	rows := [][]Cell{}
	for i := range 7 {
		rows = append(rows, cells(fmt.Sprint(i), fmt.Sprintf("%d.5", i), "t", "∅"))
	}
	table, err := FromRows([]string{"i", "d", "s", "n"}, rows)
	require.NoError(t, err)
	for cut := -1; cut <= 8; cut++ {
		head, rest := table.Head(max(0, cut)), table.Rest(cut)
		at := min(max(cut, 0), 7)
		require.Equal(t, at, head.Rows())
		require.Equal(t, 7-at, rest.Rows())
		require.Equal(t, table.Heads(), head.Heads())
		require.Equal(t, table.Heads(), rest.Heads())
		for row := range 7 {
			if row < at {
				require.Equal(t, table.Row(row), head.Row(row))
			} else {
				require.Equal(t, table.Row(row), rest.Row(row-at))
			}
		}
	}
}

// anyColumn draws a column of one kind with nulls.
func anyColumn(t *rapid.T, name string, rows int) *Column {
	kind := rapid.SampledFrom([]value.Type{{Kind: value.Bool}, {Kind: value.Int}, {Kind: value.Decimal, Scale: 3}, {Kind: value.Float},
		{Kind: value.Text},
		{Kind: value.Date}, {Kind: value.Time}, {Kind: value.Timestamp}, {Kind: value.TimestampTZ}, {Kind: value.Blob}}).Draw(t, "kind")
	column := NewColumn(name, kind, rows)
	for range rows {
		n := rapid.Int64Range(-40_000, 40_000).Draw(t, "n")
		if n%5 == 0 {
			column.AppendNull()
			continue
		}
		column.Append(map[value.Kind]value.Value{
			value.Bool: value.OfBool(n > 0), value.Int: value.OfInt(n * 1_000_003 * 1_000_003), value.Decimal: value.OfDecimal(n, 3),
			value.Float: value.OfFloat(float64(n) / 7), value.Text: value.OfText(fmt.Sprint("é\"\n", n)), value.Date: value.OfDate(n),
			value.Time: value.OfTime(max(n, -n) * 1_000_001), value.Timestamp: value.OfTimestamp(n * 3_600_000_001),
			value.TimestampTZ: value.OfTimestampTZ(n * 3_600_000_001), value.Blob: value.OfBlob(fmt.Sprint("\x00", n)),
		}[kind.Kind])
	}
	return column
}

// TestJSONRoundTrip: a table that is written is read back as the same, types and all.
func TestJSONRoundTrip(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		rows := rapid.IntRange(0, 5).Draw(t, "rows")
		table := &Table{}
		for i := range rapid.IntRange(1, 4).Draw(t, "columns") {
			table.Columns = append(table.Columns, anyColumn(t, fmt.Sprint("c", i%2), rows)) // names may repeat
		}
		body, err := json.Marshal(table)
		require.NoError(t, err)
		require.True(t, json.Valid(body))
		back, err := FromJSON(body)
		require.NoError(t, err)
		require.Equal(t, table.Names(), back.Names())
		for i, c := range table.Columns {
			filled := slices.Contains(c.Nulls(), false) || c.Nulls() == nil && rows > 0
			if c.Type.Kind != value.Decimal || filled { // what tells decimals from whole numbers is their point
				require.Equal(t, c.Type.Kind, back.Columns[i].Type.Kind, "%s", body)
			}
		}
		for row := range rows {
			for i, v := range table.Row(row) {
				require.Zero(t, value.Compare(v, back.Row(row)[i]), "%s: %s became %s", body, v, back.Row(row)[i])
			}
		}
	})
}

// TestFromJSON holds tables as translators write them, and what is refused.
func TestFromJSON(t *testing.T) {
	for _, c := range []struct{ body, want string }{
		{`{"columns": ["a", "b"], "rows": [[1, "x"], [null, "1"]]}`, "a integer, b text: 1 x; NULL 1;"},
		{`{"columns": ["a"], "rows": [[1.5], [2.25]]}`, "a float: 1.5; 2.25;"},
		{`{"columns": ["a"], "rows": [["2031-06-30"]]}`, "a text: 2031-06-30;"}, // a text that looks like a date stays one
		{`{"columns": ["a"], "rows": [[-0]]}`, "a integer: 0;"},
		{`{"columns": ["a"], "rows": [[[1, 2]], [{"k": 1}]]}`, `a text: [1,2]; {"k":1};`},
		{`{"columns": [{"name": "a", "type": "date"}], "rows": [["2031-06-30"]]}`, "a date: 2031-06-30;"},
		{`{"columns": ["a"], "rows": []}`, "a text:"},
		{`{"columns": [{"name": "a", "type": "date"}], "rows": [["x"]]}`, "a text: x;"}, // a type that its cells are not of
		{`{"columns": [{"name": "a", "type": "colour"}], "rows": [[1]]}`, "a integer: 1;"},
		{`{"columns": [], "rows": []}`, ":"},
		{`{"columns": ["a"]}`, "a text:"},
	} {
		table, err := FromJSON([]byte(c.body))
		require.NoError(t, err, c.body)
		require.Equal(t, c.want, told(table), c.body)
	}
	for body, message := range map[string]string{
		`{"rows": [[1]]}`:                     `no "columns" in the table`,
		`[1]`:                                 "not a table of the form",
		`{"columns": ["a"], "rows": [[1,2]]}`: "row 1 has 2 cells where there are 1 columns",
		`{"columns": ["a"], "rows": [1]}`:     "not a table of the form",
		``:                                    "not a table",
	} {
		_, err := FromJSON([]byte(body))
		require.ErrorContains(t, err, message, body)
	}
}

// told is a table in one line.
func told(t *Table) string {
	var heads []string
	for _, h := range t.Heads() {
		heads = append(heads, h.Name+" "+h.Type)
	}
	out := strings.Join(heads, ", ") + ":"
	for row := range t.Rows() {
		for _, v := range t.Row(row) {
			out += " " + v.String()
		}
		out += ";"
	}
	return out
}

// TestDisplay holds how many decimals people are shown.
func TestDisplay(t *testing.T) {
	floats := func(fs ...float64) *Column {
		c := NewColumn("f", value.Type{Kind: value.Float}, len(fs))
		for _, f := range fs {
			c.AppendFloat(f)
		}
		return c
	}
	for _, c := range []struct {
		column *Column
		want   int
	}{
		{floats(1.5, 2), 1}, {floats(1, 2), 0}, {floats(), 0}, {floats(math.NaN()), 0}, {floats(0), 0},
		{floats(1.0 / 3), 6}, {floats(100.0 / 3), 4}, {floats(123456.789), 2}, {floats(0.00012345678), 9}, {floats(0.25, 1000.125), 3},
		{FromCells("d", cells("1.50", "2.00")), 2}, {FromCells("i", cells("1")), 0},
	} {
		require.Equal(t, c.want, DisplayDecimals(c.column), "%v", c.column)
	}
	for _, c := range []struct {
		v        value.Value
		decimals int
		want     string
	}{
		{value.OfFloat(1.5), 3, "1.500"}, {value.OfFloat(2.0 / 3), 4, "0.6667"}, {value.OfInt(7), 0, "7"}, {value.OfInt(7), 2, "7.00"},
		{value.OfDecimal(-5, 2), 1, "0.0"}, {value.OfDecimal(125, 2), 1, "1.2"}, {value.OfFloat(math.NaN()), 2, "NaN"},
		{value.OfText("x"), 2, "x"},
		{value.OfDecimal(-15, 2), 1, "-0.2"},
	} {
		require.Equal(t, c.want, DisplayNumber(c.v, c.decimals), "%s to %d", c.v, c.decimals)
	}
}
