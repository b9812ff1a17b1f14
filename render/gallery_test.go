package render_test

import (
	"bytes"
	"flag"
	"fmt"
	"math"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"tovrel/core/score"
	"tovrel/gallerytest"
	"tovrel/render"
	"tovrel/view"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

// awkward are texts that are long, wide, steering, or look like markup.
var awkward = []string{"plain", "a | b", "*starred* _lined_ `code`", "<b>bold</b> & co", "=1+2", "-3", "農場 🐄 12", "two\nlines",
	"tab\there", "\x1b[31mred", strings.Repeat("long ", 30), "`` twice ``", "snake_case_name", "# title", "1. first", ""}

// galleryScreens are screens with every kind of part, and with awkward texts.
func galleryScreens() map[string]view.Screen {
	limit := 0.8
	grid := &view.Grid{Main: true, Groups: []view.Group{{Name: "who", Width: 2}, {Name: "how much it came to", Width: 4}},
		Columns: []view.Column{{Name: "name", Keep: true}, {Name: "what is said of it", Wrap: true, Room: 20}, {Name: "n", Right: true},
			{Name: "", Rule: true}, {Name: "share", Right: true, Spare: true}, {Name: "note", Head: true}}}
	for i, text := range awkward {
		cell := view.Cell{Text: fmt.Sprint(i * 12345), Shown: fmt.Sprintf("%d %d", i, i*12345), Differs: i%3 == 0}
		grid.Rows = append(grid.Rows, []view.Cell{{Text: fmt.Sprintf("row-%d", i), Verdict: score.Right, Tone: view.Right},
			{Text: text}, cell, {}, {Text: "0.5", Shown: "50 %", Tone: view.Faint}, {Text: text, Empty: text == "", Tone: view.Wrong}})
	}
	grid.Rows = append(grid.Rows, []view.Cell{{Text: "over the whole row", Span: true}, {}, {}, {}, {}, {}})
	wide := &view.Grid{}
	for c := range 14 {
		wide.Columns = append(wide.Columns, view.Column{Name: fmt.Sprintf("column %d", c), Right: c%2 == 0, Spare: c > 10})
	}
	for r := range 3 {
		var row []view.Cell
		for c := range 14 {
			row = append(row, view.Cell{Text: strings.Repeat(fmt.Sprint(r+c), 1+(r*c)%9)})
		}
		wide.Rows = append(wide.Rows, row)
	}
	machine := &view.Grid{Machine: true, Columns: []view.Column{{Name: "id"}}, Rows: [][]view.Cell{{{Text: "only for machines"}}}}
	exact := &view.Grid{Columns: []view.Column{{Name: "shown"}}, Rows: [][]view.Cell{{{Text: "short"}}}, Exact: func() *view.Grid {
		return &view.Grid{Columns: []view.Column{{Name: "exact"}, {Name: "more"}}, Rows: [][]view.Cell{{{Text: "1"}, {Text: "2"}}}}
	}}
	var toned []view.Text
	for _, tone := range []view.Tone{view.Plain, view.Faint, view.Differs, view.Strong, view.Right, view.Lucky, view.Wrong, view.Failed,
		view.Unscored} {
		toned = append(toned, view.Text{Tone: tone, Text: "said in the tone " + string(tone)})
	}
	for _, v := range score.Verdicts() {
		toned = append(toned, view.Text{Text: "marked", Verdict: v})
	}
	for _, text := range awkward {
		toned = append(toned, view.Text{Text: "line: " + text})
	}
	return map[string]view.Screen{
		"grids": {Headline: []view.Text{{Text: "Sixteen rows of 17", Tone: view.Strong}, {Text: "and a second line"}}, Parts: []view.Part{
			{Title: "Main", Grid: grid}, {Title: "Wide", Grid: wide}, {Grid: machine}, {Title: "Exact", Grid: exact},
			{Title: "None", Grid: &view.Grid{Columns: []view.Column{{Name: "a"}}}}},
			Next: []string{"Go on with `tovrel run`.", "Or stop."}},
		"drawn": {Headline: []view.Text{{Text: "Drawn"}}, Parts: []view.Part{
			{Title: "One", Gauge: &view.Gauge{Name: "all", Value: 0.61, Low: 0.4, High: 0.8, Note: "11 of 18"}},
			{Title: "Several", Gauges: []view.Gauge{{Name: "first", Value: 0, Low: 0, High: 0.1}, {Name: "second, longer", Value: 1,
				Low: 0.9, High: 1, Note: "all"}, {Name: "none", Value: 0.5, Low: 0.5, High: 0.5}}},
			{Title: "Bars", Bars: []view.Bar{{Name: "many", Value: 40, Note: "of 60"}, {Name: "few", Value: 3}, {Name: "no", Value: 0}}},
			{Title: "Trend", Trend: &view.Trend{Name: "accuracy", Values: []float64{0, 0.2, math.NaN(), 0.9, 1, 0.5}, Limit: &limit}},
			{Title: "Flat", Trend: &view.Trend{Name: "same", Values: []float64{0.5, 0.5}}}}},
		"texts": {Headline: []view.Text{{Text: "Texts"}}, Parts: []view.Part{{Title: "Lines", Lines: toned},
			{Title: "Query", Code: &view.Code{Language: "sql", Text: "SELECT 1\nFROM t -- ``` three ticks\nWHERE x = '\x07'"}},
			{Title: "Table", Table: "| a | b |\n| --- | --- |\n| 1 | 2 |\n"}}, Next: []string{"See `tovrel show`."}},
		"nothing": {},
		"cases": {Headline: []view.Text{{Text: "Cases"}}, Cases: []view.Case{
			{Suite: "s", Name: "good", Outcome: view.CasePassed, Seconds: 1.5},
			{Suite: "s", Name: "bad <1>", Outcome: view.CaseFailed, Kind: "limit", Message: "a \x1b[1mmessage & more",
				Detail: "rows\n]]>", Seconds: 0.25},
			{Suite: "u", Name: "broken", Outcome: view.CaseError, Kind: "syntax", Message: "m"},
			{Suite: "u", Name: "left", Outcome: view.CaseSkipped, Message: "none"}}},
	}
}

var galleryOrder = []string{"grids", "drawn", "texts", "nothing", "cases"}

// TestGallery holds every part of a screen in every form and width, with colours and without.
func TestGallery(t *testing.T) {
	all := galleryScreens()
	var out strings.Builder
	for _, name := range galleryOrder {
		tell := func(how string, format render.Format, o render.Options) {
			var b bytes.Buffer
			require.NoError(t, render.Screen(&b, all[name], format, o))
			fmt.Fprintf(&out, "##### %s, %s\n%s\n", name, how, strings.ReplaceAll(b.String(), "\x1b", "␛"))
		}
		tell("a pipe", render.Table, render.Options{})
		for _, width := range []int{40, 80, 160} {
			tell(fmt.Sprintf("%d wide", width), render.Table, render.Options{Width: width, Unicode: true})
		}
		tell("in colours", render.Table, render.Options{Width: 100, Unicode: true, Color: true})
		tell("Markdown", render.Markdown, render.Options{})
		tell("CSV", render.CSV, render.Options{})
		tell("CSV for a spreadsheet", render.CSV, render.Options{ForSpreadsheet: true})
		var b bytes.Buffer
		require.NoError(t, render.JUnit(&b, all[name]))
		fmt.Fprintf(&out, "##### %s, JUnit\n%s\n", name, b.String())
	}
	gallerytest.Holds(t, "renders.txt", trailing.ReplaceAllString(out.String(), "·\n"), *update)
}

// trailing are spaces at the end of a line, which editors drop.
var trailing = regexp.MustCompile(`[ \t]+\n`)

// TestWorkbookGallery holds the sheets that are made of screens.
func TestWorkbookGallery(t *testing.T) {
	all := galleryScreens()
	var out strings.Builder
	for _, name := range galleryOrder {
		var b bytes.Buffer
		require.NoError(t, render.Workbook(&b, all[name]))
		book, err := excelize.OpenReader(&b)
		require.NoError(t, err)
		for _, sheet := range book.GetSheetList() {
			rows, err := book.GetRows(sheet)
			require.NoError(t, err)
			fmt.Fprintf(&out, "##### %s, %s\n", name, sheet)
			for _, row := range rows {
				fmt.Fprintf(&out, "%q\n", row)
			}
		}
	}
	gallerytest.Holds(t, "workbooks.txt", out.String(), *update)
}
