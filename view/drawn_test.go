package view_test

import (
	"bytes"
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/profile"
	"tovrel/core/record"
	"tovrel/core/table"
	"tovrel/gallerytest"
	"tovrel/render"
	"tovrel/view"
)

// drawer fills values of any shape, each by what its field is called and by chance.
type drawer struct{ *rand.Rand }

// known are the words of fields that have but a few.
var known = map[string][]string{
	"State": {"frozen", "stale", "complete", "changed", "same", "fails", "draft", "held", "no table yet", "not frozen", "hand-written",
		"expects no table"},
	"Role":        {"measure", "key", "label", ""},
	"Kind":        {"column", "tag", "table", "feature", "term", "difficulty", "null", "fault"},
	"Certainty":   {"proved", "likely", "possible"},
	"Code":        {"limit", "boundary", "join-fan-out", "unexplained"},
	"Severity":    {"error", "warning", "note"},
	"Verdict":     {"right", "wrong", "failed", "lucky", "unscored"},
	"Before":      {"", "right", "wrong"},
	"What":        {"rows", "columns", "file"},
	"Because":     {"data", "query", ""},
	"Reason":      {"", "not-built"},
	"Remarks":     {"reordered", "rounded", "extra-column"},
	"Question":    {"milk/first", "milk/second-one", "money/third"},
	"File":        {"golden/milk.md", "data/farms.csv"},
	"Query":       {"SELECT 1 AS one", "SELECT name\nFROM farms\nWHERE litres > 5", ""},
	"Translator":  {"scribe@1", "pocket@2"},
	"Fingerprint": {"0123456789abcdef0123456789abcdef", "fedcba9876543210fedcba9876543210"},
}

func (d drawer) fill(v reflect.Value, name string, depth int) {
	switch v.Kind() {
	case reflect.String:
		words := known[name]
		if words == nil {
			words = []string{strings.ToLower(name) + " said", "a longer " + strings.ToLower(name) + " | with *marks*", ""}
		}
		v.SetString(words[d.IntN(len(words))])
	case reflect.Int, reflect.Int64:
		v.SetInt([]int64{0, 1, 2, 7, 42, 12_345}[d.IntN(6)])
	case reflect.Float64:
		v.SetFloat([]float64{0, 0.004, 0.5, 0.75, 0.999, 1}[d.IntN(6)])
	case reflect.Bool:
		v.SetBool(d.IntN(2) == 0)
	case reflect.Slice:
		if v.Type() == reflect.TypeFor[[]byte]() || depth > 5 {
			return
		}
		n := d.IntN(4)
		v.Set(reflect.MakeSlice(v.Type(), n, n))
		for i := range n {
			d.fill(v.Index(i), name, depth+1)
		}
	case reflect.Map:
		v.Set(reflect.MakeMap(v.Type()))
		for range d.IntN(3) {
			key, value := reflect.New(v.Type().Key()).Elem(), reflect.New(v.Type().Elem()).Elem()
			d.fill(key, "Code", depth+1)
			d.fill(value, name, depth+1)
			v.SetMapIndex(key, value)
		}
	case reflect.Pointer:
		d.fillPointer(v, name, depth)
	case reflect.Struct:
		if v.Type() == reflect.TypeFor[time.Time]() {
			v.Set(reflect.ValueOf(time.Date(2031, 1, 1+d.IntN(300), 8, 0, 0, 0, time.UTC)))
			return
		}
		if v.Type() == reflect.TypeFor[fault.Rows]() { // as many cells as columns
			cell := fmt.Sprint(d.IntN(99))
			v.Set(reflect.ValueOf(fault.Rows{Table: "loads", Columns: []string{"load_id", "litres"}, Count: 1 + d.Int64N(9),
				First: [][]*string{{&cell, nil}, {&cell, &cell}}}))
			return
		}
		for i := range v.NumField() {
			if field := v.Field(i); field.CanSet() {
				d.fill(field, v.Type().Field(i).Name, depth+1)
			}
		}
		if row, is := v.Addr().Interface().(*view.RowForm); is { // as many cells as columns
			row.Columns = row.Columns[:min(len(row.Columns), len(row.Cells))]
			row.Cells = row.Cells[:len(row.Columns)]
		}
	}
}

func (d drawer) fillPointer(v reflect.Value, name string, depth int) {
	if v.Type() == reflect.TypeFor[*table.Table]() {
		v.Set(reflect.ValueOf(drawnTable(d, 3+d.IntN(3))))
		return
	}
	elem := v.Type().Elem()
	if d.IntN(3) == 0 && name != "Interval" || elem.Kind() == reflect.Struct && strings.HasPrefix(elem.PkgPath(), "tovrel/core/sql") {
		return
	}
	p := reflect.New(elem)
	d.fill(p.Elem(), name, depth+1)
	v.Set(p)
}

