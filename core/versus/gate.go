package versus

import (
	"fmt"
	"maps"
	"math"
	"slices"
	"strings"
	"time"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
)

// Gate is what a run must meet.
type Gate struct {
	Conditions []Condition
	Confident  bool // the interval's bound must meet a limit, not the point estimate
	ThinPasses bool // a condition with too little evidence counts as met
	Nightly    bool // asked every night: what noise may explain is no alarm
}

// Condition is one of a gate's.
type Condition struct {
	Name  string
	Limit float64
	Least bool     // the value must be at least the limit; at most, else
	Names []string // tags of must-pass, codes of faults; the tag of a tag's accuracy
}

// The names of conditions.
const (
	GateAccuracy     = "accuracy"
	GateDrop         = "drop"
	GateRegressions  = "regressions"
	GateUnstable     = "unstable"
	GateWrong        = "wrong"
	GateFailed       = "failed"
	GateUnscored     = "unscored"
	GateMustPass     = "must-pass"
	GateFaults       = "faults"
	GateFlaky        = "flaky"
	GateLatency      = "latency-p95"
	GateCostPerRight = "cost-per-right"
	GateStrength     = "strength"
	GateTags         = "tags"
	GateDrift        = "drift"
)

// Verdict of a condition.
type Verdict string

// The verdicts of conditions.
const (
	Met       Verdict = "met"
	NotMet    Verdict = "not-met"
	NotEnough Verdict = "not-enough-evidence"
)

// Judged is a condition with its value and its verdict.
type Judged struct {
	Condition
	Value   *float64 // nil where there is none
	Listed  []string // questions or codes that do not meet it
	Verdict Verdict
	Why     string
	// how often in a year of nights the condition would not be met though nothing has changed; nil where one run cannot tell
	FalseAlarms *float64
}

// fewest is how many questions a condition must rest on.
const fewest = 5

// NeedsOther tells whether a gate has a condition on a comparison.
func (g Gate) NeedsOther() bool { return g.NeedsNamed() || g.has(GateDrift) }

// NeedsNamed tells whether a gate has a condition on a comparison with a run that somebody has to name; drift is held against the run
// before.
func (g Gate) NeedsNamed() bool {
	return g.has(GateDrop) || g.has(GateRegressions) || g.has(GateUnstable)
}

// NeedsStrength tells whether a gate has a condition on the strength of the golden sets.
func (g Gate) NeedsStrength() bool { return g.has(GateStrength) }

func (g Gate) has(name string) bool {
	return slices.ContainsFunc(g.Conditions, func(c Condition) bool { return c.Name == name })
}

// GateInput is what a gate is judged on: the run, the comparison with another (nil for none), and the strength of the golden sets (nil
// where it was not measured).
type GateInput struct {
	Side       Side
	Comparison *Comparison
	Strength   *float64
}

// Judge evaluates a gate. Questions that are known to be wrong are outside of it. The error names a tag that no question has.
func (g Gate) Judge(in GateInput) (passed bool, all []Judged, err error) {
	e := evaluation{gate: g, in: in}
	for _, a := range in.Side.light().Lights {
		if in.Side.Run.About[a.Question].KnownWrong == "" {
			e.attempts = append(e.attempts, a)
		}
	}
	e.summary = record.SummariseLight(in.Side.Run, e.attempts)
	e.questions = byQuestion(e.attempts, nil)
	passed = true
	for _, c := range g.Conditions {
		j, err := e.judge(c)
		if err != nil {
			return false, nil, err
		}
		if j.Verdict == NotMet || j.Verdict == NotEnough && !g.ThinPasses {
			passed = false
		}
		all = append(all, j)
	}
	return passed, all, nil
}

type evaluation struct {
	gate      Gate
	in        GateInput
	attempts  []record.Light
	summary   record.Summary
	questions map[string][]tried
}

