package feedback_test

import (
	"strings"
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

// TestWhichQuery: the first query that was rated up is taken, else the first that nobody rated down; one that was rated up stays.
func TestWhichQuery(t *testing.T) {
	for _, c := range []struct {
		ratings, want string
		up            bool
	}{
		{"A B", "A", false}, {"A B+", "B", true}, {"A+ B+", "A", true}, {"A+ B", "A", true}, {"A+ A-", "A", true}, {"A A-", "", false},
		{"A- A", "", false}, {"A- B", "B", false}, {"A A- B", "B", false}, {"A- B A+", "A", true}, {"A-", "", false},
	} {
		var rated []feedback.Rated
		for _, r := range strings.Fields(c.ratings) {
			one := feedback.Rated{Question: "How many?", Query: "SELECT '" + r[:1] + "'"}
			switch {
			case strings.HasSuffix(r, "+"):
				one.Rating = feedback.Up
			case strings.HasSuffix(r, "-"):
				one.Rating = feedback.Down
			}
			rated = append(rated, one)
		}
		got := feedback.Gather(rated, nil)
		require.Len(t, got, 1)
		want := ""
		if c.want != "" {
			want = "SELECT '" + c.want + "'"
		}
		require.Equal(t, []any{want, c.up, len(rated)}, []any{got[0].Query, got[0].RatedUp, got[0].Asked}, c.ratings)
	}
}

// TestReplies: words and charts are taken where they were rated up; words that were rated down are rejected.
func TestReplies(t *testing.T) {
	rated, problems := feedback.ParseLines("f.jsonl", []byte(`{"question": "Why?", "text": "Because.", "rating": "down"}
{"question": "Why?", "text": "It rained in May.", "rating": "up", "chart": {"mark": "bar", "encoding": {"x": {"field": "a"}}}}
{"question": "Why?", "text": "No idea."}
{"question": "Draw it", "chart": {"mark": "bra", "encoding": {}}}
`))
	require.Len(t, problems, 1)
	require.Equal(t, "bad-chart", problems[0].Code)
	require.Equal(t, 4, problems[0].Line)
	require.Contains(t, problems[0].Message, `chart, at mark: there is no mark "bra"; did you mean "bar"`)
	got := feedback.Gather(rated, nil)
	require.Len(t, got, 1)
	require.Equal(t, "It rained in May.", got[0].Text)
	require.Equal(t, []string{"Because."}, got[0].Rejected)
	require.Contains(t, got[0].Chart, `"mark":"bar"`)
	require.Equal(t, 3, got[0].Asked)
}
