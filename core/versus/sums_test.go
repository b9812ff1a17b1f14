package versus_test

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
	"tovrel/gallerytest"
)

// drawnSide is a run over drawn questions, some of which rest on something else than in other runs.
func drawnSide(r *rand.Rand, id int, translator string) versus.Side {
	s := versus.Side{Run: record.Run{ID: id, Translator: translator, State: []record.State{record.Complete, record.Complete, record.Partial,
		record.Stopped}[r.IntN(4)], Started: time.Date(2031, 1, id, 0, 0, 0, 0, time.UTC), UID: fmt.Sprint("run ", id), Tool: "1",
		Grounds: map[string]record.Ground{}, About: map[string]record.About{}, Weights: map[string]float64{},
		Datasets: map[string]string{"d": fmt.Sprint(r.IntN(5) / 4)}, Consistency: map[string]record.Consistency{},
		Twins: map[string][]string{"d": []string{"t1", "t2"}[:r.IntN(3)]}, Options: record.Options{Repeats: 1 + r.IntN(3)}}}
	good := r.Float64()
	for q := range 1 + r.IntN(24) {
		name := fmt.Sprintf("s/%d", q)
		if r.IntN(9) == 0 {
			continue
		}
		s.Run.Grounds[name] = record.Ground{Question: "q", Expected: fmt.Sprint(r.IntN(9) / 8), Rules: "r", Data: s.Run.Datasets["d"],
			Briefing: "b",
			Engine:   "e"}
		about := record.About{Dataset: "d", Tags: []string{"all", fmt.Sprint("t", q%3)}, Features: []string{"join", "period"}[:r.IntN(3)]}
		if r.IntN(12) == 0 {
			about.KnownWrong = "so it is"
		}
		s.Run.About[name], s.Run.Weights[name] = about, float64(1+q%3)
		s.Run.Consistency[name] = record.Consistency{Repeats: record.Pairs{Agree: q % 2, Of: 2}, Wordings: record.Pairs{Agree: 1, Of: 2}}
		for n := range s.Run.Options.Repeats * 2 {
			near := r.Float64()
			a := record.Attempt{Question: name, Wording: fmt.Sprint("w", n%2), Repeat: n / 2, Verdict: score.Right, Closeness: &near,
				Latency: time.Duration(r.IntN(4000)) * time.Millisecond, Cost: r.Float64() / 10, Tokens: r.Int64N(900),
				Answer: fmt.Sprint(r.IntN(3))}
			switch p := r.Float64(); {
			case p < good:
				a.Remarks = []match.Remark{match.Reordered, match.Rounded}[:r.IntN(3)]
			case p < good+0.1:
				a.Verdict, a.MissedOn = score.Lucky, []string{[]string{"t1", "t2", record.MadeRows}[r.IntN(3)]}
			case p < good+0.15:
				a.Verdict, a.Reason = score.Unscored, fault.ReasonNotBuilt
			case p < good+0.2:
				a.Verdict, a.Faults = score.Failed, []fault.Fault{{Code: fault.NoReply, Certainty: fault.Proved}}
			default:
				a.Verdict, a.Faults = score.Wrong, []fault.Fault{{Code: []fault.Code{fault.Limit, fault.Boundary,
					fault.Unexplained}[r.IntN(3)],
					Certainty: fault.Likely, Evidence: "so"}}
			}
			s.Attempts = append(s.Attempts, a)
		}
	}
	s.Run.Planned = len(s.Attempts) + r.IntN(3)/2
	return s
}

// TestCompareSums holds what is found between drawn runs, one against another and several, what a gate says of them, and their summaries.
func TestCompareSums(t *testing.T) {
	var sums gallerytest.Sums
	add := func(name string, v any) {
		body, err := json.Marshal(v)
		require.NoError(t, err)
		sums.Add(name, string(body))
	}
	gate := versus.Gate{Conditions: []versus.Condition{{Name: versus.GateAccuracy, Limit: 0.6, Least: true}, {Name: versus.GateDrop,
		Limit: 0.05},
		{Name: versus.GateRegressions, Limit: 1}, {Name: versus.GateUnstable, Limit: 3}, {Name: versus.GateWrong, Limit: 0.3},
		{Name: versus.GateFailed, Limit: 0.05}, {Name: versus.GateUnscored, Limit: 0.1}, {Name: versus.GateMustPass,
			Names: []string{"all"}},
		{Name: versus.GateFaults, Names: []string{"limit", "no-reply"}}, {Name: versus.GateFlaky, Limit: 0.1}, {Name: versus.GateLatency,
			Limit: 2.5},
		{Name: versus.GateCostPerRight, Limit: 0.05}, {Name: versus.GateStrength, Limit: 0.8, Least: true},
		{Name: versus.GateTags, Limit: 0.7, Least: true, Names: []string{"all"}}}}
	for n := range 120 {
		r := rand.New(rand.NewPCG(uint64(n), 19)) //nolint:gosec // a test's
		one, other, third := drawnSide(r, 1, "a@1"), drawnSide(r, 2, "a@2"), drawnSide(r, 3, "b@1")
		add("summaries", record.Summarise(one.Run, one.Attempts))
		c := versus.Compare(one, other, random(5))
		add("compared", c)
		add("several", versus.CompareAll([]versus.Side{one, other, third}, versus.Options{Random: random(6)}))
		strength := r.Float64()
		gate.Confident, gate.ThinPasses = n%2 == 0, n%3 == 0
		for _, against := range []*versus.Comparison{&c, nil} {
			passed, judged, err := gate.Judge(versus.GateInput{Side: other, Comparison: against, Strength: &strength})
			sums.Add("gates", fmt.Sprint(passed, err))
			add("gates", judged)
		}
	}
	gallerytest.Holds(t, "compare-sums.txt", sums.Text(), *update)
}
