// Package view makes what is shown, as data, from the core's results. It knows no terminal, no colour codes and no file
// format; render turns a Screen into bytes and decides nothing.
package view

import (
	"fmt"
	"slices"
	"strings"

	"tovrel/core/score"
)

// Screen is everything that one command shows.
type Screen struct {
	Headline []Text // the number that matters first, in one line of words each
	Parts    []Part
	Next     []string // what to do next, each with a command
	Data     any      // the JSON form of the same thing
	Charts   []Chart  // drawn in files and on pages alone
	Cases    []Case   // the same thing as cases that pass or fail, for build servers; nil where it has none
}

// Case is one thing that passes or fails.
type Case struct {
	Suite, Name string
	Outcome     CaseOutcome
	Kind        string // of the failure: a fault's code
	Message     string
	Detail      string
	Seconds     float64
}

// CaseOutcome is what became of a case.
type CaseOutcome string

// The outcomes of cases.
const (
	CasePassed  CaseOutcome = "passed"
	CaseFailed  CaseOutcome = "failed"
	CaseError   CaseOutcome = "error"
	CaseSkipped CaseOutcome = "skipped"
)

// Part is one piece of a screen: exactly one of its forms is set.
type Part struct {
	Title  string
	Grid   *Grid
	Gauge  *Gauge
	Gauges []Gauge // under each other on one scale
	Bars   []Bar
	Trend  *Trend
	Code   *Code
	Table  string // a table of Markdown, laid out and escaped already
	Lines  []Text

	Figures      bool // figures of runs alone: no value of the data
	EachQuestion bool // what a page has in a list of its own
	Folded       bool // on a page it is unfolded first
}

// Text is a line with a tone; the mark of a verdict stands before it where one is set.
type Text struct {
	Tone    Tone
	Text    string
	Verdict Verdict
}

// Tone is what a text means; render gives it a colour, never instead of words.
type Tone string

// The tones: those of the verdicts, and two of their own.
const (
	Plain    Tone = ""
	Faint    Tone = "faint"
	Differs  Tone = "differs"
	Strong   Tone = "strong"
	Right    Tone = "right"
	Lucky    Tone = "lucky"
	Wrong    Tone = "wrong"
	Failed   Tone = "failed"
	Unscored Tone = "unscored"
	Good     Tone = "good" // as right, of what is no verdict
)

// Grid is a table.
type Grid struct {
	Groups  []Group // headings over neighbouring columns; may be empty
	Columns []Column
	Rows    [][]Cell
	Main    bool // the grid that CSV output is made of
	Machine bool // shown in CSV and Markdown alone; people see the same thing in another part
	// Exact makes the same for CSV and sheets, with all cells filled and a name of its own for each column; nil for the grid itself.
	Exact func() *Grid
}

// withoutColumn is a grid without the column of a name.
func (g *Grid) withoutColumn(name string) Grid {
	at := slices.IndexFunc(g.Columns, func(c Column) bool { return c.Name == name })
	out := Grid{Main: g.Main, Exact: g.Exact, Columns: slices.Delete(slices.Clone(g.Columns), at, at+1)}
	for _, row := range g.Rows {
		out.Rows = append(out.Rows, slices.Delete(slices.Clone(row), at, at+1))
	}
	return out
}

// ForMachines is the form of a grid that CSV and sheets have.
func (g *Grid) ForMachines() *Grid {
	if g.Exact != nil {
		return g.Exact()
	}
	return g
}

// Group is a heading over a number of columns.
type Group struct {
	Name  string
	Width int
}

// Column is a column of a grid.
type Column struct {
	Name  string
	Right bool // numbers stand to the right
	Keep  bool // never cut
	Spare bool // left out where there is no room
	Head  bool // cut at its end: the beginning says most
	Wrap  bool // sentences: broken at spaces rather than cut
	Room  int  // the fewest characters with which it is of use; 0 for those of its name
	Rule  bool // a line between two groups, no column of data
}

// Cell is one cell: what a machine reads, and what people are shown where that differs.
type Cell struct {
	Text    string
	Shown   string  // "" for Text
	Verdict Verdict // "" for none: the mark that stands before the text
	Tone    Tone
	Differs bool // stands between marks
	Empty   bool // the text is there and has no characters: CSV tells it from nothing
	Span    bool // its text stands for the whole row
}

// Verdict names the mark of a verdict.
type Verdict = score.Verdict

