// Package score sums verdicts up: standings of questions, accuracy and its interval. It judges no answer.
package score

import (
	"math"
	"sort"
)

// Verdict is the judgement of one attempt.
type Verdict string

// The verdicts.
const (
	Right    Verdict = "right"
	Wrong    Verdict = "wrong"
	Failed   Verdict = "failed"
	Lucky    Verdict = "lucky"
	Unscored Verdict = "unscored"
)

// Verdicts lists all verdicts in the order in which they are shown.
func Verdicts() []Verdict { return []Verdict{Right, Wrong, Failed, Lucky, Unscored} }

// Standing is the judgement of a question over all its attempts.
type Standing string

// The standings.
const (
	Solid  Standing = "solid"
	Flaky  Standing = "flaky"
	Broken Standing = "broken"
	Open   Standing = "open"
)

// Standings lists all standings in the order in which they are shown.
func Standings() []Standing { return []Standing{Solid, Flaky, Broken, Open} }

// StandingOf judges a question by its attempts' verdicts: open where some are unscored, else solid, flaky or broken.
func StandingOf(attempts []Verdict) Standing {
	right := 0
	for _, v := range attempts {
		switch v {
		case Unscored:
			return Open
		case Right:
			right++
		}
	}
	switch right {
	case 0:
		return Broken
	case len(attempts):
		return Solid
	}
	return Flaky
}

// Question is what the figures need to know of a question.
type Question struct {
	Weight   float64
	Attempts []Verdict
}

// share is the share of right attempts among the scored ones; false where none is scored.
func (q Question) share() (share float64, scored int) {
	right := 0
	for _, v := range q.Attempts {
		if v != Unscored {
			scored++
		}
		if v == Right {
			right++
		}
	}
	if scored == 0 {
		return 0, 0
	}
	return float64(right) / float64(scored), scored
}

// Rate is a share with its 95 % interval.
type Rate struct {
	Value float64
	Low   float64
	High  float64
}

// Accuracy is Σ w·(share of right attempts) / Σ w over the questions that have a scored attempt; nil where none has.
//
// The interval is Wilson's (Wilson: Probable inference, the law of succession, and statistical inference, 1927) at an
// effective sample size n = p(1−p)/Var with Var = Σ w²(p_q−p)²/(Σ w)², at most the attempts; (Σ w)²/Σ w² where p is 0 or 1.
func Accuracy(questions []Question) *Rate {
	var weights, squares, sum float64
	attempts := 0
	for _, q := range questions {
		if p, scored := q.share(); scored > 0 {
			weights += q.Weight
			squares += q.Weight * q.Weight
			sum += q.Weight * p
			attempts += scored
		}
	}
	if weights == 0 {
		return nil
	}
	p := sum / weights
	n := weights * weights / squares
	if p > 0 && p < 1 {
		n = float64(attempts)
		if v := variance(questions, p, weights); v > 0 {
			n = math.Min(n, p*(1-p)/v)
		}
	}
	low, high := Wilson(p, n)
	return &Rate{p, low, high}
}

func variance(questions []Question, p, weights float64) float64 {
	v := 0.0
	for _, q := range questions {
		if share, scored := q.share(); scored > 0 {
			d := q.Weight * (share - p)
			v += d * d
		}
	}
	return v / (weights * weights)
}

// z is the normal quantile of a two-sided 95 % interval.
const z = 1.959963984540054

// Wilson is the 95 % score interval of a share p of n trials; n may be fractional.
func Wilson(p, n float64) (low, high float64) {
	middle := (p + z*z/(2*n)) / (1 + z*z/n)
	half := z / (1 + z*z/n) * math.Sqrt(p*(1-p)/n+z*z/(4*n*n))
	return math.Max(0, middle-half), math.Min(1, middle+half)
}

// Percentile is the nearest-rank percentile of values (0 < share ≤ 1); 0 for none. It does not change them.
//
// Source: Hyndman and Fan, Sample quantiles in statistical packages, 1996, definition 1.
func Percentile(values []float64, share float64) float64 {
	if len(values) == 0 {
		return 0
	}
	sorted := append([]float64(nil), values...)
	sort.Float64s(sorted)
	rank := int(math.Ceil(share * float64(len(sorted))))
	return sorted[max(rank, 1)-1]
}
