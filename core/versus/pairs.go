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

// tally counts attempts at a question.
type tally struct{ right, scored int }

func tallyOf(attempts []tried) tally {
	var t tally
	for _, a := range attempts {
		if a.verdict != score.Unscored {
			t.scored++
		}
		if a.verdict == score.Right {
			t.right++
		}
	}
	return t
}

// share is the share of right attempts among the scored ones; false where none is scored.
func (t tally) share() (float64, bool) {
	if t.scored == 0 {
		return 0, false
	}
	return float64(t.right) / float64(t.scored), true
}

// half is what one run has of a question that both asked.
type half struct {
	attempts []tried // in the wordings that both asked it in
	tally    tally
	stands   score.Standing
}

func halfOf(attempts []tried) half { return half{attempts, tallyOf(attempts), standing(attempts)} }

// in is a half with fewer attempts.
func (h half) in(attempts []tried) half {
	if len(attempts) == len(h.attempts) {
		return h
	}
	return halfOf(attempts)
}

// asked is a question that a side asked.
type asked struct {
	name string // the newer one, where it was renamed
	old  string // its own
	half
	ground record.Ground
	about  record.About
	weight float64
}

// asks are the questions of a side, by name; names are those that the other side has for some of them.
func (s Side) asks(names map[string]string) []asked {
	grounds := s.grounds()
	groups := byQuestion(s.Lights, names)
	out := make([]asked, 0, len(groups))
	for name, attempts := range groups {
		q := asked{name: name, old: s.Lights[attempts[0].at].Question, half: halfOf(attempts), about: s.Run.About[name], weight: 1}
		q.ground = grounds[q.old]
		if w, given := s.Run.Weights[name]; given {
			q.weight = w
		}
		out = append(out, q)
	}
	slices.SortFunc(out, func(a, b asked) int { return cmp.Compare(a.name, b.name) })
	return out
}

// question is a question that both runs asked, over the wordings that both asked it in.
type question struct {
	name          string // the newer one, where it was renamed
	before, after half
	weight        float64
	moved         []string
	about         *record.About
}

func standing(attempts []tried) score.Standing {
	const many = 16 // repeats, mostly fewer
	verdicts := make([]score.Verdict, 0, many)
	for _, a := range attempts {
		verdicts = append(verdicts, a.verdict)
	}
	return score.StandingOf(verdicts)
}

// groundJudge is what moved of a question whose answers were judged by other labels, synonyms or units, or by another version of the
// program, and cannot be judged once more.
const groundJudge = "judge"

// pairUp finds the questions that both runs asked, in the order of their names, and how many each asked alone.
func pairUp(a, b prepared, held holding) (both []question, onlyA, onlyB []string) {
	before, after := a.asked(renamed(a.Side, b.Side)), b.asked(nil)
	both = make([]question, 0, min(len(before), len(after)))
	for len(before) > 0 && len(after) > 0 {
		x, y := &before[0], &after[0]
		order := cmp.Compare(x.name, y.name)
		switch {
		case order < 0:
			onlyA = append(onlyA, x.name)
		case order > 0:
			onlyB = append(onlyB, y.name)
		default:
			q := paired(x, y, held)
			if a.Unjudged[x.old] || b.Unjudged[y.name] {
				q.moved = append(q.moved, groundJudge)
			}
			both = append(both, q)
		}
		if order <= 0 {
			before = before[1:]
		}
		if order >= 0 {
			after = after[1:]
		}
	}
	for _, x := range before {
		onlyA = append(onlyA, x.name)
	}
	for _, y := range after {
		onlyB = append(onlyB, y.name)
	}
	return both, onlyA, onlyB
}

// paired is a question that both runs asked.
func paired(x, y *asked, held holding) question {
	q := question{name: y.name, about: &y.about, weight: y.weight}
	before, after := sameWordings(x.attempts, y.attempts)
	q.before, q.after = x.in(before), y.in(after)
	q.moved = append(x.ground.Moved(y.ground), held.held(q.about.Dataset)...)
	if len(before) == 0 && len(q.moved) == 0 {
		q.moved = []string{"question"} // no wording is the same
	}
	return q
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
	out := make([]question, 0, len(both))
	for _, q := range both {
		if len(q.moved) == 0 && q.about.KnownWrong == "" && q.before.tally.scored > 0 && q.after.tally.scored > 0 {
			out = append(out, q)
		}
	}
	return out
}
