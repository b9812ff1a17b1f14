package runner

import (
	"context"
	"encoding/json"
	"fmt"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/match"
	"tovrel/core/run"
	"tovrel/core/score"
	"tovrel/core/table"
	"tovrel/engine"
	"tovrel/history"
	"tovrel/translator"
)

// judged is an attempt with the tables to store beside it.
type judged struct {
	attempt run.Attempt
	tables  []history.Stored
}

// verbatim keeps a reply as it is where it is JSON, else as a JSON string.
func verbatim(raw []byte) json.RawMessage {
	if len(raw) == 0 {
		return nil
	}
	if json.Valid(raw) {
		return append(json.RawMessage(nil), raw...)
	}
	b, _ := json.Marshal(strings.ToValidUTF8(string(raw), "�")) // a string always encodes
	return b
}

// unscored is an attempt that could not be judged.
func unscored(a run.Attempt, reason fault.Reason, why string) judged {
	a.Verdict, a.Reason, a.Why = score.Unscored, reason, why
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
		a.Verdict, a.Why = score.Failed, fmt.Sprintf("the reply has no %s, which is the part that is judged", w.plan.Score)
		a.Faults = []fault.Fault{{Code: fault.MalformedReply, Certainty: fault.Proved, Evidence: a.Why}}
		return judged{attempt: a}, nil
	}
	answer, failure, err := w.partTable(ctx, t, &a, reply, part)
	if failure != nil || err != nil {
		if failure != nil {
			return w.failed(ctx, t, a, failure)
		}
		return judged{}, err
	}
	expectations, err := t.place.expectations(ctx, t.chosen)
	if err != nil {
		if ctx.Err() != nil {
			return judged{}, ctx.Err()
		}
		return unscored(a, fault.ReasonReferenceFailed, err.Error()), nil
	}
	expectations = t.counting(expectations)
	if answer == nil {
		return t.words(ctx, a, reply.Text, expectations)
	}
	j, nearest, err := t.match(ctx, a, answer, expectations)
	switch {
	case err != nil:
	case j.attempt.Verdict == score.Right:
		if err = w.compareParts(ctx, t, &j.attempt, reply, part, answer); err == nil && part == partQuery {
			err = w.onTwins(ctx, t, &j, reply.Query)
		}
	case w.plan.Diagnose.Runs > 0 && searchable(j.attempt.Faults):
		err = w.explain(ctx, t, &j.attempt, answer, nearest)
	}
	if err == nil && j.attempt.Verdict == score.Wrong {
		err = t.namedRejected(ctx, &j.attempt, answer)
	}
	return j, err
}

// The parts of a reply that can be judged, in the order in which the first that is there is taken.
const (
	partQuery = "query"
	partTable = "table"
	partText  = "text"
)

// Parts lists the parts of a reply that can be judged.
func Parts() []string { return []string{partQuery, partTable, partText} }

// chosenPart is the part of a reply that is judged; "" where the wanted one is not there.
func chosenPart(r translator.Reply, wanted string) string {
	has := map[string]bool{partQuery: r.Query != "", partTable: r.Table != nil, partText: r.Text != ""}
	for _, part := range Parts() {
		if has[part] && (wanted == "" || wanted == part) {
			return part
		}
	}
	return ""
}

// partTable gives a part's table, running a query; nil for a text. A failure is the query's own.
func (w *running) partTable(ctx context.Context, t *task, a *run.Attempt, reply translator.Reply, part string) (*table.Table, *engine.Failure, error) {
	switch part {
	case partQuery:
		result, err := t.place.pool.Query(ctx, engine.Request{SQL: reply.Query, Tree: w.plan.Diagnose.Runs > 0 || len(t.place.Briefing.Hidden()) > 0})
		if f, ok := Failure(err); ok {
			return nil, f, nil
		}
		if err != nil {
			return nil, nil, err
		}
		a.Ran, a.Instead = result.Elapsed, result.Instead
		t.hidden, t.tree = hidden(t.place.Briefing, result.Tree), result.Tree
		return result.Table, nil, nil
	case partTable:
		answer, err := table.FromJSON(reply.Table) // ParseReply read it already
		return answer, nil, err
	}
	return nil, nil, nil
}

// partsDisagree remarks that another part of a right reply says something else.
const partsDisagree = match.Remark("parts-disagree")

