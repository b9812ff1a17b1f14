package versus

import (
	"cmp"
	"math"
	"slices"

	"tovrel/core/record"
)

// Several holds more than two runs against each other.
type Several struct {
	Sides   []Side
	Pairs   []Pair
	Ranking []Ranked // the most accurate first
}

// Pair is a comparison of two of the runs, with its p-value corrected for the number of pairs.
type Pair struct {
	First, Second int // indexes of the runs
	Comparison
}

// Ranked is a run in the order of accuracy.
type Ranked struct {
	Side        int
	Summary     record.Summary
	Undominated bool // no other is at least as accurate, as cheap and as fast, and better in one of these
}

// CompareAll compares every pair of runs; p-values are corrected by Holm's procedure, and outcomes rest on those.
func CompareAll(sides []Side, random Random) Several {
	out := Several{Sides: sides}
	var values []float64
	for i := range sides {
		for j := i + 1; j < len(sides); j++ {
			c := Compare(sides[i], sides[j], random)
			out.Pairs = append(out.Pairs, Pair{i, j, c})
			values = append(values, c.PValue)
		}
	}
	for i, p := range Holm(values) {
		c := &out.Pairs[i].Comparison
		if c.PValue = p; p > Level {
			c.Outcome = NoChange
		}
	}
	out.Ranking = rank(sides)
	return out
}

func rank(sides []Side) []Ranked {
	all := make([]Ranked, len(sides))
	for i, s := range sides {
		all[i] = Ranked{Side: i, Summary: record.Summarise(s.Run, s.Attempts)}
	}
	for i := range all {
		all[i].Undominated = true
		for j := range all {
			if i != j && dominates(all[j].Summary, all[i].Summary) {
				all[i].Undominated = false
			}
		}
	}
	slices.SortStableFunc(all, func(a, b Ranked) int { return cmp.Compare(accuracyOf(b.Summary), accuracyOf(a.Summary)) })
	return all
}

func accuracyOf(s record.Summary) float64 {
	if s.Accuracy == nil {
		return -1
	}
	return *s.Accuracy
}

// dominates tells whether a run is nowhere worse than another and somewhere better: in accuracy, cost and median latency.
func dominates(s, other record.Summary) bool {
	better, worse := false, false
	for _, pair := range [][2]float64{{accuracyOf(s), accuracyOf(other)}, {-s.Cost, -other.Cost},
		{-math.Round(s.LatencyMS.P50), -math.Round(other.LatencyMS.P50)}} {
		better = better || pair[0] > pair[1]
		worse = worse || pair[0] < pair[1]
	}
	return better && !worse
}