// Gauge is a share with its interval, drawn on a scale from 0 to 1.
type Gauge struct {
	Name             string
	Value, Low, High float64
	Note             string
}

// Trend is a value over time, drawn as a small line.
type Trend struct {
	Name   string
	Values []float64 // from 0 to 1; NaN for none
	Limit  *float64  // drawn as a line where there is one
}

// Bar is one bar of a sorted list.
type Bar struct {
	Name  string
	Value int
	Note  string
}

// Code is a query or a file's text.
type Code struct {
	Language string
	Text     string
}

// Show is what people are shown of a cell, without marks.
func (c Cell) Show() string {
	if c.Shown != "" {
		return c.Shown
	}
	return c.Text
}

// toneOf is the tone of a verdict.
func toneOf(v score.Verdict) Tone { return Tone(v) }

// verdictCell shows a verdict as its mark and word.
func verdictCell(v score.Verdict) Cell {
	return Cell{Text: string(v), Verdict: v, Tone: toneOf(v)}
}

func text(s string) Cell { return Cell{Text: s} }

// share is a share for machines, and in percents for people.
func share(s *float64) Cell {
	if s == nil {
		return Cell{Shown: "–", Tone: Faint}
	}
	return Cell{Text: fmt.Sprintf("%.4f", *s), Shown: Percent(*s)}
}

// shareInterval is an interval of shares.
func shareInterval(i *[2]float64) Cell {
	if i == nil {
		return Cell{Shown: "–", Tone: Faint}
	}
	return Cell{Text: fmt.Sprintf("%.4f to %.4f", i[0], i[1]), Shown: Percent(i[0]) + " to " + Percent(i[1])}
}

func count(n int) Cell { return Cell{Text: fmt.Sprint(n), Shown: grouped(fmt.Sprint(n))} }

// duration is a time in milliseconds.
func duration(ms int64) Cell { return Cell{Text: fmt.Sprint(ms), Shown: Milliseconds(float64(ms))} }

// plural is "1 row" or "3 rows".
func plural(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return grouped(fmt.Sprint(n)) + " " + many
}

// Percent is a share in whole percents; one that is not quite 0 or 100 does not claim to be.
func Percent(share float64) string {
	p := share * 100
	switch {
	case p > 0 && p < 0.5:
		return "<1 %"
	case p < 100 && p >= 99.5:
		return ">99 %"
	}
	return fmt.Sprintf("%.0f %%", p)
}

// thinSpace groups digits for people.
const thinSpace = "\u2009"

// grouped puts thin spaces between groups of three digits before the point, from five digits on.
func grouped(number string) string {
	sign := ""
	if strings.HasPrefix(number, "-") {
		sign, number = "-", number[1:]
	}
	whole, frac, point := strings.Cut(number, ".")
	if len(whole) < 5 || strings.ContainsAny(number, "eEINn") {
		return sign + number
	}
	var parts []string
	for len(whole) > 3 {
		parts = append([]string{whole[len(whole)-3:]}, parts...)
		whole = whole[:len(whole)-3]
	}
	out := sign + strings.Join(append([]string{whole}, parts...), thinSpace)
	if point {
		out += "." + frac
	}
	return out
}

// Milliseconds is a duration in words that fit its size.
func Milliseconds(ms float64) string {
	switch {
	case ms < 1:
		return "<1 ms"
	case ms < 1000:
		return fmt.Sprintf("%.0f ms", ms)
	case ms < 60_000:
		return fmt.Sprintf("%.1f s", ms/1000)
	}
	return fmt.Sprintf("%d min %d s", int(ms)/60_000, int(ms)%60_000/1000)
}

// column declares a column once: how it is laid out, and the cell that an item has in it. Every form of a screen, from the terminal to
// CSV, is made of that cell, which has a text for machines and one for people.
type column[T any] struct {
	Column
	cell func(T) Cell
}

// declare declares a column.
func declare[T any](c Column, cell func(T) Cell) column[T] { return column[T]{c, cell} }

// gridOf is a grid of declared columns, with a row for each item.
func gridOf[T any](items []T, columns ...column[T]) *Grid {
	g := &Grid{}
	for _, c := range columns {
		g.Columns = append(g.Columns, c.Column)
	}
	for _, item := range items {
		row := make([]Cell, len(columns))
		for i, c := range columns {
			row[i] = c.cell(item)
		}
		g.Rows = append(g.Rows, row)
	}
	return g
}
