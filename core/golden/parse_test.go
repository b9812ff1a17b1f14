package golden_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"tovrel/core/golden"
)

const front = "---\ngolden-set: s\ndataset: d\n---\n\n"

const sound = front + `# Title

Free text with a table:

| free | text |
| ---- | ---- |
| 1    | 2    |

## Which *district* was ` + "`best`" + ` & why? {#best}

` + "```yaml" + `
also-asked: [Best district?]
tags: [a]
weight: 2
rules: {order: {ranked: [litres desc]}}
types: {code: text}
` + "```" + `

` + "```sql" + `
SELECT 1
` + "```" + `

| code | litres | note       | sure  | day        |
| ---- | -----: | ---------- | ----- | ---------- |
| 7    |  12.50 | NULL       | true  | 2031-05-01 |
| 8    |   3.25 |            | false | NULL       |
| 9    |   NULL | ` + "`NULL` " + ` a \| b | true | 2031-05-02 |

### Reading: another one

| a |
| - |
| 1 |

### Follow-up: And then? {#then}

| a |
| - |

## Which is best? {#ask}

` + "```yaml" + `
expect: clarify
mentions: [volume]
` + "```" + `

## Delete all {#no}

` + "```yaml" + `
expect: decline
` + "```" + `
`

// TestParseSound reads a set with everything in it.
func TestParseSound(t *testing.T) {
	set, problems := golden.Parse("s.md", []byte(strings.ReplaceAll(sound, "`NULL`  a", "a")))
	require.Empty(t, problems)
	require.Len(t, set.Questions, 3)
	q := set.Questions[0]
	require.Equal(t, "Which district was best & why?", q.Text)
	require.Equal(t, []string{"Which district was best & why?", "Best district?"}, q.Wordings())
	require.Equal(t, "order=ranked:litres desc", q.Rules.String())
	require.Equal(t, "SELECT 1", q.Answer.Query)
	require.Equal(t, "another one", q.Readings[0].Title)
	require.Equal(t, "then", q.FollowUps[0].ID)
	require.Same(t, q, q.FollowUps[0].After)
	require.Len(t, set.All(), 4)
	require.Equal(t, golden.ExpectClarify, set.Questions[1].Expect)
	require.Equal(t, golden.ExpectDecline, set.Questions[2].Expect)

	typed, err := q.Answer.Table.Typed(q.Answer.Types)
	require.NoError(t, err)
	var kinds []string
	for _, c := range typed.Columns {
		kinds = append(kinds, c.Type.String())
	}
	require.Equal(t, []string{"text", "decimal", "text", "boolean", "date"}, kinds)
	require.True(t, typed.Columns[2].IsNull(0))
	require.Equal(t, "", typed.Columns[2].Value(1).String())
	require.Equal(t, "a | b", typed.Columns[2].Value(2).String())
}

func question(body string) string { return front + "## Q? {#q}\n\n" + body }

func settings(yaml string) string {
	return question("```yaml\n" + yaml + "\n```\n\n| a |\n| - |\n| 1 |\n")
}

