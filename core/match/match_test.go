package match_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/match"
	"tovrel/core/table"
)

// tableOf reads "a b / 1 2 / 3 4": columns, then rows; "_" is a blank cell, "-" is null.
func tableOf(text string) *table.Table {
	lines := strings.Split(text, "/")
	var rows [][]table.Cell
	for _, l := range lines[1:] {
		var row []table.Cell
		for c := range strings.FieldsSeq(l) {
			row = append(row, table.Cell{Text: strings.Trim(c, "_"), Null: c == "-"})
		}
		rows = append(rows, row)
	}
	t, err := table.FromRows(strings.Fields(lines[0]), rows)
	if err != nil {
		panic(err)
	}
	return t
}

func everything(n int) []bool {
	flags := make([]bool, n)
	for i := range flags {
		flags[i] = true
	}
	return flags
}

// cases are pairs of tables with the verdict and its reason.
var cases = []struct {
	reason           string
	expected, answer string
	rules            string
	written          bool // the expected numbers are rounded
	ranking          string
	want             string // "right", or the main sign of being wrong
	remarks          string
}{
	{"the same table", "a b/1 x/2 y", "a b/1 x/2 y", "", false, "", "right", ""},
	{"other order of rows", "a b/1 x/2 y", "a b/2 y/1 x", "", false, "", "right", "reordered"},
	{"other order of columns", "a b/1 x/2 y", "b a/x 1/y 2", "", false, "", "right", ""},
	{"other names, told by content", "a b/1 x/2 y", "c d/1 x/2 y", "", false, "", "right", "renamed"},
	{"names differ in case, spaces and underscores only", "total_litres/1/2", "TotalLitres/1/2", "", false, "", "right", ""},
	{"a wrong number", "a b/1 x/2 y", "a b/1 x/3 y", "", false, "", "1 cell differs", ""},
	{"a row too few", "a b/1 x/2 y", "a b/1 x", "", false, "", "1 row is missing", ""},
	{"a row too many", "a b/1 x", "a b/1 x/2 y", "", false, "", "1 row is extra", ""},
	{"duplicates count", "a/1/1/2", "a/1/2/2", "", false, "", "1 cell differs", ""},
	{"an extra column is noted", "a/x/y", "a b/x 1/y 2", "", false, "", "right", "extra-column"},
	{"an extra column is refused", "a/x/y", "a b/x 1/y 2", "extra-columns=wrong", false, "", "column-forbidden", ""},
	{"more extra measures than asked columns", "a/x/y", "a b c/x 1 2/y 2 3", "", false, "", "column-forbidden", ""},
	{"a missing column", "a b/x 1/y 2", "a/x/y", "", false, "", "column-missing", ""},
	{"values under each other's names", "a b/1 5/2 6/3 7", "a b/5 1/6 2/7 3", "", false, "", "columns-swapped", ""},
	{"order is asked and kept", "a n/x 3/y 2/z 1", "a n/x 3/y 2/z 1", "", false, "n desc", "right", ""},
	{"order is asked and broken", "a n/x 3/y 2/z 1", "a n/y 2/x 3/z 1", "", false, "n desc", "wrong-order", ""},
	{"tied rows may be swapped", "a n/x 3/y 3/z 1", "a n/y 3/x 3/z 1", "", false, "n desc", "right", "reordered"},
	{"strict order", "a/1/2", "a/2/1", "order=strict", false, "", "wrong-order", ""},
	{"ranked by a rule", "a/1/2", "a/2/1", "order=ranked:a asc", false, "", "wrong-order", ""},
	{"any order by a rule wins over the reference", "a/2/1", "a/1/2", "order=any", false, "a desc", "right", "reordered"},
	{"a null key may stand at either end", "a n/x 3/y 1/z -", "a n/z -/x 3/y 1", "", false, "n desc", "right", "reordered"},
	{"float noise", "a/0.1/1e20", "a/0.10000000000000001/100000000000000000001", "", false, "", "right", ""},
	{"a difference of large floats that is nearly zero", "a/1e9/0.0000001e0", "a/1e9/0e0", "", false, "", "right", ""},
	{"beyond the noise", "a/1.5e0/2.5e0", "a/1.5000001e0/2.5e0", "", false, "", "1 cell differs", ""},
	{"integers exactly", "a/9007199254740993", "a/9007199254740992", "", false, "", "1 cell differs", ""},
	{"decimal and float of the same value", "a/12.50/3.25", "a/12.5/3.25e0", "", false, "", "right", ""},
	{"expected is rounded: half up", "a/12.5/3.1", "a/12.45/3.1", "", true, "", "right", ""},
	{"expected is rounded: half even", "a/12.4/3.1", "a/12.45/3.1", "", true, "", "right", ""},
	{"expected is rounded: out of its reach", "a/12.4/3.1", "a/12.46/3.1", "", true, "", "1 cell differs", ""},
	{"expected is whole: no rounding", "a/12/3", "a/12.3/3", "", true, "", "1 cell differs", ""},
	{"the answer is rounded to two decimals, zeros lost", "a/12.4968/3.3333", "a/12.5/3.33", "", false, "", "right", "rounded"},
	{"the answer is not a rounding", "a/12.4968/3.3333", "a/12.47/3.33", "", false, "", "1 cell differs", ""},
	{"a share that integer division turned to nought", "a/0.004/0.996", "a/0/1", "", false, "", "2 cells differ", ""},
	{"negative numbers round too", "a/-12.4968/1.2345", "a/-12.5/1.23", "", false, "", "right", "rounded"},
	{"exact numbers only", "a/0.1e0", "a/0.1000000000001e0", "numbers=exact", false, "", "1 cell differs", ""},
	{"nulls equal nulls", "a b/x -/y 1", "a b/x -/y 1", "", false, "", "right", ""},
	{"null is not nought", "a b/x -/y 1", "a b/x 0/y 1", "", false, "", "1 cell differs", ""},
	{"null is not blank", "a b/x -/y z", "a b/x _/y z", "", false, "", "1 cell differs", ""},
	{"a date and a timestamp at midnight", "d/2031-05-01", "d/2031-05-01T00:00:00", "", false, "", "right", ""},
	{"a date and a later timestamp", "d/2031-05-01", "d/2031-05-01T00:00:01", "", false, "", "1 cell differs", ""},
	{"a boolean and noughts and ones", "b/true/false", "b/1/0", "", false, "", "right", ""},
	{"a boolean and another number", "b/true/false", "b/2/0", "", false, "", "cells differ", ""},
	{"text with a leading zero is no number", "a/007", "a/7", "", false, "", "1 cell differs", ""},
	{"two empty tables", "a b/", "a b/", "", false, "", "right", "empty"},
	{"a lone number found among many measures proves nothing", "n/3", "p q r/1 3 9", "", false, "", "column-missing", ""},
	{"a lone number under a shared word is too little", "loads/3", "district_loads other/3 1", "", false, "", "column-missing", ""},
	{"a larger number under a shared word", "loads/121", "district_loads other/121 1", "", false, "", "right", "extra-column renamed"},
	{"a hand-written number with more decimals than the answer shows", "v n/7.128456 1/8.25 2", "v n/7.13 1/8.25 2", "", true,
		"", "right", "rounded"},
	{"one decimal is too few", "v n/7.128456 1/8.25 2", "v n/7.1 1/8.3 2", "", true, "", "2 cells differ", ""},
	{"columns by position", "a b/1 2", "x y/1 2", "columns=position", false, "", "right", "renamed"},
	{"columns by name only", "a b/1 2", "x y/1 2", "columns=name", false, "", "column-missing", ""},
}