// compareParts holds the other parts of a right reply against the one that was judged.
func (w *running) compareParts(ctx context.Context, t *task, a *run.Attempt, reply translator.Reply, judgedPart string, answer *table.Table) error {
	disagrees := false
	if reply.Table != nil && judgedPart != partTable || reply.Query != "" && judgedPart != partQuery {
		part := partTable
		if judgedPart == partTable {
			part = partQuery
		}
		scrap := *a
		other, failure, err := w.partTable(ctx, t, &scrap, reply, part)
		if err != nil {
			return err
		}
		disagrees = failure != nil || !match.Match(answer, other, t.rules, match.Known{}).Matched
	}
	if r := match.Text(answer, reply.Text, t.wording, nil); reply.Text != "" && !r.TooLong && !r.Matched {
		disagrees = true
	}
	if disagrees {
		a.Remarks = append(a.Remarks, partsDisagree)
	}
	return nil
}

// counting are the accepted answers that count for a task: for a follow-up, the reading of the title that the turn before
// matched; where that matched its main answer, those of the turn before's other readings do not count.
func (t *task) counting(all []Expectation) []Expectation {
	if t.parent == nil || t.parent.made.Verdict != score.Right {
		return all
	}
	before := t.parent.made.Reading
	others := map[string]bool{}
	for _, r := range t.parent.chosen.Question.Readings {
		others[r.Title] = true
	}
	var out []Expectation
	for _, e := range all {
		if e.Reading == before && before != "" {
			return []Expectation{e}
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

// where names the place of a byte offset in a query.
func where(query string, position int) string {
	if position < 0 || position > len(query) {
		return ""
	}
	before := query[:position]
	line := strings.Count(before, "\n") + 1
	column := len([]rune(before[strings.LastIndexByte(before, '\n')+1:])) + 1
	return fmt.Sprintf("line %d, column %d", line, column)
}

// match holds an answer against the accepted ones and keeps the first that matches, else the nearest.
func (t *task) match(ctx context.Context, a run.Attempt, answer *table.Table, expectations []Expectation) (judged, Expectation, error) {
	var best match.Result
	chosen := -1
	for i, e := range expectations {
		r, err := e.meets(ctx, answer, t.rules)
		if err != nil {
			return judged{}, e, err
		}
		if chosen < 0 || r.Matched || closer(r, best) {
			best, chosen = r, i
		}
		if r.Matched {
			break
		}
	}
	e := expectations[chosen]
	a.Closeness, a.Remarks, a.Faults, a.Why, a.Notes = best.Closeness, best.Remarks, best.Faults, best.Why, append(a.Notes, best.Notes...)
	a.Reference, a.Match = e.Reference, run.Compact(best)
	if best.Matched {
		a.Verdict, a.Reading = score.Right, e.Reading
		if len(t.hidden) > 0 {
			a.Remarks = append(a.Remarks, hiddenRemark)
		}
	} else {
		a.Verdict = score.Wrong
		if len(t.hidden) > 0 {
			a.Faults = append(a.Faults, fault.Fault{Code: fault.HiddenColumn, Certainty: fault.Possible, Evidence: "the query reads " + strings.Join(t.hidden, ", ") + ", which the briefing hides"})
		}
		if len(a.Faults) == 0 {
			a.Faults = []fault.Fault{{Code: fault.Unexplained, Certainty: fault.Possible, Evidence: best.Why}}
		}
	}
	expected, got := history.Keep(best.Tables.Expected), history.Keep(best.Tables.Answer)
	a.Expected, a.Answer = expected.Digest, got.Digest
	if history.Cut(answer) {
		a.Whole = match.Digest(answer, t.rules)
	}
	return judged{a, []history.Stored{expected, got}}, e, nil
}

// words judges a reply in words by the first accepted answer that it states.
func (t *task) words(ctx context.Context, a run.Attempt, reply string, expectations []Expectation) (judged, error) {
	var first match.TextResult
	for i, e := range expectations {
		e, err := e.whole(ctx)
		if err != nil {
			return judged{}, err
		}
		domain, err := e.domain(ctx, t.place.pool)
		if err != nil {
			return judged{}, err
		}
		r := match.Text(e.Table, reply, t.wording, domain)
		if i == 0 || r.Matched {
			first, a.Reference = r, e.Reference
		}
		if r.Matched {
			a.Reading = e.Reading
			break
		}
	}
	if first.TooLong {
		return unscored(a, fault.ReasonTextTooLong, first.Why), nil
	}
	expected := history.Keep(expectations[0].Table)
	a.Why, a.Expected, a.Verdict = first.Why, expected.Digest, score.Right
	if !first.Matched {
		a.Verdict = score.Wrong
		a.Faults = []fault.Fault{{Code: fault.Unexplained, Certainty: fault.Possible, Evidence: first.Why}}
	}
	return judged{a, []history.Stored{expected}}, nil
}

func closer(a, b match.Result) bool {
	return a.Closeness != nil && b.Closeness != nil && *a.Closeness > *b.Closeness
}