func (e *evaluation) judge(c Condition) (Judged, error) {
	s := e.summary
	switch c.Name {
	case GateAccuracy:
		return e.rate(c, s.Accuracy, s.Interval, len(e.questions)), nil
	case GateTags:
		return e.tagAccuracy(c)
	case GateWrong:
		return e.share(c, s.WrongOfAnswered, s.Answered), nil
	case GateFailed:
		return e.share(c, part(s.Failed, s.AttemptsTotal-s.Unscored), s.AttemptsTotal-s.Unscored), nil
	case GateFlaky:
		return e.share(c, part(s.Standing[score.Flaky], s.Questions), s.Questions), nil
	case GateUnscored:
		return e.unscored(c), nil
	case GateMustPass:
		return e.mustPass(c)
	case GateFaults:
		return e.faults(c), nil
	case GateLatency:
		p95 := s.LatencyMS.P95
		j := e.plain(c, &p95, len(e.questions))
		j.Why = fmt.Sprintf("95 of 100 asks took at most %s", time.Duration(p95*float64(time.Millisecond)).Round(time.Millisecond))
		return j, nil
	case GateCostPerRight:
		if s.Right == 0 {
			return Judged{Condition: c, Verdict: NotMet, Why: "no attempt is right"}, nil
		}
		each := s.Cost / float64(s.Right)
		return e.plain(c, &each, len(e.questions)), nil
	case GateStrength:
		if e.in.Strength == nil {
			return Judged{Condition: c, Verdict: NotEnough, Why: "the strength of the golden sets was not measured"}, nil
		}
		return e.plain(c, e.in.Strength, fewest), nil
	}
	return e.compared(c), nil
}

func part(n, of int) *float64 {
	if of == 0 {
		return nil
	}
	share := float64(n) / float64(of)
	return &share
}

// plain judges a value by its limit, where it rests on enough questions.
func (e *evaluation) plain(c Condition, value *float64, questions int) Judged {
	j := Judged{Condition: c, Value: value, Verdict: Met}
	const noise = 1e-9
	switch {
	case value == nil:
		j.Verdict, j.Why = NotEnough, "nothing could be scored"
	case questions < fewest:
		j.Verdict, j.Why = NotEnough, fmt.Sprintf("it rests on %s; at least %d are needed", plural(questions), fewest)
	case c.Least && *value < c.Limit-noise || !c.Least && *value > c.Limit+noise:
		j.Verdict = NotMet
	}
	return j
}

func plural(questions int) string {
	if questions == 1 {
		return "1 question"
	}
	return fmt.Sprintf("%d questions", questions)
}

// rate judges a value that has an interval: where confidence is asked, by its bound.
func (e *evaluation) rate(c Condition, value *float64, interval *[2]float64, questions int) Judged {
	j := e.plain(c, value, questions)
	if value == nil || interval == nil {
		return j
	}
	if j.Why == "" {
		j.Why = fmt.Sprintf("interval %.1f %% to %.1f %%, over %s", 100*interval[0], 100*interval[1], plural(questions))
	}
	half := *value - interval[0]
	if c.Least {
		half = interval[1] - *value
	}
	j = e.nightly(j, *value, half)
	if !e.gate.Confident || j.Verdict != Met {
		return j
	}
	bound := interval[0]
	if !c.Least {
		bound = interval[1]
	}
	if tested := e.plain(c, &bound, questions); tested.Verdict == NotMet {
		j.Verdict, j.Why = NotMet, fmt.Sprintf("the interval's bound is %.1f %%; more questions or repeats would narrow it", 100*bound)
	}
	return j
}

// share judges a share of attempts, with Wilson's interval.
func (e *evaluation) share(c Condition, value *float64, of int) Judged {
	var interval *[2]float64
	if value != nil {
		low, high := score.Wilson(*value, float64(of))
		interval = &[2]float64{low, high}
	}
	return e.rate(c, value, interval, len(e.questions))
}

func (e *evaluation) tagAccuracy(c Condition) (Judged, error) {
	var tagged []record.Light
	for _, a := range e.attempts {
		if contains(e.in.Side.Run.About[a.Question].Tags, c.Names[0]) {
			tagged = append(tagged, a)
		}
	}
	if len(tagged) == 0 {
		return Judged{}, unknownTag(c.Names[0], e.in.Side.Run)
	}
	s := record.SummariseLight(e.in.Side.Run, tagged)
	return e.rate(c, s.Accuracy, s.Interval, s.Questions), nil
}

// unscored judges a number of attempts, or below one a share of them.
func (e *evaluation) unscored(c Condition) Judged {
	value := float64(e.summary.Unscored)
	if c.Limit > 0 && c.Limit < 1 {
		value /= math.Max(1, float64(e.summary.AttemptsTotal))
	}
	j := e.plain(c, &value, fewest)
	if j.Verdict == NotMet {
		var reasons []string
		for reason, n := range e.summary.UnscoredReasons {
			reasons = append(reasons, fmt.Sprintf("%s %d", reason, n))
		}
		slices.Sort(reasons)
		j.Why = strings.Join(reasons, ", ")
		for _, a := range e.attempts {
			if a.Reason == fault.ReasonNeedsALook && !slices.Contains(j.Listed, a.Question) {
				j.Listed = append(j.Listed, a.Question)
			}
		}
	}
	return j
}

