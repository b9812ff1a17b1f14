package record

import (
	"fmt"
	"time"

	"tovrel/core/fault"
)

// Without is an attempt without its reply and without values of the data: what it was judged, what for, and what it cost stay.
func (a Attempt) Without(purged time.Time) Attempt {
	faults := make([]fault.Fault, 0, len(a.Faults))
	for _, f := range a.Faults {
		faults = append(faults, fault.Fault{Code: f.Code, Certainty: f.Certainty})
	}
	tries := make([]Try, len(a.Tries))
	for i, t := range a.Tries {
		tries[i] = Try{Ask: t.Ask, Latency: t.Latency}
	}
	return Attempt{Question: a.Question, Wording: a.Wording, Repeat: a.Repeat, Turn: a.Turn, Verdict: a.Verdict, Closeness: a.Closeness,
		Remarks: a.Remarks, Faults: faults, Stance: a.Stance, Reading: a.Reading, Reason: a.Reason, Latency: a.Latency, Ran: a.Ran,
		Why:  fmt.Sprintf("its reply and values were purged on %s", purged.Format(time.DateOnly)),
		Cost: a.Cost, Tokens: a.Tokens, Tries: tries, Before: a.Before, Whole: a.Whole, Model: a.Model, InputTokens: a.InputTokens,
		OutputTokens: a.OutputTokens, Reused: a.Reused, Decided: a.Decided, Searched: a.Searched, Tried: a.Tried, MissedOn: a.MissedOn}
}
