package view_test

import (
	"bytes"
	"flag"
	"fmt"
	"math/rand/v2"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
	"tovrel/gallerytest"
	"tovrel/render"
	"tovrel/view"
)

var update = flag.Bool("update", false, "rewrite what is held; read what changed")

var drawnFaults = []fault.Code{fault.Boundary, fault.JoinFanOut, fault.Limit, fault.WrongMeasure, fault.Unexplained}

// drawnSide is a run whose attempts are drawn: the better it is, the more are right.
func drawnSide(id int, translator string, questions int, better float64) versus.Side {
	r := rand.New(rand.NewPCG(uint64(id), 3)) //nolint:gosec // a test's
	s := versus.Side{Run: record.Run{ID: id, Translator: translator, State: record.Complete, Duration: time.Duration(id) * 95 * time.Second,
		Started: time.Date(2031, 6, id, 9, 0, 0, 0, time.UTC), UID: fmt.Sprint("run-", id), Tool: "tovrel 1",
		Grounds:  map[string]record.Ground{},
		Datasets: map[string]string{"dairy": "d1"}, About: map[string]record.About{}, Weights: map[string]float64{},
		Consistency: map[string]record.Consistency{}, Options: record.Options{Repeats: 2}}}
	for q := range questions {
		name := fmt.Sprintf("%s/question-%d", []string{"milk", "money"}[q%2], q)
		ground := record.Ground{Question: "q", Expected: "e", Rules: "r", Data: "d", Briefing: "b", Engine: "x"}
		if q == 5 {
			ground.Expected = fmt.Sprint("e", id)
		}
		about := record.About{Dataset: "dairy", Tags: []string{"all", []string{"join", "period", "top"}[q%3]}, Features: []string{"join"}}
		if q == 9 {
			about.KnownWrong = "the data lack it"
		}
		s.Run.Grounds[name], s.Run.About[name], s.Run.Weights[name] = ground, about, 1+float64(q%3)
		s.Run.Consistency[name] = record.Consistency{Repeats: record.Pairs{Agree: q % 3, Of: 3}, Wordings: record.Pairs{Agree: 1, Of: 1}}
		for n := range 4 {
			s.Attempts = append(s.Attempts, drawnAttempt(r, name, n, better))
		}
	}
	s.Run.Planned = len(s.Attempts)
	return s
}

func drawnAttempt(r *rand.Rand, question string, n int, better float64) record.Attempt {
	near := float64(r.IntN(100)) / 100
	a := record.Attempt{Question: question, Wording: []string{"How much is it?", "What does it come to?"}[n%2], Repeat: n / 2,
		Verdict: score.Right, Query: "SELECT 1", Why: "all cells are equal", Latency: time.Duration(r.IntN(3000)) * time.Millisecond,
		Ran: time.Duration(r.IntN(50)) * time.Millisecond, Cost: float64(r.IntN(100)) / 1000, Tokens: int64(r.IntN(900)), Closeness: &near}
	switch p := r.Float64(); {
	case p < better:
		if r.IntN(4) == 0 {
			a.Remarks = []match.Remark{match.Reordered, match.Rounded}
		}
	case p < better+0.03:
		a.Verdict, a.Why, a.Closeness = score.Lucky, "right by luck: on one twin it is not", nil
	case p < better+0.07:
		a.Verdict, a.Reason, a.Closeness = score.Unscored, fault.ReasonNotBuilt, nil
	case p < better+0.15:
		a.Verdict, a.Why, a.Closeness = score.Failed, "the reply is no query", nil
		a.Faults = []fault.Fault{{Code: fault.NoReply, Certainty: fault.Proved, Evidence: "nothing came"}}
	default:
		a.Verdict, a.Why = score.Wrong, "2 cells differ"
		a.Faults = []fault.Fault{{Code: drawnFaults[r.IntN(len(drawnFaults))], Certainty: fault.Likely, Evidence: "it looks like it"}}
	}
	return a
}

