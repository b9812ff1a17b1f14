package score

import "math"

// Rate is a share with its 95 % interval.
type Rate struct {
	Value float64
	Low   float64
	High  float64
}

// Design is how much the attempts at some questions say: attempts at one question, and questions of one thread, say less than as many
// that have nothing to do with each other.
type Design struct {
	Value       float64 // the weighted share of right attempts
	Together    float64 // effective number of trials where the attempts of a thread all come out alike
	Apart       float64 // and where each comes out for itself
	Correlation float64 // of the attempts of a thread, 0 to 1; 1 where nothing shows it
}

// DesignOf looks at the scored attempts of questions; false where there is none.
//
// The correlation is that at which the variance of the value is the observed one: with threads c of weight W_c and weighted share S_c,
// Var = C/(C−1) · Σ (S_c − p·W_c)² / (Σ W)², and Var = p(1−p) · (1/Apart + ρ(1/Together − 1/Apart)). Source: Kish, Survey sampling, 1965,
// sections 5.4 and 8.2, for the effective numbers.
func DesignOf(questions []Question) (Design, bool) {
	type sums struct{ weight, right float64 }
	threads := map[string]int{}
	order := make([]sums, 0, len(questions)) // a sum in another order is another number
	var weights, right, own float64
	for _, q := range questions {
		share, scored := q.share()
		if scored == 0 {
			continue
		}
		at, known := threads[q.Thread]
		if !known {
			at, order = len(order), append(order, sums{})
		}
		if q.Thread != "" {
			threads[q.Thread] = at
		}
		t := &order[at]
		t.weight, t.right = t.weight+q.Weight, t.right+q.Weight*share
		weights, right, own = weights+q.Weight, right+q.Weight*share, own+q.Weight*q.Weight/float64(scored)
	}
	if weights == 0 {
		return Design{}, false
	}
	d := Design{Value: right / weights, Correlation: 1}
	squares, spread := 0.0, 0.0
	for _, t := range order {
		squares += t.weight * t.weight
		off := t.right - d.Value*t.weight
		spread += off * off
	}
	d.Together, d.Apart = weights*weights/squares, weights*weights/own
	const same = 1 + 1e-9
	if n := float64(len(order)); d.Value > 0 && d.Value < 1 && n > 1 && d.Apart > d.Together*same {
		variance := spread / (weights * weights) * n / (n - 1)
		rho := (variance/(d.Value*(1-d.Value)) - 1/d.Apart) / (1/d.Together - 1/d.Apart)
		d.Correlation = math.Max(0, math.Min(1, rho))
	}
	return d, true
}

// trials is the effective number of trials. A correlation that is seen is taken for larger, by what so few threads may have hidden of
// it; the factor is the one at which the simulated coverage holds (bench/coverage).
func (d Design) trials() float64 {
	const allowance = 2.6
	rho := math.Min(1, d.Correlation*(1+allowance*math.Sqrt(2/d.Together)))
	return 1 / (1/d.Apart + rho*(1/d.Together-1/d.Apart))
}

// Accuracy is Σ w·(share of right attempts) / Σ w over the questions that have a scored attempt; nil where none has.
//
// The interval is Wilson's (Wilson: Probable inference, the law of succession, and statistical inference, 1927) at the effective number
// of trials of the design.
func Accuracy(questions []Question) *Rate {
	d, scored := DesignOf(questions)
	if !scored {
		return nil
	}
	low, high := Wilson(d.Value, d.trials())
	return &Rate{d.Value, low, high}
}

// Z is the normal quantile of a two-sided 95 % interval.
const Z = 1.959963984540054

// Wilson is the 95 % score interval of a share p of n trials; n may be fractional.
func Wilson(p, n float64) (low, high float64) {
	middle := (p + Z*Z/(2*n)) / (1 + Z*Z/n)
	half := Z / (1 + Z*Z/n) * math.Sqrt(p*(1-p)/n+Z*Z/(4*n*n))
	return math.Max(0, middle-half), math.Min(1, middle+half)
}
