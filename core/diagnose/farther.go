package diagnose

import (
	"cmp"
	"context"
	"slices"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/sql"
	"tovrel/core/table"
)

// farther goes on where the narrow interventions showed nothing: stage by stage, until one shows something that holds on smaller copies of
// the data too.
func (s *search) farther(ctx context.Context, narrow []intervention) error {
	of := sidesOf(s.c)
	wide := slices.Concat(of.oneEach(), of.unitMeasures())
	near := slices.Concat(narrow, of.oneValue())
	for n := range near {
		near[n] = s.towards(near[n])
	}
	if err := s.besideShown(ctx, narrow); err != nil || len(s.findings) > 0 || s.d.Ended != "" {
		return err
	}
	for _, stage := range []func() []intervention{
		of.oneValue,
		func() []intervention { return s.settable(of.setAside()) },
		func() []intervention { return s.beside(narrow, s.settable(of.setAside())) },
		of.constantKeys,
		of.oneKey,
		of.levels,
		func() []intervention { return s.pairsOf(near, near, nearestNarrow) },
		func() []intervention { return wide },
		func() []intervention { return s.pairsOf(near, wide, nearestWide) },
	} {
		if err := s.stage(ctx, stage()); err != nil || len(s.findings) > 0 || s.d.Ended != "" {
			return err
		}
	}
	return nil
}

// How many of the nearest narrow interventions are tried with a second one, by its kind.
const nearestNarrow, nearestWide = 8, 5

// mostFarther bounds the queries of one stage, so that an answer that nothing explains does not take the whole budget.
const mostFarther = 120

// stage tries interventions, and takes the first by rank that holds.
func (s *search) stage(ctx context.Context, all []intervention) error {
	var found []finding
	before := s.runs
	for _, i := range all {
		if s.runs-before >= mostFarther || s.runs+mostFarther/2 >= s.w.Runs {
			break
		}
		i.wide = true
		f, err := s.intervene(ctx, i)
		s.took(i, f)
		if err != nil || s.d.Ended != "" {
			return err
		}
		if f != nil {
			found = append(found, *f)
		}
	}
	return s.firstHolding(ctx, found)
}

// without are the two queries of a case without some clauses.
func (s *search) without(aside []sql.Aside) (reference, answer *sql.Tree) {
	reference, answer = s.c.Reference, s.c.Answer
	for _, a := range aside {
		reference, answer = s.setAside(reference, a), s.setAside(answer, a)
	}
	return reference, answer
}

func (s *search) setAside(t *sql.Tree, a sql.Aside) *sql.Tree {
	without := t.SetAside(a)
	if without.Key() == t.Key() {
		return t
	}
	return without
}

// settable are those whose clauses a query has. Without the conditions on groups, two queries that both ask within another query say
// nothing.
func (s *search) settable(all []intervention) []intervention {
	nested := s.c.Reference.Nested() && s.c.Answer.Nested()
	return slices.DeleteFunc(all, func(i intervention) bool {
		reference, answer := s.without(i.aside)
		return reference == s.c.Reference && answer == s.c.Answer || nested && slices.Contains(i.aside, sql.GroupConditions)
	})
}

// beside are pairs of a narrow intervention with clauses that are set aside: what is set aside hides a difference, and is none itself where
// both queries keep the same of an order.
func (s *search) beside(narrow, aside []intervention) []intervention {
	var out []intervention
	for _, a := range aside {
		for _, i := range narrow {
			out = append(out, both(s.towards(i), a))
		}
	}
	return out
}

// pairsOf are the nearest of some interventions, each with all of others.
func (s *search) pairsOf(first, second []intervention, nearest int) []intervention {
	type apart struct {
		intervention
		closeness float64
	}
	var all []apart
	for _, i := range slices.DeleteFunc(slices.Clone(first), s.idle) {
		all = append(all, apart{i, s.closeness(i)})
	}
	second = slices.DeleteFunc(slices.Clone(second), s.idle)
	slices.SortStableFunc(all, func(a, b apart) int { return cmp.Compare(b.closeness, a.closeness) })
	var out []intervention
	for n, i := range all[:min(nearest, len(all))] {
		for _, j := range second {
			earlier := slices.ContainsFunc(all[:n], func(o apart) bool { return o.words == j.words })
			if i.words != j.words && !earlier {
				out = append(out, both(i.intervention, j))
			}
		}
	}
	return out
}

