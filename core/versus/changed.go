package versus

import (
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/wording"
)

// Alike tells whether the answer tables of two attempts of a question are the same under its rules. It is asked only where their digests
// differ; nil says that they are not.
type Alike func(question string, before, after record.Light) bool

// Step is how an answer changed, by the verdicts of both.
type Step struct{ Was, Is score.Verdict }

// MarshalText writes a step as "right → wrong".
func (s Step) MarshalText() ([]byte, error) {
	return []byte(string(s.Was) + " → " + string(s.Is)), nil
}

// Drift is how far two runs' answers are the same, right or wrong.
type Drift struct {
	Questions int          // that both have an answer of
	Changed   []string     // questions whose answer changed, by name
	Steps     map[Step]int // of the changed questions
	Queries   int          // questions whose query, or words, changed as a text
	Known     int          // questions of which both texts are known: light attempts of earlier versions do not say
}

// Share is the share of questions whose answer changed; nil where there are none.
func (d Drift) Share() *float64 { return part(len(d.Changed), d.Questions) }

// driftOf holds the answers of the questions against each other, attempt by attempt: the same wording, the same repeat. A question has
// changed where one pair has.
func driftOf(a, b Side, both []question, alike Alike) Drift {
	d := Drift{Steps: map[Step]int{}}
	var room [][2]int
	for _, q := range both {
		if len(q.moved) > 0 || q.about.KnownWrong != "" {
			continue
		}
		pairs, changed, reworded, known := 0, false, false, false
		var step Step
		room = pairsOf(a, b, q, room[:0])
		for _, p := range room {
			x, y := &a.Lights[p[0]], &b.Lights[p[1]]
			if !answers(x) || !answers(y) {
				continue
			}
			pairs++
			if said, says := x.Said, y.Said; said != "" || says != "" {
				known, reworded = true, reworded || said != says
			}
			if !changed && !sameAnswer(q.name, x, y, alike) {
				changed, step = true, Step{x.Verdict, y.Verdict}
			}
		}
		if pairs == 0 {
			continue
		}
		d.Questions++
		if known {
			d.Known++
		}
		if reworded {
			d.Queries++
		}
		if changed {
			d.Changed = append(d.Changed, q.name)
			d.Steps[step]++
		}
	}
	return d
}

// DriftBetween holds the answers of two runs against each other.
func DriftBetween(a, b Side, alike Alike) Drift {
	x, y := onSharedTwins(prepared{Side: a.light()}, prepared{Side: b.light()})
	both, _, _ := pairUp(x, y, holding{})
	return driftOf(x.Side, y.Side, both, alike)
}

// answers tells whether an attempt brought something that can be held against another answer.
func answers(a *record.Light) bool {
	return a.Verdict != score.Unscored || a.Answer != ""
}

// pairsOf adds the attempts of a question that stand for each other: the same wording, as often repeated.
func pairsOf(a, b Side, q question, out [][2]int) [][2]int {
	if inOrder(a, b, q) {
		for i, x := range q.before.attempts {
			out = append(out, [2]int{x.at, q.after.attempts[i].at})
		}
		return out
	}
	type key struct {
		wording string
		repeat  int32
	}
	of := func(s Side, t tried) key { return key{wording.Fold(t.wording), s.Lights[t.at].Repeat} }
	after := map[key]int{}
	for _, t := range q.after.attempts {
		after[of(b, t)] = t.at
	}
	for _, t := range q.before.attempts {
		if at, has := after[of(a, t)]; has {
			out = append(out, [2]int{t.at, at})
		}
	}
	return out
}

// inOrder tells whether both sides have the same wordings and repeats in the same order, as mostly.
func inOrder(a, b Side, q question) bool {
	if len(q.before.attempts) != len(q.after.attempts) {
		return false
	}
	for i, x := range q.before.attempts {
		y := q.after.attempts[i]
		if x.wording != y.wording || a.Lights[x.at].Repeat != b.Lights[y.at].Repeat {
			return false
		}
	}
	return true
}

// sameAnswer tells whether two attempts give the same answer under the question's rules. Two that fit what is expected do.
func sameAnswer(question string, x, y *record.Light, alike Alike) bool {
	fits := func(a *record.Light) bool { return a.Verdict == score.Right || a.Verdict == score.Lucky }
	switch {
	case fits(x) && fits(y):
		return true
	case fits(x) != fits(y) && x.Verdict != score.Unscored && y.Verdict != score.Unscored:
		return false
	case x.Verdict == score.Failed && y.Verdict == score.Failed:
		return true // neither gave one
	case x.Answer == "" && y.Answer == "":
		return x.Said == y.Said && x.Verdict == y.Verdict
	case x.Answer == "" || y.Answer == "":
		return false
	case x.Answer == y.Answer:
		return true
	}
	return alike != nil && alike(question, *x, *y)
}
