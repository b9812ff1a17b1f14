package decision

import (
	"tovrel/core/fault"
	"tovrel/core/record"
)

// Waiting is a reply that a person must look at.
type Waiting struct {
	Run        int    `json:"run"`
	Translator string `json:"translator"`
	Question   string `json:"question"`
	Wording    string `json:"wording"`
	record.Look
	Why    string `json:"why"`    // what the rules could not decide
	Expect string `json:"expect"` // what is expected, in words or as the first rows
}

// Await lists the replies of a run that no rule could decide, each once.
func Await(r record.Run, attempts []record.Attempt) []Waiting {
	var out []Waiting
	seen := map[string]bool{}
	for _, a := range attempts {
		if a.Reason != fault.ReasonNeedsALook || a.Look == nil {
			continue
		}
		at := key(a.Question, a.Look.ReplyDigest, a.Look.ExpectedDigest)
		if seen[at] {
			continue
		}
		seen[at] = true
		out = append(out, Waiting{Run: r.ID, Translator: r.Translator, Question: a.Question, Wording: a.Wording, Look: *a.Look,
			Why: a.Why})
	}
	return out
}

// Once leaves out what waits twice: the same reply to the same question in two runs.
func Once(all []Waiting) []Waiting {
	var out []Waiting
	seen := map[string]bool{}
	for _, w := range all {
		at := key(w.Question, w.ReplyDigest, w.ExpectedDigest)
		if !seen[at] {
			seen[at] = true
			out = append(out, w)
		}
	}
	return out
}

// Complete fills in what a decision leaves out, from what waits: the digests of the reply that it quotes. It tells whether it is about
// one of them.
func (d *Decision) Complete(waiting []Waiting) bool {
	for _, w := range waiting {
		if w.Question == d.Question && w.ReplyDigest == d.ReplyDigest && (d.ExpectedDigest == "" ||
			d.ExpectedDigest == w.ExpectedDigest) {
			d.ExpectedDigest, d.Reply = w.ExpectedDigest, w.Reply
			return true
		}
	}
	return false
}
