package suspicion_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/golden"
	"tovrel/core/match"
	"tovrel/core/suspicion"
)

// ask is a golden set of one question, of which the rest is given.
func ask(question, rest string) string {
	return "---\ngolden-set: s\ndataset: d\n---\n\n## " + question + " {#q}\n\n" + rest
}

func table(header, rule string, rows ...string) string {
	return "| " + header + " |\n| " + rule + " |\n| " + strings.Join(rows, " |\n| ") + " |\n"
}

func settings(text string) string { return "```yaml\n" + text + "\n```\n\n" }

// TestFind: each kind of likely mistake is found where it is, and not where the same words are in order.
func TestFind(t *testing.T) {
	towns := table("town | n", "--- | --:", "Ay | 3.5", "Be | 2.5", "Co | 1.5")
	for name, c := range map[string]struct {
		document string
		want     []string
	}{
		"nothing":            {ask("How many loads are there?", table("n", "--:", "5")), nil},
		"a top in any order": {ask("Which are the top three towns?", towns), []string{"unordered-top"}},
		"a top of one":       {ask("Which is the top 1 town?", table("town", "---", "Ay")), nil},
		"ranked, ties unknown": {ask("Which are the top three towns?", towns+"\n"+
			settings("rules: {order: {ranked: [n desc]}}")), []string{"ties-unknown"}},
		"ranked, ties said": {ask("Which are the top three towns?", towns+"\n"+
			settings("rules: {order: {ranked: [n desc]}, ties: strict}")), nil},
		"ranked the other way": {ask("Which are the top three towns?", towns+"\n"+
			settings("rules: {order: {ranked: [n asc]}, ties: strict}")), []string{"order-contradicts"}},
		"percents as fractions": {ask("What percentage of the loads was late?", table("late", "--:", "0.25")), []string{"unclear-percent"}},
		"percents":              {ask("What percentage of the loads was late?", table("late", "--:", "25.5")), nil},
		"shares as percents":    {ask("What share of the loads was late?", table("late", "--:", "25.5")), []string{"unclear-percent"}},
		"shares":                {ask("What share of the loads was late?", table("late", "--:", "0.255")), nil},
		"a column in percents":  {ask("What percentage of the loads was late?", table("late_pct", "--:", "0.25")), nil},
		"a loose tolerance":     {ask("How many by town?", towns+"\n"+settings("rules: {numbers: {abs: 2}}")), []string{"loose-tolerance"}},
		"a narrow one":          {ask("How many by town?", towns+"\n"+settings("rules: {numbers: {abs: 0.5}}")), nil},
	} {
		t.Run(name, func(t *testing.T) {
			set, problems := golden.Parse("s.md", []byte(c.document))
			require.Empty(t, problems)
			q := set.QuestionOf("q")
			written, err := q.Answer.Table.Typed(nil)
			require.NoError(t, err)
			found := suspicion.Subject{Set: set, Question: q, Rules: q.Rules.Over(set.Rules.Over(match.Rules{})),
				Answers: []suspicion.Answer{{Answer: q.Answer, Table: written}}}.Find()
			var codes []string
			for _, p := range found {
				codes = append(codes, p.Code)
				require.NotEmpty(t, p.Message)
				require.Regexp(t, `rules: \{|briefing|reference query`, p.Remedy, "it says what to write, under the key where it belongs")
				require.Equal(t, "s.md", p.Position.File)
				require.Positive(t, p.Position.Line)
			}
			require.Equal(t, c.want, codes)
		})
	}
}

// TestReadings: a reading that accepts nothing new is told, with what accepts it already.
func TestReadings(t *testing.T) {
	set, problems := golden.Parse("s.md", []byte(ask("How many?", table("n", "--:", "5"))))
	require.Empty(t, problems)
	q := set.QuestionOf("q")
	written, err := q.Answer.Table.Typed(nil)
	require.NoError(t, err)
	other := &golden.Reading{Title: "the other way"}
	found := suspicion.Subject{Set: set, Question: q, Answers: []suspicion.Answer{{Answer: q.Answer, Table: written},
		{Reading: other, Table: written}}}.Find()
	require.Len(t, found, 1)
	require.Equal(t, "same-result", found[0].Code)
	require.Contains(t, found[0].Message, "the question's own answer")
}
