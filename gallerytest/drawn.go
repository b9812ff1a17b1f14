package gallerytest

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/table"
)

// Change is what may become of a table's lines. It may change the lines that it is given.
type Change struct {
	Name string
	Make func(r *rand.Rand, lines []string) []string
}

// Table is the table of a header and rows, with ∅ for null.
func Table(t *testing.T, lines []string) *table.Table {
	t.Helper()
	var cells [][]table.Cell
	for _, l := range lines[1:] {
		var row []table.Cell
		for cell := range strings.SplitSeq(l, ",") {
			row = append(row, table.Cell{Text: cell, Null: cell == "∅"})
		}
		cells = append(cells, row)
	}
	out, err := table.FromRows(strings.Split(lines[0], ","), cells)
	require.NoError(t, err)
	return out
}

// Lines are a header and rows with columns of many types, drawn.
func Lines(r *rand.Rand) []string {
	makers := []struct {
		name string
		cell func() string
	}{
		{"town", func() string { return []string{"Aske", "Brill", "Cole", "Dune", "Elm", "Fern"}[r.IntN(6)] }},
		{"kind", func() string { return []string{"a", "B", "c c", "ä"}[r.IntN(4)] }},
		{"day", func() string { return fmt.Sprintf("2031-0%d-%02d", 1+r.IntN(3), 1+r.IntN(28)) }},
		{"month", func() string { return []string{"2031-01", "2031-02", "2031-03"}[r.IntN(3)] }},
		{"at", func() string { return fmt.Sprintf("2031-01-%02d %02d:00:00", 1+r.IntN(28), r.IntN(24)) }},
		{"n", func() string { return strconv.Itoa(r.IntN(20)) }},
		{"share", func() string { return fmt.Sprintf("0.%03d", r.IntN(1000)) }},
		{"price", func() string { return fmt.Sprintf("%d.%02d", r.IntN(5000), r.IntN(100)) }},
		{"big", func() string { return strconv.Itoa(r.IntN(9_000_000) * 1000) }},
		{"flag", func() string { return strconv.FormatBool(r.IntN(2) == 0) }},
	}
	r.Shuffle(len(makers), func(i, j int) { makers[i], makers[j] = makers[j], makers[i] })
	makers = makers[:2+r.IntN(4)]
	var head []string
	for _, m := range makers {
		head = append(head, m.name)
	}
	lines := []string{strings.Join(head, ",")}
	for range 2 + r.IntN(7) {
		var row []string
		for _, m := range makers {
			if cell := m.cell(); r.IntN(12) == 0 {
				row = append(row, "∅")
			} else {
				row = append(row, cell)
			}
		}
		lines = append(lines, strings.Join(row, ","))
	}
	return lines
}

// EachCell is a table with a column's cells changed, but not its name.
func EachCell(lines []string, column int, change func(string) string) []string {
	out := slices.Clone(lines)
	for i := 1; i < len(out); i++ {
		cells := strings.Split(out[i], ",")
		if cells[column] != "∅" {
			cells[column] = change(cells[column])
		}
		out[i] = strings.Join(cells, ",")
	}
	return out
}

// Changes are what may become of a table on its way to an answer: some harmless, some not, some only under a rule.
var Changes = []Change{
	{"shuffled", func(r *rand.Rand, l []string) []string {
		r.Shuffle(len(l)-1, func(i, j int) { l[i+1], l[j+1] = l[j+1], l[i+1] })
		return l
	}},
	{"turned round", func(_ *rand.Rand, l []string) []string { slices.Reverse(l[1:]); return l }},
	{"a row short", func(r *rand.Rand, l []string) []string { return slices.Delete(l, len(l)-1-r.IntN(2), len(l)) }},
	{"a row twice", func(r *rand.Rand, l []string) []string { return append(l, l[1+r.IntN(len(l)-1)]) }},
	{"another name", func(r *rand.Rand, l []string) []string {
		head := strings.Split(l[0], ",")
		head[r.IntN(len(head))] = "value"
		l[0] = strings.Join(head, ",")
		return l
	}},
	{"columns turned round", func(_ *rand.Rand, l []string) []string {
		for i := range l {
			cells := strings.Split(l[i], ",")
			slices.Reverse(cells)
			l[i] = strings.Join(cells, ",")
		}
		return l
	}},
	{"a column more", func(_ *rand.Rand, l []string) []string {
		for i := range l {
			l[i] += "," + []string{"extra", strconv.Itoa(i)}[min(i, 1)]
		}
		return l
	}},
	{"a column short", func(_ *rand.Rand, l []string) []string {
		for i := range l {
			l[i] = l[i][:strings.LastIndex(l[i], ",")]
		}
		return l
	}},
	{"another cell", func(r *rand.Rand, l []string) []string {
		at := 1 + r.IntN(len(l)-1)
		cells := strings.Split(l[at], ",")
		cells[r.IntN(len(cells))] = []string{"7", "∅", "other", "2031-02-02", "0"}[r.IntN(5)]
		l[at] = strings.Join(cells, ",")
		return l
	}},
	{"upper case", func(r *rand.Rand, l []string) []string {
		return EachCell(l, r.IntN(strings.Count(l[0], ",")+1), strings.ToUpper)
	}},
	{"scaled", func(r *rand.Rand, l []string) []string {
		return EachCell(l, r.IntN(strings.Count(l[0], ",")+1), func(c string) string {
			if f, err := strconv.ParseFloat(c, 64); err == nil {
				return strconv.FormatFloat(f*100, 'f', -1, 64)
			}
			return c
		})
	}},
	{"rounded", func(r *rand.Rand, l []string) []string {
		return EachCell(l, r.IntN(strings.Count(l[0], ",")+1), func(c string) string {
			if f, err := strconv.ParseFloat(c, 64); err == nil && strings.Contains(c, ".") {
				return strconv.FormatFloat(f, 'f', 1, 64)
			}
			return c
		})
	}},
	{"as text", func(r *rand.Rand, l []string) []string {
		return EachCell(l, r.IntN(strings.Count(l[0], ",")+1), func(c string) string { return c + " EUR" })
	}},
	{"zeros for nulls", func(_ *rand.Rand, l []string) []string {
		for i := range l {
			l[i] = strings.ReplaceAll(l[i], "∅", "0")
		}
		return l
	}},
}