// idle tells an intervention that was tried and changed what neither query gives.
func (s *search) idle(i intervention) bool {
	reference, ranReference := s.knownOn(s.c.Reference, stepsOn(s.c.Reference, i.steps))
	answer, ranAnswer := s.knownOn(s.c.Answer, stepsOn(s.c.Answer, i.steps))
	return ranReference && ranAnswer && reference != nil && answer != nil && sameTables(reference, s.c.Expected) &&
		sameTables(answer, s.c.Got)
}

// towards gives an intervention that names nothing where both queries give the same the fault of the side that it changes: what it does to
// the data concerns the answer, or the reference alone.
func (s *search) towards(i intervention) intervention {
	if i.both != "" {
		return i
	}
	reference, _ := s.knownOn(s.c.Reference, stepsOn(s.c.Reference, i.steps))
	i.both, i.saysBoth = i.mended, i.saysMended
	if i.mended == "" || reference != nil && i.broken != "" && !sameTables(reference, s.c.Expected) {
		i.both, i.saysBoth = i.broken, i.saysBroken
	}
	return i
}

// both are two interventions at once.
func both(i, j intervention) intervention {
	first, second := i, j
	out := intervention{steps: merged(i.steps, j.steps), words: i.words + " and " + j.words, both: i.both, first: &first, second: &second,
		aside: slices.Concat(i.aside, j.aside), saysBoth: i.saysBoth}
	if i.mended != "" && j.mended != "" {
		out.mended, out.saysMended = i.mended, i.saysMended
	}
	if i.broken != "" && j.broken != "" {
		out.broken, out.saysBroken = i.broken, i.saysBroken
	}
	return out
}

// closeness is how near an intervention that was tried brought the two queries, from 0 to 1.
func (s *search) closeness(i intervention) float64 {
	reference, _ := s.knownOn(s.c.Reference, stepsOn(s.c.Reference, i.steps))
	answer, _ := s.knownOn(s.c.Answer, stepsOn(s.c.Answer, i.steps))
	most := 0.0
	for _, pair := range [][2]*table.Table{{s.c.Expected, answer}, {reference, s.c.Got}, {reference, answer}} {
		if pair[0] == nil || pair[1] == nil || poor(pair[0]) || poor(pair[1]) {
			continue
		}
		if near := match.Match(pair[0], pair[1], s.c.Rules, s.c.Known).Closeness; near != nil {
			most = max(most, *near)
		}
	}
	return most
}

// besideShown takes the first narrow intervention, of those that were tried, that leaves a difference in how the same is shown, and holds.
func (s *search) besideShown(ctx context.Context, narrow []intervention) error {
	var found []finding
	for _, i := range narrow {
		i.wide = true
		reference, _ := s.knownOn(s.c.Reference, stepsOn(s.c.Reference, i.steps))
		answer, _ := s.knownOn(s.c.Answer, stepsOn(s.c.Answer, i.steps))
		if shown := s.shows(s.c.Expected, answer); i.mended != "" && shown != nil {
			found = append(found, finding{i, mended, shown})
		} else if shown := s.shows(reference, answer); i.both != "" && shown != nil && telling(reference, s.c.Expected) {
			found = append(found, finding{i, agreed, shown})
		}
	}
	return s.firstHolding(ctx, found)
}

// shows is how an answer shows what is right: in another scale, cut behind the point, under other labels; nil where it is right as it
// stands, or wrong.
func (s *search) shows(right, answer *table.Table) *fault.Fault {
	if right == nil || answer == nil || poor(right) {
		return nil
	}
	c := Case{Expected: right, Got: answer, Rules: s.c.Rules, Known: s.c.Known}
	if f := proofs(c); f != nil {
		return f
	}
	if r := match.Match(right, answer, c.Rules, c.Known); !r.Matched {
		return codeForLabel(c, r)
	}
	return nil
}
