package view_test

import (
	"bytes"
	"errors"
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
	"tovrel/render"
	"tovrel/view"
)

func noTables(record.Attempt) (view.Tables, error) { return view.Tables{}, nil }

func pageRun(id int, translator string, verdicts map[string]score.Verdict) view.PageRun {
	r := record.Run{ID: id, Translator: translator, About: map[string]record.About{}}
	out := view.PageRun{Tables: noTables}
	for name, v := range verdicts {
		r.About[name] = record.About{Dataset: "one", Tags: []string{translator}}
		a := record.Attempt{Question: name, Wording: "What of " + name + "?", Verdict: v, Query: "SELECT 4711", Why: "4711 differs"}
		if v == score.Wrong {
			a.Faults = []fault.Fault{{Code: fault.FilterMissing, Certainty: fault.Proved, Evidence: "4711 is missing"}}
		}
		out.Attempts = append(out.Attempts, a)
	}
	out.Run = r
	return out
}

// What regressed is first, then what is wrong in the last run that asked, then the rest by name.
func TestOrderOfAPage(t *testing.T) {
	before := pageRun(1, "a@1", map[string]score.Verdict{"s/mended": score.Wrong, "s/lost": score.Right, "s/bad": score.Wrong,
		"s/gone": score.Wrong, "s/good": score.Right})
	after := pageRun(2, "a@2", map[string]score.Verdict{"s/mended": score.Right, "s/lost": score.Wrong, "s/bad": score.Wrong,
		"s/lucky": score.Lucky, "s/failed": score.Failed, "s/open": score.Unscored, "s/good": score.Right})
	p, err := view.NewPage([]view.PageRun{before, after}, view.Screen{}, map[string]versus.FlipKind{"s/lost": versus.Regressed,
		"s/mended": versus.Improved}, false)
	require.NoError(t, err)
	var order []string
	for _, q := range p.Questions {
		order = append(order, q.Name)
	}
	assert.Equal(t, []string{"s/lost", "s/bad", "s/gone", "s/failed", "s/lucky", "s/open", "s/good", "s/mended"}, order)
	assert.Equal(t, []string{"a@1 (run 1)", "a@2 (run 2)"}, p.Runs)
	lost := p.Questions[0]
	assert.Equal(t, []view.Verdict{score.Right, score.Wrong}, lost.Verdicts)
	assert.Equal(t, []string{"a@1", "a@2"}, lost.Tags)
	assert.Equal(t, []string{"filter-missing"}, lost.Faults)
	assert.True(t, lost.Urgent())
	assert.Len(t, lost.Details, 2)
	assert.Empty(t, lost.Thread)
	gone := p.Questions[2]
	assert.Equal(t, []view.Verdict{score.Wrong, ""}, gone.Verdicts)
	assert.Equal(t, "a@1 (run 1): wrong, 4711 differs", gone.Latest().Heading.Text)
	assert.False(t, p.Questions[7].Urgent())
	list := p.List().Grid
	assert.Len(t, list.Rows, 8)
	assert.Equal(t, "regressed", list.Rows[0][4].Text)
}

// A follow-up leads to the question that began its thread.
func TestThreadsOnAPage(t *testing.T) {
	run := pageRun(1, "a@1", map[string]score.Verdict{"s/first": score.Right, "s/then": score.Right})
	run.Run.About["s/first"], run.Run.About["s/then"] = record.About{Thread: "s/first"}, record.About{Thread: "s/first"}
	p, err := view.NewPage([]view.PageRun{run}, view.Screen{}, nil, false)
	require.NoError(t, err)
	assert.Empty(t, p.Questions[0].Thread)
	assert.Equal(t, "s/first", p.Questions[1].Thread)
	var b bytes.Buffer
	require.NoError(t, render.Page(&b, p))
	assert.Contains(t, b.String(), `follows <a href="#s%2ffirst">s/first</a>`)
}

