package attempt

import (
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/translator"
)

// Known is an answer that the history has, and the run that it is of.
type Known struct {
	Run     int
	Attempt record.Attempt
}

// Remembered gathers the answers of earlier runs that a plan need not ask for again: by Key, of runs that were made under the same
// circumstances. The runs are given newest first, and the first to answer a question counts. Answers of another model than the newest
// run's are left out: the translator is not the same any more.
func Remembered(p Plan, runs []Past) map[string]Known {
	out := map[string]Known{}
	if len(runs) == 0 {
		return out
	}
	grounds := map[string]record.Ground{}
	for _, c := range p.Questions {
		grounds[c.Name()] = GroundOf(p, c)
	}
	model := ""
	for _, a := range runs[0].Attempts {
		if a.Model != "" {
			model = a.Model
			break
		}
	}
	for _, r := range runs {
		for _, a := range r.Attempts {
			ground, wanted := grounds[a.Question]
			_, has := out[Key(a)]
			if has || !wanted || again(a) || a.Raw == nil && a.Verdict != score.Failed || a.Raw != nil && a.Model != model ||
				a.Reused > 0 ||
				r.Run.Grounds[a.Question].Question != ground.Question || r.Run.Grounds[a.Question].Briefing != ground.Briefing {
				continue
			}
			out[Key(a)] = Known{r.Run.ID, a}
		}
	}
	return out
}

// Same finds the newest run that tried the same on the same ground and answered all that a plan asks: there is nothing to ask and nothing
// to judge.
func Same(p Plan, runs []Past) (Past, bool) {
	for _, r := range runs {
		has := map[string]bool{}
		for _, a := range r.Attempts {
			has[Key(a)] = has[Key(a)] || !again(a)
		}
		same := r.Run.Options.Trial == p.Options.Trial && r.Run.Tool == p.Tool && len(r.Attempts) == Count(p)
		for _, t := range tasks(p) {
			ground := r.Run.Grounds[t.name]
			ground.Tables = "" // it is known only when a run has ended
			same = same && has[key(t.name, t.wording, t.repeat)] && ground == GroundOf(p, t.chosen)
		}
		for name, place := range p.Places {
			same = same && r.Run.Under[name].Judge == JudgeOf(place.Briefing)
		}
		if same {
			return r, true
		}
	}
	return Past{}, false
}

// Past is a run of the history with its attempts.
type Past struct {
	Run      record.Run
	Attempts []record.Attempt
}

// remembered is a task's reply as the history has it. A follow-up is taken from the run that its question is taken from: what was said
// before it is the same there.
func (w *running) remembered(t *task) (replied, bool) {
	known, has := w.plan.Known[key(t.name, t.wording, t.repeat)]
	if !has || t.parent != nil && t.parent.made.Reused != known.Run {
		return replied{}, false
	}
	a := known.Attempt
	out, ok := w.repliedOf(a)
	if !ok && a.Verdict == score.Failed && len(a.Faults) > 0 { // that it gave nothing usable is an answer, too
		out = replied{answered: translator.Answered{Raw: a.Raw, Latency: a.Latency}, earlier: a.Earlier, cost: Budget{a.Cost, a.Tokens},
			failure: translator.Fail(a.Faults[0].Code, "%s", a.Why)}
	}
	out.tries, out.reused = a.Tries, known.Run
	return out, ok || out.failure != nil
}

// Telling is the same place, where something else is told.
func (p *Place) Telling(g Ground) *Place {
	out := NewPlace(g, p.Pool, p.read)
	out.Twins, out.Facts, out.Search = p.Twins, p.Facts, p.Search
	return out
}
