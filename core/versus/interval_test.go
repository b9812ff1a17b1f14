package versus_test

import (
	"fmt"
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
)

// versions draws two runs over the same questions, each attempt right with the rate of its side; two questions make a thread where threads
// are wanted, and then share their luck.
func versions(r *rand.Rand, questions, repeats int, rates [2]float64, threads bool) [2]versus.Side {
	var out [2]versus.Side
	for i, rate := range rates {
		s := versus.Side{Run: record.Run{ID: i + 1, Translator: fmt.Sprint("t@", i+1), Grounds: map[string]record.Ground{},
			About: map[string]record.About{}, Weights: map[string]float64{}}}
		luck := 0.0
		for q := range questions {
			name := fmt.Sprintf("s/%03d", q)
			about := record.About{Dataset: "d"}
			if threads {
				about.Thread = fmt.Sprintf("s/%03d", q/2*2)
			}
			s.Run.About[name], s.Run.Grounds[name], s.Run.Weights[name] = about, record.Ground{}, 1
			for n := range repeats {
				if !threads || q%2 == 0 {
					luck = r.Float64()
				}
				a := record.Attempt{Question: name, Wording: "w", Repeat: n, Verdict: score.Wrong}
				if luck < rate {
					a.Verdict = score.Right
				}
				s.Attempts = append(s.Attempts, a)
			}
		}
		out[i] = s
	}
	return out
}

// TestIntervalAgrees: whatever two runs come to, the interval of the difference leaves zero out just where the outcome says that there is
// a difference, holds the difference, lies within what a difference can be, and never has no width; also after the correction for many
// pairs.
func TestIntervalAgrees(t *testing.T) {
	outcomes := map[versus.Outcome]int{}
	agrees := func(c versus.Comparison) {
		outcomes[c.Outcome]++
		low, high := c.Interval[0], c.Interval[1]
		require.LessOrEqual(t, low, c.Difference)
		require.GreaterOrEqual(t, high, c.Difference)
		require.GreaterOrEqual(t, low, -1.0)
		require.LessOrEqual(t, high, 1.0)
		require.Less(t, low, high)
		switch c.Outcome {
		case versus.Better:
			require.Positive(t, low)
		case versus.Worse:
			require.Negative(t, high)
		default:
			require.LessOrEqual(t, low, 0.0)
			require.GreaterOrEqual(t, high, 0.0)
		}
	}
	r := random(77)
	for range 600 {
		sides := versions(r, 1+r.IntN(40), 1+r.IntN(3), [2]float64{r.Float64(), r.Float64()}, r.IntN(3) == 0)
		agrees(versus.Compare(sides[0], sides[1], random(1)))
	}
	for range 60 {
		one := versions(r, 20, 1, [2]float64{r.Float64(), r.Float64()}, false)
		other := versions(r, 20, 1, [2]float64{r.Float64(), r.Float64()}, false)
		for _, p := range versus.CompareAll([]versus.Side{one[0], one[1], other[0], other[1]}, versus.Options{Random: random(1)}).Pairs {
			agrees(p.Comparison)
		}
	}
	require.Len(t, outcomes, 3, "each outcome was seen: %v", outcomes)
}

// TestFewQuestions: fewer than six questions that have nothing to do with each other tell nothing, however they come out.
func TestFewQuestions(t *testing.T) {
	all := func(questions int, threads bool) versus.Comparison {
		sides := versions(random(1), questions, 4, [2]float64{0, 1}, threads)
		return versus.Compare(sides[0], sides[1], random(1))
	}
	require.Equal(t, versus.NoChange, all(5, false).Outcome)
	require.Equal(t, versus.Better, all(6, false).Outcome)
	require.Equal(t, versus.NoChange, all(10, true).Outcome, "five threads")
	require.Equal(t, versus.Better, all(12, true).Outcome)
	require.Equal(t, 5, all(10, true).Threads)
}

// TestIntervalsHold: over drawn runs the intervals of accuracy and of difference hold the truth about as often as they say. The whole
// figures are in docs/measurements.md.
func TestIntervalsHold(t *testing.T) {
	const cases = 400
	r := random(5)
	for _, way := range []struct {
		questions, repeats int
		threads            bool
	}{{10, 1, false}, {30, 1, false}, {20, 3, false}, {40, 1, true}} {
		for _, rates := range [][2]float64{{0.5, 0.5}, {0.3, 0.45}, {0.9, 0.8}} {
			held, known := 0, 0
			for range cases {
				sides := versions(r, way.questions, way.repeats, rates, way.threads)
				c := versus.Compare(sides[0], sides[1], random(1))
				if truth := rates[1] - rates[0]; c.Interval[0] <= truth && truth <= c.Interval[1] {
					held++
				}
				if i := c.After.Interval; i[0] <= rates[1] && rates[1] <= i[1] {
					known++
				}
			}
			require.GreaterOrEqual(t, held, cases*90/100, "difference, %+v %v", way, rates)
			require.GreaterOrEqual(t, known, cases*90/100, "accuracy, %+v %v", way, rates)
			require.Less(t, min(held, known), cases, "an interval that always holds says nothing: %+v %v", way, rates)
		}
	}
}
