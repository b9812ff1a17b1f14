package decision_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/decision"
	"tovrel/core/fault"
	"tovrel/core/record"
	"tovrel/core/score"
)

// TestRead: a broken line is named with its line and what is wrong; the others are read all the same.
func TestRead(t *testing.T) {
	good := `{"question": "s/q", "reply": "About 12.", "decision": "right", "expected_digest": "e", "by": "Ada", "on": "2031-06-30"}`
	for broken, message := range map[string]string{
		`{"question": "s/q"`: "not a JSON object", `[]`: "not a JSON object", `{"quesion": "s/q"}`: `did you mean "question"`,
		`{"question": "s/q", "reply": "x"}`: "no decision", `{"reply": "x", "decision": "right"}`: "no question",
		`{"question": "s/q", "reply": "x", "decision": "rigth"}`:                     `did you mean "right"`,
		`{"question": "s/q", "decision": "right"}`:                                   "names no reply",
		`{"question": "s/q", "reply": "x", "decision": "wrong", "fault": "boundry"}`: `no fault "boundry"`,
		`{"question": 1}`: "not a decision",
	} {
		all, problems := decision.Read("d.jsonl", []byte("\n"+broken+"\n"+good+"\n"))
		require.Len(t, all, 1, broken)
		require.Equal(t, "Ada", all[0].By)
		require.Equal(t, 3, all[0].At.Line)
		require.Len(t, problems, 1, broken)
		require.Contains(t, problems[0].Message, message)
		require.Equal(t, 2, problems[0].Line)
	}
	require.Equal(t, decision.Digest("About 12."), decision.Digest("  about 12 "), "the words are folded")
	require.NotEqual(t, decision.Digest("About 12."), decision.Digest("About 13."))
}

// TestApply: a decision counts for the same words under the same expectation, and for nothing else.
func TestApply(t *testing.T) {
	read := func(lines ...string) *decision.Kept {
		all, problems := decision.Read("d.jsonl", []byte(strings.Join(lines, "\n")))
		require.Empty(t, problems)
		return decision.Keep(all)
	}
	never := func(string, string) bool { return false }
	wants := func(_, what string) bool { return what == decision.AsksBack }
	attempt := func(question, reply, expected string) record.Attempt {
		return record.Attempt{Question: question, Verdict: score.Unscored, Reason: fault.ReasonNeedsALook,
			Look: &record.Look{Reply: reply, ReplyDigest: decision.Digest(reply), ExpectedDigest: expected}}
	}
	line := func(what, more string) string {
		return `{"question": "s/q", "reply": "About 12.", "decision": "` + what + `", "expected_digest": "e"` + more + `}`
	}
	for _, c := range []struct {
		line    string
		a       record.Attempt
		stance  func(string, string) bool
		applies bool
		verdict score.Verdict
		code    fault.Code
	}{
		{line("right", ""), attempt("s/q", "about 12", "e"), never, true, score.Right, ""},
		{line("wrong", ""), attempt("s/q", "about 12", "e"), never, true, score.Wrong, fault.Unexplained},
		{line("wrong", `, "fault": "boundary"`), attempt("s/q", "about 12", "e"), never, true, score.Wrong, fault.Boundary},
		{line("asks-back", ""), attempt("s/q", "about 12", "e"), wants, true, score.Right, ""},
		{line("asks-back", ""), attempt("s/q", "about 12", "e"), never, true, score.Wrong, fault.AskedNeedlessly},
		{line("declines", ""), attempt("s/q", "about 12", "e"), wants, true, score.Wrong, fault.DeclinedNeedlessly},
		{line("right", ""), attempt("s/q", "about 13", "e"), never, false, score.Unscored, ""},
		{line("right", ""), attempt("s/q", "about 12", "moved"), never, false, score.Unscored, ""},
		{line("right", ""), attempt("s/other", "about 12", "e"), never, false, score.Unscored, ""},
		{line("right", ""), record.Attempt{Question: "s/q", Verdict: score.Unscored}, never, false, score.Unscored, ""},
	} {
		k := read(c.line)
		require.Equal(t, c.applies, k.Apply(&c.a, c.stance), c.line)
		require.Equal(t, c.verdict, c.a.Verdict, c.line)
		if c.code != "" {
			require.Equal(t, c.code, c.a.Faults[0].Code, c.line)
		}
	}
	require.True(t, read(line("right", "")).About("s/q"))
	require.False(t, read(line("right", "")).About("s/p"))
	var none *decision.Kept
	require.False(t, none.About("s/q"))
	a := attempt("s/q", "about 12", "e")
	require.False(t, none.Apply(&a, never))
	require.Empty(t, read(line("right", ""), line("right", "")).Disagreements())
	require.Empty(t, read(line("right", ""), strings.Replace(line("wrong", ""), `"e"`, `"f"`, 1)).Disagreements(),
		"the expectation moved")
	found := read(line("right", ""), line("wrong", "")).Disagreements()
	require.Len(t, found, 1)
	require.Equal(t, 2, found[0].Line)
	require.Contains(t, found[0].Message, "line 1")
}
