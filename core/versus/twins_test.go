package versus_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
)

// TestSharedTwins: lucky counts in a comparison only on twins that both runs had.
func TestSharedTwins(t *testing.T) {
	side := func(twins []string, verdict score.Verdict, missed ...string) versus.Side {
		return versus.Side{Run: record.Run{Twins: map[string][]string{"d": twins}},
			Attempts: []record.Attempt{{Question: "s/q", Wording: "How many?", Verdict: verdict, MissedOn: missed}}}
	}
	right := side([]string{"a"}, score.Right)
	c := versus.Compare(right, side([]string{"a", "b"}, score.Lucky, "b"), rand.New(rand.NewPCG(1, 1)))
	require.Empty(t, c.Flips, "the other run did not have twin b")
	require.NotEmpty(t, c.Warnings)
	lucky := side([]string{"a", "b"}, score.Lucky, "a", "b")
	c = versus.Compare(right, lucky, rand.New(rand.NewPCG(1, 1)))
	require.Equal(t, []string{"s/q"}, c.Of(versus.Regressed))
	require.Equal(t, score.Lucky, lucky.Attempts[0].Verdict, "the attempts stay as they are")
}