// A page without values keeps what is marked as figures alone, and of its questions neither reasons nor values of queries.
func TestBarePage(t *testing.T) {
	run := pageRun(1, "a@1", map[string]score.Verdict{"s/bad": score.Wrong, "s/good": score.Right})
	run.Tables = func(record.Attempt) (view.Tables, error) { return view.Tables{}, errors.New("no table is read") }
	top := view.Screen{Headline: []view.Text{{Text: "One of two is right."}}, Parts: []view.Part{
		{Title: "kept", Bars: []view.Bar{{Name: "measure", Value: 3}}, Figures: true},
		{Title: "left out", Lines: []view.Text{{Text: "4711"}}},
		{Title: "elsewhere", Figures: true, EachQuestion: true, Lines: []view.Text{{Text: "4711"}}}}}
	p, err := view.NewPage([]view.PageRun{run}, top, nil, true)
	require.NoError(t, err)
	require.Len(t, p.Top.Parts, 1)
	var b bytes.Buffer
	require.NoError(t, render.Page(&b, p))
	assert.NotContains(t, b.String(), "4711")
	assert.Contains(t, b.String(), "SELECT …")
	assert.Contains(t, b.String(), "filter-missing (proved)")
	_, err = view.NewPage([]view.PageRun{run}, top, nil, false)
	assert.ErrorContains(t, err, "no table is read")
}

// A cell, a reason or a query of any size leaves a page that can be opened.
func TestPageOfLongTexts(t *testing.T) {
	run := pageRun(1, "a@1", map[string]score.Verdict{"s/bad": score.Wrong})
	a := &run.Attempts[0]
	long := strings.Repeat("ä", 1_000_000)
	a.Why, a.Query, a.Faults[0].Evidence = "begins "+long+" ends", "SELECT '"+long+"' -- the end", long
	top := view.Screen{Parts: []view.Part{{Grid: &view.Grid{Columns: []view.Column{{Name: "a"}},
		Rows: [][]view.Cell{{{Text: long, Differs: true}}}}}}}
	p, err := view.NewPage([]view.PageRun{run}, top, nil, false)
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, render.Page(&b, p))
	assert.Less(t, b.Len(), 300_000)
	for _, part := range []string{"begins ", " ends", "the end", " … "} {
		assert.Contains(t, b.String(), part)
	}
}

var (
	quotedText = regexp.MustCompile(`"[^"]*"`)
	handlers   = regexp.MustCompile(`<[a-z][^<>]*\son[a-z]+=`)
)

// Whatever stands in texts, the page has the elements that its template has: as many as with harmless texts.
func TestPageEscapesEverything(t *testing.T) {
	page := func(text string) string {
		run := pageRun(1, "a@1", map[string]score.Verdict{"s/bad": score.Wrong})
		a := &run.Attempts[0]
		a.Wording, a.Why, a.Query, a.Reference, a.Faults[0].Evidence = text, text, text, text, text
		run.Run.About["s/bad"] = record.About{Dataset: text, Tags: []string{text}}
		top := view.Screen{Headline: []view.Text{{Text: text}}, Parts: []view.Part{{Title: text, Lines: []view.Text{{Text: text}}},
			{Grid: &view.Grid{Columns: []view.Column{{Name: text}}, Rows: [][]view.Cell{{{Text: text, Shown: text, Tone: view.Wrong}},
				{{Text: text, Differs: true}}}}}, {Bars: []view.Bar{{Name: text, Value: 1, Note: text}}},
			{Gauge: &view.Gauge{Name: text, Note: text}},
			{Code: &view.Code{Language: "sql", Text: text}}, {Table: text}},
			Charts: []view.Chart{{Name: "c", Title: text, Words: text, Figures: &view.Grid{}, Ranges: []view.Range{{Name: text, High: 1}}}}}
		p, err := view.NewPage([]view.PageRun{run}, top, nil, false)
		require.NoError(t, err)
		var b bytes.Buffer
		require.NoError(t, render.Page(&b, p))
		return b.String()
	}
	harmless := page("some words")
	for _, evil := range []string{`</script><script>alert(1)</script>`, `"><img src=x onerror=alert(1)>`, `' onmouseover='x`, "`<b>`",
		`</noscript><i>`, `{{.Style}}`, `]]><svg onload=1>`, "&lt;", "\u202eabc", `javascript:alert(1)`} {
		got := page(evil)
		for _, element := range []string{"<script", "</script", "<img", "<b>", "<i>", "<svg", "<noscript", "</noscript"} {
			assert.Equal(t, strings.Count(harmless, element), strings.Count(got, element), "%s in a page with %s", element, evil)
		}
		if before, _, has := strings.Cut(got, "\u202e"); has {
			t.Errorf("a mark of direction after %q", before[max(0, len(before)-80):])
		}
		assert.False(t, handlers.MatchString(quotedText.ReplaceAllString(got, `""`)), "a handler in a page with %s", evil)
	}
}
