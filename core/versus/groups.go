package versus

import (
	"cmp"
	"slices"
	"strings"

	"tovrel/core/wording"
)

// groups sums up parts of the questions: by tag, dataset, set and what the reference query is made of; and the wordings.
func groups(like []question) []Group {
	type sums struct {
		questions             int
		before, after, weight float64
	}
	found := map[[2]string]*sums{}
	addPart := func(kind, name string, q question, before, after tally) {
		key := [2]string{kind, name}
		x, scoredBefore := before.share()
		y, scoredAfter := after.share()
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
	add := func(kind, name string, q question) { addPart(kind, name, q, q.before.tally, q.after.tally) }
	for _, q := range like {
		main := q.before.attempts[0].wording // a question is asked in its main wording first
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

// inWording counts the attempts in a question's main wording, or those in all others.
func inWording(h half, main string, wanted bool) tally {
	if oneWording(h.attempts, main) { // as mostly
		if wanted {
			return h.tally
		}
		return tally{}
	}
	var out []tried
	for _, a := range h.attempts {
		if same := a.wording == main || wording.Fold(a.wording) == wording.Fold(main); same == wanted {
			out = append(out, a)
		}
	}
	return tallyOf(out)
}

func setOf(question string) string {
	for i := range question {
		if question[i] == '/' {
			return question[:i]
		}
	}
	return question
}