// malformed are documents with the defect that each must give, and where.
var malformed = []struct {
	name, document, code string
	line, column         int
}{
	{"no front matter", "# Hello\n", "front-matter-missing", 1, 1},
	{"front matter never closed", "---\ngolden-set: s\n", "front-matter-open", 1, 1},
	{"no set name", "---\ndataset: d\n---\n" + "## Q? {#q}\n\n| a |\n|---|\n| 1 |\n", "set-name-missing", 1, 1},
	{"no dataset", "---\ngolden-set: s\n---\n" + "## Q? {#q}\n\n| a |\n|---|\n| 1 |\n", "dataset-missing", 1, 1},
	{"set name with a space", "---\ngolden-set: my set\ndataset: d\n---\n## Q? {#q}\n\n| a |\n|---|\n| 1 |\n", "bad-id", 2, 13},
	{"unknown front matter key", "---\ngolden-set: s\ndataset: d\nowners: me\n---\n## Q? {#q}\n\n| a |\n|---|\n| 1 |\n",
		"unknown-key", 4, 1},
	{"broken front matter", "---\ngolden-set: [s\ndataset: d\n---\n## Q? {#q}\n\n| a |\n|---|\n| 1 |\n", "yaml-syntax", 3, 1},
	{"no questions", front, "no-questions", 1, 1},
	{"question without an id", front + "## Q?\n\n| a |\n|---|\n| 1 |\n", "question-without-id", 6, 5},
	{"question without text", front + "## {#q}\n\n| a |\n|---|\n| 1 |\n", "question-without-text", 6, 1},
	{"id with a slash", front + "## Q? {#a/b}\n\n| a |\n|---|\n| 1 |\n", "bad-id", 6, 7},
	{"the same id twice", question("| a |\n|---|\n| 1 |\n\n## R? {#q}\n\n| a |\n|---|\n| 1 |\n"), "duplicate-id", 12, 7},
	{"nothing expected", question("Only words.\n"), "nothing-expected", 6, 1},
	{"two queries", question("```sql\nSELECT 1\n```\n\n```sql\nSELECT 2\n```\n"), "second-query", 12, 1},
	{"empty query", question("```sql\n\n```\n\n| a |\n|---|\n"), "query-empty", 8, 1},
	{"two tables", question("| a |\n|---|\n| 1 |\n\n| b |\n|---|\n| 2 |\n"), "second-table", 12, 1},
	{"two settings blocks", question("```yaml\ntags: [a]\n```\n\n```yaml\ntags: [b]\n```\n\n| a |\n|---|\n"), "second-settings", 12, 1},
	{"a cell too few", question("| a | b |\n|---|---|\n| 1 |\n"), "ragged-row", 10, 5},
	{"a cell too many", question("| a |\n|---|\n| 1 | 2 |\n"), "ragged-row", 10, 6},
	{"text right under a table", question("| a | b |\n|---|---|\n| 1 | 2 |\nmore\n"), "ragged-row", 11, 4},
	{"delimiter row too short", question("| a | b |\n|---|\n| 1 | 2 |\n"), "ragged-table", 9, 1},
	{"a code block never closed", question("```sql\nSELECT 1\n"), "code-block-open", 8, 1},
	{"unknown setting", settings("tag: [a]"), "unknown-key", 9, 1},
	{"weight of nothing", settings("weight: 0"), "bad-weight", 9, 9},
	{"weight that is no number", settings("weight: heavy"), "yaml-type", 9, 9},
	{"tags that are a mapping", settings("tags: {a: b}"), "yaml-type", 9, 7},
	{"draft that is no boolean", settings("draft: maybe"), "yaml-type", 9, 8},
	{"unknown expectation", settings("expect: refuse"), "unknown-value", 9, 9},
	{"unknown rule", settings("rules: {ordr: any}"), "unknown-key", 9, 9},
	{"unknown value of a rule", settings("rules: {order: sideways}"), "unknown-value", 9, 16},
	{"argument of a rule that is no number", settings("rules: {numbers: {abs: much}}"), "unknown-value", 9, 18},
	{"unknown type", settings("types: {a: number}"), "unknown-type", 9, 12},
	{"type of a column that is not there", settings("types: {b: text}"), "unknown-column", 12, 1},
	{"cell that is not of its type", question("```yaml\ntypes: {a: date}\n```\n\n| a |\n|---|\n| 1 |\n"), "cell-type", 12, 1},
	{"broken settings", settings("tags: [a"), "yaml-syntax", 9, 7},
	{"duplicate setting", settings("weight: 1\nweight: 2"), "yaml-syntax", 10, 1},
	{"settings that are a list", settings("- a"), "yaml-type", 9, 1},
	{"clarify without mentions", question("```yaml\nexpect: clarify\n```\n"), "clarify-without-mentions", 6, 1},
	{"decline with an answer", settings("expect: decline"), "decline-with-answer", 6, 1},
	{"then without an answer", question("```yaml\nexpect: clarify\nmentions: [a]\nthen: b\n```\n"), "then-without-answer", 6, 1},
	{"table and file", settings("expected: a.csv"), "table-and-file", 9, 11},
	{"reading above all questions", front + "### Reading: x\n\n| a |\n|---|\n", "reading-without-question", 6, 1},
	{"follow-up above all questions", front + "### Follow-up: x? {#x}\n\n| a |\n|---|\n", "follow-up-without-question", 6, 1},
	{"reading without a title", question("| a |\n|---|\n\n### Reading:\n\n| b |\n|---|\n"), "reading-without-title", 11, 12},
	{"reading without an answer", question("| a |\n|---|\n\n### Reading: x\n"), "nothing-expected", 11, 1},
	{"the same reading twice", question("| a |\n|---|\n\n### Reading: x\n\n| b |\n|---|\n\n### Reading: x\n\n| c |\n|---|\n"),
		"duplicate-reading", 16, 1},
	{"table under a heading of no meaning", question("| a |\n|---|\n\n### Readings: x\n\n| b |\n|---|\n"), "stray-section", 13, 1},
	{"not UTF-8", "---\ngolden-set: \xff\n---\n", "not-utf8", 1, 1},
}

