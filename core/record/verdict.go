package record

import (
	"tovrel/core/fault"
	"tovrel/core/score"
)

// Seen is what was seen of a reply, from which its verdict follows.
type Seen struct {
	Unscored fault.Reason // why it cannot be judged; "" where it can
	Broken   bool         // it gave nothing that can be held against what is expected
	Fits     bool         // it is, or does, what is expected
	Missed   bool         // it fits on the sample, and not on a twin
	Why      string       // the rule that decided, in words
	Faults   []fault.Fault
}

// Judge gives an attempt its verdict. It is the one place that does: what cannot be judged is unscored, what gave nothing is failed;
// what fits is right, or lucky where it does not on a twin; the rest is wrong, and never without a fault.
func (a *Attempt) Judge(s Seen) {
	a.Why, a.Faults, a.Reason = s.Why, s.Faults, s.Unscored
	switch {
	case s.Unscored != "":
		a.Verdict = score.Unscored
	case s.Broken:
		a.Verdict = score.Failed
	case s.Missed:
		a.Verdict = score.Lucky
	case s.Fits:
		a.Verdict = score.Right
	default:
		a.Verdict = score.Wrong
	}
	if len(a.Faults) == 0 && (a.Verdict == score.Wrong || a.Verdict == score.Lucky) {
		a.Faults = []fault.Fault{{Code: fault.Unexplained, Certainty: fault.Possible, Evidence: s.Why}}
	}
}
