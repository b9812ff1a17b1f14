package attempt

import (
	"slices"

	"tovrel/core/record"
	"tovrel/core/wording"
)

// Since is what has moved between the plan of a run that broke off and its questions as they are now. Names are sorted.
type Since struct {
	Added   []string            // questions, or wordings of them, that were not planned: they are not asked
	Gone    []string            // planned, and no longer there
	Changed map[string][]string // planned questions whose ground is another now: what of it
}

// planned sorts tasks into those that a run planned and others. A follow-up of one that was not planned was not planned either. Runs of
// earlier versions know their questions alone.
func planned(r record.Run, all []*task) (kept, others []*task) {
	isKept := map[*task]bool{}
	for _, t := range all {
		_, asked := r.Grounds[t.name]
		wordings, known := r.Wordings[t.name]
		asked = asked && (!known || slices.Contains(wordings, wordingDigest(t.wording))) && (t.parent == nil || isKept[t.parent])
		if len(r.Grounds) == 0 || asked {
			isKept[t] = true
			kept = append(kept, t)
		} else {
			others = append(others, t)
		}
	}
	return kept, others
}

func wordingDigest(text string) string { return digest(wording.Fold(text)) }

// SinceOf tells what has moved since a run was planned.
func SinceOf(r record.Run, p Plan) Since {
	out := Since{Changed: map[string][]string{}}
	kept, others := planned(r, tasks(p))
	for _, t := range others {
		if !slices.Contains(out.Added, t.name) {
			out.Added = append(out.Added, t.name)
		}
	}
	left := map[string][]string{} // planned wordings that are not found
	for name := range r.Grounds {
		left[name] = slices.Clone(r.Wordings[name])
	}
	for _, t := range kept {
		left[t.name] = slices.DeleteFunc(left[t.name], func(w string) bool { return w == wordingDigest(t.wording) })
		if moved := r.Grounds[t.name].Moved(GroundOf(p, t.chosen)); len(moved) > 0 {
			out.Changed[t.name] = moved
		}
	}
	for name, wordings := range left {
		if len(wordings) > 0 || !slices.ContainsFunc(kept, func(t *task) bool { return t.name == name }) {
			out.Gone = append(out.Gone, name)
		}
	}
	slices.Sort(out.Added)
	slices.Sort(out.Gone)
	return out
}