func TestCases(t *testing.T) {
	for _, c := range cases {
		t.Run(c.reason, func(t *testing.T) {
			expected := tableOf(strings.TrimSuffix(c.expected, "/"))
			answer := tableOf(strings.TrimSuffix(c.answer, "/"))
			var rules match.Rules
			if c.rules != "" {
				require.NoError(t, rules.ParseRule(c.rules))
			}
			known := match.Known{}
			if c.written {
				known.Rounded = everything(len(expected.Columns))
			}
			if name, direction, ok := strings.Cut(c.ranking, " "); ok {
				known.Ranking = []match.Key{{Column: -1, Name: name, Descending: direction == "desc"}}
			}
			r := match.Match(expected, answer, rules, known)
			var signs strings.Builder
			signs.WriteString(r.Why)
			for _, f := range r.Faults {
				signs.WriteString(" " + string(f.Code))
			}
			if c.want == "right" {
				require.True(t, r.Matched, signs.String())
				require.Equal(t, strings.Fields("["+c.remarks+"]"), strings.Fields(fmt.Sprint(r.Remarks)))
				return
			}
			require.False(t, r.Matched)
			require.Contains(t, signs.String(), c.want)
			require.Empty(t, r.Remarks)
		})
	}
}

// TestWrongCellShowsAsOne: rows that differ are paired by key columns found from the data.
func TestWrongCellShowsAsOne(t *testing.T) {
	r := match.Match(tableOf("farm month n/x 1 10/x 2 20/y 1 30/y 2 40"), tableOf("farm month n/y 2 40/x 2 21/x 1 10/z 1 5"),
		match.Rules{}, match.Known{})
	require.Len(t, r.Cells, 1)
	require.Equal(t, 1, r.Cells[0].ExpectedRow)
	require.Equal(t, "21", r.Cells[0].Answer.String())
	require.Equal(t, []int{2}, r.Missing)
	require.Equal(t, []int{3}, r.ExtraRows)
	require.InDelta(t, 2*8.0/24, *r.Closeness, 1e-12)
}

