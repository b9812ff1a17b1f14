// Package decision keeps what people decided about replies that no rule could decide: one line of JSON each, in a file for each golden
// set. A decision holds for every reply of the same words, in every run, as long as the question expects what it did.
package decision

import (
	"bytes"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"tovrel/core/fault"
	"tovrel/core/near"
	"tovrel/core/record"
	"tovrel/core/source"
	"tovrel/core/wording"
)

// What a person may decide.
const (
	Right     = "right"
	Wrong     = "wrong"
	AsksBack  = "asks-back"
	Declines  = "declines"
	keyLength = 16 // hexadecimal digits of a digest
)

// What a person may decide about a question of a run: it changes the golden set, and is not kept as a decision about a reply.
const (
	Reading    = "reading"     // the answer is another reading
	Expected   = "expected"    // the answer is the expected one
	KnownWrong = "known-wrong" // the question is known to be answered wrong
)

// Kinds lists what may be decided.
func Kinds() []string {
	return []string{Right, Wrong, AsksBack, Declines, Reading, Expected, KnownWrong}
}

// OfQuestion tells the decisions that change a golden set from those about a reply.
func (d Decision) OfQuestion() bool {
	return slices.Contains([]string{Reading, Expected, KnownWrong}, d.Decision)
}

// Decision is what a person said about a reply to a question.
type Decision struct {
	Question       string     `json:"question"` // set/id
	Reading        string     `json:"reading,omitempty"`
	ReplyDigest    string     `json:"reply_digest"` // of the folded reply
	Reply          string     `json:"reply,omitempty"`
	Decision       string     `json:"decision"`
	Fault          fault.Code `json:"fault,omitempty"`
	ExpectedDigest string     `json:"expected_digest"`
	By             string     `json:"by,omitempty"`
	On             string     `json:"on,omitempty"` // a date
	Why            string     `json:"why,omitempty"`

	Run string `json:"run,omitempty"` // whose answer it is about, of a decision about a question

	At source.Position `json:"-"` // where it stands
}

// Digest is that of a reply's folded words.
func Digest(reply string) string { return digestOf(wording.Fold(reply)) }

func digestOf(text string) string {
	sum := sha256.Sum256([]byte(text))
	return hex.EncodeToString(sum[:])[:keyLength]
}

var keys = []string{"question", "reading", "reply_digest", "reply", "decision", "fault", "expected_digest", "by", "on", "why", "run"}

// Read reads the lines of a file. What cannot be read is reported with its line; the other lines are given all the same.
func Read(file string, body []byte) ([]Decision, source.Problems) {
	var all []Decision
	var problems source.Problems
	for i, line := range bytes.Split(body, []byte("\n")) {
		if len(bytes.TrimSpace(line)) == 0 {
			continue
		}
		at := source.Position{File: file, Line: i + 1, Column: 1}
		d, message := readLine(line)
		d.At = at
		if message != "" {
			problems = append(problems, source.Problem{Position: at, Code: "decision-line", Severity: source.Error, Message: message,
				Remedy: "correct the line, or take it out; `tovrel review --decide FILE` writes such lines"})
			continue
		}
		all = append(all, d)
	}
	return all, problems
}

// readLine reads a line; message says what is wrong with it.
func readLine(line []byte) (d Decision, message string) {
	var fields map[string]json.RawMessage
	if err := json.Unmarshal(line, &fields); err != nil {
		return d, "this line is not a JSON object: " + err.Error()
	}
	for _, key := range slices.Sorted(maps.Keys(fields)) {
		if !slices.Contains(keys, key) {
			return d, fmt.Sprintf("a decision has no key %q; %s", key, near.Hint(key, keys))
		}
	}
	if err := json.Unmarshal(line, &d); err != nil {
		return d, "this line is not a decision: " + err.Error()
	}
	switch {
	case d.Question == "":
		return d, "this line has no question"
	case d.Decision == "":
		return d, "this line has no decision"
	case !slices.Contains(Kinds(), d.Decision):
		return d, fmt.Sprintf("there is no decision %q; %s", d.Decision, near.Hint(d.Decision, Kinds()))
	case d.Fault != "" && !fault.Known(d.Fault):
		return d, fmt.Sprintf("there is no fault %q", d.Fault)
	case d.OfQuestion() && d.Decision == KnownWrong && strings.TrimSpace(d.Why) == "":
		return d, "known-wrong needs its reason under why"
	case d.OfQuestion():
		return d, ""
	case d.ReplyDigest == "" && d.Reply == "":
		return d, "this line names no reply: it needs reply_digest, or reply"
	}
	if d.ReplyDigest == "" {
		d.ReplyDigest = Digest(d.Reply)
	}
	return d, ""
}

