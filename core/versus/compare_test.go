package versus_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
)

// side makes a run: for each question the verdicts of its attempts, r right, w wrong, u unscored.
func side(translator string, verdicts map[string]string) versus.Side {
	s := versus.Side{Run: record.Run{Translator: translator, State: record.Complete, Grounds: map[string]record.Ground{},
		About: map[string]record.About{}}}
	for name, all := range verdicts {
		s.Run.Grounds[name] = record.Ground{Question: "q", Expected: "e", Rules: "r", Data: "d", Briefing: "b", Engine: "x"}
		s.Run.About[name] = record.About{Dataset: "d", Tags: []string{"all"}}
		for i, v := range all {
			a := record.Attempt{Question: name, Wording: "How many?", Repeat: i,
				Verdict: map[rune]score.Verdict{'r': score.Right, 'w': score.Wrong, 'u': score.Unscored, 'f': score.Failed}[v]}
			if v == 'w' {
				a.Faults = []fault.Fault{{Code: fault.Boundary}}
			}
			s.Attempts = append(s.Attempts, a)
		}
	}
	return s
}

// TestFlips: what counts as improved, regressed and unstable, and what is left out.
func TestFlips(t *testing.T) {
	before := side("t@1", map[string]string{"s/up": "ww", "s/down": "rr", "s/same": "rr", "s/shaky": "rw", "s/worn": "rr",
		"s/open": "ru", "s/gone": "rr", "s/moved": "rr", "s/old": "ww", "s/known": "ww"})
	after := side("t@2", map[string]string{"s/up": "rr", "s/down": "wf", "s/same": "rr", "s/shaky": "rr", "s/worn": "rw",
		"s/open": "ww", "s/new": "rr", "s/moved": "ww", "s/renamed": "rr", "s/known": "rr"})
	ground := after.Run.Grounds["s/moved"]
	ground.Expected, ground.Rules = "other", "other"
	after.Run.Grounds["s/moved"] = ground
	about := after.Run.About["s/renamed"]
	about.Formerly = []string{"s/old"}
	after.Run.About["s/renamed"] = about
	about = after.Run.About["s/known"]
	about.KnownWrong = "the data lacks it"
	after.Run.About["s/known"] = about

	c := versus.Compare(before, after, random(1))
	require.Equal(t, []string{"s/renamed", "s/up"}, c.Of(versus.Improved), "history is kept over a renamed id")
	require.Equal(t, []string{"s/down"}, c.Of(versus.Regressed))
	require.Equal(t, []string{"s/shaky", "s/worn"}, c.Of(versus.Unstable))
	require.Equal(t, []versus.Moved{{Question: "s/moved", Changed: []string{"expected", "rules"}}}, c.Moved)
	require.Equal(t, []string{"s/gone"}, c.OnlyBefore)
	require.Equal(t, []string{"s/new"}, c.OnlyAfter)
	require.Equal(t, []string{"s/known"}, c.KnownSolid, "known to be wrong, and solid now")
	require.Equal(t, 7, c.LikeForLike)
	require.Equal(t, versus.NoChange, c.Outcome)
	require.InDelta(t, c.Accuracy[0], *c.Like[0].Accuracy, 1e-12, "the figures beside each other are over what the headline is over")
	require.InDelta(t, c.Accuracy[1], *c.Like[1].Accuracy, 1e-12)
	require.Equal(t, 14, c.Like[0].Right+c.Like[0].Wrong+c.Like[0].Failed+c.Like[0].Unscored)
	require.NotEqual(t, *c.Before.Accuracy, *c.Like[0].Accuracy, "the whole run has other figures")
	require.False(t, c.Itself)
	require.Contains(t, c.Test, "permutation")
	again := versus.Compare(before, after, random(1))
	require.Equal(t, c, again, "the same seed gives the same figures")
	after.Run.UID, before.Run.UID = "u", "u"
	require.True(t, versus.Compare(before, after, random(1)).Itself)
	back := versus.Compare(after, before, random(1))
	require.Contains(t, back.Of(versus.Regressed), "s/up")
	require.Equal(t, 8, back.LikeForLike, "only the later run says what is known to be wrong")
}