func (e *evaluation) mustPass(c Condition) (Judged, error) {
	j := Judged{Condition: c, Verdict: Met}
	tagged := 0
	for _, tag := range c.Names {
		has := 0
		for name, attempts := range e.questions {
			if !contains(e.in.Side.Run.About[name].Tags, tag) {
				continue
			}
			has++
			if standing(attempts) != score.Solid && !contains(j.Listed, name) {
				j.Listed = append(j.Listed, name)
			}
		}
		if has == 0 {
			return j, unknownTag(tag, e.in.Side.Run)
		}
		tagged += has
	}
	slices.Sort(j.Listed)
	value := float64(len(j.Listed))
	j.Value, j.Why = &value, fmt.Sprintf("all of %s must be solid", plural(tagged))
	if len(j.Listed) > 0 {
		j.Verdict = NotMet
	}
	return j, nil
}

func unknownTag(tag string, r record.Run) error {
	known := map[string]bool{}
	for _, about := range r.About {
		for _, t := range about.Tags {
			known[t] = true
		}
	}
	names := slices.Sorted(maps.Keys(known))
	return fmt.Errorf("no question of the run has the tag %q; its tags are %s", tag, strings.Join(names, ", "))
}

func (e *evaluation) faults(c Condition) Judged {
	names := c.Names
	if contains(names, string(fault.Forbidden)) && !contains(names, string(fault.Catalogue)) {
		names = append(slices.Clone(names), string(fault.Catalogue)) // one code was both, once: gates go on meaning that
	}
	seen := map[string]int{}
	for _, a := range e.attempts {
		for _, code := range a.Faults {
			if a.Verdict != score.Unscored && contains(names, string(code)) {
				seen[string(code)]++
			}
		}
	}
	j := Judged{Condition: c, Verdict: Met}
	value := 0.0
	for _, code := range fault.Codes() {
		if n := seen[string(code)]; n > 0 {
			value += float64(n)
			j.Verdict = NotMet
			j.Listed = append(j.Listed, fmt.Sprintf("%s %d", code, n))
		}
	}
	j.Value = &value
	return j
}

// compared judges a condition on the comparison.
func (e *evaluation) compared(c Condition) Judged {
	other := e.in.Comparison
	if other == nil {
		return Judged{Condition: c, Verdict: NotEnough, Why: "there is no run to compare with"}
	}
	if c.Name == GateDrop {
		drop := 0 - other.Difference
		j := e.plain(c, &drop, other.LikeForLike)
		if j.Why == "" {
			j.Why = fmt.Sprintf("this set finds a difference from %.0f points on", 100*other.Smallest)
		}
		j = e.nightly(j, drop, math.Max(other.Interval[1]-other.Difference, other.Difference-other.Interval[0]))
		worst := -other.Interval[0]
		if e.gate.Confident && j.Verdict == Met && worst > c.Limit {
			j.Verdict, j.Why = NotMet, fmt.Sprintf("it may be as much as %.1f points; %s", 100*worst, j.Why)
		}
		return j
	}
	if c.Name == GateDrift {
		j := e.plain(c, other.Drift.Share(), other.Drift.Questions)
		j.Listed = other.Drift.Changed
		if j.Why == "" {
			j.Why = fmt.Sprintf("%d of %s have another answer", len(other.Drift.Changed), plural(other.Drift.Questions))
		}
		return j
	}
	kind := Regressed
	if c.Name == GateUnstable {
		kind = Unstable
	}
	listed := other.Of(kind)
	value := float64(len(listed))
	j := e.plain(c, &value, fewest)
	if j.Verdict == Met && other.LikeForLike < fewest { // that something regressed is a fact, that nothing did needs evidence
		j = e.plain(c, &value, other.LikeForLike)
	}
	j.Listed = listed
	if j.Why == "" {
		j.Why = fmt.Sprintf("of %s that are like for like", plural(other.LikeForLike))
	}
	return j
}

func contains(list []string, s string) bool {
	return slices.Contains(list, s)
}
