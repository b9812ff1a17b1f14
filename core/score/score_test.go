package score_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/score"
)

const (
	r = score.Right
	w = score.Wrong
	u = score.Unscored
)

// TestStandings judges questions over all their attempts.
func TestStandings(t *testing.T) {
	require.Equal(t, score.Solid, score.StandingOf([]score.Verdict{r, r}))
	require.Equal(t, score.Flaky, score.StandingOf([]score.Verdict{r, w}))
	require.Equal(t, score.Broken, score.StandingOf([]score.Verdict{w, score.Failed, score.Lucky}))
	require.Equal(t, score.Open, score.StandingOf([]score.Verdict{r, u}))
}

// TestPlainWilson: with one attempt a question and equal weights the interval is Wilson's. The worked figures are those of
// 81 successes in 263 trials (Newcombe: Two-sided confidence intervals for the single proportion, 1998, table I, method 3).
func TestPlainWilson(t *testing.T) {
	var questions []score.Question
	for i := range 263 {
		v := w
		if i < 81 {
			v = r
		}
		questions = append(questions, score.Question{Weight: 1, Attempts: []score.Verdict{v}})
	}
	rate := score.Accuracy(questions)
	require.InDelta(t, 0.3080, rate.Value, 5e-5)
	require.InDelta(t, 0.2553, rate.Low, 5e-5)
	require.InDelta(t, 0.3662, rate.High, 5e-5)
}

// TestAccuracy: a question counts once however many attempts it has, by its weight; unscored attempts are left out.
func TestAccuracy(t *testing.T) {
	require.Nil(t, score.Accuracy(nil))
	require.Nil(t, score.Accuracy([]score.Question{{Weight: 1, Attempts: []score.Verdict{u}}}))
	rate := score.Accuracy([]score.Question{
		{Weight: 1, Attempts: []score.Verdict{r, r, r, r}},
		{Weight: 2, Attempts: []score.Verdict{w, r}},
		{Weight: 1, Attempts: []score.Verdict{u, w}},
		{Weight: 9, Attempts: []score.Verdict{u}},
	})
	require.InDelta(t, (1+2*0.5+0)/4.0, rate.Value, 1e-12)
	require.Less(t, rate.Low, rate.Value)
	require.Greater(t, rate.High, rate.Value)
}

// TestBounds: at no and at all right the interval still has a width.
func TestBounds(t *testing.T) {
	all := score.Accuracy([]score.Question{{Weight: 1, Attempts: []score.Verdict{r}}, {Weight: 1, Attempts: []score.Verdict{r}}})
	require.InDelta(t, 1, all.High, 1e-12)
	require.Less(t, all.Low, 0.5)
	require.Equal(t, 3.0, score.Percentile([]float64{5, 1, 3}, 0.5))
	require.Equal(t, 5.0, score.Percentile([]float64{5, 1, 3}, 0.95))
	require.Zero(t, score.Percentile(nil, 0.5))
}
