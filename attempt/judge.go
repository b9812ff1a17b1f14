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
	"tovrel/translator"
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

// judge tells what a reply is worth: by what a person decided about it, else by the rules.
func (w *running) judge(ctx context.Context, t *task, out replied) (judged, error) {
	j, err := w.byRules(ctx, t, out)
	looks := looksAt(out.answered.Reply) && j.attempt.Verdict != score.Failed || j.attempt.Reason == fault.ReasonNeedsALook
	if err != nil || !looks {
		return j, err
	}
	if j.attempt.Look, err = t.look(ctx, out.answered.Reply); err != nil {
		return j, err
	}
	w.plan.Decisions.Apply(&j.attempt, func(_, decided string) bool { return fitsStance(t.chosen.Question.Expect, decided) })
	return j, nil
}

// byRules tells first what a reply does (answer, ask back, decline), then what its answer says.
func (w *running) byRules(ctx context.Context, t *task, out replied) (judged, error) {
	a := t.record(out)
	reply := out.answered.Reply
	j, decided, err := w.stance(ctx, t, a, reply)
	if decided || err != nil {
		return j, err
	}
	if len(t.chosen.Question.States) > 0 {
		return w.facts(ctx, t, a, reply)
	}
	wanted := w.plan.Score
	if t.chosen.Question.Chart != nil {
		wanted = partChart
	}
	part := chosenPart(reply, wanted)
	if part == "" {
		return broken(a, fault.MalformedReply, noPart(reply, wanted)), nil
	}
	if part == partChart {
		return w.charted(ctx, t, a, reply)
	}
	got, err := w.get(ctx, t, reply, part)
	switch {
	case err != nil:
		return judged{}, err
	case got.failure != nil:
		return w.failed(ctx, t, a, got.failure)
	case got.foreign != nil:
		return unscored(a, fault.ReasonOtherDialect, got.foreign.Message), nil
	}
	a.Ran, a.Instead = got.ran, got.instead
	expectations, j, failed, err := t.expectations(ctx, a)
	if failed || err != nil {
		return j, err
	}
	if got.table == nil {
		return t.words(ctx, a, reply.Text, expectations)
	}
	return w.matched(ctx, t, a, reply, part, got, expectations)
}

// matched matches what a part of a reply gives, and looks further: a right answer on other data, a wrong one for its causes.
func (w *running) matched(ctx context.Context, t *task, a record.Attempt, reply translator.Reply, part string, got given,
	expectations []expect.Expectation) (judged, error) {
	got, j, nearest, err := t.matchAny(ctx, a, got, expectations)
	j.attempt.Notes = append(j.attempt.Notes, w.unread(j.attempt, part, got, nearest)...)
	inDialect(&j.attempt, got)
	j.attempt.Notes = append(j.attempt.Notes, w.leftOut(t, nearest.Tree)...)
	rules := got.unchecked()
	switch {
	case err != nil:
	case j.attempt.Verdict != score.Right && rules != "":
		return unscored(a, fault.ReasonOtherDialect,
			"the answer is not what was expected, but rests on rules that were never held against a server: "+rules), nil
	case j.attempt.Verdict == score.Right:
		if err = w.compareParts(ctx, t, &j.attempt, reply, part, got.table); err == nil && part == partQuery && got.here() != "" {
			err = w.onTwins(ctx, t, &j, got.here(), got.tree)
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

// noPart says what a reply lacks to be judged.
func noPart(r translator.Reply, wanted string) string {
	if wanted == "" {
		return fmt.Sprintf("the reply has a query in %s, which is not run, and no table, chart or text to judge", r.Language)
	}
	return fmt.Sprintf("the reply has no %s, which is the part that is judged", wanted)
}

// expectations are the accepted answers that count for a task; failed tells that they cannot be had, which is the judgement.
func (t *task) expectations(ctx context.Context, a record.Attempt) (all []expect.Expectation, j judged, failed bool, err error) {
	all, err = t.place.Expectations(ctx, t.chosen)
	if err != nil {
		if ctx.Err() != nil {
			return nil, judged{}, false, ctx.Err()
		}
		return nil, unscored(a, fault.ReasonReferenceFailed, err.Error()), true, nil
	}
	return t.counting(all), judged{}, false, nil
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

// oneOfSeveral remarks that another statement than the last gave a right answer.
const oneOfSeveral = match.Remark("one-of-several")

// matchAny matches what a reply gives: its last result, and where that does not match the earlier ones.
func (t *task) matchAny(ctx context.Context, a record.Attempt, got given, all []expect.Expectation) (given, judged, expect.Expectation,
	error) {
	j, nearest, err := t.match(ctx, a, got, all)
	if err != nil || j.attempt.Verdict == score.Right {
		return got, j, nearest, err
	}
	for i := len(got.before) - 1; i >= 0; i-- {
		other, e, err := t.match(ctx, a, got.before[i], all)
		if err != nil {
			return got, j, nearest, err
		}
		if other.attempt.Verdict == score.Right {
			other.attempt.Remarks = append(other.attempt.Remarks, oneOfSeveral)
			return got.before[i], other, e, nil
		}
	}
	return got, j, nearest, nil
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
	seen := seenOf(best, got.hidden)
	if best.NeedsLook {
		seen.Unscored, seen.Why = fault.ReasonNeedsALook,
			"the answer may hold what is asked in columns for which too little speaks: "+best.Why
	}
	a.Judge(seen)
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
