package runner

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"tovrel/core/fault"
	"tovrel/core/golden"
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

// record starts an attempt from what a translator returned.
func (t *task) record(answered translator.Answered) run.Attempt {
	a := run.Attempt{Question: t.name, Wording: t.wording, Latency: answered.Latency, Cost: answered.Reply.Usage.Cost,
		Query: answered.Reply.Query, Raw: verbatim(answered.Raw)}
	return a
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

// undelivered judges an ask that brought nothing usable.
func (t *task) undelivered(answered translator.Answered, f *translator.Failure) judged {
	a := t.record(answered)
	a.Verdict = score.Failed
	a.Why = f.Message
	a.Faults = []fault.Fault{{Code: f.Code, Certainty: fault.Proved, Evidence: f.Message}}
	if f.Code == fault.Transport {
		a.Verdict, a.Reason = score.Unscored, fault.ReasonTransport
	}
	return judged{attempt: a}
}

// unscored is an attempt that could not be judged.
func unscored(a run.Attempt, reason fault.Reason, why string) judged {
	a.Verdict, a.Reason, a.Why = score.Unscored, reason, why
	return judged{attempt: a}
}

// notBuilt says which questions are not asked yet, and why; "" for those that are.
func notBuilt(q *golden.Question) string {
	switch {
	case q.After != nil:
		return "follow-ups are not asked yet"
	case q.Expect != golden.ExpectAnswer:
		return fmt.Sprintf("questions with expect: %s are not asked yet", q.Expect)
	}
	return ""
}

// judge runs a reply's query, or takes its table, and matches it against every accepted answer.
func (t *task) judge(ctx context.Context, answered translator.Answered) (judged, error) {
	a := t.record(answered)
	reply := answered.Reply
	var answer *table.Table
	switch {
	case reply.Query != "":
		result, err := t.place.pool.Query(ctx, engine.Request{SQL: reply.Query, Tree: len(t.place.Briefing.Hidden()) > 0})
		if f, ok := Failure(err); ok {
			return t.failed(a, f), nil
		}
		if err != nil {
			return judged{}, err
		}
		answer, a.Ran, a.Instead = result.Table, result.Elapsed, result.Instead
		t.hidden = hidden(t.place.Briefing, result.Tree)
	case reply.Table != nil:
		var err error
		if answer, err = table.FromJSON(reply.Table); err != nil {
			return judged{}, err // ParseReply read it already
		}
	case reply.Text == "":
		return unscored(a, fault.ReasonNotBuilt, "replies that ask back or decline are not judged yet"), nil
	}
	expectations, err := t.place.expectations(ctx, t.chosen)
	if err != nil {
		if ctx.Err() != nil {
			return judged{}, ctx.Err()
		}
		return unscored(a, fault.ReasonReferenceFailed, err.Error()), nil
	}
	if answer == nil {
		return t.words(ctx, a, reply.Text, expectations)
	}
	return t.match(ctx, a, answer, expectations)
}

// failed judges a query that does not run.
func (t *task) failed(a run.Attempt, f *engine.Failure) judged {
	a.Verdict, a.Why = score.Failed, f.Message
	evidence := f.Error()
	if at := where(a.Query, f.Position); at != "" {
		evidence += " (" + at + ")"
	}
	a.Faults = []fault.Fault{{Code: f.Code, Certainty: fault.Proved, Evidence: evidence}}
	if t.chosen.Question.Answer.Query != "" {
		a.Reference = t.chosen.Question.Answer.Query
	}
	return judged{attempt: a}
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
func (t *task) match(ctx context.Context, a run.Attempt, answer *table.Table, expectations []Expectation) (judged, error) {
	var best match.Result
	chosen := -1
	for i, e := range expectations {
		r := match.Match(e.Table, answer, t.rules, e.Known)
		if e.behind != nil && !r.Matched && (e.behind.probe.TopN != nil || match.MayTie(r, t.rules, e.Known)) {
			whole, err := e.whole(ctx)
			if err != nil {
				return judged{}, err
			}
			r = match.Match(whole.Table, answer, t.rules, whole.Known)
		}
		if chosen < 0 || r.Matched || closer(r, best) {
			best, chosen = r, i
		}
		if r.Matched {
			break
		}
	}
	e := expectations[chosen]
	a.Closeness, a.Remarks, a.Faults, a.Why, a.Notes = best.Closeness, best.Remarks, best.Faults, best.Why, best.Notes
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
	return judged{a, []history.Stored{expected, got}}, nil
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

// ask asks the translator; the second result is the verdict where nothing usable came.
func (t *task) ask(ctx context.Context, asker translator.Asker) (translator.Answered, *judged, error) {
	answered, err := asker.Ask(ctx, t.request())
	var f *translator.Failure
	switch {
	case err == nil:
		return answered, nil, nil
	case errors.As(err, &f):
		j := t.undelivered(answered, f)
		return answered, &j, nil
	}
	return answered, nil, err
}

// elapsed is rounded as it is kept.
func elapsed(since time.Time) time.Duration { return time.Since(since).Round(time.Millisecond) }
