package versus

import (
	"cmp"
	"math"
	"runtime"
	"slices"
	"sync"

	"tovrel/core/record"
)

// Several holds more than two runs against each other.
type Several struct {
	Sides   []Side
	Pairs   []Pair
	Ranking []Ranked // the most accurate first
	Matrix  []Row    // every question
}

// Between is the comparison of two of the runs, the first before the second.
func (s Several) Between(first, second int) Comparison {
	for _, p := range s.Pairs {
		if p.First == first && p.Second == second {
			return p.Comparison
		}
	}
	return Comparison{}
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
func CompareAll(sides []Side, o Options) Several {
	lights := make([]Side, len(sides))
	for i, s := range sides {
		lights[i] = s.light()
	}
	sides = lights
	out := Several{Sides: sides, Ranking: rank(sides)}
	all := make([]prepared, len(sides))
	together(len(sides), true, func(n int) {
		r := out.Ranking[n]
		all[r.Side] = prepare(sides[r.Side], &r.Summary)
	})
	for i := range sides {
		for j := i + 1; j < len(sides); j++ {
			out.Pairs = append(out.Pairs, Pair{First: i, Second: j})
		}
	}
	together(len(out.Pairs), o.Draws != nil, func(n int) {
		own := o
		if o.Draws != nil {
			own.Random = o.Draws(n)
		}
		p := &out.Pairs[n]
		p.Comparison = compare(all[p.First], all[p.Second], own)
	})
	var values []float64
	for _, p := range out.Pairs {
		values = append(values, p.PValue)
	}
	for i, p := range Holm(values) { // what the correction takes back, the interval takes back too
		c := &out.Pairs[i].Comparison
		if c.PValue = p; p > Level {
			c.Outcome = NoChange
		}
		c.Interval = agreeing(c.raw, c.Difference, c.Outcome != NoChange)
	}
	out.Matrix = matrixOf(all)
	return out
}

// together does so many things, at once where they may be.
func together(n int, atOnce bool, do func(n int)) {
	if !atOnce {
		for i := range n {
			do(i)
		}
		return
	}
	var wg sync.WaitGroup
	next := make(chan int)
	for range runtime.GOMAXPROCS(0) {
		wg.Go(func() {
			for i := range next {
				do(i)
			}
		})
	}
	for i := range n {
		next <- i
	}
	close(next)
	wg.Wait()
}

func rank(sides []Side) []Ranked {
	all := make([]Ranked, len(sides))
	together(len(sides), true, func(i int) {
		all[i] = Ranked{Side: i, Summary: record.SummariseLight(sides[i].Run, sides[i].Lights)}
	})
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
