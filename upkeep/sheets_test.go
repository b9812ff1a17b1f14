package upkeep_test

import (
	"flag"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/golden"
	"tovrel/core/table"
	"tovrel/dataset/sample"
	"tovrel/gallerytest"
	"tovrel/upkeep"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// sheetSet is a golden set with a question of each kind.
const sheetSet = "---\ngolden-set: milk\ndataset: dairy\n---\n\n## How many farms are there? {#count}\n\n```yaml\ntags: [count, easy]\n" +
	"difficulty: easy\nalso-asked:\n  - Number of farms?\n```\n\n```sql\nSELECT count(*) AS n FROM farms\n```\n\n" +
	"| n |\n| --: |\n| 12 |\n\n" +
	"## Litres by district? {#litres}\n\n```yaml\nweight: 2\n```\n\n```sql\n" +
	"SELECT district, sum(litres) AS litres FROM loads GROUP BY 1\n" +
	"```\n\n| district | litres |\n| --- | --: |\n| MR | 5 |\n| NV | 7.5 |\n\n## Who is best? {#best}\n\n```yaml\nexpect: clarify\n" +
	"mentions: [best by what]\n```\n"

// sheetRows is the sheet of that set, with the sheets of its tables.
func sheetRows(t *testing.T) ([]*golden.Set, []sample.WorkbookSheet) {
	t.Helper()
	set, problems := golden.Parse("golden/milk.md", []byte(sheetSet))
	require.Empty(t, problems)
	sheets := []sample.WorkbookSheet{{Name: "Questions", Rows: [][]string{golden.SheetColumns()}}}
	for i, q := range set.All() {
		cells := golden.SheetCells(set, q, "", q.Answer)
		written, err := upkeep.WrittenTable(noFile, set, q.Answer)
		require.NoError(t, err)
		if written != nil {
			cells["table"] = fmt.Sprintf("%d %s", i+1, q.ID)
			var head []string
			for _, c := range written.Columns {
				head = append(head, c.Name)
			}
			rows := [][]string{head}
			for r := range written.Rows() {
				var row []string
				for _, v := range written.Row(r) {
					row = append(row, v.String())
				}
				rows = append(rows, row)
			}
			sheets = append(sheets, sample.WorkbookSheet{Name: cells["table"], Rows: rows})
		}
		var row []string
		for _, name := range golden.SheetColumns() {
			row = append(row, cells[name])
		}
		sheets[0].Rows = append(sheets[0].Rows, row)
	}
	return []*golden.Set{set}, sheets
}

func noFile(*golden.Set, golden.Answer) (*table.Table, error) {
	return nil, fmt.Errorf("there is no such file")
}

// TestSheetGallery holds what becomes of golden sets where one cell of their sheet is another, a row is gone or new, and a table has
// another cell.
func TestSheetGallery(t *testing.T) {
	var out strings.Builder
	take := func(name string, change func(sheets []sample.WorkbookSheet) []sample.WorkbookSheet) {
		fmt.Fprintf(&out, "## %s: %s", name, taken(t, change))
	}
	take("nothing", func(s []sample.WorkbookSheet) []sample.WorkbookSheet { return s })
	for _, row := range []int{1, 3} {
		for at, column := range golden.SheetColumns() {
			for n, value := range []string{"", "milk/other", "clarify", "a, b", "one\ntwo", "0.5", "=1+1"} {
				if at < 2 && n > 2 {
					continue
				}
				take(fmt.Sprintf("row %d, %s is %q", row, column, value), func(s []sample.WorkbookSheet) []sample.WorkbookSheet {
					s[0].Rows[row][at] = value
					return s
				})
			}
		}
	}
	take("a row is gone", func(s []sample.WorkbookSheet) []sample.WorkbookSheet {
		s[0].Rows = slices.Delete(s[0].Rows, 2, 3)
		return s
	})
	for _, row := range [][]string{{"milk/new", "", "How much is new?", "", "new", "", "", "table", "SELECT 1 AS a", ""}, {"milk/", "",
		"Without an id?", "", "", "", "", "", "SELECT 1", ""}, {"water/x", "", "?", "", "", "", "", "", "", ""}, {"milk/count", "another",
		"", "", "", "", "", "", "SELECT 3 AS n", ""}, {"", "", "", "", "", "", "", "", "", ""}} {
		take(fmt.Sprintf("a row more: %q", row), func(s []sample.WorkbookSheet) []sample.WorkbookSheet {
			s[0].Rows = append(s[0].Rows, row)
			return s
		})
	}
	for sheet := 1; sheet <= 2; sheet++ {
		for _, value := range []string{"99", "", "NULL", "'quoted", "2031-05-01"} {
			take(fmt.Sprintf("a cell of sheet %d is %q", sheet, value), func(s []sample.WorkbookSheet) []sample.WorkbookSheet {
				s[sheet].Rows[1][0] = value
				return s
			})
		}
		take("a row short", func(s []sample.WorkbookSheet) []sample.WorkbookSheet { s[sheet].Rows = s[sheet].Rows[:1]; return s })
		take("a column more", func(s []sample.WorkbookSheet) []sample.WorkbookSheet {
			for i := range s[sheet].Rows {
				s[sheet].Rows[i] = append(s[sheet].Rows[i], fmt.Sprint("c", i))
			}
			return s
		})
		take("no sheet", func(s []sample.WorkbookSheet) []sample.WorkbookSheet { return slices.Delete(s, sheet, sheet+1) })
	}
	take("another column", func(s []sample.WorkbookSheet) []sample.WorkbookSheet { s[0].Rows[0][3] = "also asked"; return s })
	take("no columns", func(s []sample.WorkbookSheet) []sample.WorkbookSheet { s[0].Rows = s[0].Rows[1:]; return s })
	gallerytest.Holds(t, "set-sheets.txt", out.String(), *update)
}

// taken says what a changed sheet makes of the set: the lines that are new and those that are gone, or why it is not taken over.
func taken(t *testing.T, change func(sheets []sample.WorkbookSheet) []sample.WorkbookSheet) string {
	t.Helper()
	sets, sheets := sheetRows(t)
	was := strings.Split(string(sets[0].Text()), "\n")
	after, changes, err := upkeep.FromSheets("book.xlsx", change(sheets), sets, noFile)
	out := fmt.Sprintln(changes)
	if err != nil {
		return out + fmt.Sprintf("  %s\n", strings.ReplaceAll(err.Error(), "\n", "\n  "))
	}
	is := strings.Split(string(after[0].Text()), "\n")
	for _, line := range is {
		if !slices.Contains(was, line) {
			out += fmt.Sprintf("  + %s\n", line)
		}
	}
	for _, line := range was {
		if !slices.Contains(is, line) {
			out += fmt.Sprintf("  - %s\n", line)
		}
	}
	return out
}

// TestListed: what a cell lists is what stands between its commas.
func TestListed(t *testing.T) {
	require.Equal(t, []string{"a", "b c"}, upkeep.Listed(" a , b c,, "))
	require.Empty(t, upkeep.Listed(" , "))
}
