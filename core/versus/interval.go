package versus

import (
	"math"

	"tovrel/core/score"
)

// change is a question's part in a difference.
type change struct {
	thread string // questions of one thread are not independent
	weight float64
	of     float64 // its share of right attempts, by −1 to 1
}

// moves are the weighted changes of the threads, with their weights: what a test may turn round, and what an interval counts as one.
type moves struct{ change, weight []float64 }

func movesOf(all []change) moves {
	var m moves
	at := map[string]int{}
	for _, q := range all {
		i, known := at[q.thread]
		if !known || q.thread == "" {
			i = len(m.change)
			at[q.thread] = i
			m.change, m.weight = append(m.change, 0), append(m.weight, 0)
		}
		m.change[i] += q.weight * q.of
		m.weight[i] += q.weight
	}
	return m
}

// differenceInterval is the 95 % interval of a weighted mean change. It never has no width: two more questions are thought of, that
// change by one step each way or not at all, as wide a step as the attempts of a question show together.
//
// Source: Agresti and Min, Simple improved confidence intervals for comparing matched proportions, 2005, for one attempt a question;
// with more, the step is the square root of Together/Apart + ρ·(1 − Together/Apart) of the design.
func differenceInterval(m moves, designs [2]score.Design) [2]float64 {
	weights, squares, sum := 0.0, 0.0, 0.0
	for i, w := range m.weight {
		weights, squares, sum = weights+w, squares+w*w, sum+m.change[i]
	}
	mean := sum / weights
	n := weights * weights / squares
	spread := 0.0
	for i, w := range m.weight {
		off := m.change[i] - mean*w
		spread += off * off
	}
	apart := designs[0].Together / designs[0].Apart
	rho := sharedCorrelation(designs, float64(len(m.weight)))
	step := apart + rho*(1-apart) // squared
	const more = 2.0
	middle := mean * n / (n + more)
	second := n*(spread/squares+mean*mean) + step
	half := score.Z * math.Sqrt(math.Max(0, second-(n+more)*middle*middle)) / (n + more)
	return [2]float64{math.Max(-1, middle-half), math.Min(1, middle+half)}
}

// sharedCorrelation is that of both sides, drawn a little towards 1 where there are few threads to see it in. A side on which all is right,
// or nothing, shows none.
func sharedCorrelation(designs [2]score.Design, threads float64) float64 {
	sum, seen := 0.0, 0.0
	for _, d := range designs {
		if d.Value > 0 && d.Value < 1 {
			sum, seen = sum+d.Correlation, seen+1
		}
	}
	if seen == 0 {
		return 1
	}
	return (threads*sum/seen + 1) / (threads + 1)
}

// agreeing widens an interval to no difference where the test does not tell one, and ends it short of that where it does: it is the set of
// differences that the test of the outcome does not reject, so that the two never contradict each other.
func agreeing(interval [2]float64, difference float64, rejected bool) [2]float64 {
	low, high := interval[0], interval[1]
	if !rejected {
		return [2]float64{math.Min(low, 0), math.Max(high, 0)}
	}
	const short = 1e-4 // a hundredth of a point
	if difference > 0 {
		return [2]float64{math.Max(low, math.Min(short, difference)), math.Max(high, difference)}
	}
	return [2]float64{math.Min(low, difference), math.Min(high, math.Max(-short, difference))}
}