// TestSingleAttempts: with one attempt a question the test is exact, and enough of a change is found.
func TestSingleAttempts(t *testing.T) {
	before, after := map[string]string{}, map[string]string{}
	for i := range 20 {
		name := fmt.Sprintf("s/q%02d", i)
		before[name], after[name] = "w", "r"
		if i >= 8 {
			before[name] = "r"
		}
	}
	c := versus.Compare(side("t@1", before), side("t@2", after), random(1))
	require.Equal(t, "exact paired test", c.Test)
	require.InDelta(t, 2.0/256, c.PValue, 1e-12)
	require.Equal(t, versus.Better, c.Outcome)
	require.InDelta(t, 0.4, c.Difference, 1e-12)
	require.Greater(t, c.Interval[0], 0.0)
}

// TestOtherWordings: a question is compared over the wordings that both runs asked.
func TestOtherWordings(t *testing.T) {
	before, after := side("t@1", map[string]string{"s/q": "rw"}), side("t@2", map[string]string{"s/q": "rr"})
	before.Attempts[1].Wording, after.Attempts[1].Wording = "Something else?", "Another thing?"
	after.Attempts[0].Wording = "how many"
	c := versus.Compare(before, after, random(1))
	require.Equal(t, 1, c.LikeForLike)
	require.Empty(t, c.Flips, "in the wording that both have, nothing changed")
}

// TestSeveral: every pair is tested, corrected for their number, and dominated runs are told.
func TestSeveral(t *testing.T) {
	var sides []versus.Side
	for v, wrong := range []int{12, 6, 6} {
		verdicts := map[string]string{}
		for i := range 20 {
			verdicts[fmt.Sprintf("s/q%02d", i)] = map[bool]string{true: "w", false: "r"}[i < wrong]
		}
		s := side(fmt.Sprintf("t@%d", v+1), verdicts)
		for i := range s.Attempts {
			s.Attempts[i].Cost = []float64{0.1, 0.1, 0.2}[v]
		}
		sides = append(sides, s)
	}
	got := versus.CompareAll(sides, versus.Options{Random: random(1)})
	require.Len(t, got.Pairs, 3)
	require.InDelta(t, 3*2.0/64, got.Pairs[0].PValue, 1e-12)
	require.Equal(t, versus.NoChange, got.Pairs[0].Outcome, "after the correction")
	require.Equal(t, []bool{true, false, false}, []bool{got.Ranking[0].Undominated, got.Ranking[1].Undominated, got.Ranking[2].Undominated})
	require.Equal(t, 1, got.Ranking[0].Side, "the most accurate and cheapest")
}

// TestGate: each condition, met, not met, and without enough evidence.
func TestGate(t *testing.T) {
	good := map[string]string{}
	for i := range 10 {
		good[fmt.Sprintf("s/q%d", i)] = "r"
	}
	bad := map[string]string{}
	for name := range good {
		bad[name] = "r"
	}
	bad["s/q0"], bad["s/q1"], bad["s/q2"], bad["s/q3"] = "w", "f", "u", "rw"
	few := map[string]string{"s/q0": "r", "s/q1": "r"}
	for _, c := range append(gateCases(good, bad, few), gateLimits(good, bad)...) {
		now := side("t@2", c.verdicts)
		other := versus.Compare(side("t@1", good), now, random(1))
		passed, judged, err := versus.Gate{Conditions: []versus.Condition{c.condition},
			Confident: c.confident}.Judge(versus.GateInput{Side: now, Comparison: &other})
		require.NoError(t, err)
		require.Equal(t, c.want, judged[0].Verdict, "%+v: %s", c.condition, judged[0].Why)
		require.Equal(t, c.want == versus.Met, passed)
	}
	_, _, err := versus.Gate{Conditions: []versus.Condition{{Name: "must-pass",
		Names: []string{"deck"}}}}.Judge(versus.GateInput{Side: side("t@1", good)})
	require.ErrorContains(t, err, `"deck"`)
	passed, _, err := versus.Gate{Conditions: []versus.Condition{{Name: "accuracy", Least: true, Limit: 0.9}},
		ThinPasses: true}.Judge(versus.GateInput{Side: side("t@1", few)})
	require.NoError(t, err)
	require.True(t, passed, "thin evidence passes where that is set")
}

