package attempt

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"tovrel/core/briefing"
	"tovrel/core/fault"
	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/core/score"
	"tovrel/core/sql"
	"tovrel/history"
	"tovrel/translator"
)

// replied is what the asking of a task brought.
type replied struct {
	answered translator.Answered
	failure  *translator.Failure // nil where a reply came
	earlier  []record.Exchange   // exchanges before the last: a question back and what was answered
	tries    []record.Try
	cost     Budget
	refused  bool // over budget: not asked
	reused   int  // the run whose answer it is; 0 where it was asked for
}

// request is what a task's translator is asked, with what was said before.
func (w *running) request(t *task, thread []translator.Turn, turn int, question string) translator.Request {
	told, _ := briefing.Narrow(t.place.Told, t.asked(), w.plan.TellAtMost)
	return translator.Request{Protocol: translator.ProtocolOf(w.plan.Protocol), ID: t.name, Turn: turn, Repeat: t.repeat,
		Question: question, Thread: thread, User: t.user(w.plan.Protocol),
		Dialect: w.dialect(t.place), AsOf: t.place.AsOf, Dataset: told, Briefing: t.place.Beyond}
}

// asked is what was asked in a task's conversation.
func (t *task) asked() string {
	text := t.wording
	for before := t.parent; before != nil; before = before.parent {
		text += " " + before.wording
	}
	return text
}

// leftOut notes how many tables were told, where that was not all, and which of those that the reference reads were not.
func (w *running) leftOut(t *task, reference *sql.Tree) []string {
	_, untold := briefing.Narrow(t.place.Told, t.asked(), w.plan.TellAtMost)
	if reference == nil || len(untold) == 0 {
		return nil
	}
	var missed []string
	for _, name := range reference.TablesRead() {
		if slices.ContainsFunc(untold, func(left string) bool { return strings.EqualFold(left, name) }) {
			missed = append(missed, name)
		}
	}
	note := fmt.Sprintf("%d of %d tables were told (tell-at-most)", len(t.place.Told.Tables)-len(untold), len(t.place.Told.Tables))
	if len(missed) > 0 {
		note += "; left out were " + strings.Join(missed, ", ") + ", which the reference reads"
	}
	return []string{note}
}

// user is who asks, which translators under protocol 2 are told.
func (t *task) user(protocol int) map[string]string {
	if protocol < 2 {
		return nil
	}
	return t.chosen.Question.User
}

// thread is the conversation before a task.
func (t *task) thread(whose Thread) []translator.Turn {
	thread := []translator.Turn{}
	if t.parent == nil {
		return thread
	}
	thread = t.parent.thread(whose)
	for _, e := range t.parent.made.Earlier {
		thread = append(thread, translator.Turn{Question: e.Question, Reply: e.Reply})
	}
	question := t.parent.wording
	if n := len(t.parent.made.Earlier); n > 0 {
		question = t.parent.chosen.Question.Then
	}
	reply := t.parent.made.Raw
	if whose == GoldenThread {
		reply = goldenReply(t.parent.chosen.Question)
	}
	if len(reply) == 0 {
		reply = json.RawMessage("null")
	}
	return append(thread, translator.Turn{Question: question, Reply: reply})
}

// goldenReply is the reply that a golden thread holds: the reference query.
func goldenReply(q *golden.Question) json.RawMessage {
	if q.Answer.Query == "" {
		return nil
	}
	b, _ := json.Marshal(map[string]string{"query": q.Answer.Query}) // a text always encodes
	return b
}

// ask asks a task's question, and answers the question back where one was expected and fits. The error is the context's.
func (w *running) ask(ctx context.Context, t *task) (replied, error) {
	var out replied
	thread := t.thread(w.plan.Thread)
	question, turn := t.wording, t.turn
	for {
		if has, err := w.purse.Reserve(ctx); !has || err != nil {
			if err = cmp.Or(ctx.Err(), err); err != nil {
				return out, err
			}
			out.refused = true
			return out, nil
		}
		answered, err := w.plan.Asker.Ask(ctx, w.request(t, thread, turn, question))
		usage := answered.Reply.Usage
		cost := Budget{usage.Cost, usage.InputTokens + usage.OutputTokens}
		if err := w.purse.Settle(cost); err != nil {
			return out, err
		}
		out.add(answered, cost, len(out.earlier))
		var f *translator.Failure
		if err != nil && !errors.As(err, &f) {
			return out, err
		}
		out.failure = f
		q := t.chosen.Question
		said := w.inWords(t, answered.Reply)
		if f != nil || q.Expect != golden.ExpectClarify || q.Then == "" || len(out.earlier) > 0 ||
			!isQuestionBack(said) || !w.mentions(t, said.Clarify) {
			return out, nil
		}
		reply := verbatim(answered.Raw)
		out.earlier = append(out.earlier, record.Exchange{Question: question, Reply: reply})
		thread = append(thread, translator.Turn{Question: question, Reply: reply})
		question, turn = q.Then, turn+1
	}
}