// drawTable draws a small table of integers, decimals, floats with noise-free values, texts and nulls.
func drawTable(t *rapid.T) *table.Table {
	columns, rows := rapid.IntRange(1, 4).Draw(t, "columns"), rapid.IntRange(0, 7).Draw(t, "rows")
	var names []string
	cells := make([][]table.Cell, rows)
	for c := range columns {
		names = append(names, fmt.Sprintf("col%d", c))
		form := rapid.SampledFrom([]string{"%d", "%d.5", "%d.25e1", "w%d"}).Draw(t, "form")
		for r := range rows {
			cell := table.Cell{Text: fmt.Sprintf(form, rapid.IntRange(0, 3).Draw(t, "cell"))}
			cell.Null = rapid.IntRange(0, 5).Draw(t, "null") == 0
			cells[r] = append(cells[r], cell)
		}
	}
	out, err := table.FromRows(names, cells)
	require.NoError(t, err)
	return out
}

// shuffled permutes rows and columns and renames the columns.
func shuffled(t *rapid.T, in *table.Table, rename bool) *table.Table {
	rows := rapid.Permutation(indexes(in.Rows())).Draw(t, "rows order")
	out := &table.Table{}
	for _, c := range rapid.Permutation(indexes(len(in.Columns))).Draw(t, "columns order") {
		from := in.Columns[c]
		name := from.Name
		if rename {
			name = fmt.Sprintf("other%d", c)
		}
		to := table.NewColumn(name, from.Type, 0)
		for _, r := range rows {
			to.Append(from.Value(r))
		}
		out.Columns = append(out.Columns, to)
	}
	return out
}

func indexes(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}

// TestPermutationLaw: a table matches itself after any permutation of rows and columns, also under other names.
func TestPermutationLaw(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		e := drawTable(t)
		r := match.Match(e, shuffled(t, e, rapid.Bool().Draw(t, "rename")), match.Rules{}, match.Known{})
		require.True(t, r.Matched, r.Why)
		if r.Closeness != nil {
			require.InDelta(t, 1, *r.Closeness, 1e-12)
		}
	})
}

// TestSymmetryLaw: under exact numbers and no forgiveness, swapping the tables swaps missing and extra.
func TestSymmetryLaw(t *testing.T) {
	var rules match.Rules
	require.NoError(t, rules.ParseRule("numbers=exact"))
	require.NoError(t, rules.ParseRule("extra-columns=wrong"))
	require.NoError(t, rules.ParseRule("columns=name"))
	rapid.Check(t, func(t *rapid.T) {
		a, b := drawTable(t), drawTable(t)
		x, y := match.Match(a, b, rules, match.Known{}), match.Match(b, a, rules, match.Known{})
		require.Equal(t, x.Matched, y.Matched)
	})
}

// TestOneCellLaw: a table with one cell changed to a value that is nowhere else never matches.
func TestOneCellLaw(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		e := drawTable(t)
		if e.Rows() == 0 {
			return // nothing to change
		}
		changed := &table.Table{Columns: append([]*table.Column(nil), e.Columns...)}
		c := rapid.IntRange(0, len(e.Columns)-1).Draw(t, "column")
		row := rapid.IntRange(0, e.Rows()-1).Draw(t, "row")
		var cells []table.Cell
		for r := range e.Rows() {
			v := e.Columns[c].Value(r)
			cells = append(cells, table.Cell{Text: v.String(), Null: v.IsNull(), Literal: e.Columns[c].Type.String() == "text"})
		}
		cells[row] = table.Cell{Text: "987654", Literal: cells[row].Literal}
		changed.Columns[c] = table.FromCells(e.Columns[c].Name, cells)
		require.False(t, match.Match(e, changed, match.Rules{}, match.Known{}).Matched)
	})
}

// TestColumnsAsBefore: columns that stood for each other on other rows do so again, whatever their names are; where they cannot, columns
// are found as ever.
func TestColumnsAsBefore(t *testing.T) {
	expected := tableOf("place first second / Quay 1 2 / Mill 3 4")
	answer := tableOf("second where first / 1 Quay 2 / 3 Mill 4")
	require.False(t, match.Match(expected, answer, match.Rules{}, match.Known{}).Matched, "the names count")
	for given, want := range map[[3]int]bool{{1, 0, 2}: true, {1, 2, 0}: false, {1, 0, 3}: false, {-1, 0, 2}: false} {
		got := match.Match(expected, answer, match.Rules{}, match.Known{Columns: given[:]})
		require.Equal(t, want, got.Matched, given)
	}
	require.False(t, match.Match(expected, answer, match.Rules{}, match.Known{Columns: []int{1, 0}}).Matched)
	named := tableOf("first second place / 1 2 Quay / 3 4 Mill")
	require.True(t, match.Match(expected, named, match.Rules{}, match.Known{Columns: []int{1, 0, 2}}).Matched, "found as ever")
}
