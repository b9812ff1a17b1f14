package main_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
)

// cellKinds are columns of a kind each, as files have them: what the first cells say may not hold for the last.
var cellKinds = []func(r *rand.Rand, row int) string{
	func(r *rand.Rand, _ int) string { return fmt.Sprint(r.IntN(1000)) },
	func(r *rand.Rand, _ int) string { return fmt.Sprintf("0%02d", r.IntN(100)) },
	func(_ *rand.Rand, row int) string { return []string{"1.50", "2.25", "-0.75"}[row%3] },
	func(_ *rand.Rand, row int) string { return []string{"1.5", "2e3", "7"}[row%3] },
	func(_ *rand.Rand, row int) string { return fmt.Sprintf("2031-02-%02d", row+1) },
	func(_ *rand.Rand, row int) string {
		return fmt.Sprintf("2031-02-%02d", row+1) + []string{"", " 07:30:00"}[row%2]
	},
	func(_ *rand.Rand, row int) string { return []string{"true", "false", ""}[row%3] },
	func(r *rand.Rand, _ int) string { return fmt.Sprintf("9%018d", r.IntN(1_000_000)) },
	func(r *rand.Rand, _ int) string { return fmt.Sprintf("9%018d.25", r.IntN(1_000_000)) },
	func(_ *rand.Rand, row int) string { return []string{`"a, b"`, `""`, `"say ""no"""`, ""}[row%4] },
	func(_ *rand.Rand, row int) string { return []string{"12", "x"}[row%2] },
	func(_ *rand.Rand, row int) string { return []string{"07:30", "2031-02-01T07:30:00Z"}[row%2] },
	func(_ *rand.Rand, row int) string { return []string{"+5", " 6"}[row%2] },
}

// TestWideTables: a table of very many columns is imported by another way, and comes out as the same columns do in a narrow one.
func TestWideTables(t *testing.T) {
	t.Parallel()
	const seed, copies, rows = 14, 60, 9
	t.Logf("seed %d", seed)
	r, dir := rand.New(rand.NewPCG(seed, 0)), t.TempDir()
	names := make([]string, copies*len(cellKinds))
	for i := range names {
		names[i] = fmt.Sprintf("c %d", i)
	}
	wide, narrow := []string{header(names)}, []string{header(names[:len(cellKinds)])}
	for row := range rows {
		cells := make([]string, len(names))
		for i := range cells {
			cells[i] = cellKinds[i%len(cellKinds)](r, row)
		}
		wide, narrow = append(wide, strings.Join(cells, ",")), append(narrow, strings.Join(cells[:len(cellKinds)], ","))
	}
	write(t, dir, "wide.csv", []byte(strings.Join(wide, "\n")+"\n"))
	write(t, dir, "narrow.csv", []byte(strings.Join(narrow, "\n")+"\n"))
	write(t, dir, "tovrel.yaml", []byte("tovrel: 1\n"))
	added := tovrel(t, dir, "data", "add", "all", "wide.csv", "narrow.csv", "--output", "json")
	require.Zero(t, added.code, added.err)
	types := columnTypes(t, added.out)
	require.Len(t, types["wide"], len(names))
	require.Equal(t, types["narrow"], types["wide"][:len(cellKinds)])
	for i, kind := range types["wide"] {
		require.Equal(t, types["narrow"][i%len(cellKinds)], kind, names[i])
	}
	quoted := `"` + strings.Join(names[:len(cellKinds)], `", "`) + `"`
	for _, way := range []string{" EXCEPT ALL SELECT " + quoted + " FROM narrow", ""} {
		got := tovrel(t, dir, "data", "query", "all", "SELECT count(*) AS n FROM (SELECT "+quoted+" FROM wide"+way+")", "--output", "csv")
		require.Equal(t, map[bool]string{true: "n\n0\n", false: fmt.Sprintf("n\n%d\n", rows)}[way != ""], got.out, got.err)
	}
	listed := tovrel(t, dir, "data", "list")
	require.Contains(t, listed.out, "c 39 integer, and 740 more\n")
	require.True(t, strings.Contains(tovrel(t, dir, "data", "list", "--output", "csv").out, ", c 779 integer\""), "CSV has all columns")

	write(t, dir, "wide.csv", []byte(strings.Join(wide, "\n")+"\n1,2\n"))
	refused := tovrel(t, dir, "data", "freeze", "all")
	require.Contains(t, refused.err, "wide.csv:11: this row has 2 cells and the header has 780")
}

// TestWideTypes: a type that the user gave holds for a table of very many columns as well.
func TestWideTypes(t *testing.T) {
	t.Parallel()
	dir := t.TempDir()
	names, cells := make([]string, 600), make([]string, 600)
	for i := range names {
		names[i], cells[i] = fmt.Sprintf("c%d", i), "17"
	}
	cells[599] = "x7"
	for _, width := range []int{600, 100} {
		body := header(names[600-width:]) + "\n" + strings.Repeat(strings.Join(cells[600-width:], ",")+"\n", 5)
		write(t, dir, "wide.csv", []byte(body))
		write(t, dir, "tovrel.yaml", []byte("tovrel: 1\ndatasets:\n  all:\n    tables:\n      wide: {file: wide.csv, types: "+
			"{c590: text, c598: date, c599: integer}}\n"))
		refused := tovrel(t, dir, "data", "freeze", "all")
		require.Equal(t, 3, refused.code)
		require.Contains(t, refused.err, `wide.csv:2: column c598: "17" is no date; 5 cells are not, lines 2, 3, 4 …; `+
			`correct the values, or the type`)
		require.Contains(t, refused.err, `wide.csv:2: column c599: "x7" is no integer; 5 cells are not, lines 2, 3, 4 …; `+
			`correct the values, or the type`)
	}
}

func header(names []string) string { return strings.Join(names, ",") }

// columnTypes reads the types of columns, by table, from a list of datasets.
func columnTypes(t *testing.T, list string) map[string][]string {
	t.Helper()
	var form struct {
		Datasets []struct {
			Tables []struct {
				Name    string
				Columns []struct{ Type string }
			}
		}
	}
	require.NoError(t, json.Unmarshal([]byte(list), &form), list)
	types := map[string][]string{}
	for _, d := range form.Datasets {
		for _, table := range d.Tables {
			for _, c := range table.Columns {
				types[table.Name] = append(types[table.Name], c.Type)
			}
		}
	}
	return types
}
