package record

import (
	"encoding/json"
	"slices"
	"time"

	"tovrel/core/fault"
	"tovrel/core/score"
)

// Light is an attempt as far as sums and comparisons need it: small, so that many runs can be held at once.
type Light struct {
	Question, Wording string
	Answer            string // digest of the answer on the sample; "" for none
	Said              string // see Attempt.Said
	Verdict           score.Verdict
	Reason            fault.Reason
	Faults            []fault.Code // the main one first; attempts may share the list
	MissedOn          []string
	Tries             []Try
	Latency           time.Duration
	Cost              float64
	Tokens            int64
	Repeat, Turn      int32
	Stance            bool
	Replied           bool // a reply came
}

// Light is what sums and comparisons need of an attempt.
func (a *Attempt) Light() Light {
	var codes []fault.Code
	for _, f := range a.Faults {
		codes = append(codes, f.Code)
	}
	return Light{Question: a.Question, Wording: a.Wording, Answer: a.Result(), Said: a.Said(), Verdict: a.Verdict, Reason: a.Reason,
		Faults: codes, MissedOn: a.MissedOn, Tries: a.Tries, Latency: a.Latency, Cost: a.Cost, Tokens: a.Tokens,
		Repeat: int32(a.Repeat), Turn: int32(a.Turn), Stance: a.Stance, Replied: a.Raw != nil} //nolint:gosec // counts of asks are small
}

// LightOf are the light forms of attempts.
func LightOf(attempts []Attempt) []Light {
	out := make([]Light, len(attempts))
	for i := range attempts {
		out[i] = attempts[i].Light()
	}
	return out
}

// unread stands for a reply that was not read.
var unread = json.RawMessage("null")

// Attempt is an attempt as far as its light form knows it: without query, evidence and reply.
func (l Light) Attempt() Attempt {
	a := Attempt{Question: l.Question, Wording: l.Wording, Answer: l.Answer, Verdict: l.Verdict, Reason: l.Reason,
		MissedOn: l.MissedOn, Tries: l.Tries, Latency: l.Latency, Cost: l.Cost, Tokens: l.Tokens, Repeat: int(l.Repeat),
		Turn: int(l.Turn), Stance: l.Stance}
	for _, code := range l.Faults {
		a.Faults = append(a.Faults, fault.Fault{Code: code})
	}
	if l.Replied {
		a.Raw = unread
	}
	return a
}

// Main is the code of the main fault; "" for none.
func (l *Light) Main() fault.Code {
	if len(l.Faults) == 0 {
		return ""
	}
	return l.Faults[0]
}

// Names tells whether a code is among the faults.
func (l *Light) Names(code fault.Code) bool { return slices.Contains(l.Faults, code) }
