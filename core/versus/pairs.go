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
	Lights   []record.Light           // of the attempts; they suffice where the whole ones are not at hand
	Grounds  map[string]record.Ground // nil for the run's own; those of a rescoring else
	Told     map[string][]string      // by dataset, the lines that the translator was told; nil where they are not known
	Unjudged map[string]bool          // questions that cannot be judged as the other side's are
}

// light is a side with its attempts' light forms.
func (s Side) light() Side {
	if s.Lights == nil {
		s.Lights = record.LightOf(s.Attempts)
	}
	return s
}

// attempt is an attempt of the side, as far as it is known.
func (s Side) attempt(at int) record.Attempt {
	if at < len(s.Attempts) {
		return s.Attempts[at]
	}
	return s.Lights[at].Attempt()
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

// groundJudge is what moved of a question whose answers were judged by other labels, synonyms or units, or by another version of the
// program, and cannot be judged once more.
const groundJudge = "judge"

// pairUp finds the questions that both runs asked, in the order of their names, and how many each asked alone.
func pairUp(a, b Side, held holding) (both []question, onlyA, onlyB []string) {
	names := renamed(a, b)
	before := byQuestion(a.Lights, names)
	after := byQuestion(b.Lights, nil)
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
			old = a.Lights[earlier[0].at].Question
		}
		q.moved = append(a.grounds()[old].Moved(b.grounds()[name]), held.held(q.about.Dataset)...)
		if a.Unjudged[old] || b.Unjudged[name] {
			q.moved = append(q.moved, groundJudge)
		}
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

func byQuestion(attempts []record.Light, names map[string]string) map[string][]tried {
	out := map[string][]tried{}
	all := make([]tried, len(attempts)) // those of a question mostly follow one another: they are a part of this
	for from := 0; from < len(attempts); {
		name := attempts[from].Question
		to := from
		for ; to < len(attempts) && attempts[to].Question == name; to++ {
			a := &attempts[to]
			all[to] = tried{a.Verdict, a.Main(), a.Wording, to}
		}
		if other, is := names[name]; is {
			name = other
		}
		if before := out[name]; before != nil {
			out[name] = append(before[:len(before):len(before)], all[from:to]...)
		} else {
			out[name] = all[from:to:to]
		}
		from = to
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
