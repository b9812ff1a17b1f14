package cli

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"tovrel/attempt"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/versus"
	"tovrel/history"
	"tovrel/workspace"
)

// oneJudge has all sides of a comparison judged alike: where runs that share a dataset were judged by different labels, synonyms or units,
// or by different versions of this program, each run whose judge is not the present one is judged once more. Nothing is stored. What cannot
// be judged again is said, and is moved ground.
func (a *app) oneJudge(ctx context.Context, source *runSource, sides []versus.Side, records []stored) error {
	differing := differentlyJudged(sides)
	if len(differing) == 0 {
		return nil
	}
	for i := range sides {
		datasets := map[string]bool{}
		for name := range differing {
			if _, has := sides[i].Run.Datasets[name]; has && !a.isPresentJudge(source.w, sides[i].Run, name) {
				datasets[name] = true
			}
		}
		if len(datasets) == 0 {
			continue
		}
		if err := a.judgeAgain(ctx, source, &sides[i], &records[i], datasets); err != nil {
			if ctx.Err() != nil {
				return err
			}
			a.say("Run %d was judged by other labels, synonyms or units of %s, or by another version, and cannot be judged again: %v",
				sides[i].Run.ID, listedNames(datasets), err)
			sides[i].Unjudged = questionsOf(sides[i].Run, datasets)
		}
	}
	return nil
}

// listedNames are the names of a set, in order.
func listedNames(set map[string]bool) string {
	return strings.Join(slices.Sorted(maps.Keys(set)), ", ")
}

// differentlyJudged are the datasets on which some of the runs were judged otherwise than others.
func differentlyJudged(sides []versus.Side) map[string]bool {
	out := map[string]bool{}
	for i, x := range sides {
		for _, y := range sides[i+1:] {
			for name := range x.Run.Datasets {
				if _, both := y.Run.Datasets[name]; both && (x.Run.Tool != y.Run.Tool || !record.JudgedAlike(x.Run, y.Run, name)) {
					out[name] = true
				}
			}
		}
	}
	return out
}

// isPresentJudge tells whether a run was judged by this version and by what the workspace says now.
func (a *app) isPresentJudge(w *workspace.Workspace, r record.Run, dataset string) bool {
	under, known := r.Under[dataset]
	d, err := w.Dataset(dataset)
	if err != nil || !known || r.Tool != version {
		return false
	}
	said, err := w.ReadBriefing(d)
	return err == nil && attempt.JudgeOf(said) == under.Judge
}

// judgeAgain judges a run's answers on some datasets once more, where the question is the one that the run asked. The others cannot be.
func (a *app) judgeAgain(ctx context.Context, source *runSource, side *versus.Side, r *stored, datasets map[string]bool) error {
	b, err := a.judging(ctx, source.w, r.Run)
	if err != nil {
		return err
	}
	defer b.close()
	isAsAsked := map[string]bool{}
	for _, c := range b.plan.Questions {
		ground := attempt.GroundOf(b.plan, c)
		for _, name := range attempt.NamesOf(c) {
			asked, was := r.Grounds[name]
			isAsAsked[name] = was && asked.Expected == ground.Expected && asked.Rules == ground.Rules
		}
	}
	placed, err := source.placed(*r)
	if err != nil {
		return err
	}
	b.plan.Diagnose.Runs = 0 // verdicts are held against each other, not their causes
	again := func(at record.Attempt) bool { return datasets[r.About[at.Question].Dataset] && isAsAsked[at.Question] }
	scored, err := a.rejudge(ctx, b, fmt.Sprintf("judging run %d by what holds now", r.ID), placed, again)
	if err != nil {
		return err
	}
	merge(r, placed, scored)
	source.decide(r.attempts)
	side.Attempts, side.Lights, r.lights = r.attempts, nil, nil
	side.Unjudged = questionsOf(r.Run, datasets)
	for name := range side.Unjudged {
		if isAsAsked[name] {
			delete(side.Unjudged, name)
		}
	}
	return nil
}

// placed are the whole attempts of a run with their places: of the history, or of the file that the run was read from.
func (s *runSource) placed(r stored) ([]history.Placed, error) {
	if r.file == "" {
		store, err := s.history()
		if err != nil {
			return nil, err
		}
		return store.Judged(r.ID)
	}
	out := make([]history.Placed, len(r.attempts))
	for i, a := range r.attempts {
		out[i] = history.Placed{Place: i, Attempt: a}
	}
	return out, nil
}

// merge puts attempts as they are judged now in place of those as they were.
func merge(r *stored, placed []history.Placed, scored []history.Scored) {
	now := map[int]record.Attempt{}
	for _, s := range scored {
		now[s.Place] = s.Attempt
	}
	r.attempts, r.isWhole = make([]record.Attempt, 0, len(placed)), true
	for _, p := range placed {
		one, judged := now[p.Place]
		if !judged {
			one = p.Attempt
		} else if one.Verdict == p.Attempt.Verdict { // the same verdict keeps the cause that was found for it
			one.Faults = p.Attempt.Faults
		}
		r.attempts = append(r.attempts, one)
	}
}

func questionsOf(r record.Run, datasets map[string]bool) map[string]bool {
	out := map[string]bool{}
	for name, about := range r.About {
		if datasets[about.Dataset] {
			out[name] = true
		}
	}
	return out
}

// withTold reads what the translators of the sides were told, where it is not the same for all.
func withTold(sides []versus.Side, records []stored) {
	for i := range sides {
		for dataset, under := range sides[i].Run.Under {
			differs := slices.ContainsFunc(sides, func(s versus.Side) bool {
				other, has := s.Run.Under[dataset]
				return has && other.Told != under.Told
			})
			if !differs {
				continue
			}
			kept, err := records[i].table(under.Told)
			if err != nil {
				continue // an exported run of a shard, or a history that was tidied by an earlier version: the lines are not known
			}
			if sides[i].Told == nil {
				sides[i].Told = map[string][]string{}
			}
			sides[i].Told[dataset] = history.LinesOf(kept)
		}
	}
}

// alike tells whether answers of two runs are the same table under a question's rules, by the tables that are kept of them.
func (a *app) alike(source *runSource, before, after stored) versus.Alike {
	var rules map[string]match.Rules
	return func(question string, x, y record.Light) bool {
		if rules == nil {
			rules = a.rulesOfQuestions(source.w)
		}
		one, err := before.table(x.Answer)
		if err != nil {
			return false
		}
		other, err := after.table(y.Answer)
		if err != nil || one.Rows != other.Rows {
			return false
		}
		return match.Same(one.Table, other.Table, rules[question])
	}
}

// rulesOfQuestions are the rules of the golden sets' questions; what cannot be read of them has the workspace's.
func (a *app) rulesOfQuestions(w *workspace.Workspace) map[string]match.Rules {
	out := map[string]match.Rules{}
	questions, err := a.questions(w, record.Options{})
	if err != nil {
		return out
	}
	for _, c := range questions {
		for _, name := range attempt.NamesOf(c) {
			out[name] = c.Question.Rules.Over(c.Set.Rules.Over(w.Rules))
		}
	}
	return out
}