// drawnGate has every condition.
func drawnGate(confident, thin bool) versus.Gate {
	return versus.Gate{Confident: confident, ThinPasses: thin, Conditions: []versus.Condition{
		{Name: versus.GateAccuracy, Limit: 0.6, Least: true}, {Name: versus.GateDrop, Limit: 0.05},
		{Name: versus.GateRegressions, Limit: 1},
		{Name: versus.GateUnstable, Limit: 3}, {Name: versus.GateWrong, Limit: 0.3}, {Name: versus.GateFailed, Limit: 0.05},
		{Name: versus.GateUnscored, Limit: 0.1}, {Name: versus.GateMustPass, Names: []string{"top"}},
		{Name: versus.GateFaults, Names: []string{"limit", "no-reply"}}, {Name: versus.GateFlaky, Limit: 0.1},
		{Name: versus.GateLatency, Limit: 2.5}, {Name: versus.GateCostPerRight, Limit: 0.05},
		{Name: versus.GateStrength, Limit: 0.8, Least: true}, {Name: versus.GateTags, Limit: 0.7, Least: true, Names: []string{"join"}}}}
}

// TestGallery holds the screens of drawn runs: one, two beside each other, four, their gate and their history.
func TestGallery(t *testing.T) {
	var out strings.Builder
	tell := func(name string, s view.Screen) {
		for _, how := range []struct {
			name   string
			format render.Format
			o      render.Options
		}{{"100 wide", render.Table, render.Options{Width: 100, Unicode: true}},
			{"JSON", render.JSON, render.Options{}}} {
			var b bytes.Buffer
			require.NoError(t, render.Screen(&b, s, how.format, how.o))
			text := b.String()
			if how.format == render.JSON { // one line for each few values
				text = blanks.ReplaceAllString(text, " ")
				text = strings.ReplaceAll(text, "}, {", "},\n{")
			}
			fmt.Fprintf(&out, "##### %s, %s\n%s\n", name, how.name, text)
		}
	}
	before, after := drawnSide(1, "scribe@1", 14, 0.5), drawnSide(2, "scribe@2", 14, 0.75)
	other, few := drawnSide(3, "pocket@1", 14, 0.3), drawnSide(4, "scribe@3", 3, 0.9)
	random := func() *rand.Rand { return rand.New(rand.NewPCG(5, 0)) } //nolint:gosec // a test's
	tell("scoreboard", view.Scoreboard(before.Run, before.Attempts))
	c := versus.Compare(before, after, random())
	tell("compare", view.Compare(c, view.CompareOptions{Seed: 5, Parts: true}))
	tell("compare few", view.Compare(versus.Compare(before, few, random()), view.CompareOptions{Seed: 5}))
	tell("several", view.CompareSeveral(versus.CompareAll([]versus.Side{before, after, other}, versus.Options{Random: random()}),
		view.CompareOptions{Seed: 5}))
	strength := 0.75
	for _, way := range [][2]bool{{false, false}, {true, true}} {
		for _, side := range []versus.Side{after, few} {
			passed, judged, err := drawnGate(way[0], way[1]).Judge(versus.GateInput{Side: side, Comparison: &c, Strength: &strength})
			require.NoError(t, err)
			tell(fmt.Sprintf("gate %v of run %d", way, side.Run.ID), view.Gate(side.Run, "run 1", passed, judged))
		}
	}
	report, err := view.Report(after.Run, after.Attempts, func(record.Attempt) (view.Tables, error) { return view.Tables{}, nil })
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, render.Screen(&b, report, render.Markdown, render.Options{}))
	fmt.Fprintf(&out, "##### report\n%s\n", b.String())
	gallerytest.Holds(t, "screens.txt", trailing.ReplaceAllString(out.String(), "\n"), *update)
}

var (
	blanks   = regexp.MustCompile(`\s+`)
	trailing = regexp.MustCompile(`[ \t]+\n`)
)
