package versus

import (
	"cmp"
	"math"
	"slices"

	"gonum.org/v1/gonum/stat/distuv"
)

// Random draws 64 random bits. It is *rand.Rand, with a seed that is printed.
type Random interface{ Uint64() uint64 }

// Level is the level of significance of every test.
const Level = 0.05

// Exact is the two-sided p-value of the exact paired test: of the pairs that differ, so many improved and so many regressed, each as
// likely as the other if nothing changed. Weights do not enter. Twice the smaller tail of the binomial distribution, at most 1.
//
// Source: McNemar, Note on the sampling error of the difference between correlated proportions or percentages, 1947, in its exact
// binomial form.
func Exact(improved, regressed int) float64 {
	n := improved + regressed
	if n == 0 {
		return 1
	}
	return math.Min(1, 2*binomial(n, min(improved, regressed), 0.5))
}

// binomial is the probability of at most k of n.
func binomial(n, k int, p float64) float64 {
	switch {
	case k < 0:
		return 0
	case k >= n:
		return 1
	}
	return distuv.Binomial{N: float64(n), P: p}.CDF(float64(k))
}

// permutations is how many sign changes a permutation test draws where it cannot try all.
const permutations = 20_000

// Permutation is the two-sided p-value of the paired permutation test: how often a difference as large as the observed one arises when
// each question's difference takes either sign. All sign changes are tried where there are few, else random ones are drawn, and the
// observed one counts among them. Attempts of one question stay together: they are not independent.
//
// Source: Fisher, The design of experiments, 1935, section 21; the count of the observed one: Phipson and Smyth, Permutation p-values
// should never be zero, 2010.
func Permutation(differences []float64, random Random) float64 {
	var moved []float64
	observed := 0.0
	for _, d := range differences {
		if d != 0 {
			moved = append(moved, d)
			observed += d
		}
	}
	const few = 16
	limit := math.Abs(observed) - 1e-9
	if len(moved) <= few {
		hits := 0
		for signs := range 1 << len(moved) {
			sum := 0.0
			for i, d := range moved {
				if signs>>i&1 == 1 {
					d = -d
				}
				sum += d
			}
			if math.Abs(sum) >= limit {
				hits++
			}
		}
		return float64(hits) / float64(int(1)<<len(moved))
	}
	hits := 1
	sums := signedSums(moved)
	for range permutations {
		sum := 0.0
		bits, left := uint64(0), 0
		for i := range sums {
			if left == 0 {
				bits, left = random.Uint64(), 64
			}
			sum += sums[i][bits&(together8-1)]
			bits, left = bits>>eight, left-eight
		}
		if math.Abs(sum) >= limit {
			hits++
		}
	}
	return float64(hits) / float64(permutations+1)
}

// eight differences take their signs at once, from as many bits: their sums with every choice of signs are known beforehand.
const (
	eight     = 8
	together8 = 1 << eight
)

// signedSums are, of every eight differences, their sums with each choice of signs; a bit that is set turns a difference round.
func signedSums(differences []float64) [][together8]float64 {
	out := make([][together8]float64, (len(differences)+eight-1)/eight)
	for i, d := range differences {
		sums := &out[i/eight]
		for signs := range sums {
			if signs>>(i%eight)&1 == 1 {
				sums[signs] -= d
			} else {
				sums[signs] += d
			}
		}
	}
	return out
}

// Holm corrects p-values for their number, so that the chance of any false finding stays at the level.
//
// Source: Holm, A simple sequentially rejective multiple test procedure, 1979.
func Holm(values []float64) []float64 {
	order := make([]int, len(values))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(values[a], values[b]) })
	out := make([]float64, len(values))
	most := 0.0
	for rank, i := range order {
		most = math.Max(most, math.Min(1, values[i]*float64(len(values)-rank)))
		out[i] = most
	}
	return out
}
