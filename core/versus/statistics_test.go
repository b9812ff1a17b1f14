package versus_test

import (
	"math/rand/v2"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/score"
	"tovrel/core/versus"
)

func random(seed uint64) *rand.Rand { return rand.New(rand.NewPCG(seed, 0)) }

// TestExact: the tails of Siegel, Nonparametric statistics for the behavioral sciences, 1956, table D (one-tailed, three decimals).
func TestExact(t *testing.T) {
	for _, c := range []struct {
		n, x int
		tail float64
	}{{5, 0, 0.031}, {10, 1, 0.011}, {20, 5, 0.021}, {25, 7, 0.022}, {25, 10, 0.212}} {
		require.InDelta(t, c.tail, versus.Exact(c.x, c.n-c.x)/2, 0.0005, "%d of %d", c.x, c.n)
		require.Equal(t, versus.Exact(c.x, c.n-c.x), versus.Exact(c.n-c.x, c.x))
	}
	require.Equal(t, 1.0, versus.Exact(0, 0), "nothing changed")
	require.Equal(t, 1.0, versus.Exact(3, 3), "as many one way as the other")
}

// TestPermutation: Darwin's pairs of plants in Fisher, The design of experiments, 1935, section 21: of the 32,768 sign changes 863 give
// a sum of 314 or more, and as many one of −314 or less.
func TestPermutation(t *testing.T) {
	darwin := []float64{49, -67, 8, 16, 6, 23, 28, 41, 14, 29, 56, 24, 75, 60, -48}
	require.InDelta(t, 2*863.0/32768, versus.Permutation(darwin, random(1)), 1e-12)
	twice := append(append([]float64(nil), darwin...), 0, 0, 0) // what did not change says nothing
	require.Equal(t, versus.Permutation(darwin, random(1)), versus.Permutation(twice, random(1)))
	many := make([]float64, 40)
	for i := range many {
		many[i] = darwin[i%len(darwin)] / 75
	}
	require.InDelta(t, versus.Permutation(many, random(1)), versus.Permutation(many, random(2)), 0.005, "drawn, not all tried")
}

// TestWilson: the examples of Newcombe, Two-sided confidence intervals for the single proportion, 1998, table I, method 3.
func TestWilson(t *testing.T) {
	for _, c := range []struct{ right, of, low, high float64 }{{81, 263, 0.2553, 0.3662}, {15, 148, 0.0624, 0.1605},
		{0, 20, 0, 0.1611}, {1, 29, 0.0061, 0.1718}} {
		low, high := score.Wilson(c.right/c.of, c.of)
		require.InDelta(t, c.low, low, 0.00005)
		require.InDelta(t, c.high, high, 0.00005)
	}
}

// TestHolm: four tests, of which two stay below 5 %.
func TestHolm(t *testing.T) {
	got := versus.Holm([]float64{0.01, 0.04, 0.03, 0.005})
	for i, want := range []float64{0.03, 0.06, 0.06, 0.02} {
		require.InDelta(t, want, got[i], 1e-12)
	}
}

// flip draws how one question with several attempts does in two versions: its own difficulty ties its attempts together.
func flip(r *rand.Rand, attempts int, better float64) (difference float64) {
	difficulty := r.Float64()
	for range attempts {
		before, after := r.Float64() < difficulty, r.Float64() < min(1, difficulty+better)
		if after && !before {
			difference += 1 / float64(attempts)
		} else if before && !after {
			difference -= 1 / float64(attempts)
		}
	}
	return difference
}

// TestFalseAlarms: with no change between the versions the tests find one in at most 5 % of the cases, also where the attempts of a
// question are tied together (8 % allows for 400 cases only).
func TestFalseAlarms(t *testing.T) {
	const cases, questions = 400, 40
	r := random(11)
	exact, permuted := 0, 0
	for range cases {
		improved, regressed := 0, 0
		differences := make([]float64, questions)
		for q := range questions {
			differences[q] = flip(r, 5, 0)
			switch d := flip(r, 1, 0); {
			case d > 0:
				improved++
			case d < 0:
				regressed++
			}
		}
		if versus.Exact(improved, regressed) <= versus.Level {
			exact++
		}
		if versus.Permutation(differences, random(3)) <= versus.Level {
			permuted++
		}
	}
	require.LessOrEqual(t, exact, cases*8/100)
	require.LessOrEqual(t, permuted, cases*8/100)
}

// TestPower: the power that is computed is the share of cases in which the exact test finds the difference; the smallest detectable
// difference is found in 80 % of them.
func TestPower(t *testing.T) {
	const cases, questions = 2000, 50
	const regresses = 0.04
	difference := versus.SmallestDetectable(questions, regresses)
	require.InDelta(t, 0.8, versus.Power(questions, regresses+difference, regresses), 0.005)
	r := random(13)
	found := 0
	for range cases {
		improved, regressed := 0, 0
		for range questions {
			switch u := r.Float64(); {
			case u < regresses:
				regressed++
			case u < 2*regresses+difference:
				improved++
			}
		}
		if versus.Exact(improved, regressed) <= versus.Level {
			found++
		}
	}
	require.InDelta(t, 0.8, float64(found)/cases, 0.03)
	require.Equal(t, 1.0, versus.SmallestDetectable(4, 0), "four questions find nothing")
	needed := versus.QuestionsNeeded(0.1, 0.03)
	require.GreaterOrEqual(t, versus.Power(needed, 0.13, 0.03), 0.8)
	require.Less(t, versus.Power(needed*9/10, 0.13, 0.03), 0.8)
}

// TestRepeatsNeeded: repeats help against the attempts of a question differing, not against questions differing.
func TestRepeatsNeeded(t *testing.T) {
	require.Greater(t, versus.RepeatsNeeded(100, 0.1, 0.05, 0.4), 1)
	require.Zero(t, versus.RepeatsNeeded(20, 0.05, 0.3, 0.1))
}
