package versus

import (
	"math"

	"tovrel/core/score"
)

// figures computes the difference, its interval and whether it can be told from noise.
func (c *Comparison) figures(like []question, random Random) {
	n := len(like)
	c.PValue, c.Smallest, c.Outcome = 1, 1, NoChange
	if n == 0 {
		return
	}
	f := figuresOf(like)
	if f.total == 0 {
		return
	}
	c.Accuracy = [2]float64{f.before / f.total, f.after / f.total}
	c.Difference = c.Accuracy[1] - c.Accuracy[0]
	c.Differences = spread(like, f.changes())
	c.Differences.Regresses = float64(f.regressed) / float64(n)
	m := movesOf(f.pairs)
	if f.single && len(m.change) == n {
		c.Test, c.PValue, c.Smallest = "exact paired test", Exact(f.improved, f.regressed),
			SmallestDetectable(n, reverseShare(c.Difference, f.improved, f.regressed, n))
	} else {
		c.Test = "paired permutation test by question"
		if len(m.change) < n {
			c.Test = "paired permutation test by thread"
		}
		c.PValue, c.Smallest = Permutation(m.change, random),
			smallestDetectableMean(n, c.Differences.Between+c.Differences.Within/math.Max(1, c.Differences.Attempts))
	}
	c.Threads = len(m.change)
	if c.PValue <= Level && c.Difference != 0 && c.Threads >= Fewest {
		c.Outcome = Better
		if c.Difference < 0 {
			c.Outcome = Worse
		}
	}
	c.raw = differenceInterval(m, designsOf(like))
	c.Interval = agreeing(c.raw, c.Difference, c.Outcome != NoChange)
}

// Fewest is how many questions, or threads of them, it takes to tell anything: with fewer no outcome is surprising enough.
const Fewest = 6

// pairedFigures are the sums that a comparison rests on.
type pairedFigures struct {
	pairs                []change
	before, after, total float64 // weighted
	improved, regressed  int
	single               bool // each question has one attempt a side
}

func figuresOf(like []question) pairedFigures {
	f := pairedFigures{single: true, pairs: make([]change, 0, len(like))}
	for _, q := range like {
		x, _ := q.before.tally.share()
		y, _ := q.after.tally.share()
		f.single = f.single && q.before.tally.scored == 1 && q.after.tally.scored == 1
		if y > x {
			f.improved++
		} else if y < x {
			f.regressed++
		}
		f.before, f.after, f.total = f.before+q.weight*x, f.after+q.weight*y, f.total+q.weight
		f.pairs = append(f.pairs, change{q.about.Thread, q.weight, y - x})
	}
	return f
}

func (f pairedFigures) changes() []float64 {
	out := make([]float64, len(f.pairs))
	for i, p := range f.pairs {
		out[i] = p.of
	}
	return out
}

// designsOf are how much the attempts of each side say.
func designsOf(like []question) [2]score.Design {
	var out [2]score.Design
	for side, of := range []func(question) []tried{beforeOf, afterOf} {
		questions := make([]score.Question, len(like))
		verdicts := make([]score.Verdict, 0, attemptsOf(like, of)) // of all questions: each has a part of it
		for i, q := range like {
			from := len(verdicts)
			for _, t := range of(q) {
				verdicts = append(verdicts, t.verdict)
			}
			questions[i] = score.Question{Weight: q.weight, Thread: q.about.Thread, Attempts: verdicts[from:]}
		}
		out[side], _ = score.DesignOf(questions)
	}
	return out
}

// attemptsOf is how many attempts one side has of questions.
func attemptsOf(like []question, of func(question) []tried) int {
	total := 0
	for _, q := range like {
		total += len(of(q))
	}
	return total
}

// reverseShare is the share of questions that flipped against the grain.
func reverseShare(difference float64, improved, regressed, n int) float64 {
	reverse := regressed
	if difference < 0 {
		reverse = improved
	}
	return float64(reverse) / float64(n)
}

// spread estimates how differences vary: the variance of the questions' differences, and how much of it comes from the attempts of a
// question differing among themselves.
func spread(like []question, differences []float64) Spread {
	n := float64(len(like))
	mean, square := 0.0, 0.0
	for _, d := range differences {
		mean += d / n
	}
	for _, d := range differences {
		square += (d - mean) * (d - mean)
	}
	s := Spread{Questions: len(like)}
	observed := 0.0 // of the variance, what comes from within questions
	for _, q := range like {
		for _, t := range []tally{q.before.tally, q.after.tally} {
			p, _ := t.share()
			k := float64(t.scored)
			s.Attempts += k / (2 * n)
			if k > 1 {
				single := p * (1 - p) * k / (k - 1)
				observed += single / k / n
				s.Within += single / n
			}
		}
	}
	s.Between = math.Max(0, square/math.Max(1, n-1)-observed)
	return s
}
