package versus

import (
	"reflect"
	"sync"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
)

// Outcome is what a comparison comes to.
type Outcome string

// The outcomes. No detectable change is a statement about the evidence: it may still have changed.
const (
	Better   Outcome = "better"
	Worse    Outcome = "worse"
	NoChange Outcome = "no detectable change"
)

// FlipKind says how a question changed.
type FlipKind string

// The kinds of flips. Any change through flaky is unstable.
const (
	Improved  FlipKind = "improved"
	Regressed FlipKind = "regressed"
	Unstable  FlipKind = "unstable"
)

// Flip is a question that changed, with the attempts that show it.
type Flip struct {
	Question string
	Kind     FlipKind
	Was, Is  score.Standing
	Before   record.Attempt // the first that is not right; the first of all where all are
	After    record.Attempt
	At       [2]int // which attempts of their sides these are
}

// Moved is a question whose ground has moved.
type Moved struct {
	Question string   `json:"question"`
	Changed  []string `json:"changed"`
}

// Comparison holds two runs against each other. The figures are over the questions that are like for like.
type Comparison struct {
	Before, After record.Summary    // of the whole runs
	Like          [2]record.Summary // of what is like for like, before and after
	Itself        bool              // both sides are the same run

	LikeForLike int
	Flips       []Flip // by question
	Moved       []Moved
	OnlyBefore  []string // asked in one run alone
	OnlyAfter   []string
	Known       []string // known to be wrong: apart from everything else
	KnownSolid  []string // of those, the ones that are solid now

	Accuracy    [2]float64 // like for like, before and after
	Difference  float64
	Interval    [2]float64
	Plain       *float64 // the difference of the runs' own accuracies; nil where one has none
	PValue      float64
	Test        string // which test it is of
	Outcome     Outcome
	Smallest    float64 // difference that is found with 80 % power
	Faults      []FaultChange
	Groups      []Group
	Warnings    []string // what else is to be known of the runs
	Threads     int      // of the questions like for like; as many where none follows another
	Varied      []Varied // what the runs were made under differently
	Drift       Drift
	Differences Spread

	raw [2]float64 // the interval before it is made to agree with the outcome
}

// Spread is how the questions' differences vary, for planning.
type Spread struct {
	Questions int
	Regresses float64 // share of questions that regressed
	Between   float64 // variance of differences between questions
	Within    float64 // and within one, for a single attempt a side
	Attempts  float64 // a question and side, on average
}

// FaultChange is how often a code is the main fault of an attempt, like for like.
type FaultChange struct {
	Code   fault.Code `json:"code"`
	Before int        `json:"before"`
	After  int        `json:"after"`
}

// Group is a part of the questions with its accuracies.
type Group struct {
	Kind      string  `json:"kind"` // dataset, set, wording (main or other), tag, feature
	Name      string  `json:"name"`
	Questions int     `json:"questions"`
	Before    float64 `json:"before"`
	After     float64 `json:"after"`
}

// Options of a comparison.
type Options struct {
	Random Random
	Hold   []string // circumstances that are moved ground where they differ: see Holdable
	Alike  Alike
	// of the n-th of many pairs, which are then compared at once; nil has all draw from Random, one after the other
	Draws func(n int) Random
}

// Compare holds a run against an earlier one.
func Compare(a, b Side, random Random) Comparison { return CompareWith(a, b, Options{Random: random}) }

// CompareWith holds a run against an earlier one, with options.
func CompareWith(a, b Side, o Options) Comparison {
	return compare(prepared{Side: a.light()}, prepared{Side: b.light()}, o)
}

