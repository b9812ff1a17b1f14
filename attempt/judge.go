package attempt

import (
	"context"
	"fmt"
	"strings"

	"tovrel/cause"
	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/expect"
	"tovrel/history"
)

// judged is an attempt with the tables to store beside it.
type judged struct {
	attempt record.Attempt
	tables  []history.Stored
}

// unscored is an attempt that could not be judged.
func unscored(a record.Attempt, reason fault.Reason, why string) judged {
	a.Judge(record.Seen{Unscored: reason, Why: why})
	return judged{attempt: a}
}

// broken is an attempt whose reply gave nothing to judge.
func broken(a record.Attempt, code fault.Code, why string) judged {
	a.Judge(record.Seen{Broken: true, Why: why, Faults: []fault.Fault{{Code: code, Certainty: fault.Proved, Evidence: why}}})
	return judged{attempt: a}
}

// judge tells what a reply is worth: first what it does (answer, ask back, decline), then what its answer says.
func (w *running) judge(ctx context.Context, t *task, out replied) (judged, error) {
	a := t.record(out)
	reply := out.answered.Reply
	j, decided, err := w.stance(ctx, t, a, reply)
	if decided || err != nil {
		return j, err
	}
	part := chosenPart(reply, w.plan.Score)
	if part == "" {
		return broken(a, fault.MalformedReply, fmt.Sprintf("the reply has no %s, which is the part that is judged", w.plan.Score)), nil
	}
	got, err := w.get(ctx, t, reply, part)
	switch {
	case err != nil:
		return judged{}, err
	case got.failure != nil:
		return w.failed(ctx, t, a, got.failure)
	}
	a.Ran, a.Instead = got.ran, got.instead
	expectations, err := t.place.Expectations(ctx, t.chosen)
	if err != nil {
		if ctx.Err() != nil {
			return judged{}, ctx.Err()
		}
		return unscored(a, fault.ReasonReferenceFailed, err.Error()), nil
	}
	expectations = t.counting(expectations)
	if got.table == nil {
		return t.words(ctx, a, reply.Text, expectations)
	}
	j, nearest, err := t.match(ctx, a, got, expectations)
	j.attempt.Notes = append(j.attempt.Notes, w.unread(j.attempt, part, got, nearest)...)
	switch {
	case err != nil:
	case j.attempt.Verdict == score.Right:
		if err = w.compareParts(ctx, t, &j.attempt, reply, part, got.table); err == nil && part == partQuery {
			err = w.onTwins(ctx, t, &j, reply.Query)
		}
	case w.plan.Diagnose.Runs > 0 && cause.Searchable(j.attempt.Faults):
		err = w.explain(ctx, t.place, t, &j.attempt, got, nearest)
	}
	if err == nil && j.attempt.Verdict == score.Wrong {
		j.attempt.Shown = shown(nearest.Tree, got.tree)
		err = t.namedRejected(ctx, &j.attempt, got.table)
	}
	return j, err
}

// unread says what could not be done for want of a query's syntax tree.
func (w *running) unread(a record.Attempt, part string, got given, e expect.Expectation) []string {
	searched := a.Verdict == score.Wrong && part == partQuery && w.plan.Diagnose.Runs > 0 && cause.Searchable(a.Faults)
	return cause.Unread(e, searched && got.tree == nil)
}

// counting are the accepted answers that count for a task: for a follow-up, the reading of the title that the turn before
// matched; where that matched its main answer, those of the turn before's other readings do not count.
func (t *task) counting(all []expect.Expectation) []expect.Expectation {
	if t.parent == nil || t.parent.made.Verdict != score.Right {
		return all
	}
	before := t.parent.made.Reading
	others := map[string]bool{}
	for _, r := range t.parent.chosen.Question.Readings {
		others[r.Title] = true
	}
	var out []expect.Expectation
	for _, e := range all {
		if e.Reading == before && before != "" {
			return []expect.Expectation{e}
		}
		if before != "" || !others[e.Reading] {
			out = append(out, e)
		}
	}
	if len(out) == 0 {
		return all
	}
	return out
}

// match holds an answer against the accepted ones and keeps the first that matches, else the nearest.
func (t *task) match(ctx context.Context, a record.Attempt, got given,
	expectations []expect.Expectation) (judged, expect.Expectation, error) {
	var best match.Result
	chosen := -1
	for i, e := range expectations {
		r, err := e.Meets(ctx, got.table, t.rules)
		if err != nil {
			return judged{}, e, err
		}
		if chosen < 0 || r.Matched || expect.Closer(r, best) {
			best, chosen = r, i
		}
		if r.Matched {
			break
		}
	}
	e := expectations[chosen]
	a.Judge(seenOf(best, got.hidden))
	a.Closeness, a.Remarks, a.Notes = best.Closeness, best.Remarks, append(a.Notes, best.Notes...)
	a.Reference, a.Match = e.Reference, record.Compact(best)
	if best.Matched {
		a.Reading = e.Reading
		if len(got.hidden) > 0 {
			a.Remarks = append(a.Remarks, hiddenRemark)
		}
	}
	expected, answer := history.Keep(best.Tables.Expected), history.Keep(best.Tables.Answer)
	a.Expected, a.Answer = expected.Digest, answer.Digest
	if history.Cut(got.table) {
		a.Whole = match.Digest(got.table, t.rules)
	}
	return judged{a, []history.Stored{expected, answer}}, e, nil
}

// seenOf is what a match shows, and of a wrong answer that its query reads hidden columns.
func seenOf(r match.Result, hidden []string) record.Seen {
	seen := record.Seen{Fits: r.Matched, Why: r.Why, Faults: r.Faults}
	if !r.Matched && len(hidden) > 0 {
		evidence := "the query reads " + strings.Join(hidden, ", ") + ", which the briefing hides"
		seen.Faults = append(seen.Faults, fault.Fault{Code: fault.HiddenColumn, Certainty: fault.Possible, Evidence: evidence})
	}
	return seen
}