// gateCase is a condition, the verdicts of a run by question, and what is to be said of them.
type gateCase struct {
	condition versus.Condition
	verdicts  map[string]string
	confident bool
	want      versus.Verdict
}

func gateCases(good, bad, few map[string]string) []gateCase {
	return []gateCase{
		{versus.Condition{Name: "accuracy", Least: true, Limit: 0.9}, good, false, versus.Met},
		{versus.Condition{Name: "accuracy", Least: true, Limit: 0.9}, good, true, versus.NotMet},
		{versus.Condition{Name: "accuracy", Least: true, Limit: 0.9}, bad, false, versus.NotMet},
		{versus.Condition{Name: "accuracy", Least: true, Limit: 0.9}, few, false, versus.NotEnough},
		{versus.Condition{Name: "wrong", Limit: 0.1}, good, false, versus.Met},
		{versus.Condition{Name: "wrong", Limit: 0.1}, bad, false, versus.NotMet},
		{versus.Condition{Name: "failed", Limit: 0.05}, bad, false, versus.NotMet},
		{versus.Condition{Name: "flaky", Limit: 0.05}, bad, false, versus.NotMet},
		{versus.Condition{Name: "unscored"}, bad, false, versus.NotMet},
		{versus.Condition{Name: "unscored"}, few, false, versus.Met},
		{versus.Condition{Name: "unscored", Limit: 0.2}, bad, false, versus.Met},
		{versus.Condition{Name: "must-pass", Names: []string{"all"}}, good, false, versus.Met},
		{versus.Condition{Name: "must-pass", Names: []string{"all"}}, bad, false, versus.NotMet},
		{versus.Condition{Name: "faults", Names: []string{"boundary"}}, bad, false, versus.NotMet},
		{versus.Condition{Name: "faults", Names: []string{"forbidden"}}, bad, false, versus.Met},
		{versus.Condition{Name: "tags", Least: true, Limit: 0.9, Names: []string{"all"}}, bad, false, versus.NotMet},
		{versus.Condition{Name: "latency-p95", Limit: 100}, good, false, versus.Met},
		{versus.Condition{Name: "cost-per-right", Limit: 0.1}, map[string]string{"s/q0": "w"}, false, versus.NotMet},
		{versus.Condition{Name: "regressions"}, bad, false, versus.NotMet},
		{versus.Condition{Name: "regressions"}, good, false, versus.Met},
		{versus.Condition{Name: "regressions"}, few, false, versus.NotEnough},
		{versus.Condition{Name: "unstable"}, bad, false, versus.NotMet},
		{versus.Condition{Name: "drop", Limit: 0.1}, bad, false, versus.NotMet},
		{versus.Condition{Name: "drop", Limit: 0.2}, good, true, versus.Met},
		{versus.Condition{Name: "drop", Limit: 0.1}, good, true, versus.NotMet}, // ten questions cannot exclude it
	}
}

// gateLimits are conditions at their limits, where they are met, and beyond, where they are not.
func gateLimits(good, bad map[string]string) []gateCase {
	return []gateCase{
		{versus.Condition{Name: "accuracy", Least: true, Limit: 1}, good, false, versus.Met}, // at the limit it is met, beyond it is not
		{versus.Condition{Name: "wrong"}, good, false, versus.Met},
		{versus.Condition{Name: "wrong", Limit: 0.15}, bad, false, versus.NotMet},
		{versus.Condition{Name: "latency-p95", Limit: 0}, good, false, versus.Met},
		{versus.Condition{Name: "regressions", Limit: 4}, bad, false, versus.Met},
		{versus.Condition{Name: "regressions", Limit: 1}, bad, false, versus.NotMet},
	}
}
