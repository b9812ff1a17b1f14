package attempt

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"tovrel/core/claim"
	"tovrel/core/fault"
	"tovrel/core/golden"
	"tovrel/core/record"
	"tovrel/core/wording"
	"tovrel/translator"
)

// isQuestionBack tells a reply that only asks back.
func isQuestionBack(r translator.Reply) bool {
	return r.Clarify != "" && r.Query == "" && r.Table == nil && r.Chart == nil && r.Text == ""
}

// inWords is a reply of words alone as the question back or the refusal that they are; others stay as they are.
func (w *running) inWords(t *task, r translator.Reply) translator.Reply {
	facts := len(t.chosen.Question.States) > 0 // that something cannot be had may be one of them
	if facts || r.Text == "" || r.Query != "" || r.Table != nil || r.Chart != nil || r.Clarify != "" || r.Decline != "" {
		return r
	}
	switch claim.StanceOf(r.Text, w.topics(t)) {
	case claim.AsksBack:
		r.Text, r.Clarify = "", r.Text
	case claim.Declines:
		r.Text, r.Decline = "", r.Text
	}
	return r
}

// topics are what a question back may be about: the question's mentions with the synonyms that the briefing has for them.
func (w *running) topics(t *task) []string {
	var all []string
	for _, mention := range t.chosen.Question.Mentions {
		all = append(append(all, mention), t.place.synonyms(mention)...)
	}
	return all
}

func isRefusal(r translator.Reply) bool {
	return r.Decline != "" && r.Clarify == "" && r.Query == "" && r.Table == nil && r.Chart == nil && r.Text == ""
}

// stance judges what a reply does rather than what it says: whether it answers, asks back or declines as it should. The second
// result tells whether that decides; where not, the answer is to be matched.
func (w *running) stance(ctx context.Context, t *task, a record.Attempt, reply translator.Reply) (judged, bool, error) {
	reply = w.inWords(t, reply)
	back, refused := isQuestionBack(reply), isRefusal(reply)
	a.Stance = back || refused
	expect := t.chosen.Question.Expect
	switch {
	case expect == golden.ExpectDecline && refused:
		return right(a, "it declined, as it should"), true, nil
	case expect == golden.ExpectDecline && back:
		return stanceFault(a, fault.AskedNeedlessly, "it asked back where it should have declined: "+reply.Clarify), true, nil
	case expect == golden.ExpectDecline:
		return stanceFault(a, fault.Overreached, "it answered where it should have declined"), true, nil
	case refused:
		return stanceFault(a, fault.DeclinedNeedlessly, "it declined where "+expected(expect)+": "+reply.Decline), true, nil
	case back && expect == golden.ExpectAnswer:
		return stanceFault(a, fault.AskedNeedlessly, "it asked back where an answer was expected: "+reply.Clarify), true, nil
	case back && len(a.Earlier) > 0:
		return stanceFault(a, fault.AskedNeedlessly, "it asked back again: "+reply.Clarify), true, nil
	case back:
		j, err := w.questionBack(ctx, t, a, reply)
		return j, true, err
	case expect == golden.ExpectClarify && len(a.Earlier) == 0:
		return stanceFault(a, fault.Guessed, "it answered where it should have asked back about "+
			strings.Join(t.chosen.Question.Mentions, ", ")), true, nil
	}
	return judged{attempt: a}, false, nil
}

func expected(e golden.Expect) string {
	if e == golden.ExpectClarify {
		return "it should have asked back"
	}
	return "an answer was expected"
}

// questionBack judges a question back where one is welcome: it must be about what is ambiguous.
func (w *running) questionBack(_ context.Context, t *task, a record.Attempt, reply translator.Reply) (judged, error) {
	q := t.chosen.Question
	if len(q.Mentions) > 0 && !w.mentions(t, reply.Clarify) {
		return stanceFault(a, fault.MissedAmbiguity,
			fmt.Sprintf("it asked back, but names none of %s: %s", strings.Join(q.Mentions, ", "), reply.Clarify)), nil
	}
	return right(a, "it asked back about what is ambiguous"), nil
}

// mentions tells whether a question back names one of the question's mentions, or a synonym that the briefing has for it.
func (w *running) mentions(t *task, text string) bool {
	return slices.ContainsFunc(w.topics(t), func(topic string) bool { return claim.Mentions(text, topic) })
}

// synonyms are the other names that the briefing has for a column of a name.
func (p *Place) synonyms(name string) []string {
	if p.Briefing == nil {
		return nil
	}
	var all []string
	for _, t := range p.Briefing.Tables {
		for _, c := range t.Columns {
			names := append([]string{c.Name}, c.Synonyms...)
			for _, n := range names {
				if wording.Fold(n) == wording.Fold(name) {
					all = append(all, names...)
				}
			}
		}
	}
	return all
}

func right(a record.Attempt, why string) judged {
	a.Judge(record.Seen{Fits: true, Why: why})
	return judged{attempt: a}
}

func stanceFault(a record.Attempt, code fault.Code, evidence string) judged {
	a.Judge(record.Seen{Why: evidence, Faults: []fault.Fault{{Code: code, Certainty: fault.Proved, Evidence: evidence}}})
	return judged{attempt: a}
}