func compare(first, second prepared, o Options) Comparison {
	a, b := onSharedTwins(first, second)
	varied := variedBetween(a.Side, b.Side)
	both, onlyA, onlyB := pairUp(a, b, holding{o.Hold, varied, [2]record.Run{a.Run, b.Run}})
	like := likeForLike(both)
	c := Comparison{Varied: varied, OnlyBefore: onlyA, OnlyAfter: onlyB, Warnings: warnings(a.Run, b.Run), LikeForLike: len(like)}
	var apart sync.WaitGroup // neither needs the other, nor the rest: on a large run each takes as long
	apart.Go(func() {
		c.Before, c.After = a.sum(), b.sum()
		c.Like = [2]record.Summary{likeSummary(a.Side, c.Before, like, beforeOf), likeSummary(b.Side, c.After, like, afterOf)}
	})
	apart.Go(func() { c.Drift = driftOf(a.Side, b.Side, both, o.Alike) })
	for _, q := range both {
		if q.about.KnownWrong != "" {
			c.Known = append(c.Known, q.name)
			if q.after.stands == score.Solid {
				c.KnownSolid = append(c.KnownSolid, q.name)
			}
			continue
		}
		if len(q.moved) > 0 {
			c.Moved = append(c.Moved, Moved{q.name, q.moved})
		}
	}
	c.Itself = a.Run.UID != "" && a.Run.UID == b.Run.UID
	for _, q := range like {
		if kind := flipOf(q.before.stands, q.after.stands); kind != "" {
			x, y := telling(q.before.attempts), telling(q.after.attempts)
			c.Flips = append(c.Flips, Flip{q.name, kind, q.before.stands, q.after.stands, a.attempt(x), b.attempt(y), [2]int{x, y}})
		}
	}
	c.figures(like, o.Random)
	c.Faults = faultChanges(like)
	c.Groups = groups(like)
	apart.Wait()
	if x, y := c.Before.Accuracy, c.After.Accuracy; x != nil && y != nil {
		plain := *y - *x
		c.Plain = &plain
	}
	return c
}

func beforeOf(q question) []tried { return q.before.attempts }

func afterOf(q question) []tried { return q.after.attempts }

// likeSummary sums up what a side has of the questions that are like for like; whole is the side's own summary.
func likeSummary(s Side, whole record.Summary, like []question, of func(question) []tried) record.Summary {
	total := attemptsOf(like, of)
	if total == len(s.Lights) {
		return whole
	}
	return record.SummariseEach(s.Run, total, func(yield func(*record.Light) bool) {
		for _, q := range like {
			for _, t := range of(q) {
				if !yield(&s.Lights[t.at]) {
					return
				}
			}
		}
	})
}

// Of lists the questions of a kind of flip.
func (c Comparison) Of(kind FlipKind) []string {
	out := []string{}
	for _, f := range c.Flips {
		if f.Kind == kind {
			out = append(out, f.Question)
		}
	}
	return out
}

// flipOf is how a question changed; "" where it did not, or was not scored whole.
func flipOf(was, is score.Standing) FlipKind {
	switch {
	case was == is || was == score.Open || is == score.Open:
		return ""
	case was == score.Broken && is == score.Solid:
		return Improved
	case was == score.Solid && is == score.Broken:
		return Regressed
	}
	return Unstable
}

// telling is which attempt shows most: the first that is not right.
func telling(attempts []tried) int {
	for _, a := range attempts {
		if a.verdict != score.Right {
			return a.at
		}
	}
	return attempts[0].at
}

// faultChanges counts main faults, like for like.
func faultChanges(like []question) []FaultChange {
	counts := map[fault.Code]*FaultChange{}
	count := func(attempts []tried, add func(*FaultChange)) {
		for _, a := range attempts {
			if a.fault == "" || a.verdict == score.Unscored {
				continue
			}
			code := a.fault
			if counts[code] == nil {
				counts[code] = &FaultChange{Code: code}
			}
			add(counts[code])
		}
	}
	for _, q := range like {
		count(q.before.attempts, func(f *FaultChange) { f.Before++ })
		count(q.after.attempts, func(f *FaultChange) { f.After++ })
	}
	out := []FaultChange{}
	for _, code := range fault.Codes() {
		if f := counts[code]; f != nil {
			out = append(out, *f)
		}
	}
	return out
}

// warnings say what else is to be known of two runs.
func warnings(a, b record.Run) []string {
	var out []string
	if !reflect.DeepEqual(a.Twins, b.Twins) && len(a.Twins)+len(b.Twins) > 0 {
		out = append(out, "the runs were tried on different twins; lucky counts on those that both had")
	}
	if len(a.Grounds) == 0 || len(b.Grounds) == 0 {
		out = append(out, "a run of an earlier version of Tovrel does not say what its questions rested on; whatever it does "+
			"not say is taken as the same")
	}
	for _, r := range []record.Run{a, b} {
		if r.State == record.Stopped || r.State == record.Running {
			out = append(out, "run "+r.Translator+" is not complete")
		}
	}
	return out
}
