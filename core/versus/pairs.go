// Package versus holds runs against each other: what got better, what got worse, what cannot be told from noise, and what moved
// because its ground moved. It evaluates gates. It asks nothing, reads nothing and draws no random numbers of its own.
package versus

import (
	"cmp"
	"slices"

	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/wording"
)

// Side is one of the runs that are compared.
type Side struct {
	Run      record.Run
	Attempts []record.Attempt
	Grounds  map[string]record.Ground // nil for the run's own; those of a rescoring else
}

func (s Side) grounds() map[string]record.Ground {
	if s.Grounds != nil {
		return s.Grounds
	}
	return s.Run.Grounds
}

// tried is what a comparison needs of an attempt, and which of its side it is.
type tried struct {
	verdict score.Verdict
	fault   fault.Code // the main one
	wording string
	at      int
}

// question is a question that both runs asked, over the wordings that both asked it in.
type question struct {
	name          string // the newer one, where it was renamed
	before, after []tried
	was, is       score.Standing
	weight        float64
	moved         []string
	about         record.About
}

// share is the share of right attempts among the scored ones; false where none is scored.
func share(attempts []tried) (float64, bool) {
	right, scored := 0, 0
	for _, a := range attempts {
		if a.verdict != score.Unscored {
			scored++
		}
		if a.verdict == score.Right {
			right++
		}
	}
	if scored == 0 {
		return 0, false
	}
	return float64(right) / float64(scored), true
}

func standing(attempts []tried) score.Standing {
	verdicts := make([]score.Verdict, len(attempts))
	for i, a := range attempts {
		verdicts[i] = a.verdict
	}
	return score.StandingOf(verdicts)
}

// pairUp finds the questions that both runs asked, in the order of their names, and how many each asked alone.
func pairUp(a, b Side) (both []question, onlyA, onlyB []string) {
	names := renamed(a, b)
	before := byQuestion(a.Attempts, names)
	after := byQuestion(b.Attempts, nil)
	for name, attempts := range after {
		earlier, asked := before[name]
		if !asked {
			onlyB = append(onlyB, name)
			continue
		}
		q := question{name: name, about: b.Run.About[name], weight: 1}
		if w, given := b.Run.Weights[name]; given {
			q.weight = w
		}
		q.before, q.after = sameWordings(earlier, attempts)
		q.was, q.is = standing(q.before), standing(q.after)
		old := name
		if len(earlier) > 0 {
			old = a.Attempts[earlier[0].at].Question
		}
		q.moved = a.grounds()[old].Moved(b.grounds()[name])
		if len(q.before) == 0 && len(q.moved) == 0 {
			q.moved = []string{"question"} // no wording is the same
		}
		both = append(both, q)
	}
	for name := range before {
		if _, asked := after[name]; !asked {
			onlyA = append(onlyA, name)
		}
	}
	slices.SortFunc(both, func(a, b question) int { return cmp.Compare(a.name, b.name) })
	slices.Sort(onlyA)
	slices.Sort(onlyB)
	return both, onlyA, onlyB
}

// renamed maps the names of one run's questions to those that the other has for them.
func renamed(a, b Side) map[string]string {
	names := map[string]string{}
	for name, about := range b.Run.About {
		for _, old := range about.Formerly {
			names[old] = name
		}
	}
	for name, about := range a.Run.About { // where the first run is the newer one
		for _, old := range about.Formerly {
			if _, asked := b.Run.About[old]; asked {
				names[name] = old
			}
		}
	}
	return names
}

func byQuestion(attempts []record.Attempt, names map[string]string) map[string][]tried {
	out := map[string][]tried{}
	for i := range attempts {
		a := &attempts[i]
		name := a.Question
		if other, is := names[name]; is {
			name = other
		}
		one := tried{verdict: a.Verdict, wording: a.Wording, at: i}
		if len(a.Faults) > 0 {
			one.fault = a.Faults[0].Code
		}
		out[name] = append(out[name], one)
	}
	return out
}

// sameWordings keeps the attempts in wordings that both have.
func sameWordings(before, after []tried) (x, y []tried) {
	if oneWording(before, before[0].wording) && oneWording(after, before[0].wording) { // as mostly
		return before, after
	}
	had, has := folded(before), folded(after)
	for _, a := range before {
		if has[wording.Fold(a.wording)] {
			x = append(x, a)
		}
	}
	for _, a := range after {
		if had[wording.Fold(a.wording)] {
			y = append(y, a)
		}
	}
	return x, y
}

func folded(attempts []tried) map[string]bool {
	out := map[string]bool{}
	for _, a := range attempts {
		out[wording.Fold(a.wording)] = true
	}
	return out
}

func oneWording(attempts []tried, text string) bool {
	for _, a := range attempts {
		if a.wording != text {
			return false
		}
	}
	return true
}

// likeForLike are the questions whose ground has not moved, that count, and that both runs have a scored attempt of.
func likeForLike(both []question) []question {
	var out []question
	for _, q := range both {
		_, scoredBefore := share(q.before)
		_, scoredAfter := share(q.after)
		if len(q.moved) == 0 && q.about.KnownWrong == "" && scoredBefore && scoredAfter {
			out = append(out, q)
		}
	}
	return out
}
