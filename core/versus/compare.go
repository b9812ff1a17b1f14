package versus

import (
	"cmp"
	"math"
	"reflect"
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/wording"
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
	Warnings    []string // what else differs between the runs
	Differences Spread
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

// Compare holds a run against an earlier one.
func Compare(a, b Side, random Random) Comparison {
	a, b = onSharedTwins(a, b)
	both, onlyA, onlyB := pairUp(a, b)
	c := Comparison{Before: record.Summarise(a.Run, a.Attempts), After: record.Summarise(b.Run, b.Attempts), OnlyBefore: onlyA,
		OnlyAfter: onlyB, Warnings: warnings(a.Run, b.Run)}
	if x, y := c.Before.Accuracy, c.After.Accuracy; x != nil && y != nil {
		plain := *y - *x
		c.Plain = &plain
	}
	for _, q := range both {
		if q.about.KnownWrong != "" {
			c.Known = append(c.Known, q.name)
			if q.is == score.Solid {
				c.KnownSolid = append(c.KnownSolid, q.name)
			}
			continue
		}
		if len(q.moved) > 0 {
			c.Moved = append(c.Moved, Moved{q.name, q.moved})
		}
	}
	like := likeForLike(both)
	c.LikeForLike = len(like)
	c.Like = [2]record.Summary{likeSummary(a, c.Before, like, beforeOf), likeSummary(b, c.After, like, afterOf)}
	c.Itself = a.Run.UID != "" && a.Run.UID == b.Run.UID
	for _, q := range like {
		if kind := flipOf(q.was, q.is); kind != "" {
			x, y := telling(q.before), telling(q.after)
			c.Flips = append(c.Flips, Flip{q.name, kind, q.was, q.is, a.Attempts[x], b.Attempts[y], [2]int{x, y}})
		}
	}
	c.figures(like, random)
	c.Faults = faultChanges(like)
	c.Groups = groups(like)
	return c
}

func beforeOf(q question) []tried { return q.before }

func afterOf(q question) []tried { return q.after }

// likeSummary sums up what a side has of the questions that are like for like; whole is the side's own summary.
func likeSummary(s Side, whole record.Summary, like []question, of func(question) []tried) record.Summary {
	var attempts []record.Attempt
	for _, q := range like {
		for _, t := range of(q) {
			attempts = append(attempts, s.Attempts[t.at])
		}
	}
	if len(attempts) == len(s.Attempts) {
		return whole
	}
	return record.Summarise(s.Run, attempts)
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

// figures computes the difference, its interval and whether it can be told from noise.
func (c *Comparison) figures(like []question, random Random) {
	n := len(like)
	c.PValue, c.Smallest, c.Outcome = 1, 1, NoChange
	if n == 0 {
		return
	}
	differences, weights, weighted := make([]float64, n), make([]float64, n), make([]float64, n)
	before, after, total := 0.0, 0.0, 0.0
	single, improved, regressed := true, 0, 0
	for i, q := range like {
		x, _ := share(q.before)
		y, _ := share(q.after)
		single = single && scored(q.before) == 1 && scored(q.after) == 1
		if y > x {
			improved++
		} else if y < x {
			regressed++
		}
		before, after, total = before+q.weight*x, after+q.weight*y, total+q.weight
		differences[i], weights[i], weighted[i] = y-x, q.weight, q.weight*(y-x)
	}
	if total == 0 {
		return
	}
	c.Accuracy = [2]float64{before / total, after / total}
	c.Difference = c.Accuracy[1] - c.Accuracy[0]
	c.Interval = Bootstrap(differences, weights, random)
	c.Differences = spread(like, differences)
	c.Differences.Regresses = float64(regressed) / float64(n)
	if single {
		c.Test, c.PValue, c.Smallest = "exact paired test", Exact(improved, regressed),
			SmallestDetectable(n, reverseShare(c.Difference, improved, regressed, n))
	} else {
		c.Test, c.PValue, c.Smallest = "paired permutation test by question", Permutation(weighted, random),
			smallestDetectableMean(n, c.Differences.Between+c.Differences.Within/math.Max(1, c.Differences.Attempts))
	}
	if c.PValue <= Level && c.Difference != 0 {
		c.Outcome = Better
		if c.Difference < 0 {
			c.Outcome = Worse
		}
	}
}

// reverseShare is the share of questions that flipped against the grain.
func reverseShare(difference float64, improved, regressed, n int) float64 {
	reverse := regressed
	if difference < 0 {
		reverse = improved
	}
	return float64(reverse) / float64(n)
}

func scored(attempts []tried) int {
	n := 0
	for _, a := range attempts {
		if a.verdict != score.Unscored {
			n++
		}
	}
	return n
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
		for _, attempts := range [][]tried{q.before, q.after} {
			p, _ := share(attempts)
			k := float64(scored(attempts))
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
		count(q.before, func(f *FaultChange) { f.Before++ })
		count(q.after, func(f *FaultChange) { f.After++ })
	}
	out := []FaultChange{}
	for _, code := range fault.Codes() {
		if f := counts[code]; f != nil {
			out = append(out, *f)
		}
	}
	return out
}

// groups sums up parts of the questions: by tag, dataset, set and what the reference query is made of; and the wordings.
func groups(like []question) []Group {
	type sums struct {
		questions             int
		before, after, weight float64
	}
	found := map[[2]string]*sums{}
	addPart := func(kind, name string, q question, before, after []tried) {
		key := [2]string{kind, name}
		x, scoredBefore := share(before)
		y, scoredAfter := share(after)
		if !scoredBefore || !scoredAfter {
			return
		}
		if found[key] == nil {
			found[key] = &sums{}
		}
		s := found[key]
		s.questions++
		s.before, s.after, s.weight = s.before+q.weight*x, s.after+q.weight*y, s.weight+q.weight
	}
	add := func(kind, name string, q question) { addPart(kind, name, q, q.before, q.after) }
	for _, q := range like {
		main := q.before[0].wording // a question is asked in its main wording first
		for _, which := range []struct {
			name string
			main bool
		}{{"main", true}, {"other", false}} {
			addPart("wording", which.name, q, inWording(q.before, main, which.main), inWording(q.after, main, which.main))
		}
		add("dataset", q.about.Dataset, q)
		add("set", setOf(q.name), q)
		for _, tag := range q.about.Tags {
			add("tag", tag, q)
		}
		for _, feature := range q.about.Features {
			add("feature", feature, q)
		}
		if len(q.about.Features) == 0 {
			add("feature", "none of these", q)
		}
	}
	out := []Group{}
	for key, s := range found {
		g := Group{Kind: key[0], Name: key[1], Questions: s.questions}
		if s.weight > 0 {
			g.Before, g.After = s.before/s.weight, s.after/s.weight
		}
		out = append(out, g)
	}
	order := map[string]int{"dataset": 0, "set": 1, "wording": 2, "tag": 3, "feature": 4}
	slices.SortFunc(out, func(a, b Group) int {
		return cmp.Or(cmp.Compare(order[a.Kind], order[b.Kind]), strings.Compare(a.Name, b.Name))
	})
	return out
}

// inWording are the attempts in a question's main wording, or those in all others.
func inWording(attempts []tried, main string, wanted bool) []tried {
	var out []tried
	for _, a := range attempts {
		if same := a.wording == main || wording.Fold(a.wording) == wording.Fold(main); same == wanted {
			out = append(out, a)
		}
	}
	return out
}

func setOf(question string) string {
	for i := range question {
		if question[i] == '/' {
			return question[:i]
		}
	}
	return question
}

// warnings say what else differs between two runs, beside the ground of their questions.
func warnings(a, b record.Run) []string {
	var out []string
	if a.Tool != b.Tool {
		out = append(out, "the runs were made with different versions of Tovrel: "+a.Tool+" and "+b.Tool)
	}
	if a.Translator == b.Translator && a.Settings != b.Settings && a.Settings != "" && b.Settings != "" {
		out = append(out, "the settings of "+a.Translator+" in tovrel.yaml have changed between the runs, under the same version")
	}
	if a.Options.Brief != b.Options.Brief {
		out = append(out, "the runs told different levels of the briefing: "+a.Options.Brief+" and "+b.Options.Brief)
	}
	if a.Options.Repeats != b.Options.Repeats {
		out = append(out, "the runs asked each wording a different number of times")
	}
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