func (o *replied) add(answered translator.Answered, cost Budget, ask int) {
	for _, try := range answered.Tries {
		o.tries = append(o.tries, record.Try{Ask: ask, Latency: try.Latency, Problem: try.Problem})
	}
	o.answered = answered
	o.cost.Money += cost.Money
	o.cost.Tokens += cost.Tokens
}

// record starts an attempt from what was asked and replied.
func (t *task) record(out replied) record.Attempt {
	a := record.Attempt{Question: t.name, Wording: t.wording, Repeat: t.repeat, Turn: t.turn, Latency: out.answered.Latency,
		Cost: out.cost.Money, Tokens: out.cost.Tokens,
		Query: out.answered.Reply.Query, Raw: verbatim(out.answered.Raw), Earlier: out.earlier}
	said := out.answered.Reply
	a.Explanation, a.Model, a.InputTokens, a.OutputTokens = said.Explanation, said.Model, said.Usage.InputTokens, said.Usage.OutputTokens
	if doubt := out.answered.Reply.Usage.Unknown; doubt != "" {
		a.Notes = append(a.Notes, doubt)
	}
	a.Reused = out.reused
	if len(out.tries) > 1 {
		a.Tries = out.tries
	}
	if t.parent != nil {
		a.Before = t.parent.made.Verdict
		if a.Before != score.Right {
			a.Notes = append(a.Notes, fmt.Sprintf("the turn before, %s, is %s, and this one may rest on it", t.parent.name, a.Before))
		}
	}
	return a
}

// undelivered judges an ask that brought nothing usable.
func (t *task) undelivered(out replied) judged {
	a := t.record(out)
	if out.refused {
		return unscored(a, fault.ReasonOverBudget, "the budget was spent before it was asked")
	}
	f := out.failure
	j := broken(a, f.Code, f.Message)
	if f.Code == fault.Transport {
		j.attempt.Judge(record.Seen{Unscored: fault.ReasonTransport, Why: f.Message, Faults: j.attempt.Faults})
	}
	return j
}

// replyOf is a task's reply: one that was stored before the run broke off, else it is asked for, and stored before anything
// forgets it.
func (w *running) replyOf(ctx context.Context, t *task) (replied, error) {
	if out, ok := w.remembered(t); ok {
		return out, nil
	}
	if kept, ok := w.replies[t.order]; ok {
		var k keptReply
		if err := json.Unmarshal(kept.Body, &k); err == nil {
			return k.unpacked(), nil
		}
	}
	out, err := w.ask(ctx, t)
	if err != nil || out.refused || !w.plan.KeepReply || out.failure != nil && out.failure.Code == fault.Transport {
		return out, err
	}
	body, err := json.Marshal(out.packed())
	if err != nil {
		return out, err
	}
	return out, w.store.KeepReply(w.run.ID, t.order, history.Reply{Place: t.order, Key: key(t.name, t.wording, t.repeat), Body: body})
}

// keptReply is the stored form of what an ask brought.
type keptReply struct {
	Raw     []byte              `json:"raw"`
	Latency time.Duration       `json:"latency"`
	Failure *translator.Failure `json:"failure,omitempty"`
	Earlier []record.Exchange   `json:"earlier,omitempty"`
	Tries   []record.Try        `json:"tries,omitempty"`
	Cost    Budget              `json:"cost"`
	Reply   translator.Reply    `json:"reply"`
}

func (o replied) packed() keptReply {
	return keptReply{o.answered.Raw, o.answered.Latency, o.failure, o.earlier, o.tries, o.cost, o.answered.Reply}
}

func (k keptReply) unpacked() replied {
	spent := record.Attempt{Cost: k.Cost.Money, Tokens: k.Cost.Tokens}
	spent.Believable()
	k.Cost = Budget{spent.Cost, spent.Tokens}
	return replied{answered: translator.Answered{Reply: k.Reply, Raw: k.Raw, Latency: k.Latency}, failure: k.Failure,
		earlier: k.Earlier, tries: k.Tries, cost: k.Cost}
}
