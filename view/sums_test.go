package view_test

import (
	"bytes"
	"maps"
	"math/rand/v2"
	"slices"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/match"
	"tovrel/core/profile"
	"tovrel/core/profile/profiletest"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/core/versus"
	"tovrel/gallerytest"
	"tovrel/render"
	"tovrel/view"
)

// drawnMatch is a drawn table, and what became of it.
func drawnMatch(t *testing.T, r *rand.Rand) (expected, answer *table.Table) {
	lines := gallerytest.Lines(r)
	for len(lines) < 3+r.IntN(30) {
		lines = append(lines, lines[1+r.IntN(len(lines)-1)])
	}
	expected = gallerytest.Table(t, lines)
	for range 1 + r.IntN(2) {
		if changed := gallerytest.Changes[r.IntN(len(gallerytest.Changes))].Make(r, slices.Clone(lines)); len(changed) > 1 {
			lines = changed
		}
	}
	return expected, gallerytest.Table(t, lines)
}

// drawnQuestion is the screen of an attempt on drawn tables.
func drawnQuestion(t *testing.T, d drawer, n int) view.Screen {
	expected, answer := drawnMatch(t, d.Rand)
	r := match.Match(expected, answer, match.Rules{}, match.Known{})
	a := draw[record.Attempt](d)
	a.Match = record.Compact(r)
	if a.Verdict = score.Wrong; r.Matched {
		a.Verdict = []score.Verdict{score.Right, score.Lucky}[n%2]
	}
	a.Why, a.Closeness, a.Remarks = r.Why, r.Closeness, r.Remarks
	tables := view.Tables{Expected: expected, Answer: answer, ExpectedRows: expected.Rows() + n%3*40, AnswerRows: answer.Rows() + n%2*7}
	return view.Question(draw[record.Run](d), a, tables, several[record.Attempt](d, n%4))
}

// drawnRuns are the screens of drawn runs and of their comparison.
func drawnRuns(t *testing.T, r *rand.Rand, n int) map[string]view.Screen {
	side := func(id int) versus.Side {
		return drawnSide(id, []string{"scribe@1", "scribe@2", "pocket@1"}[id%3], 3+r.IntN(30), r.Float64())
	}
	one, other, third := side(3*n), side(3*n+1), side(3*n+2)
	for _, s := range []versus.Side{one, other} {
		if s.Run.Options.Twins = n % 3; n%4 == 0 {
			s.Run.State = record.Partial
		}
	}
	random := rand.New(rand.NewPCG(5, uint64(n))) //nolint:gosec // a test's
	c := versus.Compare(one, other, random)
	strength := r.Float64()
	passed, judged, err := drawnGate(n%2 == 0, n%3 == 0).Judge(versus.GateInput{Side: other, Comparison: &c, Strength: &strength})
	require.NoError(t, err)
	report, err := view.Report(one.Run, one.Attempts, func(record.Attempt) (view.Tables, error) { return view.Tables{}, nil })
	require.NoError(t, err)
	return map[string]view.Screen{"scoreboard": view.Scoreboard(one.Run, one.Attempts), "report": report,
		"compare": view.Compare(c, view.CompareOptions{Seed: 5, Parts: n%2 == 0}),
		"several": view.CompareSeveral(versus.CompareAll([]versus.Side{one, other, third}, versus.Options{Random: random}),
			view.CompareOptions{Seed: 5}),
		"gate": view.Gate(other.Run, "run 1", passed, judged)}
}

// drawnProfile is the screen of a drawn table's columns, and of what will hurt there.
func drawnProfile(r *rand.Rand, n int) (counted, inspected view.Screen) {
	var tables []profiletest.Table
	for _, name := range []string{"farms", "loads"} {
		lines := gallerytest.Lines(r)
		t := profiletest.Table{Name: name}
		for i, line := range lines {
			cells := bytes.Split([]byte(line), []byte(","))
			var row []string
			for _, cell := range cells {
				row = append(row, string(cell))
			}
			if i == 0 {
				t.Columns = row
			} else {
				t.Rows = append(t.Rows, row)
			}
		}
		tables = append(tables, t)
	}
	links := []profile.Link{{From: profile.Place{Table: "loads", Column: tables[1].Columns[0]}, To: profile.Place{Table: "farms",
		Column: tables[0].Columns[0]}, Rows: 9, PerKey: 1.5, Orphans: int64(n % 3), Childless: int64(n % 2)}}
	d := profiletest.Count("dairy", links, tables...)
	return view.Profile(d, n%2 == 0), view.Findings("dairy", profile.Inspect(d))
}

// TestScreenSums holds many drawn screens in every form in which they are written.
func TestScreenSums(t *testing.T) {
	hows := []struct {
		format render.Format
		o      render.Options
	}{{render.Table, render.Options{Width: 80, Unicode: true}}, {render.Table, render.Options{Width: 100}},
		{render.Table, render.Options{Width: 160, Unicode: true, Color: true}}, {render.JSON, render.Options{}}, {render.CSV,
			render.Options{}},
		{render.Markdown, render.Options{}}}
	var sums gallerytest.Sums
	for n := range 40 {
		d := drawer{rand.New(rand.NewPCG(uint64(n), 77))} //nolint:gosec // a test's
		screens := drawnScreens(d, n%7)
		maps.Copy(screens, drawnRuns(t, d.Rand, n))
		screens["question"] = drawnQuestion(t, d, n)
		screens["why question"] = view.WhyQuestion(screens["question"], draw[view.WhyForm](d), "")
		screens["facts"] = view.Facts("dairy", []string{"", "briefings/dairy.yaml"}[n%2], several[view.FactForm](d, n%5))
		screens["profile"], screens["inspected"] = drawnProfile(d.Rand, n)
		for _, name := range slices.Sorted(maps.Keys(screens)) {
			for _, how := range hows {
				var b bytes.Buffer
				require.NoError(t, render.Screen(&b, screens[name], how.format, how.o))
				sums.Add(name, b.String())
			}
		}
	}
	gallerytest.Holds(t, "screen-sums.txt", sums.Text(), *update)
}