func drawnTable(d drawer, rows int) *table.Table {
	var cells [][]table.Cell
	for i := range rows {
		cells = append(cells, []table.Cell{{Text: fmt.Sprint("farm ", i)}, {Text: fmt.Sprint(d.IntN(90_000)), Null: d.IntN(5) == 0},
			{Text: fmt.Sprintf("2031-05-%02d", 1+d.IntN(28))}})
	}
	t, err := table.FromRows([]string{"name", "litres", "day"}, cells)
	if err != nil {
		panic(err)
	}
	return t
}

func draw[T any](d drawer) T {
	var out T
	d.fill(reflect.ValueOf(&out).Elem(), "", 0)
	return out
}

func several[T any](d drawer, n int) []T {
	var out []T
	for range n {
		out = append(out, draw[T](d))
	}
	return out
}

// drawnScreens are screens of drawn forms, by name.
func drawnScreens(d drawer, n int) map[string]view.Screen {
	limit, dry := 0.7, n%2 == 0
	run, attempts := draw[record.Run](d), several[record.Attempt](d, n)
	expected := drawnTable(d, 5)
	answer := drawnTable(d, 4+n%3)
	rescored := []view.Rescored{{Run: run, Before: attempts, After: several[record.Attempt](d, n), AskAgain: []string{"milk/first"}}}
	out := map[string]view.Screen{
		"added":       view.AddedQuestion(draw[view.AddedForm](d)),
		"coverage":    view.Coverage(n, several[view.CoveredForm](d, 3*n)),
		"drafted":     view.Drafted("golden/x.md", several[view.DraftForm](d, n), dry),
		"dry run":     view.DryRuns(several[view.DryRun](d, n), []string{"a", "b"}),
		"harvested":   view.Harvested("ratings.csv", n, several[view.HarvestForm](d, n), dry),
		"history":     view.History(several[view.Listed](d, n), &limit),
		"runs tidied": view.RunsTidied(several[view.Listed](d, n), n, dry),
		"findings":    view.Findings("dairy", several[profile.Finding](d, n)),
		"datasets":    view.Datasets(several[view.Dataset](d, n)),
		"rows":        view.Rows(expected),
		"marked":      view.Marked(run, "release", n),
		"refresh":     view.Refresh(several[view.RefreshedForm](d, 2*n), dry),
		"rescore":     view.Rescore(rescored),
		"imported":    view.Imported(several[view.ImportChange](d, n), dry),
		"strength":    view.StrengthScreen(several[view.StrengthOf](d, n), dry),
		"twins":       view.Twins("dairy", several[view.TwinForm](d, n)),
		"why":         view.Why(draw[view.WhyForm](d), []string{"", "the limit of 400 queries"}[n%2]),
		"tidied":      view.Tidied(several[view.Copy](d, n), int64(n)*123_456, dry),
		"asked":       view.Ask(draw[view.Asked](d)),
		"runs":        view.Runs(several[record.Summary](d, n)),
		"match":       view.Match(match.Match(expected, answer, match.Rules{}, match.Known{})),
		"version":     view.Version("1.2.3", "abc"),
	}
	out["work"] = view.Work(several[view.Worked](d, n)) // drawn last: what was drawn before stays
	out["accepted"] = view.Acceptance(out["added"], draw[view.AcceptForm](d))
	return out
}

// TestDrawnGallery holds the screens of drawn forms as a terminal of 100 columns shows them, to be read; TestScreenSums tells of many more.
func TestDrawnGallery(t *testing.T) {
	var out strings.Builder
	const n = 1
	d := drawer{rand.New(rand.NewPCG(uint64(n), 21))} //nolint:gosec // a test's
	screens := drawnScreens(d, n)
	for _, name := range []string{"accepted", "added", "asked", "coverage", "datasets", "drafted", "dry run", "findings", "harvested",
		"history", "imported", "marked", "match", "refresh", "rescore", "rows", "runs", "runs tidied", "strength", "tidied", "twins",
		"version", "why"} {
		var b bytes.Buffer
		require.NoError(t, render.Screen(&b, screens[name], render.Table, render.Options{Width: 100, Unicode: true}))
		fmt.Fprintf(&out, "##### %d %s\n%s\n", n, name, b.String())
		require.NoError(t, render.Screen(&b, screens[name], render.JSON, render.Options{}), "every form has a JSON form")
	}
	gallerytest.Holds(t, "drawn.txt", trailing.ReplaceAllString(out.String(), "\n"), *update)
}
