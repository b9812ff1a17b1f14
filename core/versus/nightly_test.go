package versus_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/versus"
)

// runOf is a run of so many questions, the first of which are wrong.
func runOf(questions, wrong int) versus.Side {
	verdicts := map[string]string{}
	for i := range questions {
		verdicts[fmt.Sprintf("s/q%03d", i)] = map[bool]string{true: "w", false: "r"}[i < wrong]
	}
	return side("t@1", verdicts)
}

// TestNightly: whatever a gate that is asked once lets pass, one that is asked nightly does too; what it does not let pass is beyond noise;
// and the more a value is beyond its limit, the oftener it would not be met though nothing changed.
func TestNightly(t *testing.T) {
	condition := []versus.Condition{{Name: versus.GateAccuracy, Least: true, Limit: 0.8}}
	before, spared, caught := 0.0, 0, 0
	for wrong := range 101 {
		in := versus.GateInput{Side: runOf(100, wrong)}
		once, _, err := versus.Gate{Conditions: condition}.Judge(in)
		require.NoError(t, err)
		nightly, judged, err := versus.Gate{Conditions: condition, Nightly: true}.Judge(in)
		require.NoError(t, err)
		require.False(t, once && !nightly, "%d wrong", wrong)
		require.NotNil(t, judged[0].FalseAlarms)
		require.GreaterOrEqual(t, *judged[0].FalseAlarms, before-1e-9, "%d wrong", wrong)
		require.LessOrEqual(t, *judged[0].FalseAlarms, 365.0)
		before = *judged[0].FalseAlarms
		require.Contains(t, judged[0].Why, "a year")
		if nightly && !once {
			spared++
			require.Contains(t, judged[0].Why, "beyond the limit by no more than noise may be")
		}
		if !nightly {
			caught++
		}
	}
	require.Greater(t, spared, 5, "near the limit noise is let pass")
	require.Less(t, spared, 20)
	require.Greater(t, caught, 60, "far from it nothing is")
	_, judged, err := versus.Gate{Conditions: condition}.Judge(versus.GateInput{Side: runOf(100, 30)})
	require.NoError(t, err)
	require.Nil(t, judged[0].FalseAlarms, "a gate that is asked once says nothing of nights")
}

// TestNightlyDrop: where nothing has changed there is no drop: how often one is seen goes by the limit, not by what was seen tonight.
func TestNightlyDrop(t *testing.T) {
	judge := func(limit float64, wrong int) versus.Judged {
		now := runOf(60, wrong)
		other := versus.Compare(runOf(60, 6), now, random(1))
		_, judged, err := versus.Gate{Conditions: []versus.Condition{{Name: versus.GateDrop, Limit: limit}}, Nightly: true}.Judge(
			versus.GateInput{Side: now, Comparison: &other})
		require.NoError(t, err)
		return judged[0]
	}
	require.Equal(t, versus.Met, judge(0.02, 9).Verdict, "five points of sixty questions are noise")
	require.Equal(t, versus.NotMet, judge(0.02, 40).Verdict)
	require.Greater(t, *judge(0, 9).FalseAlarms, *judge(0.2, 9).FalseAlarms)
	require.LessOrEqual(t, *judge(0, 9).FalseAlarms, 1.01, "at the limit it is one night in a year")
	require.True(t, strings.Contains(judge(0.5, 6).Why, "no night"), judge(0.5, 6).Why)
}

// TestDriftCondition: the share of changed answers, and where nothing can be told.
func TestDriftCondition(t *testing.T) {
	gate := versus.Gate{Conditions: []versus.Condition{{Name: versus.GateDrift, Limit: 0.1}}}
	require.True(t, gate.NeedsOther())
	require.False(t, gate.NeedsNamed(), "the run before is found by itself")
	for wrong, want := range map[int]versus.Verdict{0: versus.Met, 2: versus.Met, 3: versus.NotMet} {
		now := runOf(20, wrong)
		other := versus.Compare(runOf(20, 0), now, random(1))
		_, judged, err := gate.Judge(versus.GateInput{Side: now, Comparison: &other})
		require.NoError(t, err)
		require.Equal(t, want, judged[0].Verdict)
		require.Len(t, judged[0].Listed, wrong)
	}
	_, judged, err := gate.Judge(versus.GateInput{Side: runOf(20, 0)})
	require.NoError(t, err)
	require.Equal(t, versus.NotEnough, judged[0].Verdict)
	few := versus.Compare(runOf(3, 0), runOf(3, 0), random(1))
	_, judged, err = gate.Judge(versus.GateInput{Side: runOf(3, 0), Comparison: &few})
	require.NoError(t, err)
	require.Equal(t, versus.NotEnough, judged[0].Verdict)
}
