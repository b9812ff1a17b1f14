package render_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/run"
	"tovrel/core/score"
	"tovrel/render"
	"tovrel/view"
)

func scoreboard() view.Screen {
	closeness := 0.5
	attempts := []run.Attempt{
		{Question: "s/first", Wording: "How many?", Verdict: score.Right, Closeness: &closeness},
		{Question: "s/second", Wording: "Which | one, 農場 🐄?", Verdict: score.Wrong, Closeness: &closeness,
			Faults: []fault.Fault{{Code: fault.Unexplained, Certainty: fault.Possible, Evidence: "1 cell differs\x1b[31m"}}},
		{Question: "s/" + strings.Repeat("long-", 40), Wording: strings.Repeat("very ", 60), Verdict: score.Unscored, Reason: fault.ReasonNotBuilt},
	}
	return view.Scoreboard(run.Run{ID: 7, Translator: "t@1", State: run.Complete}, attempts)
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
	require.Len(t, form.Attempts, 3)
	records, err := csv.NewReader(strings.NewReader(render1(t, render.CSV, render.Options{}))).ReadAll()
	require.NoError(t, err)
	require.Len(t, records, 4)
	plain, markdown := render1(t, render.Table, render.Options{Unicode: true}), render1(t, render.Markdown, render.Options{})
	for i, a := range form.Attempts {
		require.Equal(t, []string{a.Verdict, a.Question}, records[i+1][:2])
		for _, text := range []string{plain, markdown} {
			found := false
			for _, l := range strings.Split(text, "\n") {
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
		for _, l := range strings.Split(text, "\n") {
			require.LessOrEqual(t, utf8.RuneCountInString(l), width, l)
		}
		require.Contains(t, text, "✕ wrong")
	}
	colored := render1(t, render.Table, render.Options{Unicode: true, Color: true, Width: 100})
	require.Contains(t, colored, "\x1b[38;2;")
	require.NotContains(t, colored, "\x1b[31m", "a control sequence in the data reached the terminal")
	ascii := render1(t, render.Table, render.Options{Width: 100})
	require.Contains(t, ascii, "x wrong")
	require.NotContains(t, ascii, "●")
}
