package record_test

import (
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
)

// TestJudge: every combination of what can be seen has its verdict, in the order of precedence, and no wrong answer is without a fault.
func TestJudge(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		seen := record.Seen{Broken: rapid.Bool().Draw(r, "broken"), Fits: rapid.Bool().Draw(r, "fits"),
			Missed: rapid.Bool().Draw(r, "missed"), Why: "because"}
		if rapid.Bool().Draw(r, "unscored") {
			seen.Unscored = fault.ReasonTransport
		}
		if rapid.Bool().Draw(r, "faults") {
			seen.Faults = []fault.Fault{{Code: fault.Boundary}}
		}
		a := record.Attempt{Verdict: score.Right, Reason: fault.ReasonOverBudget, Faults: []fault.Fault{{Code: fault.Limit}}}
		a.Judge(seen)
		want := score.Wrong
		switch {
		case seen.Unscored != "":
			want = score.Unscored
		case seen.Broken:
			want = score.Failed
		case seen.Missed:
			want = score.Lucky
		case seen.Fits:
			want = score.Right
		}
		require.Equal(r, want, a.Verdict)
		require.Equal(r, seen.Unscored, a.Reason, "nothing of an earlier verdict is left")
		require.Equal(r, "because", a.Why)
		if len(seen.Faults) > 0 {
			require.Equal(r, seen.Faults, a.Faults)
		} else if want == score.Wrong || want == score.Lucky {
			require.Equal(r, fault.Unexplained, a.Faults[0].Code)
		} else {
			require.Empty(r, a.Faults)
		}
	})
}
