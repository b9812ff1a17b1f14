package render_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"encoding/xml"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/render"
	"tovrel/view"
)

func scoreboard() view.Screen {
	closeness := 0.5
	attempts := []record.Attempt{
		{Question: "s/first", Wording: "How many?", Verdict: score.Right, Closeness: &closeness},
		{Question: "s/second", Wording: "Which | one, 農場 🐄?", Verdict: score.Wrong, Closeness: &closeness,
			Faults: []fault.Fault{{Code: fault.Unexplained, Certainty: fault.Possible, Evidence: "1 cell differs\x1b[31m"}}},
		{Question: "s/" + strings.Repeat("long-", 12), Wording: strings.Repeat("very ", 60), Verdict: score.Unscored,
			Reason: fault.ReasonNotBuilt},
		{Question: "s/" + strings.Repeat("long-", 12), Wording: "Otherwise", Verdict: score.Unscored, Reason: fault.ReasonNotBuilt},
	}
	return view.Scoreboard(record.Run{ID: 7, Translator: "t@1", State: record.Complete}, attempts)
}

func render1(t *testing.T, format render.Format, o render.Options) string {
	t.Helper()
	var b bytes.Buffer
	require.NoError(t, render.Screen(&b, scoreboard(), format, o))
	return b.String()
}

// TestSameRows: the terminal, Markdown, CSV and JSON forms of a scoreboard show the same attempts with the same verdicts.
func TestSameRows(t *testing.T) {
	var form struct {
		Attempts []struct{ Question, Verdict string }
	}
	require.NoError(t, json.Unmarshal([]byte(render1(t, render.JSON, render.Options{})), &form))
	require.Len(t, form.Attempts, 4)
	records, err := csv.NewReader(strings.NewReader(render1(t, render.CSV, render.Options{}))).ReadAll()
	require.NoError(t, err)
	require.Len(t, records, 5)
	plain, markdown := render1(t, render.Table, render.Options{Unicode: true}), render1(t, render.Markdown, render.Options{})
	for i, a := range form.Attempts {
		require.Equal(t, []string{a.Verdict, a.Question}, records[i+1][:2])
		for _, text := range []string{plain, markdown} {
			found := false
			for l := range strings.SplitSeq(text, "\n") {
				found = found || strings.Contains(l, a.Verdict) && strings.Contains(l, a.Question)
			}
			require.True(t, found, a.Question)
		}
	}
}

// TestPipeAndTerminal: a pipe has no colour and no cutting; a terminal keeps its width, never colours alone, and is not steered
// by data.
func TestPipeAndTerminal(t *testing.T) {
	pipe := render1(t, render.Table, render.Options{Unicode: true})
	require.NotContains(t, pipe, "\x1b")
	require.Contains(t, pipe, strings.Repeat("very ", 59)+"very")
	for _, width := range []int{80, 100, 160} {
		text := render1(t, render.Table, render.Options{Unicode: true, Width: width})
		for l := range strings.SplitSeq(text, "\n") {
			require.LessOrEqual(t, utf8.RuneCountInString(l), width, l)
		}
		require.Contains(t, text, "✕ wrong")
		require.Contains(t, text, "s/"+strings.Repeat("long-", 12), "a name is whole at any width")
	}
	colored := render1(t, render.Table, render.Options{Unicode: true, Color: true, Width: 100})
	require.Contains(t, colored, "\x1b[38;2;")
	require.NotContains(t, colored, "\x1b[31m", "a control sequence in the data reached the terminal")
	ascii := render1(t, render.Table, render.Options{Width: 100})
	require.Contains(t, ascii, "x wrong")
	require.NotContains(t, ascii, "●")
}

// TestNoFormulas: no cell of a report is taken for a formula by a spreadsheet, and numbers stay numbers.
func TestNoFormulas(t *testing.T) {
	grid := &view.Grid{Main: true, Columns: []view.Column{{Name: "=name"}, {Name: "n", Right: true}},
		Rows: [][]view.Cell{{{Text: "=1+1"}, {Text: "-5"}}, {{Text: "@SUM(A1)"}, {Text: "2.5"}},
			{{Text: "+cmd|' /C calc'!A0"}, {Text: "-x"}}}}
	screen := view.Screen{Headline: []view.Text{{Text: "=HYPERLINK(1)"}},
		Parts: []view.Part{{Title: "a/b:c", Grid: grid}, {Title: "a/b:c", Grid: grid}}}
	var csv, sheet bytes.Buffer
	require.NoError(t, render.Screen(&csv, screen, render.CSV, render.Options{ForSpreadsheet: true}))
	require.Contains(t, csv.String(), "'=name,n\n'=1+1,-5\n'@SUM(A1),2.5\n'+cmd")
	require.NoError(t, render.Workbook(&sheet, screen))
	book, err := excelize.OpenReader(&sheet)
	require.NoError(t, err)
	require.Equal(t, []string{"Summary", "a b c", "a b c 2"}, book.GetSheetList())
	rows, err := book.GetRows("a b c")
	require.NoError(t, err)
	require.Equal(t, [][]string{{"=name", "n"}, {"=1+1", "-5"}, {"@SUM(A1)", "2.5"}, {"+cmd|' /C calc'!A0", "-x"}}, rows)
	for _, at := range []string{"A1", "A2", "A3", "A4"} { // texts by their type, whatever they look like
		kind, err := book.GetCellType("a b c", at)
		require.NoError(t, err)
		require.Equal(t, excelize.CellTypeSharedString, kind)
		formula, err := book.GetCellFormula("a b c", at)
		require.NoError(t, err)
		require.Empty(t, formula)
	}
	var exact bytes.Buffer
	require.NoError(t, render.Screen(&exact, screen, render.CSV, render.Options{}))
	require.Contains(t, exact.String(), "=name,n\n=1+1,-5\n@SUM(A1),2.5\n+cmd")
	line, err := book.GetCellValue("Summary", "A1")
	require.NoError(t, err)
	require.Equal(t, "=HYPERLINK(1)", line)
}

// TestJUnit: every case is counted where it belongs, and whatever stands in it is well-formed XML.
func TestJUnit(t *testing.T) {
	cases := []view.Case{{Suite: "s", Name: "a", Outcome: view.CasePassed, Seconds: 0.5},
		{Suite: "s", Name: "b < \"c\" & \x1b", Outcome: view.CaseFailed, Kind: "boundary", Message: "m]]>", Detail: "SELECT 1 < 2"},
		{Suite: "t", Name: "c", Outcome: view.CaseError}, {Suite: "t", Name: "d", Outcome: view.CaseSkipped}}
	var out bytes.Buffer
	require.NoError(t, render.JUnit(&out, view.Screen{Headline: []view.Text{{Text: "Run 1"}}, Cases: cases}))
	var read struct {
		Tests    int `xml:"tests,attr"`
		Failures int `xml:"failures,attr"`
		Errors   int `xml:"errors,attr"`
		Skipped  int `xml:"skipped,attr"`
		Suites   []struct {
			Cases []struct {
				Name string `xml:"name,attr"`
			} `xml:"testcase"`
		} `xml:"testsuite"`
	}
	require.NoError(t, xml.Unmarshal(out.Bytes(), &read))
	require.Equal(t, []int{4, 1, 1, 1}, []int{read.Tests, read.Failures, read.Errors, read.Skipped})
	require.Len(t, read.Suites, 2)
	require.Equal(t, "b < \"c\" & ·", read.Suites[0].Cases[1].Name)
}
