// Command coverage simulates how often the intervals hold the truth: of a run's accuracy, of the difference of two runs of the same rate,
// and of two runs of two rates, at 6 to 500 questions, with 1 to 10 repeats that come out alike or each for itself, with weights and in
// threads, averaged over true rates from 0.05 to 0.95; in brackets the least at a rate from 0.1 to 0.9. It prints a Markdown table.
package main

import (
	"flag"
	"fmt"
	"math"
	"math/rand/v2"
	"runtime"
	"sync"

	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/versus"
)

// design is a way to ask.
type design struct {
	name    string
	repeats int
	rho     float64 // correlation of the attempts at a question, and of those of a thread
	weights bool
	threads bool
}

var designs = []design{
	{"one attempt", 1, 0, false, false}, {"3 repeats, each for itself", 3, 0, false, false}, {"3 repeats, somewhat alike", 3, 0.4, false,
		false},
	{"3 repeats, all alike", 3, 1, false, false}, {"10 repeats, each for itself", 10, 0, false, false},
	{"10 repeats, somewhat alike", 10, 0.4, false, false}, {"10 repeats, all alike", 10, 1, false, false},
	{"weights 1, 1, 2, 5", 1, 0, true, false}, {"weights, 3 repeats, somewhat alike", 3, 0.4, true, false},
	{"threads of two, somewhat alike", 1, 0.4, false, true}, {"threads of two, 3 repeats, all alike", 3, 1, false, true},
}

var sizes = []int{6, 10, 20, 50, 100, 200, 500}

func main() {
	seed := flag.Uint64("seed", 1, "start of the random draws")
	cases := flag.Int("cases", 200, "runs drawn at each of 19 rates")
	least := flag.Int("least", 20, "runs drawn where there are many attempts")
	flag.Parse()
	fmt.Print("| questions |")
	for _, n := range sizes {
		fmt.Printf(" %d |", n)
	}
	fmt.Println("\n| --- |" + dashes(len(sizes)))
	for i, d := range designs {
		held := make([][3]string, len(sizes))
		var wg sync.WaitGroup
		slots := make(chan struct{}, runtime.GOMAXPROCS(0))
		for j, n := range sizes {
			wg.Go(func() {
				slots <- struct{}{}
				defer func() { <-slots }()
				held[j] = d.coverage(rand.New(rand.NewPCG(*seed, uint64(100*i+j))), n, max(*least, *cases*50/max(50, n*d.repeats)))
			})
		}
		wg.Wait()
		for what, name := range []string{"accuracy", "no difference", "difference"} {
			fmt.Printf("| %s: %s |", d.name, name)
			for j := range sizes {
				fmt.Printf(" %s |", held[j][what])
			}
			fmt.Println()
		}
	}
}

func dashes(n int) string {
	out := ""
	for range n {
		out += " ---: |"
	}
	return out
}

// coverage is how often the intervals hold the truth, in percent: of a rate, of no difference, and of the difference to any other rate.
func (d design) coverage(r *rand.Rand, questions, cases int) [3]string {
	const step, first, last = 5, 5, 95 // rates in percent
	var held [3]float64
	least := [3]float64{1, 1, 1}
	rates := 0
	for percent := first; percent <= last; percent += step {
		rate := float64(percent) / 100
		var hits [3]float64
		for n := range cases {
			other := float64(first+step*(n%(1+(last-first)/step))) / 100
			one, same := d.side(r, 1, questions, rate), d.side(r, 2, questions, rate)
			c := versus.Compare(one, same, r)
			count(&hits[0], *c.After.Interval, rate)
			count(&hits[1], c.Interval, 0)
			count(&hits[2], versus.Compare(one, d.side(r, 2, questions, other), r).Interval, other-rate)
		}
		rates++
		for i := range hits {
			share := hits[i] / float64(cases)
			held[i] += share
			if percent >= 10 && percent <= 90 {
				least[i] = math.Min(least[i], share)
			}
		}
	}
	var out [3]string
	for i := range out {
		out[i] = fmt.Sprintf("%.1f (%.0f)", 100*held[i]/float64(rates), 100*least[i])
	}
	return out
}

// count counts an interval that holds the truth.
func count(hits *float64, interval [2]float64, truth float64) {
	const rounding = 1e-9
	if interval[0] <= truth+rounding && truth-rounding <= interval[1] {
		*hits++
	}
}

// side draws a run.
func (d design) side(r *rand.Rand, id, questions int, rate float64) versus.Side {
	s := versus.Side{Run: record.Run{ID: id, Translator: fmt.Sprint("t@", id), Weights: map[string]float64{},
		About:   map[string]record.About{},
		Grounds: map[string]record.Ground{}}}
	own := 0.0
	for q := range questions {
		name := fmt.Sprintf("s/%04d", q)
		about := record.About{Dataset: "d"}
		if d.threads {
			about.Thread = fmt.Sprintf("s/%04d", q/2*2)
		}
		if !d.threads || q%2 == 0 {
			own = beta(r, rate, d.rho)
		}
		s.Run.About[name], s.Run.Weights[name] = about, 1
		if d.weights {
			s.Run.Weights[name] = []float64{1, 1, 2, 5}[q%4]
		}
		for n := range d.repeats {
			a := record.Attempt{Question: name, Wording: "w", Repeat: n, Verdict: score.Wrong}
			if r.Float64() < own {
				a.Verdict = score.Right
			}
			s.Attempts = append(s.Attempts, a)
		}
	}
	return s
}

// beta draws the rate of a question, so that two of its attempts correlate by rho.
func beta(r *rand.Rand, rate, rho float64) float64 {
	switch {
	case rho <= 0:
		return rate
	case rho >= 1:
		if r.Float64() < rate {
			return 1
		}
		return 0
	}
	scale := 1/rho - 1
	a, b := gamma(r, rate*scale), gamma(r, (1-rate)*scale)
	return a / (a + b)
}

// gamma draws from the gamma distribution.
//
// Source: Marsaglia and Tsang, A simple method for generating gamma variables, 2000.
func gamma(r *rand.Rand, shape float64) float64 {
	if shape < 1 {
		return gamma(r, shape+1) * math.Pow(r.Float64(), 1/shape)
	}
	d := shape - 1.0/3
	c := 1 / math.Sqrt(9*d)
	for {
		x := r.NormFloat64()
		v := math.Pow(1+c*x, 3)
		if v > 0 && math.Log(r.Float64()) < x*x/2+d-d*v+d*math.Log(v) {
			return d * v
		}
	}
}
