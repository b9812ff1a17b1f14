package chat

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/fault"
	"tovrel/translator"
	"tovrel/translator/web"
)

// TestReplies: what a model says is a query, a question back or a refusal; of several fenced blocks the last query counts, and a block of
// another language is none unless it reads as a query.
func TestReplies(t *testing.T) {
	block := func(language, body string) string { return "```" + language + "\n" + body + "\n```\n" }
	for _, c := range []struct {
		text string
		want translator.Reply
	}{
		{block("sql", "SELECT 1"), translator.Reply{Query: "SELECT 1"}},
		{block("SQL", "SELECT 1"), translator.Reply{Query: "SELECT 1"}},
		{block("", "SELECT 1"), translator.Reply{Query: "SELECT 1"}},
		{block("sql", "PRAGMA x"), translator.Reply{Query: "PRAGMA x"}},
		{"Let me think.\n" + block("sql", "SELECT 1") + "Better:\n" + block("sql title=x", "SELECT 2") + block("python", "print(3)"),
			translator.Reply{Query: "SELECT 2"}},
		{block("text", "-- one\n/* two */ with x AS (SELECT 1) FROM x"),
			translator.Reply{Query: "-- one\n/* two */ with x AS (SELECT 1) FROM x"}},
		{block("sql", "SELECT 1") + block("sql", "  "), translator.Reply{Query: "SELECT 1"}},
		{"SELECT 1\nFROM x", translator.Reply{Query: "SELECT 1\nFROM x"}},
		{"Hm.\n  CLARIFY:  Which farm? \n", translator.Reply{Clarify: "Which farm?"}},
		{"DECLINE: it is no question", translator.Reply{Decline: "it is no question"}},
		{"CLARIFY: which?\n" + block("sql", "SELECT 1"), translator.Reply{Query: "SELECT 1"}},
		{`{"clarify": "which?"}`, translator.Reply{Clarify: "which?"}},
		{block("json", `{"query": "SELECT 1"}`) + block("sql", "SELECT 2"), translator.Reply{Query: "SELECT 1"}},
		{`{"quer": 1}` + "\n" + block("sql", "SELECT 2"), translator.Reply{Query: "SELECT 2"}},
	} {
		got, err := readReply(c.text, translator.Protocol)
		require.NoError(t, err, c.text)
		require.Equal(t, []string{c.want.Query, c.want.Clarify, c.want.Decline}, []string{got.Query, got.Clarify, got.Decline}, c.text)
	}
	for text, want := range map[string]string{"": "said nothing", " \n": "said nothing", "I cannot tell.": "no query is found",
		`{"quer": 1}`:               "no query",
		block("python", "print(3)"): "no query", "They SELECT: 1": "no query"} {
		_, err := readReply(text, translator.Protocol)
		require.ErrorContains(t, err, want, text)
	}
}

// TestCompletions: an answer of the service is read whole or as a stream; each way to be wrong has its code and words.
func TestCompletions(t *testing.T) {
	whole := `{"model": "m", "choices": [{"message": {"content": "SELECT 1"}}], "usage": {"prompt_tokens": 7, "completion_tokens": 2}}`
	got, err := readCompletion(web.Answer{Body: []byte(whole), ContentType: "application/json"})
	require.NoError(t, err)
	require.Equal(t, completion{text: "SELECT 1", model: "m", usage: translator.Usage{InputTokens: 7, OutputTokens: 2}}, got)
	stream := "data: {\"choices\": [{\"delta\": {\"content\": \"SELECT\"}}]}\n\n: a comment\ndata: {\"model\": \"m\", \"choices\": " +
		"[{\"delta\": " +
		"{\"content\": \" 1\"}}]}\ndata: {\"choices\": []}\ndata: [DONE]\n"
	for _, kind := range []string{"text/event-stream; charset=utf-8", "text/plain"} {
		got, err := readCompletion(web.Answer{Body: []byte(stream), ContentType: kind})
		require.NoError(t, err)
		require.Equal(t, completion{text: "SELECT 1", model: "m"}, got)
	}
	for _, c := range []struct {
		body, words string
		code        fault.Code
	}{
		{"no", "no JSON of chat completions", fault.MalformedReply},
		{`{"choices": []}`, "has no choices", fault.MalformedReply},
		{`{"error": "full"}`, "answered with an error: full", fault.Transport},
		{`{"error": {"message": "too long"}, "choices": []}`, "answered with an error: too long", fault.Transport},
		{`{"error": {"code": 7}}`, `answered with an error: {"code": 7}`, fault.Transport},
		{"data: no\ndata: [DONE]", "a part of the streamed answer is no JSON", fault.MalformedReply},
		{"data: {\"error\": \"full\"}\n", "answered with an error: full", fault.Transport},
		{"data: {\"choices\": []}\ndata: {\"cho", "broke off", fault.Transport},
		{"data: {\"choices\": []}\n", "broke off", fault.Transport},
	} {
		_, err := readCompletion(web.Answer{Body: []byte(c.body)})
		require.ErrorContains(t, err, c.words, c.body)
		var failure *translator.Failure
		require.ErrorAs(t, err, &failure)
		require.Equal(t, c.code, failure.Code, c.body)
	}
	got, err = readCompletion(web.Answer{Body: []byte(`{"error": null, "choices": [{"message": {"content": "x"}}]}`)})
	require.NoError(t, err)
	require.Equal(t, "x", got.text)
}
