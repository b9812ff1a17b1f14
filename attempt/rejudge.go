package attempt

import (
	"cmp"
	"context"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"tovrel/core/fault"
	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/history"
	"tovrel/translator"
	"tovrel/trouble"
	"tovrel/workspace"
)

// Rejudge judges the stored replies of a run once more, under a plan's questions, rules and data. Nothing is asked. Attempts at
// questions that the plan does not have, that the choice leaves out, or that brought no reply are not judged. Done is called after
// each, one call at a time. The error is of a worker or the context; an attempt that cannot be judged is unscored.
func Rejudge(ctx context.Context, p Plan, stored []history.Placed, choose func(record.Attempt) bool,
	done func()) ([]history.Scored, error) {
	w := &running{plan: p}
	byName := questionsByName(p.Questions)
	tasks := map[int]*task{}
	main := map[*golden.Question]map[int]*task{} // by repeat, at the main wording
	turns := map[int][]history.Placed{}
	for _, one := range stored {
		c, known := byName[one.Attempt.Question]
		if !known {
			continue
		}
		a := one.Attempt
		t := &task{place: p.Places[c.Set.Dataset], order: one.Place, name: c.Name(), wording: a.Wording, repeat: a.Repeat,
			turn: a.Turn, chosen: c,
			rules: c.Question.Rules.Over(c.Set.Rules.Over(p.Rules)), made: a}
		tasks[one.Place] = t
		if main[c.Question] == nil {
			main[c.Question] = map[int]*task{}
		}
		if _, has := main[c.Question][a.Repeat]; !has {
			main[c.Question][a.Repeat] = t
		}
		if choose(a) {
			turns[depth(c.Question)] = append(turns[depth(c.Question)], one)
		}
	}
	for _, t := range tasks {
		if t.chosen.Question.After != nil {
			t.parent = main[t.chosen.Question.After][t.repeat]
		}
	}
	var out []history.Scored
	for turn := 0; len(turns) > 0; turn++ { // a follow-up is judged after what it follows
		scored, err := w.rejudgeTurn(ctx, turns[turn], tasks, done)
		if err != nil {
			return nil, err
		}
		out = append(out, scored...)
		delete(turns, turn)
	}
	slices.SortFunc(out, func(a, b history.Scored) int { return cmp.Compare(a.Place, b.Place) })
	return out, nil
}

func depth(q *golden.Question) int {
	n := 0
	for ; q.After != nil; q = q.After {
		n++
	}
	return n
}

// NamesOf are a question's names, the present one first.
func NamesOf(c workspace.Chosen) []string {
	names := []string{c.Name()}
	for _, old := range c.Question.Formerly {
		names = append(names, c.Set.Name+"/"+old)
	}
	return names
}

// questionsByName finds questions by their names, present and earlier.
func questionsByName(questions []workspace.Chosen) map[string]workspace.Chosen {
	out := map[string]workspace.Chosen{}
	for _, c := range questions {
		for _, old := range c.Question.Formerly {
			out[c.Set.Name+"/"+old] = c
		}
	}
	for _, c := range questions {
		out[c.Name()] = c
	}
	return out
}

func (w *running) rejudgeTurn(ctx context.Context, stored []history.Placed, tasks map[int]*task, done func()) ([]history.Scored, error) {
	results := make([]*judged, len(stored))
	g, ctx := errgroup.WithContext(ctx)
	g.SetLimit(max(1, w.plan.Judges))
	told := make(chan struct{}, len(stored))
	for i, one := range stored {
		g.Go(trouble.Safe(func() error {
			defer func() { told <- struct{}{} }()
			out, ok := w.repliedOf(one.Attempt)
			if !ok {
				return nil
			}
			j, err := w.judge(ctx, tasks[one.Place], out)
			results[i] = &j
			return err
		}))
	}
	for range stored {
		<-told
		done()
	}
	if err := g.Wait(); err != nil {
		return nil, err
	}
	var out []history.Scored
	for i, one := range stored {
		if j := results[i]; j != nil {
			asAsked(&j.attempt, one.Attempt)
			tasks[one.Place].made = j.attempt
			out = append(out, history.Scored{Placed: history.Placed{Place: one.Place, Attempt: j.attempt}, Tables: j.tables})
		}
	}
	return out, nil
}

// asAsked keeps of an attempt what was seen when it was asked.
func asAsked(a *record.Attempt, asked record.Attempt) {
	a.Question, a.Raw, a.Latency, a.Cost, a.Tokens, a.Tries, a.Earlier = asked.Question, asked.Raw, asked.Latency, asked.Cost,
		asked.Tokens, asked.Tries, asked.Earlier
	if a.Ran == 0 {
		a.Ran = asked.Ran
	}
}

// repliedOf reads an attempt's stored reply again; false where none came.
func (w *running) repliedOf(a record.Attempt) (replied, bool) {
	if a.Raw == nil || a.Verdict == score.Unscored && (a.Reason == fault.ReasonTransport || a.Reason == fault.ReasonOverBudget) {
		return replied{}, false
	}
	reply, err := translator.ParseReply(a.Raw)
	if err != nil {
		if strings.TrimSpace(a.Query) == "" {
			return replied{}, false // malformed then and now
		}
		reply = translator.Reply{Query: a.Query} // the reply of a chat, which was read when it came
	}
	if reply, err = reply.Under(translator.ProtocolOf(w.plan.Protocol)); err != nil {
		return replied{}, false
	}
	return replied{answered: translator.Answered{Reply: reply, Raw: a.Raw, Latency: a.Latency}, earlier: a.Earlier,
		cost: Budget{a.Cost, a.Tokens}}, true
}
