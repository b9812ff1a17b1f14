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
	Thread   string // questions of one thread are not independent; "" for a question of its own
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