// TestMalformed gives every malformed document an error with its place and what to do.
func TestMalformed(t *testing.T) {
	require.GreaterOrEqual(t, len(malformed), 25)
	for _, m := range malformed {
		t.Run(m.name, func(t *testing.T) {
			_, problems := golden.Parse("s.md", []byte(m.document))
			require.NotEmpty(t, problems)
			var found []string
			for _, p := range problems {
				require.NotEmpty(t, p.Message)
				found = append(found, fmt.Sprintf("%s at %d:%d", p.Code, p.Line, p.Column))
				if p.Code == m.code {
					text := p.Error()
					require.Contains(t, text, fmt.Sprintf("s.md:%d:%d: ", p.Line, p.Column))
					if p.Excerpt != "" {
						require.True(t, strings.HasSuffix(text, "\n  "+strings.Repeat(" ", p.Column-1)+"^"), text)
					}
				}
			}
			require.Contains(t, found, fmt.Sprintf("%s at %d:%d", m.code, m.line, m.column))
		})
	}
}

// TestReplaceTable changes the bytes of one table and no others.
func TestReplaceTable(t *testing.T) {
	text := strings.ReplaceAll(question("| a |\n|---|\n| 1 |\n\nA remark.  \n\n### Reading: x\n\n| b |\n|---|\n| 2 |\n"), "\n", "\r\n")
	set, problems := golden.Parse("s.md", []byte(text))
	require.Empty(t, problems)
	got, err := set.ReplaceTable(&set.Questions[0].Answer, "| a |\n| - |\n| 9 |")
	require.NoError(t, err)
	require.Equal(t, strings.Replace(text, "| a |\r\n|---|\r\n| 1 |", "| a |\r\n| - |\r\n| 9 |", 1), string(got))
}

// FuzzParse asserts that no document makes the parser panic, and that well-formed ones have whole questions.
func FuzzParse(f *testing.F) {
	f.Add(sound)
	for _, m := range malformed {
		f.Add(m.document)
	}
	f.Fuzz(func(t *testing.T, text string) {
		set, problems := golden.Parse("f.md", []byte(text))
		for _, p := range problems {
			require.NotEmpty(t, p.Code)
			require.Positive(t, p.Line)
		}
		if len(problems) == 0 {
			for _, q := range set.All() {
				require.NotEmpty(t, q.ID)
				require.NotEmpty(t, q.Text)
			}
		}
	})
}