// Kept are decisions by question and reply.
type Kept struct {
	All   []Decision
	byKey map[string]Decision
}

// Keep indexes decisions. Of several about the same reply under the same expectation the last one counts.
func Keep(all []Decision) *Kept {
	k := &Kept{All: all, byKey: map[string]Decision{}}
	for _, d := range all {
		k.byKey[key(d.Question, d.ReplyDigest, d.ExpectedDigest)] = d
	}
	return k
}

func key(question, reply, expected string) string {
	return question + "\x00" + reply + "\x00" + expected
}

// Find is the decision about a reply to a question that expects what has a digest; false for none. It may be asked of nil.
func (k *Kept) Find(question, reply, expected string) (Decision, bool) {
	if k == nil {
		return Decision{}, false
	}
	d, ok := k.byKey[key(question, reply, expected)]
	return d, ok
}

// About tells whether anything is decided about a question.
func (k *Kept) About(question string) bool {
	return k != nil && slices.ContainsFunc(k.All, func(d Decision) bool { return d.Question == question })
}

// Disagreements are decisions that say another thing about the same reply than an earlier line, under the same expectation.
func (k *Kept) Disagreements() source.Problems {
	var out source.Problems
	first := map[string]Decision{}
	for _, d := range k.All {
		at := key(d.Question, d.ReplyDigest, d.ExpectedDigest)
		before, known := first[at]
		if !known {
			first[at] = d
			continue
		}
		if before.Decision != d.Decision || before.Fault != d.Fault {
			out = append(out, source.Problem{Position: d.At, Code: "decisions-disagree", Severity: source.Error,
				Message: fmt.Sprintf("this line says %q of a reply to %s of which line %d of %s says %q", d.Decision, d.Question,
					before.At.Line,
					before.At.File, before.Decision),
				Remedy: "keep one of the two lines"})
		}
	}
	return out
}

// Apply gives an attempt the verdict that a person decided. It tells whether there was one. Stance says whether a question back, or a
// refusal, is right for the question.
func (k *Kept) Apply(a *record.Attempt, stance func(question, decision string) bool) bool {
	if a.Look == nil {
		return false
	}
	d, ok := k.Find(a.Question, a.Look.ReplyDigest, a.Look.ExpectedDigest)
	if !ok {
		return false
	}
	why := strings.TrimSpace(fmt.Sprintf("decided %s", d.whose()))
	if d.Why != "" {
		why += ": " + d.Why
	}
	seen := record.Seen{Fits: d.Decision == Right, Why: why}
	code := d.Fault
	if d.Decision == AsksBack || d.Decision == Declines {
		a.Stance, seen.Fits = true, stance(d.Question, d.Decision)
		if code == "" {
			code = map[string]fault.Code{AsksBack: fault.AskedNeedlessly, Declines: fault.DeclinedNeedlessly}[d.Decision]
		}
	}
	if code == "" {
		code = fault.Unexplained
	}
	if !seen.Fits {
		seen.Faults = []fault.Fault{{Code: code, Certainty: fault.Proved, Evidence: why}}
	}
	a.Judge(seen)
	a.Decided = d.Decision
	if seen.Fits {
		a.Closeness = new(1.0)
		a.Reading = d.Reading
	}
	return true
}

func (d Decision) whose() string {
	parts := []string{}
	if d.By != "" {
		parts = append(parts, "by "+d.By)
	}
	if d.On != "" {
		parts = append(parts, "on "+d.On)
	}
	if len(parts) == 0 {
		return "by a person"
	}
	return strings.Join(parts, " ")
}
