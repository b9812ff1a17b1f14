package feedback_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/feedback"
)

func TestParseLines(t *testing.T) {
	rated, problems := feedback.ParseLines("f.jsonl",
		[]byte("{\"question\": \"How many?\", \"query\": \"SELECT 1\", \"rating\": 1}\n\n{\"question\": \"\"}\nno\n"+
			"{\"question\": \"x\", \"querry\": \"y\"}\n{\"question\": \"x\", \"rating\": \"meh\"}\n{\"question\": \"x\", "+
			"\"rating\": \"2/5\"}\n"))
	require.Equal(t, []feedback.Rated{{Line: 1, Question: "How many?", Query: "SELECT 1", Rating: feedback.Up},
		{Line: 5, Question: "x"}, {Line: 7, Question: "x", Rating: feedback.Down}}, rated)
	var found []string
	for _, p := range problems {
		found = append(found, p.Code)
	}
	require.Equal(t, []string{"no-question", "not-json", "unknown-column", "unknown-rating"}, found)
	require.Equal(t, 4, problems[1].Line)
}

func TestGather(t *testing.T) {
	rated := []feedback.Rated{
		{Question: "How many loads were rejected in May 2031?", Query: "SELECT count(*) FROM loads", Rating: feedback.Down,
			Comment: "all of them"},
		{Question: "Number of loads rejected in May 2031", Query: "SELECT 2", Rating: feedback.Up},
		{Question: "how many loads were rejected in May 2031", Query: "SELECT  count(*)\nFROM loads"},
		{Question: "How many loads were rejected in May 2030?", Query: "SELECT 3"},
		{Question: "Which farms joined in 2031?", Query: "SELECT 4", Rating: feedback.Down},
		{Question: "Which farms joined in 2031?", Query: "SELECT 5", Rating: feedback.Down},
	}
	got := feedback.Gather(rated, []feedback.Known{{Name: "s/joined", Wordings: []string{"Show the farms that joined in 2031"},
		Rejected: []string{"SELECT 4"}}})
	require.Equal(t, []feedback.Candidate{
		{Question: "How many loads were rejected in May 2031?", AlsoAsked: []string{"Number of loads rejected in May 2031"},
			Query: "SELECT 2", RatedUp: true, Rejected: []string{"SELECT count(*) FROM loads"},
			Comments: []string{"all of them"}, Asked: 3},
		{Question: "How many loads were rejected in May 2030?", Query: "SELECT 3", Asked: 1},
		{Question: "Which farms joined in 2031?", Holds: "s/joined", Rejected: []string{"SELECT 5"}, Asked: 2},
	}, got)
}
